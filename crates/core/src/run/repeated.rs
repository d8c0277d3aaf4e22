//! Repeats: confirmed by reading the suspected rows again, and told.

use super::outcome::Outcome;
use super::source::BlockSource;
use crate::block::Block;
use crate::catalogue::Level;
use crate::finding::Finding;
use crate::gate::{Confirm, FIRST_OF_EACH, Gate, Judge, MOST_KEPT, Repeats, RunState, Suspects};

/// Reads the suspected rows again: their values decide.
pub(super) fn confirm_repeats<S: BlockSource>(
    (gate, state): (&Gate, &RunState),
    source: &S,
    mut suspects: Suspects,
    outcome: &mut Outcome,
) -> Result<(), S::Error> {
    let mut block = Block::default();
    if let Some(finding) = gate.drop_common(&mut suspects, outcome.counts.records()) {
        outcome.tell(finding);
    }
    if !suspects.rows.is_empty() {
        let mut judge = Judge::new(gate, state, false);
        let mut confirm = Confirm::default();
        for (extent, rows) in outcome.extents.around(&suspects.rows, |suspect| suspect.row) {
            source.again(&extent, &mut block)?;
            gate.confirm(&mut judge, &block, rows, &mut confirm);
        }
        outcome.repeats = confirm.finish(|keyset| gate.is_near(keyset));
    }
    let passed = state.passed().into_iter().flat_map(Repeats::by_keyset).map(|found| (found, Level::Warn));
    let told = outcome.repeats.told(|keyset| gate.is_apart(keyset));
    let repeats = told.map(|found| (found, gate.repeat_level(found.0)));
    for ((keyset, row), level) in repeats.chain(passed) {
        outcome.tallies.count_ruled(gate.repeat_counted(keyset, level), row);
    }
    for row in outcome.repeats.rows_of(|keyset| gate.repeat_holds(keyset)) {
        outcome.counts.held += u64::from(outcome.held.hold(row, outcome.extents.blocks()));
    }
    Ok(())
}

/// Keeps the first findings of repeats.
pub(super) fn keep_repeats<S: BlockSource>(
    (gate, state): (&Gate, &RunState),
    source: &S,
    outcome: &mut Outcome,
) -> Result<(), S::Error> {
    let mut kept = Vec::new();
    let _ = each_repeat_of((gate, state), source, outcome, &mut |finding| {
        kept.push(finding.clone());
        Ok(kept.len() < MOST_KEPT + FIRST_OF_EACH as usize)
    })?;
    outcome.kept.extend(kept);
    Ok(())
}

/// Reads the repeated rows again and gives the finding of each, in order, until told to stop. False when it
/// was.
///
/// # Errors
/// When the rows cannot be read again, or an error of `take`.
pub fn each_repeat<S: BlockSource>(
    gate: &Gate,
    source: &S,
    outcome: &Outcome,
    take: &mut dyn FnMut(&Finding) -> Result<bool, S::Error>,
) -> Result<bool, S::Error> {
    each_repeat_of((gate, &outcome.state), source, outcome, take)
}

fn each_repeat_of<S: BlockSource>(
    (gate, state): (&Gate, &RunState),
    source: &S,
    outcome: &Outcome,
    take: &mut dyn FnMut(&Finding) -> Result<bool, S::Error>,
) -> Result<bool, S::Error> {
    let passed = state.passed().into_iter().flat_map(Repeats::rows);
    let mut rows: Vec<u64> = outcome.repeats.rows().chain(passed).collect();
    rows.sort_unstable();
    rows.dedup();
    let (mut judge, mut block) = (Judge::seeing_passed(gate, state), Block::default());
    for (extent, _) in outcome.extents.around(&rows, |row| *row) {
        source.again(&extent, &mut block)?;
        for finding in gate.repeat_findings(&mut judge, &block, &outcome.repeats) {
            if !take(&finding)? {
                return Ok(false);
            }
        }
    }
    Ok(true)
}
