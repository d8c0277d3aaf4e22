//! The second walk over a file, when the verdict on every row is known.

use crate::error::Error;
use crate::table_file::TableFile;
use std::sync::atomic::{AtomicUsize, Ordering};
use tidy_gate_core::block::Block;
use tidy_gate_core::gate::{Gate, RowsOf};
use tidy_gate_core::order::in_order;
use tidy_gate_core::run::{BlockSource, Outcome, Watch};

/// Reads every block again: `part` makes something of each, on several threads, by its number; `take` gets that in order,
/// while `watch` is told of the rows.
///
/// # Errors
/// When the file cannot be read again, or an error of `take`.
pub(crate) fn second_walk<R: Send>(
    file: &TableFile,
    (gate, outcome): (&Gate, &Outcome),
    (threads, watch): (usize, &dyn Watch),
    part: impl Fn(&mut RowsOf<'_>, &Block, usize) -> R + Sync,
    mut take: impl FnMut(R) -> Result<(), Error> + Send,
) -> Result<(), Error> {
    let (counter, mut seen) = (AtomicUsize::new(0), 0);
    in_order(
        threads,
        || (RowsOf::new(gate, &outcome.state), Block::for_threads(threads), 0),
        |(_, block, number)| {
            *number = counter.fetch_add(1, Ordering::Relaxed);
            let Some(extent) = outcome.extents.blocks().get(*number) else { return Ok(None) };
            file.again(extent, block)?;
            Ok(Some(*number as u64))
        },
        |(rows, block, number)| (part(rows, block, *number), block.rows, block.offset + block.len as u64),
        |(made, rows, end)| {
            seen += rows;
            watch.judged(seen, end);
            take(made)
        },
    )
    .map(drop)
}
