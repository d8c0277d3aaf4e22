//! Combinations that must not repeat: the key and the `unique` ones, and those by which near ones are told.

use crate::catalogue::{Code, Level};

/// One combination.
#[derive(Debug, Clone)]
pub(crate) struct KeySet {
    /// The columns that hold it.
    pub(crate) columns: Vec<usize>,
    pub(crate) fields: Vec<usize>,
    pub(crate) code: Code,
    pub(crate) level: Level,
    /// Whether only the first row of each record is compared, where several rows make one.
    pub(crate) per_record: bool,
    /// Whether what counts is what the records will have: values of those that are there under blank cells.
    pub(crate) is_outcome: bool,
}

impl KeySet {
    /// Whether values are compared with case, spaces and leading zeros aside.
    pub(crate) fn is_folded(&self) -> bool {
        self.code == Code::KeyNearlyRepeated
    }

    /// Whether it must not repeat among records of several rows: the rows of one record may share it.
    pub(crate) fn is_of_records(&self) -> bool {
        self.code == Code::UniqueRepeated && self.per_record
    }

    /// Whether it tells likely duplicates.
    pub(crate) fn is_alike(&self) -> bool {
        self.code == Code::DuplicateLikely
    }

    /// Whether rows with the same key are no repeat of each other.
    pub(crate) fn wants_other_keys(&self) -> bool {
        self.is_of_records() || self.is_alike()
    }

    /// Whether blank parts count like any other value.
    pub(crate) fn takes_blanks(&self) -> bool {
        self.code == Code::RowRepeated
    }
}

/// A value as near ones are compared: in lower case, without spaces and without zeros that lead digits.
pub(crate) fn folded(value: &str) -> String {
    let mut folded = String::with_capacity(value.len());
    for c in value.chars().filter(|c| !c.is_whitespace()).flat_map(char::to_lowercase) {
        folded.push(c);
    }
    let mut near = String::with_capacity(folded.len());
    let mut is_leading = true;
    let mut rest = folded.chars().peekable();
    while let Some(c) = rest.next() {
        let before_digit = rest.peek().is_some_and(char::is_ascii_digit);
        if c == '0' && is_leading && before_digit {
            continue;
        }
        is_leading = !c.is_ascii_digit();
        near.push(c);
    }
    near
}
