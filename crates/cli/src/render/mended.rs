//! What `mend` did, for whoever shows it.

use tidy_gate_core::catalogue::Code;
use tidy_gate_core::report::Verdict;

/// What was mended, for whoever reads it.
#[derive(Debug, serde::Serialize)]
pub(crate) struct Mended {
    /// The file.
    pub(crate) file: String,
    /// The copy; nothing where none was written.
    pub(crate) output: Option<String>,
    /// Whether the copy is written anew as XLSX, since nothing else of the file's package can be kept.
    pub(crate) written_anew: bool,
    /// The log; nothing where none was written.
    pub(crate) log: Option<String>,
    /// Cells that were rewritten.
    pub(crate) cells: u64,
    /// Rows that were taken out.
    pub(crate) rows: u64,
    /// What was mended, by code and column.
    pub(crate) mended: Vec<MendedCells>,
    /// Whether the copy would open the gate.
    pub(crate) gate: Verdict,
    /// How many rows of the copy are held, and how many findings are left in it.
    pub(crate) held: u64,
    /// The stops that are left.
    pub(crate) stops: u64,
}

/// What was mended in a column.
#[derive(Debug, serde::Serialize)]
pub(crate) struct MendedCells {
    /// The code of the findings.
    pub(crate) code: Code,
    /// The heading of the column; nothing for rows.
    pub(crate) heading: Option<String>,
    /// How many cells, or rows.
    pub(crate) count: u64,
}
