//! The causes of what a check found. Rows are read again only where that can tell more.

use super::blocks::pasted_twice;
use super::cause::Cause;
use super::headings::record_wrong;
use super::one_value::{self, each_block};
use super::weigh::Weigher;
use super::weigh_columns::best_forms;
use crate::catalogue::{Code, Level};
use crate::gate::{ClueWalk, DateCount, Gate, Texts};
use crate::order::in_order;
use crate::origins::{Evidence, Origin};
use crate::run::{BlockSource, Outcome};
use std::collections::BTreeMap;
use std::sync::atomic::{AtomicUsize, Ordering};

/// The causes, those that explain most first. Takes the evidence out of the outcome.
///
/// # Errors
/// When the rows cannot be read again.
pub fn causes<S: BlockSource>(
    gate: &Gate,
    source: &S,
    outcome: &mut Outcome,
    threads: usize,
) -> Result<Vec<Cause>, S::Error> {
    if gate.ends_work() {
        return Ok(Vec::new());
    }
    if let Some(cause) = record_wrong(gate, outcome) {
        return Ok(vec![cause]);
    }
    let mut found: Vec<Cause> = pasted_twice(gate, outcome).into_iter().collect();
    if outcome
        .tallies
        .iter()
        .any(|(counted, tally)| may_have_cause(counted.code, counted.level) && tally.count > 0)
    {
        let evidence = match outcome.misfits.is_empty() {
            true => std::mem::take(&mut outcome.evidence),
            false => with_swapped(gate, source, outcome, threads)?,
        }
        .settled();
        let dates = count_dates(gate, source, outcome, (threads, &evidence))?;
        let weigher = Weigher { gate, outcome, dates: &dates };
        let weighed = weigher.weigh(evidence);
        found.extend(weighed.causes);
        found.extend(one_value::causes(&weigher, source, &weighed.rest, threads)?);
    }
    found.sort_by(|one, other| other.findings.cmp(&one.findings).then_with(|| one.code.cmp(&other.code)));
    Ok(found)
}

/// Whether a finding may have a cause: notes on how the file is laid out have none.
fn may_have_cause(code: Code, level: Level) -> bool {
    level != Level::Note || matches!(code, Code::SpaceStray)
}

/// The evidence of a file some of whose columns have changed places: all clues once more, in order, now that this is known.
fn with_swapped<S: BlockSource>(
    gate: &Gate,
    source: &S,
    outcome: &Outcome,
    threads: usize,
) -> Result<Evidence, S::Error> {
    let (counter, mut evidence) = (AtomicUsize::new(0), Evidence::default());
    // What is at the end of the table is no record.
    let ending = outcome
        .wrong_total
        .as_ref()
        .and_then(|total| total.row)
        .into_iter()
        .chain(outcome.left_out_from)
        .min();
    in_order(
        threads,
        || (ClueWalk::new(gate, &outcome.state, false), crate::block::Block::for_threads(threads)),
        |(_, block)| {
            let number = counter.fetch_add(1, Ordering::Relaxed);
            let Some(extent) = outcome.extents.blocks().get(number) else { return Ok(None) };
            source.again(extent, block)?;
            Ok(Some(number as u64))
        },
        |(clues, block)| clues.of(block),
        |clues| {
            evidence.take(&clues, ending, &outcome.misfits);
            Ok(())
        },
    )?;
    Ok(evidence)
}

/// Holds the forms that read the dates with findings against all dates of their columns.
fn count_dates<S: BlockSource>(
    gate: &Gate,
    source: &S,
    outcome: &Outcome,
    (threads, evidence): (usize, &Evidence),
) -> Result<BTreeMap<usize, DateCount>, S::Error> {
    let mut asked: BTreeMap<usize, u64> = BTreeMap::new();
    for (origin, found) in &evidence.found {
        if let Origin::Dates(column, _) = origin
            && *column < gate.width()
        {
            let forms = best_forms(found).into_iter().flatten();
            *asked.entry(*column).or_default() |= forms.fold(0, |mask, at| mask | 1 << at);
        }
    }
    asked.retain(|_, forms| *forms != 0);
    let mut all: BTreeMap<usize, DateCount> = BTreeMap::new();
    if asked.is_empty() {
        return Ok(all);
    }
    let make = || (Texts::new(gate), BTreeMap::<usize, DateCount>::new());
    let states = each_block(source, outcome, threads, make, |(texts, counts), block| {
        texts.lay_out(block);
        for (column, forms) in &asked {
            counts.entry(*column).or_default().join(&texts.dates(block, *column, *forms));
        }
    })?;
    for (column, count) in states.iter().flat_map(|state| &state.1) {
        all.entry(*column).or_default().join(count);
    }
    Ok(all)
}
