//! One existing record.

/// The record that stands under a key.
#[derive(Debug, Clone, Copy)]
pub struct ExistingRow<'a> {
    /// The fields that are known, by number, ascending.
    pub(super) fields: &'a [usize],
    /// Values, one behind the other.
    pub(super) bytes: &'a [u8],
    /// Where each of them ends, the first number where they begin.
    pub(super) ends: &'a [usize],
}

impl<'a> ExistingRow<'a> {
    /// The value of a field as ready rows write it; nothing where it is blank or not known.
    #[must_use]
    pub fn value(&self, field: usize) -> Option<&'a str> {
        let at = self.fields.binary_search(&field).ok()?;
        let (start, end) = (*self.ends.get(at)?, *self.ends.get(at + 1)?);
        let value = std::str::from_utf8(self.bytes.get(start..end)?).ok()?;
        Some(value).filter(|value| !value.is_empty())
    }
}
