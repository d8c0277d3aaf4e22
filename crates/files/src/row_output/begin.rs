//! How an output of rows begins.

use crate::pieces::Pieces;

/// What the cells of a column are in the target.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum CellKind {
    /// Text, codes and keys among it.
    Text,
    /// A number that is written plainly.
    Number,
    /// Yes or no.
    Boolean,
    /// A day in ISO form.
    Date,
    /// Several values with this between them.
    Several(String),
}

/// The records of the input as they are written, with their first and last rows.
pub(crate) type Originals = Pieces<(u64, u64, String)>;

/// How an output begins.
pub(crate) struct Begin<'a> {
    /// The name of the sheet.
    pub(crate) sheet: &'a str,
    /// Whether cells come with what a sheet knew of them.
    pub(crate) marks: bool,
    /// The widths of the first columns of a sheet, in characters.
    pub(crate) widths: &'a [f64],
    /// The columns: what each is called and holds.
    pub(crate) keys: Vec<(String, CellKind)>,
    /// Properties of a workbook.
    pub(crate) properties: Vec<(String, String)>,
    /// The records of the input, where held ones are written as they came.
    pub(crate) originals: Option<Originals>,
}
