//! A finding: one thing noticed, at one place.

use crate::catalogue::{Code, Level};
use std::borrow::Cow;

/// Where in the file a finding stands, and what it says there, in parts: they become one text
/// where they are shown.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Finding {
    /// What kind of finding it is.
    pub code: Code,
    /// How grave it is.
    pub level: Level,
    /// The sheet, in a workbook.
    pub sheet: Option<String>,
    /// The row, as a spreadsheet shows it.
    pub row: Option<u64>,
    /// The last row, where the finding speaks of several rows one behind the other.
    pub row_last: Option<u64>,
    /// The physical line on which the row begins.
    pub line: Option<u64>,
    /// The column, from 1.
    pub column: Option<usize>,
    /// The column's letter, as a spreadsheet shows it.
    pub letter: Option<String>,
    /// The column's heading.
    pub heading: Option<String>,
    /// The name of the field, if there is one.
    pub field: Option<String>,
    /// The names of the fields, where several are concerned.
    pub fields: Vec<String>,
    /// The cell's text, at most [`Finding::LONGEST_VALUE`] code points; `***` where it is masked.
    pub value: Option<String>,
    /// Whether the value was cut.
    pub value_cut: bool,
    /// What was expected instead.
    pub expected: Option<String>,
    /// What was found, in words, without what was expected; it never holds the value.
    pub message: String,
    /// The nearest permitted value, or what would fit.
    pub suggestion: Option<String>,
    /// The name of the rule.
    pub rule: Option<String>,
    /// The key of the row, its parts joined by ` / `.
    pub key: Option<String>,
    /// The first rows of a repeat.
    pub places: Vec<u64>,
    /// How many further rows a repeat has.
    pub places_left_out: u64,
    /// Its mark, by which a later report finds it again; where such marks are made.
    pub fingerprint: Option<u64>,
}

impl Finding {
    /// The most code points of a value that a finding carries.
    pub const LONGEST_VALUE: usize = 200;
    /// The most rows of a repeat that a finding names.
    pub const MOST_PLACES: usize = 10;

    /// A finding without a place.
    #[must_use]
    pub fn new(code: Code, level: Level, message: String) -> Self {
        Self {
            code,
            level,
            sheet: None,
            row: None,
            row_last: None,
            line: None,
            column: None,
            letter: None,
            heading: None,
            field: None,
            fields: Vec::new(),
            value: None,
            value_cut: false,
            expected: None,
            message,
            suggestion: None,
            rule: None,
            key: None,
            places: Vec::new(),
            places_left_out: 0,
            fingerprint: None,
        }
    }

    /// What findings are ordered by: row, column, code; those without a row come first, and before them what says
    /// that the plan no longer fits.
    #[must_use]
    pub fn order(&self) -> (u64, usize, Code) {
        let column = self.column.unwrap_or(0);
        match self.row {
            Some(row) => (row, column, self.code),
            None if self.code == Code::PlanOutdated => (0, 0, self.code),
            None => (0, column + 1, self.code),
        }
    }

    /// Says what was expected.
    pub fn expect(&mut self, expected: String) {
        self.expected = Some(expected);
    }

    /// The finding in one sentence: what was found, and what was expected unless that says it already.
    #[must_use]
    pub fn sentence(&self) -> Cow<'_, str> {
        match &self.expected {
            Some(expected) if !self.message.ends_with(expected) => {
                format!("{}, expected {expected}", self.message.trim_end_matches('.')).into()
            }
            _ => self.message.as_str().into(),
        }
    }

    /// Sets the value, cut and masked as it must be.
    pub fn set_value(&mut self, text: &str, sensitive: bool) {
        if sensitive {
            self.value = Some(MASK.to_owned());
            return;
        }
        self.value_cut = text.chars().nth(Self::LONGEST_VALUE).is_some();
        self.value = Some(text.chars().take(Self::LONGEST_VALUE).collect());
    }
}

/// What stands for a value that must not be shown.
pub const MASK: &str = "***";

/// The letter of a column, from 0: A to Z, AA and so on.
///
/// ```
/// use tidy_gate_core::finding::letter;
/// assert_eq!((letter(0), letter(26)), ("A".to_owned(), "AA".to_owned()));
/// ```
#[must_use]
pub fn letter(column: usize) -> String {
    let mut letters = Vec::new();
    let mut rest = column + 1;
    while rest > 0 {
        letters.push(b'A' + u8::try_from((rest - 1) % 26).unwrap_or(0));
        rest = (rest - 1) / 26;
    }
    letters.iter().rev().map(|&letter| char::from(letter)).collect()
}

#[cfg(test)]
mod tests {
    #[test]
    fn columns_have_the_letters_of_a_spreadsheet() {
        for (column, wanted) in [(0, "A"), (25, "Z"), (26, "AA"), (701, "ZZ"), (702, "AAA"), (16_383, "XFD")]
        {
            assert_eq!(super::letter(column), wanted);
        }
    }
}
