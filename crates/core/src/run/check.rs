//! A whole check, from the first block to the last word.

use super::judging::judge;
use super::outcome::Outcome;
use super::replay::Replay;
use super::source::{BlockSource, FindingSink, Unwatched, Watch};
use crate::gate::{Gate, RunState};

/// Checks a whole file: judges it, and judges it once more where all its rows show what the first of them did not: how
/// columns are written, and which rows give way to others. Each changes once or twice. `begin` gives a new list for all
/// findings at the start of each judging, if they are wanted; the last of them is given back.
///
/// # Errors
/// When the file cannot be read to its end, or a finding cannot be kept.
pub fn check<S: BlockSource, L: FindingSink<S::Error>>(
    gate: &mut Gate,
    source: &S,
    threads: usize,
    watch: &dyn Watch,
    begin: &mut dyn FnMut() -> Result<Option<L>, S::Error>,
) -> Result<(Outcome, Option<L>), S::Error> {
    let mut state = RunState::default();
    let mut list = begin()?;
    let mut outcome = judge(gate, &state, source, threads, watch, (sink(&mut list), true))?;
    while learn(gate, &mut state, &outcome) {
        list = begin()?;
        let again = Replay::new(source, &outcome);
        outcome = judge(gate, &state, &again, threads, watch, (sink(&mut list), true))?;
    }
    outcome.state = state;
    Ok((outcome, list))
}

/// Judges the rows of a table once: what its cells say of how they are written, and where its blocks are.
///
/// # Errors
/// When it cannot be read to its end.
pub fn look<S: BlockSource>(gate: &Gate, source: &S, threads: usize) -> Result<Outcome, S::Error> {
    judge(gate, &RunState::default(), source, threads, &Unwatched, (None, false))
}

fn sink<E, L: FindingSink<E>>(list: &mut Option<L>) -> Option<&mut dyn FindingSink<E>> {
    list.as_mut().map(|list| list as &mut dyn FindingSink<E>)
}

/// Takes up what a judging has shown. Whether the rows are to be judged once more.
fn learn(gate: &mut Gate, state: &mut RunState, outcome: &Outcome) -> bool {
    if gate.settle_ways(&outcome.votes) {
        state.forget();
        return true;
    }
    state.pass_over(gate, &outcome.repeats)
}
