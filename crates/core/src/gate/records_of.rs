//! The records of blocks as others compare them: their keys, and their values in the target's form.

use super::assembly::Gate;
use super::compiled::Column;
use super::evidence::Votes;
use super::judge::Judge;
use super::key_values::{push, values};
use super::seen::Seen;
use super::sieve::Sieve;
use super::state::RunState;
use crate::block::Block;
use crate::existing::{Batch, Former, Probe, Wanted};
use crate::scan::{SheetMark, is_plain};
use std::borrow::Cow;
use std::sync::{Arc, Mutex};

/// Reads blocks record by record.
#[derive(Debug)]
pub struct RecordsOf<'g> {
    gate: &'g Gate,
    judge: Judge<'g>,
    /// The column of the key, where that is one alone and mostly told by its bytes.
    key: Option<(usize, &'g Column)>,
}

impl<'g> RecordsOf<'g> {
    /// For the blocks of a table that this gate was compiled for.
    #[must_use]
    pub fn new(gate: &'g Gate, state: &'g RunState) -> Self {
        let key = match gate.key_set() {
            Some(keyset) if gate.lines.is_none() && !keyset.is_outcome => match keyset.columns.as_slice() {
                [column] => gate.columns.get(*column).map(|of_key| (*column, of_key)),
                _ => None,
            },
            _ => None,
        };
        Self { gate, judge: Judge::new(gate, state, false), key }
    }

    /// Lays out a block; gives the number of its rows.
    pub fn read(&mut self, block: &Block) -> usize {
        self.judge.lay_out(block);
        self.judge.cells().len()
    }

    /// Counts what the cells of the block say of how their columns are written.
    pub fn vote(&mut self, block: &Block) {
        self.judge.vote(block);
    }

    /// What all cells said of how their columns are written, column by column.
    #[must_use]
    pub fn votes(&self) -> &[Votes] {
        self.judge.votes()
    }

    /// Writes the key of a row, so that equal keys have equal bytes; false where a part of it is blank or cannot be read.
    pub fn key(&self, block: &Block, row: usize, into: &mut Vec<u8>) -> bool {
        if let Some((number, column)) = self.key
            && let Some(value) =
                column.own_key(self.judge.cells().stored(block, row, number), self.gate.table.dialect)
            && value.is_ascii()
        {
            into.clear();
            into.extend(value);
            return true;
        }
        let Some(keyset) = self.gate.key_set() else { return false };
        values(self.gate, keyset, (block, self.judge.cells(), row), None, into)
    }

    /// Writes the key of a line within its record; nothing where it has none.
    pub fn line_key(&self, block: &Block, row: usize, into: &mut Vec<u8>) {
        self.gate.line_values(block, self.judge.cells(), row, into);
    }

    /// Writes what a probe looks for in a row; false where a part of it has no value.
    pub fn probe(&self, probe: &Probe, block: &Block, row: usize, into: &mut Vec<u8>) -> bool {
        self.gate.probe_values(probe, (block, self.judge.cells(), row), None, into)
    }

    /// A sum that is equal for rows of which a probe looks for the same; nothing where it has none.
    #[must_use]
    pub fn probe_sum(&self, probe: &Probe, block: &Block, row: usize) -> Option<u64> {
        self.gate.probe_sum(probe, (block, self.judge.cells(), row))
    }

    /// Whether a record is one that the plan lets a file change.
    #[must_use]
    pub fn is_within(&self, block: &Block, row: usize) -> bool {
        let rules = self.gate.rules.as_ref();
        rules.is_none_or(|rules| rules.is_within(self.gate, block, self.judge.cells(), row))
    }

    /// The columns of fields.
    #[must_use]
    pub fn columns(&self, fields: &[usize]) -> Vec<Option<usize>> {
        fields.iter().map(|field| self.gate.column_of(*field)).collect()
    }

    /// The cell of a column as it stands.
    #[must_use]
    pub fn cell<'a>(&'a self, block: &'a Block, row: usize, column: usize) -> &'a [u8] {
        self.judge.cells().bytes(block, row, column)
    }
}

impl Former for Gate {
    fn formed<'a>(&'a self, field: usize, raw: &'a [u8]) -> Option<Cow<'a, str>> {
        let column = self.columns.get(self.column_of(field)?)?;
        // A text that looks like a number is marked as one that is none.
        let text = match raw.split_first() {
            Some((mark, text)) if self.table.dialect.marks && *mark == SheetMark::Text.byte() => text,
            _ => raw,
        };
        if let Some(text) = self.standing(column, text) {
            return Some(Cow::Borrowed(text));
        }
        match column.see(raw, self.table.dialect) {
            Seen::Broken => Some(String::from_utf8_lossy(raw)),
            Seen::Blank { .. } | Seen::Stale | Seen::Clear(_) => None,
            Seen::Value(text) => Some(self.formed_or_as_it_is(column, &text, raw)),
        }
    }

