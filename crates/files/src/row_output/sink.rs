//! What a form of rows is: how it begins, takes rows and ends.

use super::begin::Begin;
use crate::error::Error;
use crate::output::one::Output;
use tidy_gate_core::scan::{Dialect, RowWalk, walk_row};

/// A form in which rows are written.
pub(super) trait RowSink: Send {
    /// Begins.
    ///
    /// # Errors
    /// When the output cannot be written, as with the others.
    fn begin(&mut self, begin: Begin<'_>, output: &mut Output) -> Result<(), Error>;

    /// Adds whole rows, as delimited text in UTF-8; the very first is that of the headings.
    ///
    /// # Errors
    /// When the form cannot hold them.
    fn rows(&mut self, rows: &[u8], output: &mut Output) -> Result<(), Error>;

    /// Writes what stands behind the last row.
    ///
    /// # Errors
    /// When the form cannot be completed.
    fn finish(&mut self, output: &mut Output) -> Result<(), Error>;

    /// Whether a mark of UTF-8 may stand before the rows.
    fn takes_mark(&self) -> bool {
        false
    }

    /// Whether it keeps how cells were stored in a sheet.
    fn keeps_marks(&self) -> bool {
        false
    }

    /// Whether it writes held records as they came, where the input has records.
    fn takes_records(&self) -> bool {
        false
    }
}

/// Hands on the raw cells of each row.
pub(super) fn each_row(
    rows: &[u8],
    dialect: Dialect,
    mut take: impl FnMut(&[&[u8]]) -> Result<(), Error>,
) -> Result<(), Error> {
    let mut start = 0;
    while start < rows.len() {
        let mut ends = Vec::new();
        let walk = walk_row(rows, start, dialect, |end| ends.push(end), |_| ());
        let end = match walk {
            RowWalk::Whole { end, .. } => end,
            // The last row may want its line break, and a quoted cell in it may never close.
            RowWalk::Open { .. } => {
                ends.push(rows.len());
                rows.len()
            }
        };
        let mut from = start;
        let raw = |end: &usize| {
            let raw = rows.get(from..*end).unwrap_or_default();
            from = end + 1;
            raw.strip_suffix(b"\r").unwrap_or(raw)
        };
        let raws: Vec<&[u8]> = ends.iter().map(raw).collect();
        take(&raws)?;
        start = end.max(start + 1);
    }
    Ok(())
}
