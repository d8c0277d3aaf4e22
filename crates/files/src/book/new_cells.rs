//! What cells of a sheet are to hold, for whoever patches its part.

use quick_xml::events::BytesStart;
use std::collections::BTreeMap;

/// What a cell of a sheet is to hold.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum NewCell {
    /// This text.
    Text(String),
    /// This number.
    Number(String),
    /// Nothing, whatever stood there.
    Nothing,
}

/// Cells by row and column.
pub(super) type Cells = BTreeMap<(u64, usize), NewCell>;

/// What went wrong with copying.
pub(super) enum Fault {
    Read(String),
    Write(std::io::Error),
    /// What comes from elsewhere while a part is copied.
    Other(crate::error::Error),
}

/// Whether an element has this name, whatever its prefix.
pub(super) fn is(start: &BytesStart<'_>, name: &str) -> bool {
    start.local_name().as_ref() == name
}
