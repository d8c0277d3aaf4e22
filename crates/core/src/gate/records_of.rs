//! The records of blocks as others compare them: their keys, and their values in the target's form.

use super::assembly::Gate;
use super::hashing::values;
use super::judge::Judge;
use super::seen::Seen;
use super::state::RunState;
use crate::block::Block;
use std::borrow::Cow;

/// Reads blocks record by record.
#[derive(Debug)]
pub struct RecordsOf<'g> {
    gate: &'g Gate,
    judge: Judge<'g>,
}

impl<'g> RecordsOf<'g> {
    /// For the blocks of a table that this gate was compiled for.
    #[must_use]
    pub fn new(gate: &'g Gate, state: &'g RunState) -> Self {
        Self { gate, judge: Judge::new(gate, state, false) }
    }

    /// Lays out a block; gives the number of its rows.
    pub fn read(&mut self, block: &Block) -> usize {
        self.judge.lay_out(block);
        self.judge.cells().len()
    }

    /// Writes the key of a row, so that equal keys have equal bytes; false where a part of it is blank or cannot be read.
    pub fn key(&self, block: &Block, row: usize, into: &mut Vec<u8>) -> bool {
        let Some(keyset) = self.gate.key_set() else { return false };
        values(self.gate, keyset, block, self.judge.cells(), row, into)
    }

    /// The value of a field in the target's own form, or as it stands where it cannot be read; nothing where it is blank.
    #[must_use]
    pub fn value<'a>(&'a self, block: &'a Block, row: usize, field: usize) -> Option<Cow<'a, str>> {
        let number = self.gate.column_of(field)?;
        let column = self.gate.columns.get(number)?;
        let (raw, dialect) = (self.judge.cells().bytes(block, row, number), self.gate.table.dialect);
        if let Some(text) = self.gate.standing(column, raw) {
            return Some(Cow::Borrowed(text));
        }
        match column.see(raw, dialect) {
            Seen::Broken => Some(String::from_utf8_lossy(raw)),
            Seen::Blank { .. } | Seen::Stale | Seen::Clear(_) => None,
            Seen::Value(text) => Some(self.gate.formed_or_as_it_is(column, &text, raw)),
        }
    }
}

impl Gate {
    /// Whether how the key is written is only known when all rows were read.
    #[must_use]
    pub fn key_has_vote(&self) -> bool {
        let columns = self.key_set().map(|keyset| keyset.columns.as_slice()).unwrap_or_default();
        columns.iter().filter_map(|column| self.columns.get(*column)).any(|column| column.program.has_vote())
    }

    /// Whether how any column is written is only known when all rows were read.
    #[must_use]
    pub fn has_votes(&self) -> bool {
        self.columns.iter().any(|column| column.field.is_some() && column.program.has_vote())
    }

    /// Whether the key is one text.
    #[must_use]
    pub fn key_is_one(&self) -> bool {
        self.key_set().is_some_and(|keyset| keyset.columns.len() == 1)
    }
}
