//! The gate: what was compiled, what is asked of whole rows, and what is known before any row.

use super::compiled::Compiled;
use super::evidence::Votes;
use super::lines::Lines;
use super::opening;
use super::rules::RowRules;
use super::settings::Settings;
use super::state::RunState;
use crate::block::Block;
use crate::catalogue::{Level, Tag};
use crate::finding::Finding;
use crate::headings::Paired;
use crate::numerals::counted;
use crate::schema::RecordSchema;
use crate::table::Table;
use std::ops::Deref;

/// Everything a block is judged by.
#[derive(Debug)]
pub struct Gate {
    compiled: Compiled,
    /// What is asked of whole rows, if anything is.
    pub(super) rules: Option<RowRules>,
    /// How several rows make a record, where they do.
    pub(super) lines: Option<Lines>,
    opening: Vec<Finding>,
}

impl Deref for Gate {
    type Target = Compiled;

    fn deref(&self) -> &Compiled {
        &self.compiled
    }
}

impl Gate {
    /// Compiles the gate.
    #[must_use]
    pub fn new(schema: RecordSchema, settings: Settings, table: Table) -> Self {
        let mut compiled = Compiled::new(schema, settings, table);
        compiled.guess_ways();
        compiled.drop_unlikely();
        let lines = Lines::of(&compiled.schema, &compiled.pairing.column_of);
        let rules = RowRules::of(&compiled);
        let opening = opening::findings(&compiled);
        Self { compiled, rules, lines, opening }
    }

    /// Keeps of it what shows how columns are written.
    pub(super) fn read_for_votes(&mut self) {
        self.compiled.only_votes();
        (self.rules, self.lines) = (None, None);
    }

    /// Takes the ways of writing that all rows have shown. Whether one is another than was taken: then the rows are to
    /// be judged once more.
    pub fn settle_ways(&mut self, outcome: &[Votes]) -> bool {
        let is_changed = self.compiled.take_ways(outcome);
        if is_changed {
            self.rules = RowRules::of(&self.compiled);
        }
        is_changed
    }

    /// A block that is judged by nobody hands on what stands above it, where rows make records with others.
    pub(crate) fn pass_lines(&self, state: &RunState, block: &Block) {
        if self.lines.is_some() {
            state.heads.pass(block);
        }
    }

    /// What is known before any row is judged, in the order of findings.
    #[must_use]
    pub fn opening(&self) -> &[Finding] {
        &self.opening
    }

    /// The same, with how many values stand in columns whose field another column took.
    #[must_use]
    pub fn opening_of(&self, filled: &[u64]) -> Vec<Finding> {
        let told = |finding: &Finding| {
            let mut finding = finding.clone();
            let column = finding.column.and_then(|column| column.checked_sub(1));
            let is_taken =
                |column: &usize| matches!(self.pairing.columns.get(*column), Some(Paired::Taken { .. }));
            if let Some(filled) = column.filter(is_taken).and_then(|column| filled.get(column)) {
                let values = counted(*filled, "value", "values");
                finding.message = format!("{}; it holds {values}", finding.message);
            }
            finding
        };
        self.opening.iter().map(told).collect()
    }

    /// Whether every row is held, whatever is in it.
    #[must_use]
    pub fn holds_all(&self) -> bool {
        self.opening.iter().any(|finding| finding.level == Level::Stop)
    }

    /// Whether the work ends before any row is judged.
    #[must_use]
    pub fn ends_work(&self) -> bool {
        self.opening.iter().any(|finding| finding.code.is(Tag::EndsWork))
    }
}
