//! How an output of rows begins.

use super::json::{CellKind, Originals};
use tidy_gate_core::scan::Dialect;

/// How an output begins.
pub(crate) struct Begin<'a> {
    /// The name of the sheet.
    pub(crate) sheet: &'a str,
    /// The dialect of the rows that come; with marks where they say how cells were stored.
    pub(crate) dialect: Dialect,
    /// The widths of the first columns of a sheet, in characters.
    pub(crate) widths: &'a [f64],
    /// The columns: what each is called and holds.
    pub(crate) keys: Vec<(String, CellKind)>,
    /// Properties of a workbook.
    pub(crate) properties: Vec<(String, String)>,
    /// The records of the input, where held ones are written as they came.
    pub(crate) originals: Option<Originals>,
}
