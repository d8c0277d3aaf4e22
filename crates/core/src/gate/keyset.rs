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
    if let Some(lower) = up_to_sixteen(value).and_then(folded_at_once) {
        into.extend_from_slice(lower.to_le_bytes().get(..value.len()).unwrap_or_default());
        return true;
    }
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

/// A value of four to sixteen bytes as one number, its first byte lowest and noughts behind its last.
#[inline(always)]
fn up_to_sixteen(value: &[u8]) -> Option<u128> {
    let len = value.len();
    // Two halves that may overlap, where they are the same.
    if let (8..=16, Some(first), Some(last)) = (len, value.first_chunk(), value.last_chunk()) {
        let (first, last) = (u64::from_le_bytes(*first), u64::from_le_bytes(*last));
        return Some(u128::from(first) | u128::from(last) << (8 * (len - 8)));
    }
    let (4..=7, Some(first), Some(last)) = (len, value.first_chunk(), value.last_chunk()) else {
        return None;
    };
    let (first, last) = (u32::from_le_bytes(*first), u32::from_le_bytes(*last));
    Some(u128::from(first) | u128::from(last) << (8 * (len - 4)))
}

/// The bytes in lower case, all of them together; nothing where one is beyond ASCII, blank, or a zero that leads digits.
#[inline(always)]
fn folded_at_once(bytes: u128) -> Option<u128> {
    const ONES: u128 = u128::from_le_bytes([1; 16]);
    const HIGH: u128 = 0x80 * ONES;
    if bytes & HIGH != 0 {
        return None;
    }
    // Of every byte the highest bit; none of them carries into the next.
    let is_from = |least: u8| bytes + u128::from(0x80 - least) * ONES;
    let is_within = |first: u8, last: u8| is_from(first) & !is_from(last + 1) & HIGH;
    let digits = is_within(b'0', b'9');
    let blanks = is_within(b' ', b' ') | is_within(b'\t', b'\r');
    let leading = is_within(b'0', b'0') & (digits >> 8) & !(digits << 8);
    (blanks | leading == 0).then(|| bytes | is_within(b'A', b'Z') >> 2)
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
        fn ascii_folds_as_any_text_does(value in "[0-9a-zA-Z0 .\t-]{0,20}|[0-2A-Z@\\[:/`{-]{0,18}") {
            let mut folded_bytes = Vec::new();
            prop_assert!(fold_ascii(value.as_bytes(), &mut folded_bytes));
            prop_assert_eq!(String::from_utf8(folded_bytes).unwrap(), folded(&value));
        }
    }
}
