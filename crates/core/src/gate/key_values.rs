//! The values of combinations that must not repeat, written out to be compared: in standard form, folded where near ones
//! are equal.

use super::alike_sums;
use super::compiled::{Column, Compiled};
use super::keyset::{KeySet, fold_ascii, folded};
use super::kinds::Program;
use super::seen::Seen;
use super::verdict::Given;
use crate::block::Block;
use crate::existing::ExistingRow;
use crate::rows::Cells;
use crate::scan::{Dialect, plain_text};
use std::borrow::Cow;

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
    for &column in columns {
        let raw = cells.bytes(block, row, column);
        let Some(column) = gate.columns.get(column) else { return false };
        let own = column.own_key(raw, gate.table.dialect);
        if let Some(value) = own.filter(|_| is_folded && columns.len() == 1) {
            if fold_ascii(value, into) {
                continue;
            }
            into.clear();
        }
        if let Some(value) = own.filter(|value| !is_folded && std::str::from_utf8(value).is_ok()) {
            push(value, columns.len() > 1, into);
            continue;
        }
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
        push(value.as_bytes(), columns.len() > 1, into);
    }
    true
}

/// Adds a value; of several each with its length.
pub(super) fn push(value: &[u8], is_of_several: bool, into: &mut Vec<u8>) {
    if is_of_several {
        into.extend((value.len() as u64).to_le_bytes());
    }
    into.extend(value);
}

impl Column {
    /// Whether cells that stand in the target's form are told by their bytes, sound or not.
    pub(super) fn has_own_keys(&self) -> bool {
        let is_told =
            self.program.is_verbatim() || matches!(self.program, Program::Integer(_) | Program::Decimal(_));
        self.guard.is_none() && is_told
    }

    /// The standard form of a raw cell that stands so already.
    #[inline]
    pub(super) fn own_key<'a>(&self, raw: &'a [u8], dialect: Dialect) -> Option<&'a [u8]> {
        plain_text(raw, dialect).filter(|text| self.has_own_keys() && self.program.stands(text))
    }
}
