//! Records that no row asks for, told by their keys alone.

use super::wanted::Wanted;
use crate::gate::Gate;
use std::sync::Arc;

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
    /// The key of the record at hand, and how many of its cells were taken; nothing where it cannot be told.
    key: Vec<u8>,
    taken: Option<usize>,
}

impl Sieve {
    /// For the records of a table that this gate was compiled for.
    pub(crate) fn new(
        (gate, wanted): (Gate, Arc<Wanted>),
        columns: Vec<usize>,
        (needed, minds_order): (Vec<usize>, bool),
    ) -> Self {
        Self { gate, wanted, columns, needed, minds_order, key: Vec::new(), taken: Some(0) }
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
    pub fn begin(&mut self) {
        self.key.clear();
        self.taken = Some(0);
    }

    /// Takes the next cell of its key; nothing where it has none or what it is cannot be told here.
    pub fn take(&mut self, cell: Option<&[u8]>) {
        self.taken = self.taken.and_then(|taken| {
            let column = *self.columns.get(taken)?;
            let is_told = self.gate.write_own_key(column, self.columns.len() > 1, cell?, &mut self.key);
            is_told.then_some(taken + 1)
        });
    }

    /// Whether a row may ask for it: only what nobody asks for is certain.
    #[must_use]
    pub fn may_be_wanted(&self) -> bool {
        self.taken != Some(self.columns.len()) || self.wanted.may_have(&self.key)
    }
}
