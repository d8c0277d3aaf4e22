//! A block: whole rows of a file, as bytes, with the place where they stand in it.

use crate::scan::{Cut, Dialect, PADDING, RowIndex, cut, index};

/// With so many threads at most, cells are listed by whoever reads.
const FEW_THREADS: usize = 2;

/// No longer block is listed before it is known to hold rows.
const LONGEST_LISTED: usize = 4 << 20;

/// Whole rows, read together. The buffer is kept and used again.
#[derive(Debug, Default)]
pub struct Block {
    /// The bytes, with [`PADDING`] bytes behind the content.
    pub buffer: Vec<u8>,
    /// How many of them are content: whole rows, each with its line feed (the last row of a file gets one).
    pub len: usize,
    /// Where the block begins in the file, in bytes.
    pub offset: u64,
    /// The number of blocks before it.
    pub number: u64,
    /// The rows in it.
    pub rows: u64,
    /// The physical lines in it.
    pub lines: u64,
    /// The number of its first row, as a spreadsheet counts: from 1, the heading row and empty lines included.
    pub first_row: u64,
    /// The number of the physical line on which its first row begins, from 1.
    pub first_line: u64,
    /// Whether no rows follow.
    pub last: bool,
    /// Whether its first row is the last one of the file that holds a value. Such a row comes in a block of its
    /// own, as it may be a total.
    pub is_ending: bool,
    /// The row behind the whole rows whose quoted cell never closes, if the file ends so.
    pub open: Option<OpenRow>,
    /// Whether whoever fills the block is to list its cells as it cuts: saves a walk over the bytes, but makes those wait
    /// who fill others.
    pub wants_cells: bool,
    /// Its cells, where they are listed.
    pub cells: RowIndex,
}

/// A last row that never ends, since a quoted cell in it never closes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OpenRow {
    /// Where the row begins in the file, in bytes.
    pub offset: u64,
    /// Its number.
    pub row: u64,
    /// The physical line on which it begins.
    pub line: u64,
    /// The column of the cell that stays open, from 0.
    pub column: usize,
    /// The physical line on which that cell begins.
    pub cell_line: u64,
}

/// Where a block stands: enough to read it again.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Extent {
    /// Where it begins in the file, in bytes.
    pub offset: u64,
    /// Its length; the file may be one byte shorter where its last line feed is lacking.
    pub len: usize,
    /// The rows in it.
    pub rows: u64,
    /// The physical lines in it.
    pub lines: u64,
    /// The number of its first row.
    pub first_row: u64,
    /// The physical line on which its first row begins.
    pub first_line: u64,
    /// Whether its first row is the last one of the file that holds a value.
    pub is_ending: bool,
}

impl Block {
    /// Where it stands.
    #[must_use]
    pub fn extent(&self) -> Extent {
        Extent {
            offset: self.offset,
            len: self.len,
            rows: self.rows,
            lines: self.lines,
            first_row: self.first_row,
            first_line: self.first_line,
            is_ending: self.is_ending,
        }
    }

    /// A block that asks whoever fills it for its cells, where `threads` are so few that nobody waits for it.
    #[must_use]
    pub fn for_threads(threads: usize) -> Self {
        Self { wants_cells: threads <= FEW_THREADS, ..Self::default() }
    }

    /// Finds the last row end among the first `len` bytes of the buffer, and lists the cells up to there if they are wanted.
    pub fn cut(&mut self, len: usize, dialect: Dialect) -> Cut {
        // A list takes four times as much memory as what is listed.
        if self.wants_cells && len <= LONGEST_LISTED {
            return index(&self.buffer, len, dialect, &mut self.cells);
        }
        self.cells.clear();
        cut(&self.buffer, len, dialect)
    }

    /// The content.
    #[must_use]
    pub fn content(&self) -> &[u8] {
        self.buffer.get(..self.len).unwrap_or_default()
    }

    /// Makes the bytes behind the content the padding that scanners need.
    pub fn pad(&mut self) {
        if self.buffer.len() < self.len + PADDING {
            self.buffer.resize(self.len + PADDING, 0);
        }
        if let Some(padding) = self.buffer.get_mut(self.len..self.len + PADDING) {
            padding.fill(0);
        }
    }

    /// A block of the text alone, for tests and small tables.
    ///
    /// ```
    /// use tidy_gate_core::block::Block;
    /// let block = Block::of(b"HT-001,W07\nHT-002,W07", 2);
    /// assert_eq!((block.rows, block.first_row, block.last), (2, 2, true));
    /// ```
    #[must_use]
    pub fn of(text: &[u8], first_row: u64) -> Self {
        let mut block = Self {
            buffer: text.to_vec(),
            len: text.len(),
            first_row,
            first_line: first_row,
            ..Self::default()
        };
        if !text.is_empty() && !text.ends_with(b"\n") {
            block.buffer.push(b'\n');
            block.len += 1;
        }
        block.pad();
        let cut = block.cut(block.len, Dialect::default());
        (block.rows, block.lines) = (cut.rows, cut.lines);
        block.last = true;
        block
    }
}
