//! One existing record.

use super::former::Former;
use std::borrow::Cow;

/// The record that stands under a key: its cells as the source has them, formed when they are asked for.
#[derive(Debug, Clone, Copy)]
pub struct ExistingRow<'a> {
    /// Its number among those that are kept.
    pub(super) number: u32,
    /// Its key, as it is compared.
    pub(super) key: &'a [u8],
    /// The fields that are kept, by number, ascending.
    pub(super) fields: &'a [usize],
    /// Their cells, one behind the other.
    pub(super) bytes: &'a [u8],
    /// Where each of them ends.
    pub(super) ends: &'a [u32],
    /// What reads them.
    pub(super) former: &'a dyn Former,
    /// Whether they are values already.
    pub(super) is_formed: bool,
    /// The only fields that are the record's own, where it is known and the line is a new one.
    pub(super) only: Option<&'a [usize]>,
}

impl<'a> ExistingRow<'a> {
    /// Its number among those that are kept, from 0.
    #[must_use]
    pub fn number(&self) -> u32 {
        self.number
    }

    /// Its key, as it is compared.
    #[must_use]
    pub fn key(&self) -> &'a [u8] {
        self.key
    }

    /// The cell of a field as its source has it; nothing where the field is not known.
    #[must_use]
    pub fn raw(&self, field: usize) -> Option<&'a [u8]> {
        self.raw_at(self.fields.binary_search(&field).ok()?)
    }

    /// Whether the record is there, and the line is a new one.
    #[must_use]
    pub fn is_new_line(&self) -> bool {
        self.only.is_some()
    }

    /// Whether what the record has in a field is that of the row: of a new line only the record's own fields are.
    #[must_use]
    pub fn holds(&self, field: usize) -> bool {
        self.only.is_none_or(|only| only.contains(&field))
    }

    /// The cell of the field that stands at this place among those that are kept.
    #[must_use]
    pub fn raw_at(&self, at: usize) -> Option<&'a [u8]> {
        if !self.fields.get(at).is_some_and(|field| self.holds(*field)) {
            return None;
        }
        let start = at.checked_sub(1).and_then(|before| self.ends.get(before)).copied().unwrap_or_default();
        self.bytes.get(start as usize..*self.ends.get(at)? as usize)
    }

    /// Whether its cells are values already, and not as its source has them.
    #[must_use]
    pub fn is_formed(&self) -> bool {
        self.is_formed
    }

    /// Whether a field has a value.
    #[must_use]
    pub fn has(&self, field: usize) -> bool {
        self.raw(field).is_some_and(|raw| !raw.is_empty() && self.former.is_filled(field, raw))
    }

    /// The value of a field as ready rows write it; nothing where it is blank or not known.
    #[must_use]
    pub fn value(&self, field: usize) -> Option<Cow<'a, str>> {
        self.former.formed(field, self.raw(field)?).filter(|value| !value.is_empty())
    }
}
