//! The rows of an earlier report that are followed in one way.

use crate::prints::{RowPrints, read};
use std::collections::HashMap;

/// The rows of an earlier report that are followed by their key, or by the cells of some fields.
#[derive(Debug)]
pub(super) struct RowSet {
    /// The fields whose cells do not count; nothing where rows are followed by their key.
    pub(super) without: Option<Vec<String>>,
    marks: HashMap<u64, Count>,
}

/// How many rows have a mark.
#[derive(Debug, Clone, Copy, Default)]
struct Count {
    held: u32,
    other: u32,
}

impl RowSet {
    pub(super) fn read(prints: &RowPrints) -> Option<Self> {
        let mut marks: HashMap<u64, Count> = HashMap::new();
        read(&prints.held)?.into_iter().for_each(|mark| marks.entry(mark).or_default().held += 1);
        read(&prints.other)?.into_iter().for_each(|mark| marks.entry(mark).or_default().other += 1);
        Some(Self { without: prints.without.clone(), marks })
    }

    /// How many rows are held.
    pub(super) fn held(&self) -> u64 {
        self.marks.values().map(|count| u64::from(count.held)).sum()
    }

    pub(super) fn has(&self, mark: u64) -> bool {
        self.marks.contains_key(&mark)
    }

    /// Takes a row of this mark, a held one first where there is one, else another; whether it was held. Nothing when all
    /// of them are taken.
    pub(super) fn take(taken: &mut Taken, number: usize, set: &Self, mark: u64) -> Option<bool> {
        let all = set.marks.get(&mark)?;
        let taken = taken.0.entry((number, mark)).or_default();
        if taken.held < all.held {
            taken.held += 1;
            return Some(true);
        }
        (taken.other < all.other).then(|| {
            taken.other += 1;
            false
        })
    }
}

/// Which rows were found again.
#[derive(Debug, Default)]
pub(super) struct Taken(HashMap<(usize, u64), Count>);
