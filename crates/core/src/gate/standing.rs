//! What stands under the key of a row among the records that are there.

use crate::existing::ExistingRow;

/// What stands under the key of a row.
#[derive(Debug, Clone, Copy)]
pub(super) enum There<'a> {
    /// The row has no key that can be read.
    NoKey,
    /// No record has it.
    Nothing,
    /// This record.
    Record(ExistingRow<'a>),
}

impl<'a> There<'a> {
    /// Whether what the record has in a field is that of the row.
    pub(super) fn holds(self, field: usize) -> bool {
        self.record().is_some_and(|record| record.holds(field))
    }

    /// The record that is there.
    pub(super) fn record(self) -> Option<ExistingRow<'a>> {
        match self {
            Self::Record(record) => Some(record),
            Self::NoKey | Self::Nothing => None,
        }
    }
}
