//! The values of combinations that must not repeat, hashed while rows go by.

use super::alike_sums::{self, KnownSums, Sum};
use super::assembly::Gate;
use super::compiled::Compiled;
use super::key_values::values;
use super::keyset::{KeySet, fold_ascii};
use super::keystore::KeyStore;
use super::row_sums;
use super::standing::There;
use crate::block::Block;
use crate::rows::Cells;
use xxhash_rust::xxh3::xxh3_64;

/// Lists that are used again from block to block.
#[derive(Debug, Default)]
pub(super) struct Scratch {
    text: Vec<u8>,
    sums: Vec<Sum>,
    known: KnownSums,
    row_sums: Vec<u64>,
}

/// Hashes a combination in every row of a block.
pub(super) fn hash_keys(
    gate: &Gate,
    keyset: &KeySet,
    (block, cells, there): (&Block, &Cells, &[There<'_>]),
    scratch: &mut Scratch,
    store: &mut KeyStore,
) {
    if keyset.is_alike() {
        let lists = (&mut scratch.sums, &mut scratch.known);
        alike_sums::hash(gate, keyset, block, cells, lists, store);
        return;
    }
    if keyset.takes_blanks() {
        row_sums::hash(gate, keyset, (block, cells), &mut scratch.row_sums, store);
        return;
    }
    let text = &mut scratch.text;
    if let [column] = keyset.columns.as_slice()
        && gate.lines.is_none()
        && let Some(column_of) = gate.columns.get(*column)
        && column_of.has_own_keys()
    {
        cells.each_in_column(*column, |row, start, end| {
            let raw = block.buffer.get(start..end).unwrap_or_default();
            let number = block.first_row + u64::from(cells.place(row));
            if let Some(plain) = column_of.own_key(raw, gate.table.dialect)
                && (!keyset.is_folded() || fold_ascii(plain, text))
            {
                store.push(xxh3_64(if keyset.is_folded() { text } else { plain }), number);
            } else {
                hash_values(gate, keyset, (block, cells, row), there, text, store);
            }
        });
        return;
    }
    for row in 0..cells.len() {
        if keyset.per_record && cells.is_below(row) {
            continue;
        }
        hash_values(gate, keyset, (block, cells, row), there, text, store);
    }
}

#[cold]
#[inline(never)]
fn hash_values(
    gate: &Compiled,
    keyset: &KeySet,
    (block, cells, row): (&Block, &Cells, usize),
    there: &[There<'_>],
    text: &mut Vec<u8>,
    store: &mut KeyStore,
) {
    let there = there.get(row).and_then(|there| there.record());
    if values(gate, keyset, (block, cells, row), there, text) {
        store.push(xxh3_64(text), block.first_row + u64::from(cells.place(row)));
    }
}
