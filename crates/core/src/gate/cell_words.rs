//! The words of a finding at a cell.

/// What is said of a cell.
#[derive(Debug, Default)]
pub(super) struct CellWords {
    pub(super) message: String,
    pub(super) expected: Option<String>,
    pub(super) suggestion: Option<String>,
}
