//! Every block judged, on as many threads as are given, and what only the end knows settled.

use super::merge::{Deferred, Merge};
use super::outcome::Outcome;
use super::settling::settle;
use super::source::{BlockSource, FindingSink, Watch};
use crate::block::Block;
use crate::gate::{Gate, Judge, Judged, RunState};
use crate::order::in_order;

/// Judges the whole file.
///
/// # Errors
/// When it cannot be read to its end, or a finding cannot be kept.
pub(super) fn judge<S: BlockSource>(
    gate: &Gate,
    state: &RunState,
    source: &S,
    threads: usize,
    watch: &dyn Watch,
    (mut sink, wants_clues): (Option<&mut dyn FindingSink<S::Error>>, bool),
) -> Result<Outcome, S::Error> {
    if gate.ends_work() {
        return Ok(Outcome { all_held: true, ..Outcome::of_width(gate.width()) });
    }
    let wants_all = sink.is_some();
    let mut merge = Merge::new(gate);
    let states = in_order(
        threads,
        || {
            let judge = Judge::new(gate, state, wants_all);
            (if wants_clues { judge.with_clues(true) } else { judge }, Block::for_threads(threads))
        },
        |(_, block)| Ok(source.next(block)?.then_some(block.number)),
        |(judge, block)| match gate.may_be_ending(block) {
            // What the row is, only the rows above it can tell.
            true => {
                gate.pass_lines(state, block);
                (Judged::default(), block.extent(), block.open, Some(gate.ending(block)), Ok(()))
            }
            false => {
                let judged = judge.judge(block);
                let kept = source.aside().map_or(Ok(()), |aside| judge.keep_within(aside, threads));
                (judged, block.extent(), block.open, None, kept)
            }
        },
        |(judged, extent, open, ending, kept)| {
            kept?;
            if let Some(ending) = ending {
                merge.deferred.push(Deferred { ending, extent, open });
                return Ok(());
            }
            merge.look_at_text(&judged, source, &extent)?;
            merge.take(judged, extent, open, &mut sink)?;
            watch.judged(merge.outcome.counts.rows, extent.offset + extent.len as u64);
            Ok(())
        },
    )?;
    let judges = states.into_iter().map(|(judge, _)| judge).collect();
    settle((gate, state), source, threads, (merge, judges), &mut sink)
}
