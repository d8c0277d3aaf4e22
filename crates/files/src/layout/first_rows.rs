//! The first rows of a table, what is stated of them, and how they are laid out.

use super::fact::Fact;
use tidy_gate_core::finding::Finding;

/// So many rows are looked at for the headings.
pub(crate) const LOOKED_AT: usize = 50;

/// One of the first rows of a table.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(crate) struct FirstRow {
    /// Its number, as a spreadsheet shows it.
    pub(crate) number: u64,
    /// Its cells, trimmed.
    pub(crate) cells: Vec<String>,
}

impl FirstRow {
    /// How many cells hold something.
    pub(crate) fn filled(&self) -> usize {
        self.cells.iter().filter(|cell| !cell.is_empty()).count()
    }
}

/// What is stated of the rows.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct StatedRows {
    pub(crate) heading_row: Option<u64>,
    pub(crate) first_row: Option<u64>,
    pub(crate) by_position: bool,
    /// Whether the heading row is a plan's: then the file may have changed since.
    pub(crate) is_planned: bool,
    /// The row that holds an example, as a plan says.
    pub(crate) example_row: Option<u64>,
    /// Whether the file is known as a template of the record.
    pub(crate) is_template: bool,
}

/// How the rows are laid out.
#[derive(Debug, Clone, Default)]
pub(crate) struct Rows {
    /// The heading row, by its place among the first rows; none by position, or in a table without rows.
    pub(crate) heading: Option<usize>,
    /// The first row that can be a record, by its number.
    pub(crate) first_row: u64,
    /// How many rows between the headings and the data are counted as left out.
    pub(crate) left_out: u64,
    /// A row among the data that is no record, as a plan says.
    pub(crate) example_row: Option<u64>,
    /// Whether the heading row is like the rows below it.
    pub(crate) is_like_data: bool,
    pub(crate) facts: Vec<Fact>,
    /// Rows left out that have a finding of their own.
    pub(crate) notices: Vec<Finding>,
}
