//! The last rows, where they may be a total and notes below it.

use super::merge::{Deferred, Merge};
use super::source::{BlockSource, FindingSink};
use crate::block::Block;
use crate::catalogue::Code;
use crate::gate::{Gate, Judge, LastRow, RunState};

/// Judges the last rows when they may be a total and notes: those are left out from the last row upwards, as long as there
/// are notes; a total ends that, but for the word for it in the row above. All others are judged as any row.
pub(super) fn settle_endings<S: BlockSource>(
    (gate, state): (&Gate, &RunState),
    source: &S,
    merge: &mut Merge,
    judges: &mut [Judge<'_>],
    sink: &mut Option<&mut dyn FindingSink<S::Error>>,
) -> Result<(), S::Error> {
    let deferred = std::mem::take(&mut merge.deferred);
    let Some(judge) = judges.first_mut() else { return Ok(()) };
    let mut seeing_all = (state.passes_any() || gate.leaves_out() || gate.leaves_unmatched())
        .then(|| Judge::seeing_all(gate, state));
    let found = what_ends(gate, source, merge, &deferred, (judge, &mut seeing_all))?;
    let mut block = Block::default();
    let mut left = deferred.len();
    for (Deferred { extent, open, .. }, what) in deferred.into_iter().zip(found) {
        left -= 1;
        source.again(&extent, &mut block)?;
        let Some(finding) = gate.last_row(&block, &what, left == 0) else {
            let judged = judge.judge(&block);
            merge.look_at_text(&judged, source, &extent)?;
            merge.take(judged, extent, open, sink)?;
            continue;
        };
        let mut judged = judge.pass_over_first(&block);
        if finding.code == Code::TotalWrong {
            judged.held = Some(Box::new([1]));
            merge.outcome.wrong_total = Some(finding.clone());
        } else {
            merge.outcome.counts.left_out += 1;
            merge.outcome.endings += 1;
            merge.outcome.left_out_from.get_or_insert(extent.first_row);
        }
        merge.take(judged, extent, open, sink)?;
        merge.outcome.tell(finding);
    }
    Ok(())
}

/// What each of the last rows is. Every one is held against all rows above it.
fn what_ends<S: BlockSource>(
    gate: &Gate,
    source: &S,
    merge: &Merge,
    deferred: &[Deferred],
    (judge, seeing_all): (&mut Judge<'_>, &mut Option<Judge<'_>>),
) -> Result<Vec<LastRow>, S::Error> {
    let mut block = Block::default();
    let mut sums: Vec<_> =
        deferred.iter().map(|row| row.ending.as_ref().map(|e| [e.sums(), e.sums()])).collect();
    let above = merge.outcome.extents.blocks().iter().map(|extent| (extent, 0));
    let among = deferred.iter().enumerate().map(|(number, row)| (&row.extent, number + 1));
    let is_any = deferred.iter().any(|row| row.ending.is_some());
    for (extent, first) in above.chain(among).filter(|_| is_any) {
        source.again(extent, &mut block)?;
        let mut add = |judge: &mut Judge<'_>, which: usize| {
            judge.lay_out(&block);
            for (row, sums) in deferred.iter().zip(&mut sums).skip(first) {
                if let (Some(ending), Some(sums)) =
                    (&row.ending, sums.as_mut().and_then(|s| s.get_mut(which)))
                {
                    gate.add_up(ending, judge.cells(), &block, sums);
                }
            }
        };
        add(judge, 0);
        if let Some(judge) = seeing_all {
            add(judge, 1);
        }
    }
    let mut found: Vec<LastRow> = deferred.iter().map(|_| LastRow::Record).collect();
    let rows = deferred.iter().zip(&sums).zip(&mut found).rev();
    let mut is_above_total = false;
    for ((row, sums), found) in rows {
        let (Some(ending), Some([staying, all])) = (&row.ending, sums) else { break };
        let what = ending.what(staying, if seeing_all.is_some() { all } else { staying });
        if is_above_total && !(what == LastRow::Footer && ending.is_called()) {
            break;
        }
        let is_total = matches!(what, LastRow::Total | LastRow::Wrong(..));
        let is_end = is_above_total || what != LastRow::Footer && !is_total;
        is_above_total = is_total;
        *found = what;
        if is_end {
            break;
        }
    }
    Ok(found)
}
