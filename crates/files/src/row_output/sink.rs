//! What a form of rows is: how it begins, takes rows and ends.

use super::begin::Begin;
use super::rows::Rows;
use crate::error::Error;
use crate::output::one::Output;

/// A form in which rows are written.
pub(super) trait RowSink: Send {
    /// Begins.
    ///
    /// # Errors
    /// When the output cannot be written, as with the others.
    fn begin(&mut self, begin: Begin<'_>, output: &mut Output) -> Result<(), Error>;

    /// Adds rows, in the shape it takes; the very first is that of the headings.
    ///
    /// # Errors
    /// When the form cannot hold them.
    fn rows(&mut self, rows: &Rows, output: &mut Output) -> Result<(), Error>;

    /// Writes what stands behind the last row.
    ///
    /// # Errors
    /// When the form cannot be completed.
    fn finish(&mut self, output: &mut Output) -> Result<(), Error>;

    /// Whether it takes rows as delimited text, rather than as cells.
    fn takes_text(&self) -> bool {
        false
    }

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
