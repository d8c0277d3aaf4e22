//! The last row, where it may be a total or a note.

use super::merge::Merge;
use super::source::{BlockSource, FindingSink};
use crate::block::Block;
use crate::catalogue::Code;
use crate::gate::{Gate, Judge, RunState};

/// Judges the last row when it may be a total: left out if it is one, else judged as any other.
pub(super) fn settle_ending<S: BlockSource>(
    (gate, state): (&Gate, &RunState),
    source: &S,
    merge: &mut Merge,
    judges: &mut [Judge<'_>],
    sink: &mut Option<&mut dyn FindingSink<S::Error>>,
) -> Result<(), S::Error> {
    let (Some((ending, extent, open)), Some(judge)) = (merge.ending.take(), judges.first_mut()) else {
        return Ok(());
    };
    let mut block = Block::default();
    let (mut sums, mut all) = (ending.sums(), ending.sums());
    let mut seeing_all = (state.passes_any() || gate.leaves_out() || gate.leaves_unmatched())
        .then(|| Judge::seeing_all(gate, state));
    for before in merge.outcome.extents.blocks() {
        source.again(before, &mut block)?;
        gate.add_up(&ending, judge, &block, &mut sums);
        if let Some(judge) = &mut seeing_all {
            gate.add_up(&ending, judge, &block, &mut all);
        }
    }
    source.again(&extent, &mut block)?;
    let what = ending.what(&sums, if seeing_all.is_some() { &all } else { &sums });
    let Some(finding) = gate.last_row(&block, &what) else {
        let judged = judge.judge(&block);
        if let Some(row) = judged.nul {
            return Err(source.not_text(row));
        }
        return merge.take(judged, extent, open, sink);
    };
    let mut judged = judge.pass_over_first(&block);
    let is_held = finding.code == Code::TotalWrong;
    if is_held {
        judged.held = Some(Box::new([1]));
    }
    merge.take(judged, extent, open, sink)?;
    if is_held {
        merge.outcome.wrong_total = Some(finding.clone());
    } else {
        merge.outcome.counts.left_out += 1;
        merge.outcome.last_left_out = Some(extent.first_row);
    }
    merge.outcome.tell(finding);
    Ok(())
}
