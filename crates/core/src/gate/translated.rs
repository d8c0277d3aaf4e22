//! Words that the plan puts in the place of others, counted as they stand.

use super::compiled::{Column, Compiled};
use crate::rows::text_of;
use crate::scan::Dialect;
use std::collections::{BTreeMap, HashMap};

/// So many different cells of a column are counted.
const MOST: usize = 10_000;

/// The cells of a column that hold such words, as they stand, each with how often.
#[derive(Debug, Default)]
pub struct Translated {
    cells: HashMap<Box<[u8]>, u64>,
}

impl Compiled {
    /// Each word of a column that the plan replaces, and what it became, with how often.
    #[must_use]
    pub fn translated(&self, column: usize, words: &Translated) -> BTreeMap<(String, String), u64> {
        let column = self.columns.get(column);
        column.map(|column| words.words(column, self.table.dialect)).unwrap_or_default()
    }
}

impl Translated {
    /// Counts a raw cell of a column whose plan replaces words.
    pub(super) fn count(&mut self, raw: &[u8], column: &Column, dialect: Dialect) {
        if let Some(count) = self.cells.get_mut(raw) {
            *count += 1;
            return;
        }
        let Ok(text) = text_of(raw, dialect) else { return };
        if self.cells.len() < MOST && column.reading.replaced(text.trim()).is_some() {
            self.cells.insert(raw.into(), 1);
        }
    }

    /// Takes up what another has counted.
    pub(crate) fn join(&mut self, other: Self) {
        for (raw, count) in other.cells {
            *self.cells.entry(raw).or_default() += count;
        }
    }

    /// Each word and what it became, with how often.
    pub(super) fn words(&self, column: &Column, dialect: Dialect) -> BTreeMap<(String, String), u64> {
        let mut words = BTreeMap::new();
        let Some(put) = &column.reading.put else { return words };
        for (raw, count) in &self.cells {
            let Ok(text) = text_of(raw, dialect) else { continue };
            for (word, value) in put.replaced(text.trim()) {
                *words.entry((word.to_owned(), value.to_owned())).or_default() += count;
            }
        }
        words
    }
}
