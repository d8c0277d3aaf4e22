//! What only the end of a file knows, settled in one order: each step may hold rows that the ones before it did not.
//!
//! 1. The last row: a total, a note, or a record like any other.
//! 2. Rows without a value at the end, and what the source learned while it was read.
//! 3. What the judges gathered: counts, words, votes, the first findings.
//! 4. Repeats, confirmed by reading the suspected rows again.
//! 5. What rows share with other records that are there: a value may be had once that record gives it up, unless the row
//!    that does so is held.
//! 6. Records of several rows: too few or too many lines, and a stop in one row holds all of its record. This stands
//!    behind the repeats, since lines apart hold too.
//! 7. The first findings of repeats and of lines, in words.
//! 8. Columns: values without a heading, ways of writing, values that fit another column's field.
//! 9. Whether a stop without a row holds every row.
//!
//! Two verdicts can reopen all of it: how columns are written, and rows that give way to others ([`super::check`]).

use super::columns::settle_columns;
use super::ending::settle_endings;
use super::merge::Merge;
use super::misfit;
use super::outcome::Outcome;
use super::records::Records;
use super::repeated::{confirm_repeats, keep_repeats};
use super::shared::settle_shared;
use super::source::{BlockSource, FindingSink};
use crate::catalogue::{Code, Level};
use crate::finding::Finding;
use crate::gate::{Gate, Judge, RunState, Suspects};

/// Settles what was merged.
pub(super) fn settle<S: BlockSource>(
    learned: (&Gate, &RunState),
    source: &S,
    threads: usize,
    (mut merge, mut judges): (Merge, Vec<Judge<'_>>),
    sink: &mut Option<&mut dyn FindingSink<S::Error>>,
) -> Result<Outcome, S::Error> {
    let gate = learned.0;
    settle_endings(learned, source, &mut merge, &mut judges, sink)?;
    merge.end();
    let Merge { mut outcome, records, shares, .. } = merge;
    for finding in source.closing(gate.width()).into_iter().map(|finding| gate.told(finding)) {
        outcome.tell(gate.table().placed(finding));
    }
    outcome.counts.rows += gate.table().left_out;
    outcome.counts.left_out += gate.table().left_out;
    outcome.all_held = gate.holds_all() || outcome.open.is_some();
    let suspects = gather(judges, source, threads, &mut outcome)?;
    confirm_repeats(learned, source, suspects, &mut outcome)?;
    settle_shared(gate, shares, &mut outcome);
    settle_records(gate, &records, &mut outcome);
    keep_repeats(learned, source, &mut outcome)?;
    settle_columns(gate, &mut outcome);
    misfit::settle(gate, source, &mut outcome)?;
    let holds_all = |finding: &&Finding| finding.level == Level::Stop && finding.code != Code::TotalWrong;
    outcome.all_held |= outcome.late.iter().any(|finding| holds_all(&finding));
    if outcome.all_held {
        outcome.counts.held = outcome.counts.records();
        outcome.records.iter_mut().for_each(|records| records.held = records.all);
    }
    Ok(outcome)
}

/// Joins what the judges have gathered; gives the rows that they suspect to repeat others.
fn gather<S: BlockSource>(
    judges: Vec<Judge<'_>>,
    source: &S,
    threads: usize,
    outcome: &mut Outcome,
) -> Result<Suspects, S::Error> {
    let mut stores = Vec::new();
    for judge in judges {
        let found = judge.finish();
        outcome.votes.iter_mut().zip(found.votes).for_each(|(sum, votes)| sum.join(votes));
        outcome.tallies.join(&found.tallies);
        outcome.filled.iter_mut().zip(found.filled).for_each(|(sum, filled)| *sum += filled);
        for (sum, one) in outcome.rewriting.iter_mut().zip(found.rewriting) {
            sum.unlike += one.unlike;
            sum.defaulted += one.defaulted;
        }
        outcome.words.iter_mut().zip(found.words).for_each(|(sum, words)| sum.join(words));
        for (column, one) in found.translated {
            outcome.translated.entry(column).or_default().join(one);
        }
        outcome.kept.extend(found.kept);
        stores.push(found.keys);
    }
    Suspects::find(stores, source.aside(), threads)
}

/// Where several rows make a record: a stop in one of them holds them all.
pub(super) fn settle_records(gate: &Gate, records: &Records, outcome: &mut Outcome) {
    let Some(lines) = &gate.schema().lines else { return };
    let extents = outcome.extents.blocks();
    let mut miscounted = records.miscounted(&outcome.held, extents, |lines_of| lines.count.holds(&lines_of));
    for (row, count) in &miscounted {
        let (code, level) = gate.miscounted(*count);
        outcome.tallies.count(0, code, level, *row);
        if level == Level::Stop {
            outcome.counts.held += u64::from(outcome.held.hold(*row, extents));
        }
    }
    outcome.repeats.miscounted.append(&mut miscounted);
    let again: Vec<u64> = outcome.repeats.again(|keyset| gate.is_apart(keyset));
    let (more, counts) = records.hold(&mut outcome.held, extents, &again);
    outcome.counts.held += more;
    outcome.records = Some(counts);
}
