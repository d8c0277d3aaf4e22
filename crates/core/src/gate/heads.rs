//! Where the record above each block begins: handed from block to block, in order, while blocks are judged beside each
//! other.

use crate::block::Block;
use crate::rows::Above;
use std::collections::{BTreeMap, HashMap};
use std::sync::{Arc, Condvar, Mutex, PoisonError};

/// What stands above each block, as far as it is known.
#[derive(Debug, Default)]
pub(super) struct Heads {
    known: Mutex<Known>,
    news: Condvar,
}

#[derive(Debug, Default)]
struct Known {
    /// By the number of the block, while rows are read for the first time.
    by_number: HashMap<u64, Arc<Above>>,
    /// By the first row of the block, for reading it again.
    by_row: BTreeMap<u64, Arc<Above>>,
}

impl Heads {
    /// Forgets what stands above the blocks: cells are read in another way now.
    pub(super) fn forget(&mut self) {
        *self = Self::default();
    }

    /// What stands above a block, and whether it was not known before; waits for the judge of the block before it.
    pub(super) fn above(&self, block: &Block) -> (Arc<Above>, bool) {
        let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        loop {
            if let Some(above) = known.by_row.get(&block.first_row) {
                return (Arc::clone(above), false);
            }
            let above = match known.by_number.remove(&block.number) {
                None if block.number == 0 => Some(Arc::default()),
                above => above,
            };
            if let Some(above) = above {
                known.by_row.insert(block.first_row, Arc::clone(&above));
                return (above, true);
            }
            known = self.news.wait(known).unwrap_or_else(PoisonError::into_inner);
        }
    }

    pub(super) fn hand_on(&self, block: &Block, above: Arc<Above>) {
        let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        known.by_number.insert(block.number + 1, above);
        self.news.notify_all();
    }

    /// A block that is judged by nobody hands on what it finds.
    pub(super) fn pass(&self, block: &Block) {
        let (above, is_new) = self.above(block);
        if is_new {
            self.hand_on(block, above);
        }
    }
}
