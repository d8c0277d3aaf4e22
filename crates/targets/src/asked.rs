//! What is asked of a table of a database.

use tidy_gate_core::gate::Sieve;

/// What is asked of a table of a database.
#[derive(Debug, Default)]
pub struct Asked {
    /// The columns, by their numbers.
    pub columns: Vec<usize>,
    /// What tells rows that need no more than some of them.
    pub sieve: Option<Sieve>,
}

impl From<Vec<usize>> for Asked {
    fn from(columns: Vec<usize>) -> Self {
        Self { columns, sieve: None }
    }
}

impl Asked {
    /// With a sieve the columns in another order: those of the key first, then others that are read of every row. How many
    /// either are.
    pub(crate) fn put_in_order(&mut self) -> (usize, usize) {
        let Some(sieve) = &self.sieve else { return (0, self.columns.len()) };
        let place = |column: &usize| sieve.key().iter().position(|of_key| of_key == column);
        self.columns.sort_by_key(|column| (place(column).unwrap_or(usize::MAX), !sieve.needs(*column)));
        let needed = self.columns.iter().filter(|column| sieve.needs(**column)).count();
        (sieve.key().len(), needed)
    }
}
