//! A table as it was read: its headings, where they stand, and what was decided of it.

use crate::decided::Decided;
use crate::finding::Finding;
use crate::scan::Dialect;
use std::sync::Arc;

/// The headings of a table, where they stand and how they were found.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Table {
    /// The headings, trimmed; blank ones where there is no heading row.
    pub headings: Vec<String>,
    /// The row that holds them; nothing where columns pair by their position.
    pub heading_row: Option<u64>,
    /// The physical line on which that row begins.
    pub heading_line: u64,
    /// The first row that can be a record.
    pub first_row: u64,
    /// How its cells are marked.
    pub dialect: Dialect,
    /// What is to be said of how the table was read.
    pub notices: Vec<Finding>,
    /// How many rows below the headings are no records.
    pub left_out: u64,
    /// A row below the first that is an example, as a plan says, and no record.
    pub example_row: Option<u64>,
    /// Whether the last row is left out if it is a total.
    pub seeks_total: bool,
    /// Whether cells that are missing at a row's end are blank; else the row is held.
    pub short_rows_are_blank: bool,
    /// What it stands in.
    pub medium: Medium,
    /// Whether texts in a sheet are as they were, since all cells of the file it was made of were text.
    pub texts_are_own: bool,
    /// The cells of some of the first rows, trimmed: they show how columns are written.
    pub sample: Vec<Vec<String>>,
    /// Whether the heading row is like the rows below it.
    pub headings_may_be_data: bool,
    /// Headings with spaces around them in the file.
    pub padded: Vec<bool>,
    /// What was decided of the file of which these rows are a part.
    pub decided: Decided,
    /// Of records that stand one a line: the rows at which the line is another than counting on would give.
    pub record_lines: Option<Arc<[(u64, u64)]>>,
}

/// What a table stands in.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub enum Medium {
    /// Delimited text, the rows of which have physical lines.
    #[default]
    Text,
    /// A sheet of this name: its rows end with their last cell, and have no physical lines.
    Sheet(String),
    /// Records: they count from 1 and have no letters.
    Records,
}

impl Table {
    /// The sheet that it stands in, if it is one.
    #[must_use]
    pub fn sheet(&self) -> Option<&str> {
        match &self.medium {
            Medium::Sheet(name) => Some(name),
            Medium::Text | Medium::Records => None,
        }
    }

    /// Whether it is delimited text.
    #[must_use]
    pub fn is_text(&self) -> bool {
        self.medium == Medium::Text
    }

    /// Whether its rows are records without a sheet.
    #[must_use]
    pub fn is_records(&self) -> bool {
        self.medium == Medium::Records
    }

    /// A finding with the places that there are in such a table.
    pub(crate) fn placed(&self, mut finding: Finding) -> Finding {
        finding.sheet = self.sheet().map(str::to_owned);
        if self.medium != Medium::Text {
            finding.line = finding.row.and_then(|row| self.line_of(row));
        }
        if self.is_records() {
            (finding.letter, finding.row) = (None, finding.row.filter(|row| *row > 0));
        }
        finding
    }

    /// The physical line of a record that stands on a line of its own.
    fn line_of(&self, row: u64) -> Option<u64> {
        let lines = self.record_lines.as_ref().filter(|_| row > 0)?;
        let at = lines.partition_point(|known| known.0 <= row);
        let known = at.checked_sub(1).and_then(|at| lines.get(at)).copied().unwrap_or((1, 1));
        Some(known.1 + (row - known.0))
    }

    /// A table with its headings in the first row.
    ///
    /// ```
    /// use tidy_gate_core::table::Table;
    /// let table = Table::with_headings(vec!["tag".to_owned()]);
    /// assert_eq!((table.heading_row, table.first_row, table.sheet()), (Some(1), 2, None));
    /// ```
    #[must_use]
    pub fn with_headings(headings: Vec<String>) -> Self {
        Self { headings, heading_row: Some(1), heading_line: 1, first_row: 2, ..Self::default() }
    }
}