    fn is_filled(&self, field: usize, raw: &[u8]) -> bool {
        let column = self.column_of(field).and_then(|column| self.columns.get(column));
        column.is_some_and(|column| {
            column.guard.is_none() && is_plain(raw, self.table.dialect)
                || matches!(column.see(raw, self.table.dialect), Seen::Value(_) | Seen::Broken)
        })
    }

    fn way(&self, field: usize) -> Option<String> {
        let column = self.columns.get(self.column_of(field)?)?;
        Some(format!("{:?} {:?} {:?}", column.program, column.reading, self.table.dialect))
    }
}

impl Gate {
    /// The same for a look at how columns are written: nothing is compared, and only columns are read whose cells decide.
    #[must_use]
    pub fn only_for_votes(mut self) -> Self {
        self.read_for_votes();
        self
    }

    /// Whether what a probe looks for is known before all rows were read: it stands in the file's own cells, and how these
    /// are written needs no deciding.
    #[must_use]
    pub fn knows_beforehand(&self, probe: &Probe) -> bool {
        let columns = probe.fields.iter().filter_map(|field| self.columns.get(self.column_of(*field)?));
        let has_votes = columns.into_iter().any(|column| column.program.has_vote());
        !has_votes && self.holds_all_of(probe)
    }

    /// Whether how the key is written is only known when all rows were read.
    #[must_use]
    pub fn key_has_vote(&self) -> bool {
        let columns = self.key_set().map(|keyset| keyset.columns.as_slice()).unwrap_or_default();
        columns.iter().filter_map(|column| self.columns.get(*column)).any(|column| column.program.has_vote())
    }

    /// Whether records are the same however columns turn out to be written: nothing by which they are told apart or looked
    /// for waits for all rows.
    #[must_use]
    pub fn reads_before_votes(&self, probes: &[Probe]) -> bool {
        let has_vote = |field: &usize| {
            let column = self.column_of(*field).and_then(|column| self.columns.get(column));
            column.is_some_and(|column| column.program.has_vote())
        };
        let probed = probes.iter().flat_map(|probe| &probe.fields);
        let scoped = self.scope_condition().into_iter().flat_map(|condition| &condition.fields);
        self.lines.is_none() && !self.key_has_vote() && !probed.chain(scoped).any(has_vote)
    }

    /// Whether how any column is written is only known when all rows were read.
    #[must_use]
    pub fn has_votes(&self) -> bool {
        self.columns.iter().any(|column| column.field.is_some() && column.program.has_vote())
    }

    /// What tells records that no row asks for by the cells of their keys, where these tell it: then columns that nothing
    /// but a row asks for need not be read of them. Where it `lists` those that are not asked for, their order is kept.
    /// `learns` takes in the end what the sieve itself counted.
    #[must_use]
    pub fn sieve(
        self,
        wanted: &Arc<Wanted>,
        (probes, lists): (&[Probe], bool),
        learns: &Arc<Mutex<Batch>>,
    ) -> Option<Sieve> {
        let keyset = self.key_set().filter(|keyset| self.lines.is_none() && !keyset.is_outcome)?;
        let key = keyset.columns.clone();
        let is_told = |column: &usize| self.columns.get(*column).is_some_and(Column::has_own_keys);
        let is_asked_otherwise = probes.iter().any(|probe| self.schema.stands_for_key(&probe.fields));
        if is_asked_otherwise || !key.iter().all(is_told) {
            return None;
        }
        let probed = probes.iter().flat_map(|probe| &probe.fields);
        let scope = self.scope_condition();
        let scoped = scope.into_iter().flat_map(|condition| &condition.fields);
        let needed = probed.chain(scoped).filter_map(|field| self.column_of(*field)).collect();
        // The first of those that have what is looked for is told, and a list is in the order of the source.
        let minds_order = lists || !probes.is_empty();
        let counts = !minds_order && scope.is_none();
        Some(Sieve::new((self, Arc::clone(wanted)), key, (needed, minds_order), (counts, Arc::clone(learns))))
    }

    /// Writes a cell as the part of a key that it is, where it stands so already: one of `several`, with its length.
    pub(super) fn write_own_key(
        &self,
        column: usize,
        is_of_several: bool,
        cell: &[u8],
        into: &mut Vec<u8>,
    ) -> bool {
        let plain = Some(cell).filter(|cell| is_plain(cell, self.table.dialect));
        let column = self.columns.get(column);
        let value = plain.and_then(|cell| column?.own_key(cell, self.table.dialect));
        value.into_iter().for_each(|value| push(value, is_of_several, into));
        value.is_some()
    }

    /// Whether the key is one text.
    #[must_use]
    pub fn key_is_one(&self) -> bool {
        self.key_set().is_some_and(|keyset| keyset.columns.len() == 1)
    }
}
