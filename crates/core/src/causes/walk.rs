//! The causes of what a check found: the rows are read once more, where anything was found that may have one.

use super::blocks::pasted_twice;
use super::cause::Cause;
use super::evidence::Evidence;
use super::headings::record_wrong;
use super::one_value::Shared;
use super::weigh::Weigher;
use crate::block::Block;
use crate::catalogue::{Code, Level};
use crate::gate::{Clue, Clues, DateCount, Gate};
use crate::order::in_order;
use crate::run::{BlockSource, Outcome};
use std::collections::BTreeMap;
use std::sync::atomic::{AtomicUsize, Ordering};

/// The causes, those that explain most first.
///
/// # Errors
/// When the rows cannot be read again.
pub fn causes<S: BlockSource>(
    gate: &Gate,
    source: &S,
    outcome: &Outcome,
    threads: usize,
) -> Result<Vec<Cause>, S::Error> {
    if gate.ends_work() {
        return Ok(Vec::new());
    }
    if let Some(cause) = record_wrong(gate, outcome) {
        return Ok(vec![cause]);
    }
    let swapped = &outcome.misfits;
    let mut found: Vec<Cause> = pasted_twice(gate, outcome).into_iter().collect();
    if outcome
        .tallies
        .iter()
        .any(|(counted, tally)| may_have_cause(counted.code, counted.level) && tally.count > 0)
    {
        let mut evidence = Evidence::default();
        let columns = date_columns(gate, outcome);
        let dates = walk(gate, source, outcome, (threads, &columns), |clues, _| {
            clues.iter().for_each(|clue| evidence.take(clue, swapped));
        })?;
        let weigher = Weigher { gate, outcome, dates: &dates };
        let weighed = weigher.weigh(evidence);
        found.extend(weighed.causes);
        if let Some(mut shared) = Shared::of(gate, &weighed.rest) {
            walk(gate, source, outcome, (1, &[]), |clues, block| {
                shared.look_at(gate, block, &clues, swapped)
            })?;
            found.extend(shared.causes(&weigher, &weighed.rest));
        }
    }
    found.sort_by(|one, other| other.findings.cmp(&one.findings).then_with(|| one.code.cmp(&other.code)));
    Ok(found)
}

/// Whether a finding may have a cause: notes on how the file is laid out have none.
fn may_have_cause(code: Code, level: Level) -> bool {
    level != Level::Note || matches!(code, Code::SpaceStray)
}

/// The columns of dates that were not all read.
fn date_columns(gate: &Gate, outcome: &Outcome) -> Vec<usize> {
    let is_meant = |code| matches!(code, Code::DateBad | Code::DateImpossible | Code::DateUnclear);
    let found = outcome.tallies.iter().filter(|(counted, _)| is_meant(counted.code));
    let mut columns: Vec<usize> = found.filter_map(|(counted, _)| counted.column.checked_sub(1)).collect();
    columns.dedup();
    columns.retain(|column| *column < gate.width());
    columns
}

/// Reads every block again and gives its clues, in order.
fn walk<S: BlockSource>(
    gate: &Gate,
    source: &S,
    outcome: &Outcome,
    (threads, dates): (usize, &[usize]),
    mut take: impl FnMut(Vec<Clue>, &Block) + Send,
) -> Result<BTreeMap<usize, DateCount>, S::Error> {
    let counter = AtomicUsize::new(0);
    let keeps = threads == 1;
    let states = in_order(
        threads,
        || (Clues::new(gate, &outcome.state, dates, outcome.misfits.is_empty()), Block::default()),
        |(_, block)| {
            let number = counter.fetch_add(1, Ordering::Relaxed);
            let Some(extent) = outcome.extents.blocks().get(number) else { return Ok(None) };
            source.again(extent, block)?;
            Ok(Some(number as u64))
        },
        |(clues, block)| {
            let found = clues.of(block);
            // What is at the end of the table is no record.
            let ending =
                outcome.wrong_total.as_ref().and_then(|finding| finding.row).or(outcome.last_left_out);
            let found = found.into_iter().filter(|clue| Some(clue.row) != ending).collect();
            (found, if keeps { std::mem::take(block) } else { Block::default() })
        },
        |(clues, block)| {
            take(clues, &block);
            Ok(())
        },
    )?;
    let mut all: BTreeMap<usize, DateCount> = BTreeMap::new();
    for (clues, _) in states {
        for (column, count) in clues.dates() {
            let sum =
                all.entry(column).or_insert_with(|| DateCount { cells: 0, read: vec![0; count.read.len()] });
            sum.cells += count.cells;
            sum.read.iter_mut().zip(count.read).for_each(|(sum, one)| *sum += one);
        }
    }
    Ok(all)
}
