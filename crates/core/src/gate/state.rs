//! What a run has learned of its rows so far, for the judges that come after: which rows are passed over, and where
//! records of several rows begin.

use super::compiled::Compiled;
use super::heads::Heads;
use super::repeats::{RepeatGroup, Repeats};
use crate::catalogue::Code;
use crate::plan::Stands;

/// What a run has learned.
#[derive(Debug, Default)]
pub struct RunState {
    /// Rows with a key that another row has too, of which the plan says that one stands: the others are passed over.
    passed: Option<Passed>,
    pub(super) heads: Heads,
}

/// Rows that are passed over.
#[derive(Debug, Default)]
struct Passed {
    /// The rows, ascending, each once.
    rows: Vec<u64>,
    /// The repeats that they are part of.
    repeats: Repeats,
}

impl RunState {
    /// Forgets where records begin: cells are read in another way now.
    pub fn forget(&mut self) {
        self.heads.forget();
    }

    /// Takes up the rows that the plan passes over, from the repeats that a first judging found. Whether there are
    /// any; then the rows are to be judged again, without them.
    pub fn pass_over(&mut self, gate: &Compiled, repeats: &Repeats) -> bool {
        let stands = gate.settings.plan.stands;
        if stands == Stands::None || self.passed.is_some() {
            return false;
        }
        let is_key = |group: &RepeatGroup| {
            gate.keysets.get(group.keyset).is_some_and(|keyset| keyset.code == Code::KeyRepeated)
        };
        let repeats = repeats.without_standing(is_key, stands == Stands::First);
        let rows: Vec<u64> = repeats.rows().collect();
        if rows.is_empty() {
            return false;
        }
        self.passed = Some(Passed { rows, repeats });
        true
    }

    /// Whether any rows are passed over.
    pub(crate) fn passes_any(&self) -> bool {
        self.passed.is_some()
    }

    /// The repeats of the rows that are passed over.
    pub(crate) fn passed(&self) -> Option<&Repeats> {
        self.passed.as_ref().map(|passed| &passed.repeats)
    }

    /// The rows that are passed over, among these.
    pub(crate) fn passed_in(&self, first: u64, rows: u64) -> &[u64] {
        let all = self.passed.as_ref().map(|passed| passed.rows.as_slice()).unwrap_or_default();
        let from = all.partition_point(|row| *row < first);
        let to = all.partition_point(|row| *row < first + rows);
        all.get(from..to).unwrap_or_default()
    }

    /// Whether a row is passed over.
    #[must_use]
    pub fn is_passed(&self, row: u64) -> bool {
        !self.passed_in(row, 1).is_empty()
    }
}
