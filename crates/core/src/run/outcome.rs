//! What a check found.

use super::extents::Extents;
use super::held::Held;
use super::records::RecordCounts;
use crate::block::OpenRow;
use crate::finding::Finding;
use crate::gate::{Repeats, Rewriting, RunState, Tallies, Translated, Votes, Words};
use crate::origins::Evidence;
use std::collections::BTreeMap;

/// How many rows there are, and what became of them.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Counts {
    /// The rows read, from the first below the headings.
    pub rows: u64,
    /// The rows with a stop.
    pub held: u64,
    /// The rows that are no records.
    pub left_out: u64,
}

impl Counts {
    /// The rows that are records.
    #[must_use]
    pub fn records(self) -> u64 {
        self.rows - self.left_out
    }
}

/// What a check found.
#[derive(Debug, Default)]
pub struct Outcome {
    /// The rows.
    pub counts: Counts,
    /// Every row with a stop of its own.
    pub held: Held,
    /// Whether a stop without a row holds all of them.
    pub all_held: bool,
    /// The findings by column, code and level.
    pub tallies: Tallies,
    /// How many cells of each column hold something.
    pub filled: Vec<u64>,
    /// What the cells of each column say of how it is written.
    pub votes: Vec<Votes>,
    /// What of each column is handed on otherwise than it stands.
    pub rewriting: Vec<Rewriting>,
    /// The wrong words of each column.
    pub words: Vec<Words>,
    /// The words of each column that the plan replaces.
    pub translated: BTreeMap<usize, Translated>,
    /// What the findings of the rows may come from, as if no columns had changed places.
    pub evidence: Evidence,
    /// The findings kept for the report, not in order.
    pub kept: Vec<Finding>,
    /// The confirmed repeats.
    pub repeats: Repeats,
    /// Findings that only the end of the file could tell, repeats aside, in order.
    pub late: Vec<Finding>,
    /// The blocks.
    pub extents: Extents,
    /// The last row, if a quoted cell in it never closes.
    pub open: Option<OpenRow>,
    /// The first of the last rows that are a total or notes and were left out: it and all below it, but for a wrong total.
    pub left_out_from: Option<u64>,
    /// How many these are.
    pub endings: u64,
    /// What holds the last row, if it is called a total but does not sum.
    pub wrong_total: Option<Finding>,
    /// Columns whose values do not fit their field, each with another column whose would.
    pub misfits: Vec<(usize, usize)>,
    /// The records, where several rows make one.
    pub records: Option<RecordCounts>,
    /// What the run learned of its rows, for reading them again.
    pub state: RunState,
}

impl Outcome {
    /// Nothing yet, of a table of so many columns.
    pub(super) fn of_width(width: usize) -> Self {
        Self {
            tallies: Tallies::of_width(width),
            filled: vec![0; width],
            votes: vec![Votes::default(); width],
            rewriting: vec![Rewriting::default(); width],
            words: (0..width).map(|_| Words::default()).collect(),
            ..Self::default()
        }
    }

    /// Whether a row is a total or a note at the end of the table, which was left out.
    #[must_use]
    pub fn is_ending(&self, row: u64) -> bool {
        let is_wrong = self.wrong_total.as_ref().is_some_and(|total| total.row == Some(row));
        self.left_out_from.is_some_and(|from| row >= from) && !is_wrong
    }

    /// Takes a finding that only the end of the file could tell: it is counted where it stands, kept, and told late.
    pub(super) fn tell(&mut self, finding: Finding) {
        let column = finding.column.unwrap_or(0).min(self.filled.len());
        self.tallies.count(column, finding.code, finding.level, finding.row.unwrap_or_default());
        self.kept.push(finding.clone());
        self.late.push(finding);
    }
}
