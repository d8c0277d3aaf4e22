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

/// Writes a value as near ones are compared; false where it holds letters beyond ASCII.
pub(super) fn fold_ascii(value: &[u8], into: &mut Vec<u8>) -> bool {
    into.clear();
    let mut zeros = 0;
    let mut is_leading = true;
    for byte in value {
        if !byte.is_ascii() {
            return false;
        }
        match byte {
            // A zero that leads digits is told by what follows it.
            b'0' if is_leading => zeros = 1,
            b' ' | b'\t' | b'\n' | 0x0B | 0x0C | b'\r' => {}
            _ => {
                if zeros > 0 && !byte.is_ascii_digit() {
                    into.push(b'0');
                }
                zeros = 0;
                is_leading = !byte.is_ascii_digit();
                into.push(byte.to_ascii_lowercase());
            }
        }
    }
    if zeros > 0 {
        into.push(b'0');
    }
    true
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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn ascii_folds_as_any_text_does(value in "[0-9a-zA-Z0 .\t-]{0,12}") {
            let mut folded_bytes = Vec::new();
            prop_assert!(fold_ascii(value.as_bytes(), &mut folded_bytes));
            prop_assert_eq!(String::from_utf8(folded_bytes).unwrap(), folded(&value));
        }
    }
}
