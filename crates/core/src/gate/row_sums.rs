//! Whole rows that repeat, in a record without a key. While rows go by, a sum over those columns is taken that tell rows
//! apart best, which only suspects; suspected rows are read again, and the standard forms of all their cells decide.
//!
//! Before you change this: cells with the same standard form must have the same sum.

use super::compiled::{Column, Compiled};
use super::form::Form;
use super::key_values::values_of;
use super::keyset::KeySet;
use super::keystore::KeyStore;
use crate::block::Block;
use crate::rows::Cells;
use crate::scan::is_plain;
use crate::straight::SPREAD;
use xxhash_rust::xxh3::xxh3_64;

/// Takes the sums of the rows of a block; `rows` is a list that is used again from block to block.
pub(super) fn hash(
    gate: &Compiled,
    keyset: &KeySet,
    (block, cells): (&Block, &Cells),
    rows: &mut Vec<u64>,
    store: &mut KeyStore,
) {
    rows.clear();
    rows.resize(cells.len(), 0);
    for at in gate.row_probes.iter().copied() {
        let Some(number) = keyset.columns.get(at).copied() else { continue };
        let Some(column) = gate.columns.get(number) else { continue };
        let mut text = Vec::new();
        cells.each_in_column(number, |row, start, end| {
            let sum = match own_text(gate, column, &block.buffer, (start, end)) {
                Some(text) => xxh3_64(text),
                None => slow_sum(gate, number, (block, cells, row), &mut text),
            };
            if let Some(slot) = rows.get_mut(row) {
                *slot = (slot.rotate_left(23) ^ sum).wrapping_mul(SPREAD);
            }
        });
    }
    for (row, sum) in rows.iter().enumerate() {
        store.push(sum ^ sum >> 29, block.first_row + u64::from(cells.place(row)));
    }
}

/// The text of a cell that is plainly its own standard form.
#[inline(always)]
fn own_text<'a>(
    gate: &Compiled,
    column: &Column,
    buffer: &'a [u8],
    (start, end): (usize, usize),
) -> Option<&'a [u8]> {
    let raw = buffer.get(start..end)?;
    let is_guarded = column.guard.as_ref().is_some_and(|guard| guard.may_hold_in(buffer, (start, end)));
    let is_own = || match &column.standing {
        Some(words) if column.form == Form::Standard => words.holds(buffer, start, end - start),
        _ => column.program.stands(raw),
    };
    (is_plain(raw, gate.table.dialect) && !is_guarded && is_own()).then_some(raw)
}

#[cold]
#[inline(never)]
fn slow_sum(
    gate: &Compiled,
    number: usize,
    (block, cells, row): (&Block, &Cells, usize),
    text: &mut Vec<u8>,
) -> u64 {
    match values_of(gate, &[number], (false, true), (block, cells, row), text) {
        true => xxh3_64(text),
        // Bytes that are no text: the row is like no other.
        false => 0,
    }
}
