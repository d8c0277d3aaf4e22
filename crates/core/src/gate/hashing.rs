//! The values of combinations that must not repeat: hashed while rows go by, written out to be compared.

use super::alike_sums::{self, Sum};
use super::assembly::Gate;
use super::compiled::Compiled;
use super::keyset::{KeySet, folded};
use super::keystore::KeyStore;
use super::seen::Seen;
use super::standing::There;
use super::verdict::Given;
use crate::block::Block;
use crate::existing::ExistingRow;
use crate::rows::Cells;
use crate::scan::plain_text;
use std::borrow::Cow;
use xxhash_rust::xxh3::xxh3_64;

/// Lists that are used again from block to block.
#[derive(Debug, Default)]
pub(super) struct Scratch {
    text: Vec<u8>,
    sums: Vec<Sum>,
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
        alike_sums::hash(gate, keyset, block, cells, &mut scratch.sums, store);
        return;
    }
    let text = &mut scratch.text;
    if let [column] = keyset.columns.as_slice()
        && !keyset.is_folded()
        && gate.lines.is_none()
        && gate
            .columns
            .get(*column)
            .is_some_and(|column| column.program.is_verbatim() && column.guard.is_none())
    {
        cells.each_in_column(*column, |row, start, end| {
            let raw = block.buffer.get(start..end).unwrap_or_default();
            if let Some(text) = plain_text(raw, gate.table.dialect) {
                store.push(xxh3_64(text), block.first_row + u64::from(cells.place(row)));
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

/// Writes the standard forms of a row's combination, so that equal values give equal bytes; false when a part
/// has no value.
pub(super) fn values(
    gate: &Compiled,
    keyset: &KeySet,
    (block, cells, row): (&Block, &Cells, usize),
    there: Option<ExistingRow<'_>>,
    into: &mut Vec<u8>,
) -> bool {
    if keyset.is_alike() {
        return alike_sums::values(gate, &keyset.columns, block, cells, row, into);
    }
    if keyset.is_outcome {
        // What stays as it is repeats nothing that was not repeated before.
        if there.is_some_and(|record| !gate.gives_up(&keyset.fields, (block, cells, row), record)) {
            return false;
        }
        return gate.outcome_values(&keyset.fields, (block, cells, row), there, into);
    }
    values_of(gate, &keyset.columns, (keyset.is_folded(), keyset.takes_blanks()), (block, cells, row), into)
}

/// Writes the standard forms of some cells of a row; folded where near values are equal, and with blank ones where those
/// count.
pub(super) fn values_of(
    gate: &Compiled,
    columns: &[usize],
    (is_folded, takes_blanks): (bool, bool),
    (block, cells, row): (&Block, &Cells, usize),
    into: &mut Vec<u8>,
) -> bool {
    into.clear();
    // Most keys are one text, as it stands.
    if let [column] = columns
        && !is_folded
        && let Some(column_of) = gate.columns.get(*column)
        && column_of.guard.is_none()
        && column_of.program.is_verbatim()
        && let Some(text) = plain_text(cells.bytes(block, row, *column), gate.table.dialect)
    {
        into.extend(text);
        return true;
    }
    for &column in columns {
        let raw = cells.bytes(block, row, column);
        let Some(column) = gate.columns.get(column) else { return false };
        let seen = column.see(raw, gate.table.dialect);
        let text = match &seen {
            Seen::Broken => return false,
            Seen::Value(text) => Some(text.trim()),
            _ => None,
        };
        // A default fills what is blank, so that ready rows carry it.
        let filled = column.default.as_deref().filter(|_| !matches!(seen, Seen::Clear(_)));
        let value = match text {
            None if filled.is_none() && !takes_blanks => return false,
            None => Cow::Borrowed(filled.unwrap_or_default()),
            Some(text) => {
                let given = Given::of(text, raw, gate.table.dialect);
                match column.program.standard(given, &gate.schema.picklists) {
                    Some(value) if is_folded => Cow::Owned(folded(&value)),
                    Some(value) => value,
                    None if takes_blanks => Cow::Borrowed(text),
                    None => return false,
                }
            }
        };
        if columns.len() > 1 {
            into.extend((value.len() as u64).to_le_bytes());
        }
        into.extend(value.as_bytes());
    }
    true
}
