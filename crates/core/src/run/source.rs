//! Where rows come from, who watches, and who takes what is found.

use crate::aside::Aside;
use crate::block::{Block, Extent};
use crate::finding::Finding;
use std::sync::atomic::{AtomicBool, Ordering};

/// Where blocks come from: once in order, and again by their place.
pub trait BlockSource: Sync {
    /// What can go wrong with reading.
    type Error: Send;

    /// Fills the block with the next rows; false when there are none. The number of each block is one
    /// more than that of the block before.
    ///
    /// # Errors
    /// When the bytes cannot be read.
    fn next(&self, block: &mut Block) -> Result<bool, Self::Error>;

    /// Fills the block with rows that were read before.
    ///
    /// # Errors
    /// When the bytes cannot be read again, or are not those that were read before.
    fn again(&self, extent: &Extent, block: &mut Block) -> Result<(), Self::Error>;

    /// The error for a file that holds a NUL byte in this row: no text.
    fn not_text(&self, row: u64) -> Self::Error;

    /// Where what is kept of every row is put when it becomes too much; nothing where all of it stays in memory.
    fn aside(&self) -> Option<&dyn Aside<Error = Self::Error>> {
        None
    }

    /// What is known of the table only when it is read to its end, for a table of so many columns.
    fn closing(&self, _width: usize) -> Vec<Finding> {
        Vec::new()
    }

    /// The error for a file whose bytes beyond ASCII, first met in this block, are those of another encoding than
    /// was taken; nothing where that cannot be.
    fn other_encoding(&self, _: &Extent) -> Option<Self::Error> {
        None
    }
}

/// Rows that stand in memory, as one block: for small tables.
#[derive(Debug)]
pub struct RowsInMemory {
    text: Vec<u8>,
    first_row: u64,
    is_read: AtomicBool,
}

impl RowsInMemory {
    /// Rows of comma-separated text, the first of which has this number.
    #[must_use]
    pub fn new(text: &[u8], first_row: u64) -> Self {
        Self { text: text.to_vec(), first_row, is_read: AtomicBool::new(false) }
    }

    /// The rows from one position to another; numbers count on from there.
    fn piece(&self, extent: &Extent) -> Block {
        let from = usize::try_from(extent.offset).unwrap_or(usize::MAX);
        let piece = self.text.get(from..).unwrap_or_default();
        let mut block = Block::of(piece.get(..extent.len).unwrap_or(piece), extent.first_row);
        (block.offset, block.first_line) = (extent.offset, extent.first_line);
        block
    }
}

impl BlockSource for RowsInMemory {
    /// The number of a row that holds a NUL byte.
    type Error = u64;

    fn next(&self, block: &mut Block) -> Result<bool, u64> {
        if self.text.is_empty() || self.is_read.swap(true, Ordering::Relaxed) {
            return Ok(false);
        }
        *block = Block::of(&self.text, self.first_row);
        Ok(true)
    }

    fn again(&self, extent: &Extent, block: &mut Block) -> Result<(), u64> {
        *block = self.piece(extent);
        Ok(())
    }

    fn not_text(&self, row: u64) -> u64 {
        row
    }
}

/// Told of the progress; may ask for an end.
pub trait Watch: Sync {
    /// So many rows and bytes have been judged so far.
    fn judged(&self, rows: u64, bytes: u64);
}

/// For runs that nobody watches.
#[derive(Debug, Clone, Copy, Default)]
pub struct Unwatched;

impl Watch for Unwatched {
    fn judged(&self, _: u64, _: u64) {}
}

/// Takes every finding of the rows, in order; what the end of the file teaches comes from [`super::Outcome::late`].
pub trait FindingSink<E>: Send {
    /// Takes one.
    ///
    /// # Errors
    /// When it cannot be kept.
    fn take(&mut self, finding: &Finding) -> Result<(), E>;
}

/// For runs of which no list of all findings is wanted: `|| Ok(None::<Unlisted>)`.
#[derive(Debug)]
pub enum Unlisted {}

impl<E> FindingSink<E> for Unlisted {
    fn take(&mut self, _: &Finding) -> Result<(), E> {
        match *self {}
    }
}
