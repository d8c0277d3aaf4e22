//! Existing records read from their table, and the keys of a file, by which they are wanted.

use super::source::BlockSource;
use crate::block::Block;
use crate::existing::{Batch, Existing, Former, Kept, Keys, Probe, Wanted};
use crate::gate::{Gate, RecordsOf, RunState, Votes};
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
    let none = || Wanted::new(probes, |probe| gate.knows_beforehand(probe));
    let states = in_order(
        threads,
        || (RecordsOf::new(gate, &state), Block::for_threads(threads), none(), Vec::new()),
        |(_, block, ..)| Ok(source.next(block)?.then_some(block.number)),
        |(records, block, wanted, key)| {
            for row in 0..records.read(block) {
                if records.key(block, row, key) {
                    wanted.add(key);
                }
                for (number, probe) in probes.iter().enumerate() {
                    if let Some(sum) = records.probe_sum(probe, block, row) {
                        wanted.add_sum(number, sum);
                    }
                    if gate.knows_beforehand(probe) && records.probe(probe, block, row, key) {
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

/// Reads the records of a table for which this gate was compiled; keeps those that are wanted, or all. Where it `votes`,
/// gives what their cells say of how the columns are written.
///
/// # Errors
/// When it cannot be read to its end.
pub fn read_existing<S: BlockSource>(
    gate: &Gate,
    source: &S,
    threads: usize,
    (wanted, votes): (Option<&Wanted>, bool),
    kept: &mut Kept,
) -> Result<Vec<Votes>, S::Error> {
    read(gate, source, threads, (wanted, votes), (kept, false))
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
    read(gate, source, threads, (None, false), (kept, true)).map(drop)
}

/// The keys of a block, which of them are wanted, and room for what else is compared.
#[derive(Default)]
struct Keyed {
    keys: Keys,
    is_wanted: Vec<bool>,
    part: [Vec<u8>; 2],
}

fn read<S: BlockSource>(
    gate: &Gate,
    source: &S,
    threads: usize,
    (wanted, votes): (Option<&Wanted>, bool),
    (kept, is_released): (&mut Kept, bool),
) -> Result<Vec<Votes>, S::Error> {
    let state = RunState::default();
    let fields = kept.fields().to_vec();
    let (counts, lists) = kept.counts_unmentioned();
    let has_lines = gate.schema().lines.is_some();
    let taking = Taking {
        gate,
        columns: RecordsOf::new(gate, &state).columns(&fields),
        fields,
        probes: kept.probes().to_vec(),
        wanted,
        votes,
        unmentioned: (counts && !is_released, lists || has_lines),
        near_rows: kept.near_rows(),
        has_lines,
        is_released,
    };
    let states = in_order(
        threads,
        || (RecordsOf::new(gate, &state), Block::for_threads(threads), Keyed::default()),
        |(_, block, _)| next_sound(source, block),
        |(records, block, keyed)| taking.batch(records, block, keyed),
        |batch| {
            let join = if is_released { Kept::join_released } else { Kept::join };
            join(kept, &batch);
            Ok(())
        },
    )?;
    let mut all = vec![Votes::default(); gate.table().headings.len()];
    for (records, ..) in &states {
        all.iter_mut().zip(records.votes()).for_each(|(all, votes)| all.join(*votes));
    }
    Ok(all)
}

/// What is taken of the records of a block.
struct Taking<'a> {
    gate: &'a Gate,
    /// The fields that are kept, and their columns.
    fields: Vec<usize>,
    columns: Vec<Option<usize>>,
    probes: Vec<Probe>,
    wanted: Option<&'a Wanted>,
    /// Whether it is counted what cells say of how their columns are written.
    votes: bool,
    /// Whether those are counted that the file does not speak of, and whether their keys are.
    unmentioned: (bool, bool),
    near_rows: u64,
    has_lines: bool,
    is_released: bool,
}

impl Taking<'_> {
    fn batch(&self, records: &mut RecordsOf<'_>, block: &Block, keyed: &mut Keyed) -> Batch {
        let mut batch = Batch::default();
        // A last row that sums the others is no record.
        if self.gate.may_be_total(block) {
            return batch;
        }
        let rows = records.read(block);
        if self.votes {
            records.vote(block);
        }
        let Keyed { keys, is_wanted, part: [values, line] } = keyed;
        keys.clear();
        (0..rows).for_each(|row| keys.push(records.key(block, row, values).then_some(values.as_slice())));
        match self.wanted {
            Some(wanted) => wanted.has_each(keys, is_wanted),
            None => is_wanted.clear(),
        }
        for (row, key) in keys.iter().enumerate() {
            let Some((_, key)) = key else {
                batch.take_keyless();
                continue;
            };
            let mut is_wanted = is_wanted.get(row).copied().unwrap_or(true);
            if !is_wanted && self.unmentioned.0 && records.is_within(block, row) {
                batch.take_unmentioned(key, self.unmentioned.1);
            }
            if self.has_lines {
                batch.take_line(key);
                records.line_key(block, row, line);
            }
            for (number, probe) in self.probes.iter().enumerate() {
                let sum = self.wanted.zip(records.probe_sum(probe, block, row));
                if sum.is_some_and(|(wanted, sum)| !wanted.may_have_sum(number, sum)) {
                    continue;
                }
                if records.probe(probe, block, row, values) {
                    let is_found = batch.take_probe(number, values, key, self.wanted);
                    is_wanted |= is_found && self.gate.schema().stands_for_key(&probe.fields);
                }
            }
            let is_near = block.first_row <= self.near_rows;
            let cells = self.columns.iter().zip(&self.fields).map(|(column, field)| {
                let cell = column.map_or(&[][..], |column| records.cell(block, row, column));
                match self.is_released {
                    false => Cow::Borrowed(cell),
                    true => value_bytes(self.gate, *field, cell),
                }
            });
            let own = self.has_lines.then_some(Cow::Borrowed(line.as_slice()));
            batch.take(key, (is_near, is_wanted), cells.chain(own));
        }
        batch
    }
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
