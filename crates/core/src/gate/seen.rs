//! One look at a cell: what stands in it, before its value is judged.

use super::compiled::Column;
use crate::rows::text_of;
use crate::scan::{Dialect, SheetMark, mark_of};
use std::borrow::Cow;

/// What stands in a cell.
#[derive(Debug)]
pub(super) enum Seen<'a> {
    /// Bytes that are no text.
    Broken,
    /// A formula whose result is not stored.
    Stale,
    /// Nothing, or a word for it.
    Blank { is_word: bool },
    /// The word that empties the field, as it stands.
    Clear(Cow<'a, str>),
    /// A value, not trimmed.
    Value(Cow<'a, str>),
}

impl Column {
    /// Whether the plan puts another value in the place of what stands in a raw cell.
    pub(super) fn is_replaced(&self, raw: &[u8], dialect: Dialect) -> bool {
        text_of(raw, dialect).is_ok_and(|text| self.reading.replaced(text.trim()).is_some())
    }

    /// Looks at a raw cell.
    pub(super) fn see<'a>(&self, raw: &'a [u8], dialect: Dialect) -> Seen<'a> {
        let Ok(text) = text_of(raw, dialect) else { return Seen::Broken };
        let trimmed = text.trim();
        if let Some(put) = self.reading.replaced(trimmed) {
            return if put.is_empty() { Seen::Blank { is_word: true } } else { Seen::Value(Cow::Owned(put)) };
        }
        if self.is_blank(trimmed) {
            return match mark_of(raw, dialect) {
                Some(SheetMark::Stale) => Seen::Stale,
                _ => Seen::Blank { is_word: !trimmed.is_empty() },
            };
        }
        if self.reading.clears(trimmed) { Seen::Clear(text) } else { Seen::Value(text) }
    }
}
