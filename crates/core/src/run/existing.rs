//! Existing records read from their table, and the keys of a file, by which they are wanted.

use super::source::BlockSource;
use crate::block::Block;
use crate::existing::{Kept, Wanted};
use crate::gate::{Gate, RecordsOf, RunState};
use crate::order::in_order;
use crate::scan::is_utf8;

/// The keys that a file holds, by hash.
///
/// # Errors
/// When it cannot be read to its end.
pub fn keys_of<S: BlockSource>(gate: &Gate, source: &S, threads: usize) -> Result<Wanted, S::Error> {
    let state = RunState::default();
    let states = in_order(
        threads,
        || (RecordsOf::new(gate, &state), Block::default(), Wanted::default(), Vec::new()),
        |(_, block, ..)| Ok(source.next(block)?.then_some(block.number)),
        |(records, block, wanted, key)| {
            for row in 0..records.read(block) {
                if records.key(block, row, key) {
                    wanted.add(key);
                }
            }
        },
        |()| Ok(()),
    )?;
    let mut all = Wanted::default();
    states.into_iter().for_each(|(_, _, wanted, _)| all.join(wanted));
    Ok(all)
}

/// Reads the records of a table for which this gate was compiled; keeps those that are wanted, or all.
///
/// # Errors
/// When it cannot be read to its end.
pub fn read_existing<S: BlockSource>(
    gate: &Gate,
    source: &S,
    wanted: Option<&Wanted>,
    kept: &mut Kept,
) -> Result<(), S::Error> {
    let state = RunState::default();
    let mut records = RecordsOf::new(gate, &state);
    let (mut block, mut key) = (Block::default(), Vec::new());
    while source.next(&mut block)? {
        if !is_utf8(block.content())
            && let Some(error) = source.other_encoding(&block.extent())
        {
            return Err(error);
        }
        for row in 0..records.read(&block) {
            if records.key(&block, row, &mut key) {
                kept.take(&key, wanted, |field| records.value(&block, row, field));
            }
        }
    }
    Ok(())
}
