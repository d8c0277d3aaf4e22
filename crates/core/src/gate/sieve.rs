//! Existing records that no row asks for, told by their keys alone.

use super::assembly::Gate;
use crate::existing::{Batch, NEAR_ROWS, Wanted};
use std::sync::{Arc, Mutex, PoisonError};

/// What is read of a record.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Share {
    /// All: a row may ask for it.
    All,
    /// The columns that are read of every record, as none asks for it.
    Needed,
    /// Nothing: it is counted here.
    Nothing,
}

/// Tells by the cells of its key that no row asks for a record, so that the rest of it need not be read.
#[derive(Debug)]
pub struct Sieve {
    gate: Gate,
    wanted: Arc<Wanted>,
    /// The columns of the key, in its order.
    columns: Vec<usize>,
    /// The columns that are read of every record.
    needed: Vec<usize>,
    /// Whether the first of several records is taken, asked for or not.
    minds_order: bool,
    /// From which record on those that none asks for are counted here, where they are; and how many there were.
    counts_from: Option<u64>,
    seen: u64,
    /// Those that were counted here, and who learns of them in the end.
    counted: Batch,
    learns: Arc<Mutex<Batch>>,
    /// The key of the record at hand, and how many of its cells were taken; nothing where it cannot be told.
    key: Vec<u8>,
    taken: Option<usize>,
}

impl Sieve {
    /// For the records of a table that this gate was compiled for.
    pub(super) fn new(
        (gate, wanted): (Gate, Arc<Wanted>),
        columns: Vec<usize>,
        (needed, minds_order): (Vec<usize>, bool),
        (counts, learns): (bool, Arc<Mutex<Batch>>),
    ) -> Self {
        // Those that come first may be near a key of the file.
        let counts_from = counts.then_some(NEAR_ROWS);
        let (counted, key) = (Batch::default(), Vec::new());
        Self {
            gate,
            wanted,
            columns,
            needed,
            minds_order,
            counts_from,
            seen: 0,
            counted,
            learns,
            key,
            taken: Some(0),
        }
    }

    /// The columns of the key, in its order.
    #[must_use]
    pub fn key(&self) -> &[usize] {
        &self.columns
    }

    /// Whether a column is read of every record.
    #[must_use]
    pub fn needs(&self, column: usize) -> bool {
        self.columns.contains(&column) || self.needed.contains(&column)
    }

    /// Whether records must come in the order of their source: else those that are asked for may come last.
    #[must_use]
    pub fn minds_order(&self) -> bool {
        self.minds_order
    }

    /// How many records are asked for at most.
    #[must_use]
    pub fn asked(&self) -> usize {
        self.wanted.count()
    }

    /// Begins the next record.
    #[inline]
    pub fn begin(&mut self) {
        self.key.clear();
        self.taken = Some(0);
        self.seen += 1;
    }

    /// Takes the next cell of its key; nothing where it has none or what it is cannot be told here.
    #[inline]
    pub fn take(&mut self, cell: Option<&[u8]>) {
        self.taken = self.taken.and_then(|taken| {
            let column = *self.columns.get(taken)?;
            let is_told = self.gate.write_own_key(column, self.columns.len() > 1, cell?, &mut self.key);
            is_told.then_some(taken + 1)
        });
    }

    /// What is to be read of it: only of what nobody asks for it is certain.
    #[inline]
    pub fn share(&mut self) -> Share {
        if self.taken != Some(self.columns.len()) || self.wanted.may_have(&self.key) {
            return Share::All;
        }
        if self.counts_from.is_none_or(|from| self.seen <= from) {
            return Share::Needed;
        }
        self.counted.count_unasked(&self.key);
        Share::Nothing
    }

    /// Says that there are no more records.
    pub fn finish(self) {
        *self.learns.lock().unwrap_or_else(PoisonError::into_inner) = self.counted;
    }
}
