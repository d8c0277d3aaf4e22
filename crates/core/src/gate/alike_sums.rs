//! Likely duplicates: rows with different keys whose descriptive fields agree, case, accents, spaces and the order of
//! words aside. While rows go by, a sum over the letters of each text is taken, which only suspects; suspected rows
//! are read again, and their folded words decide.
//!
//! Before you change this: texts that compare as equal must have equal sums, here and in `scan::letters`; unequal ones may
//! collide. The tests below hold sums against folded words, and the lanes against the plain sum.

use super::alike::LEAST_FILLED;
use super::compiled::{Column, Compiled};
use super::day_sums::{DaySums, day_sum};
use super::keyset::KeySet;
use super::keystore::KeyStore;
use super::kinds::Program;
use super::seen::Seen;
use super::verdict::Given;
use crate::block::Block;
use crate::likeness::unaccented;
use crate::rows::Cells;
use crate::scan::{is_plain, letter_sum, letter_sums, with_lanes};
use crate::straight::SPREAD;
use xxhash_rust::xxh3::{xxh3_64, xxh3_64_with_seed};

/// What is known of a row: a hash of its columns so far, and how many of them are filled.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Sum {
    hash: u64,
    filled: u8,
}

impl Sum {
    #[inline(always)]
    fn add(&mut self, sum: u64, at: usize) {
        if sum != 0 {
            // The columns come in their order.
            self.hash = (self.hash.rotate_left(23) ^ sum.wrapping_add(at as u64)).wrapping_mul(SPREAD);
            self.filled = self.filled.saturating_add(1);
        }
    }
}

/// The sums of cells that need a closer look, by a hash of each: they tend to come again. Sums only suspect, so that a cell
/// may be taken for another of the same hash.
#[derive(Debug, Default)]
pub(super) struct KnownSums(Vec<(u64, u64)>);

impl KnownSums {
    const SLOTS: usize = 1024;

    fn of(&mut self, number: usize, raw: &[u8], sum: impl FnOnce() -> u64) -> u64 {
        if self.0.is_empty() {
            self.0.resize(Self::SLOTS, (0, 0));
        }
        // No hash is the nought of an empty slot.
        let hash = xxh3_64_with_seed(raw, number as u64) | 1;
        let Some(known) = self.0.get_mut((hash >> 1) as usize % Self::SLOTS) else { return sum() };
        if known.0 != hash {
            *known = (hash, sum());
        }
        known.1
    }
}

/// Takes the sums of the rows of a block; `rows` and `known` are used again from block to block.
pub(super) fn hash(
    gate: &Compiled,
    keyset: &KeySet,
    block: &Block,
    cells: &Cells,
    (rows, known): (&mut Vec<Sum>, &mut KnownSums),
    store: &mut KeyStore,
) {
    let dialect = gate.table.dialect;
    rows.clear();
    rows.resize(cells.len(), Sum::default());
    for at in gate.alike_probes.iter().copied() {
        let Some((number, column)) = column_at(gate, keyset, at) else { continue };
        let mut slow = |row: usize| {
            let raw = cells.bytes(block, row, number);
            known.of(number, raw, || slow_sum(gate, column, raw))
        };
        // A cell may be a word for blank, or take over what stands above it.
        let is_open = |row: usize, sum: u64| {
            column
                .guard
                .as_ref()
                .is_some_and(|guard| guard.may_hold_in(&block.buffer, cells.cell(row, number)))
                || sum == 0 && cells.takes_over(row, number)
        };
        if is_words(&column.program) {
            let (bounds, stride) = cells.column_bounds(number);
            letter_sums(&block.buffer, bounds, stride, dialect, |row, letters, is_ascii| {
                let letters = if is_ascii && !is_open(row, letters) { letters } else { slow(row) };
                rows.get_mut(row).into_iter().for_each(|sum| sum.add(letters, at));
            });
            continue;
        }
        let mut take = |row: usize, sum: Option<u64>| {
            let sum = sum.filter(|sum| !is_open(row, *sum)).unwrap_or_else(|| slow(row));
            rows.get_mut(row).into_iter().for_each(|row| row.add(sum, at));
        };
        if column.program.is_iso_date() {
            with_lanes(dialect, DaySums { buffer: &block.buffer, cells, column: number, each: take });
        } else {
            cells.each_in_column(number, |row, start, end| {
                let raw = block.buffer.get(start..end).unwrap_or_default();
                let stands = || column.program.stands(raw) && is_plain(raw, dialect);
                take(row, if raw.is_empty() { Some(0) } else { stands().then(|| plain_sum(raw)) });
            });
        }
    }
    for (row, sum) in rows.iter().enumerate() {
        if keyset.per_record && cells.is_below(row) {
            continue;
        }
        let sum = if sum.filled < LEAST_FILLED { whole(gate, keyset, block, cells, row) } else { *sum };
        if sum.filled >= LEAST_FILLED {
            store.push(sum.hash ^ sum.hash >> 29, block.first_row + u64::from(cells.place(row)));
        }
    }
}

fn column_at<'a>(gate: &'a Compiled, keyset: &KeySet, at: usize) -> Option<(usize, &'a Column)> {
    let number = *keyset.columns.get(at)?;
    Some((number, gate.columns.get(number)?))
}

