use super::outcome::Outcome;
use super::source::BlockSource;
use crate::aside::Aside;
use crate::block::{Block, Extent, OpenRow};
use crate::finding::Finding;
use std::sync::atomic::{AtomicUsize, Ordering};

/// The blocks of a source that has been read to its end, once more from the first.
#[derive(Debug)]
pub struct Replay<'a, S> {
    source: &'a S,
    extents: Vec<Extent>,
    open: Option<OpenRow>,
    next: AtomicUsize,
}

impl<'a, S: BlockSource> Replay<'a, S> {
    /// Of what a judging came to.
    #[must_use]
    pub fn new(source: &'a S, outcome: &Outcome) -> Self {
        let extents = outcome.extents.blocks().to_vec();
        Self { source, extents, open: outcome.open, next: AtomicUsize::new(0) }
    }
}

impl<S: BlockSource> BlockSource for Replay<'_, S> {
    type Error = S::Error;

    fn next(&self, block: &mut Block) -> Result<bool, S::Error> {
        let number = self.next.fetch_add(1, Ordering::Relaxed);
        let Some(extent) = self.extents.get(number) else { return Ok(false) };
        self.source.again(extent, block)?;
        block.number = number as u64;
        block.is_ending = extent.is_ending;
        block.last = number + 1 == self.extents.len();
        block.open = self.open.filter(|_| block.last);
        Ok(true)
    }

    fn again(&self, extent: &Extent, block: &mut Block) -> Result<(), S::Error> {
        self.source.again(extent, block)
    }

    fn not_text(&self, row: u64) -> S::Error {
        self.source.not_text(row)
    }

    fn aside(&self) -> Option<&dyn Aside<Error = S::Error>> {
        self.source.aside()
    }

    fn closing(&self, width: usize) -> Vec<Finding> {
        self.source.closing(width)
    }
}
