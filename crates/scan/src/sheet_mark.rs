//! What a sheet knows of a cell beyond its text. Rows of a sheet are laid out as delimited text, in which a mark is one
//! byte before the text, inside the quotes; no one else knows which.

use super::dialect::Dialect;

/// What a sheet knows of a cell beyond its text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SheetMark {
    /// A text that looks like a stored number.
    Text,
    /// A stored number that is shown as a percentage.
    Percent,
    /// A formula whose result is not stored.
    Stale,
}

impl SheetMark {
    /// The byte that stands for it: a control character, which no sheet can hold.
    #[must_use]
    pub const fn byte(self) -> u8 {
        match self {
            Self::Text => 2,
            Self::Stale => 3,
            Self::Percent => 4,
        }
    }

    /// The mark of a byte, if it is one.
    #[inline]
    #[must_use]
    pub const fn of(byte: u8) -> Option<Self> {
        match byte {
            2 => Some(Self::Text),
            3 => Some(Self::Stale),
            4 => Some(Self::Percent),
            _ => None,
        }
    }
}

/// The mark that a raw cell begins with, inside its quotes, where its text may have some.
#[must_use]
pub fn mark_of(raw: &[u8], dialect: Dialect) -> Option<SheetMark> {
    let first = raw.strip_prefix(&[dialect.quote]).unwrap_or(raw).first().copied();
    first.filter(|_| dialect.marks).and_then(SheetMark::of)
}