/// The sum over all columns, for a row of which too few of the first ones are filled.
#[cold]
#[inline(never)]
fn whole(gate: &Compiled, keyset: &KeySet, block: &Block, cells: &Cells, row: usize) -> Sum {
    let mut sum = Sum::default();
    for at in 0..keyset.columns.len() {
        let Some((number, column)) = column_at(gate, keyset, at) else { continue };
        sum.add(slow_sum(gate, column, cells.bytes(block, row, number)), at);
    }
    sum
}

/// The sum of a value in its standard form.
#[inline(always)]
fn plain_sum(value: &[u8]) -> u64 {
    if let Ok(day) = value.try_into() {
        return day_sum(day);
    }
    xxh3_64(value)
}

/// Whether values are compared by their words; all others are by their standard form.
fn is_words(program: &Program) -> bool {
    program.is_verbatim()
}

#[cold]
#[inline(never)]
fn slow_sum(gate: &Compiled, column: &Column, raw: &[u8]) -> u64 {
    match value(gate, column, raw) {
        Compared::Value(value) if is_words(&column.program) => letter_sum(value.as_bytes()),
        Compared::Value(value) => plain_sum(value.as_bytes()),
        Compared::Nothing | Compared::Unreadable => 0,
    }
}

/// Whether a column's values are compared by their words, which nothing but the cell decides.
pub(super) fn has_words(gate: &Compiled, keyset: &KeySet, at: usize) -> bool {
    column_at(gate, keyset, at).is_some_and(|(_, column)| is_words(&column.program))
}

/// The sum of a cell of words: where rows are alike, those of each of their columns are equal, however either is read.
/// Nothing where the column's values are compared otherwise.
pub(super) fn of_words(
    gate: &Compiled,
    number: usize,
    (block, cells, row): (&Block, &Cells, usize),
) -> Option<u64> {
    let column = gate.columns.get(number).filter(|column| is_words(&column.program))?;
    let raw = cells.bytes(block, row, number);
    let is_plain = column.guard.is_none() && raw.iter().all(|byte| (0x20..0x7F).contains(byte));
    Some(if is_plain { letter_sum(raw) } else { slow_sum(gate, column, raw) })
}

/// What of a cell is compared.
enum Compared {
    Nothing,
    Value(String),
    /// Something without a value: it is like nothing else.
    Unreadable,
}

fn value(gate: &Compiled, column: &Column, raw: &[u8]) -> Compared {
    let dialect = gate.table.dialect;
    let text = match column.see(raw, dialect) {
        Seen::Broken => return Compared::Unreadable,
        Seen::Blank { .. } | Seen::Stale | Seen::Clear(_) => return Compared::Nothing,
        Seen::Value(text) => text,
    };
    let text = text.trim();
    let value = match is_words(&column.program) {
        true => folded_words(text),
        false => {
            let given = Given::of(text, raw, dialect);
            match column.program.standard(given, &gate.schema.picklists) {
                Some(value) => value.into_owned(),
                None => return Compared::Unreadable,
            }
        }
    };
    if value.is_empty() { Compared::Nothing } else { Compared::Value(value) }
}

/// Writes what of a row is compared; false where too little of it is filled.
pub(super) fn values(
    gate: &Compiled,
    columns: &[usize],
    block: &Block,
    cells: &Cells,
    row: usize,
    into: &mut Vec<u8>,
) -> bool {
    into.clear();
    let mut filled = 0;
    for number in columns {
        let Some(column) = gate.columns.get(*number) else { return false };
        let value = match value(gate, column, cells.bytes(block, row, *number)) {
            Compared::Value(value) => {
                filled += 1;
                value
            }
            Compared::Nothing => String::new(),
            Compared::Unreadable => format!("\u{0}{}", block.first_row + u64::from(cells.place(row))),
        };
        into.extend((value.len() as u64).to_le_bytes());
        into.extend(value.as_bytes());
    }
    filled >= LEAST_FILLED
}

/// The words of a text in order of letters, in lower case and without accents.
fn folded_words(text: &str) -> String {
    let folded: String = match text.is_ascii() {
        true => text.to_ascii_lowercase(),
        false => {
            let bare: String = unaccented(text).collect();
            unaccented(&caseless::default_case_fold_str(&bare)).collect()
        }
    };
    let mut words: Vec<&str> =
        folded.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
    words.sort_unstable();
    words.join(" ")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equal_words_have_equal_sums() {
        let same = [
            ["Café Müller", "MULLER,  cafe"],
            ["Ashton Lane 12", "12 ashton\u{A0}lane"],
            ["Straße", "STRASSE"],
            ["Ørsted\u{301}", "ørsted"],
            ["J. Marsh", "\"Marsh, J\""],
        ];
        for [one, other] in same {
            let (left, right) = (folded_words(one), folded_words(other));
            assert_eq!(left, right);
            // Letters beyond ASCII are folded before they are summed.
            for text in [one, other].into_iter().filter(|text| text.is_ascii()) {
                assert_eq!(letter_sum(text.as_bytes()), letter_sum(left.as_bytes()), "{text}");
            }
        }
        for [one, other] in [["Ash Lane", "Ash Lanes"], ["12", "21"], ["ab c", "a bc"]] {
            assert_ne!(folded_words(one), folded_words(other));
        }
        assert_eq!(letter_sum(b" -?\" "), 0, "no word, no sum");
    }
}
