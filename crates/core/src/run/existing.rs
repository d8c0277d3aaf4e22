//! Existing records read from their table, and the keys of a file, by which they are wanted.

use super::source::BlockSource;
use crate::block::Block;
use crate::existing::{Batch, Existing, Former, Kept, Probe, Wanted};
use crate::gate::{Gate, RecordsOf, RunState};
use crate::order::in_order;
use crate::scan::is_utf8;
use std::borrow::Cow;

/// What a file holds, by hash: its keys, and what it looks for beside them.
///
/// # Errors
/// When it cannot be read to its end.
pub fn wanted_by<S: BlockSource>(
    gate: &Gate,
    source: &S,
    probes: &[Probe],
    threads: usize,
) -> Result<Wanted, S::Error> {
    let state = RunState::default();
    let is_known = |number: usize| probes.get(number).is_some_and(|probe| gate.knows_beforehand(probe));
    let none = || Wanted::new(probes.len(), is_known);
    let states = in_order(
        threads,
        || (RecordsOf::new(gate, &state), Block::default(), none(), Vec::new()),
        |(_, block, ..)| Ok(source.next(block)?.then_some(block.number)),
        |(records, block, wanted, key)| {
            for row in 0..records.read(block) {
                if records.key(block, row, key) {
                    wanted.add(key);
                }
                for (number, probe) in
                    probes.iter().enumerate().filter(|(_, probe)| gate.knows_beforehand(probe))
                {
                    if records.probe(probe, block, row, key) {
                        wanted.add_probe(number, key);
                    }
                }
            }
        },
        |()| Ok(()),
    )?;
    let mut all = none();
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
    threads: usize,
    wanted: Option<&Wanted>,
    kept: &mut Kept,
) -> Result<(), S::Error> {
    read(gate, source, threads, wanted, (kept, false))
}

/// Reads rows that were handed over earlier: they stand over what was read before.
///
/// # Errors
/// When they cannot be read to their end.
pub fn read_released<S: BlockSource>(
    gate: &Gate,
    source: &S,
    threads: usize,
    kept: &mut Kept,
) -> Result<(), S::Error> {
    read(gate, source, threads, None, (kept, true))
}

fn read<S: BlockSource>(
    gate: &Gate,
    source: &S,
    threads: usize,
    wanted: Option<&Wanted>,
    (kept, is_released): (&mut Kept, bool),
) -> Result<(), S::Error> {
    let state = RunState::default();
    let (fields, probes) = (kept.fields().to_vec(), kept.probes().to_vec());
    let (counts, lists) = kept.counts_unmentioned();
    let near_rows = kept.near_rows();
    let columns = RecordsOf::new(gate, &state).columns(&fields);
    let has_lines = gate.schema().lines.is_some();
    in_order(
        threads,
        || (RecordsOf::new(gate, &state), Block::default(), [Vec::new(), Vec::new(), Vec::new()]),
        |(_, block, _)| next_sound(source, block),
        |(records, block, [key, values, line])| {
            let mut batch = Batch::default();
            // A last row that sums the others is no record.
            if gate.may_be_total(block) {
                return batch;
            }
            for row in 0..records.read(block) {
                if !records.key(block, row, key) {
                    batch.take_keyless();
                    continue;
                }
                let mut is_wanted = wanted.is_none_or(|wanted| wanted.has(key));
                if !is_wanted && counts && !is_released && records.is_within(block, row) {
                    batch.take_unmentioned(key, lists || has_lines);
                }
                if has_lines {
                    batch.take_line(key);
                    records.line_key(block, row, line);
                }
                for (number, probe) in probes.iter().enumerate() {
                    if records.probe(probe, block, row, values) {
                        let is_found = batch.take_probe(number, values, key, wanted);
                        is_wanted |= is_found && gate.schema().stands_for_key(&probe.fields);
                    }
                }
                let is_near = block.first_row <= near_rows;
                let cells = columns.iter().zip(&fields).map(|(column, field)| {
                    let cell = column.map_or(&[][..], |column| records.cell(block, row, column));
                    match is_released {
                        false => Cow::Borrowed(cell),
                        true => value_bytes(gate, *field, cell),
                    }
                });
                let own = has_lines.then_some(Cow::Borrowed(line.as_slice()));
                batch.take(key, (is_near, is_wanted), cells.chain(own));
            }
            batch
        },
        |batch| {
            let join = if is_released { Kept::join_released } else { Kept::join };
            join(kept, &batch);
            Ok(())
        },
    )
    .map(drop)
}

/// Reads the next block; gives its number.
fn next_sound<S: BlockSource>(source: &S, block: &mut Block) -> Result<Option<u64>, S::Error> {
    if !source.next(block)? {
        return Ok(None);
    }
    let is_sound = is_utf8(block.content());
    let other = if is_sound { None } else { source.other_encoding(&block.extent()) };
    other.map_or(Ok(Some(block.number)), Err)
}

/// A cell as a value.
fn value_bytes<'a>(gate: &'a Gate, field: usize, cell: &'a [u8]) -> Cow<'a, [u8]> {
    match gate.formed(field, cell) {
        Some(Cow::Borrowed(value)) => Cow::Borrowed(value.as_bytes()),
        Some(Cow::Owned(value)) => Cow::Owned(value.into_bytes()),
        None => Cow::Borrowed(&[]),
    }
}
