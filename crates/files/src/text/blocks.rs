//! A text cut into blocks of whole rows, in order. Whoever has the lock copies the tail that the last block left, reads
//! on, and cuts at the last row end; all else is done outside the lock.
//!
//! Before you change this: the rows of a block, its lines and its bytes must be those that `TableFile::again` finds when it
//! reads them once more; `table_file/tests.rs` cuts texts at every size and compares.

use super::input::Input;
use super::options::Limits;
use super::stream::TextStream;
use crate::error::Error;
use tidy_gate_core::block::{Block, OpenRow};
use tidy_gate_core::scan::{Cut, Dialect, PADDING, RowIndex, RowWalk, SheetMark, index, walk_row};

/// So many bytes are read at once, unless a test reads fewer.
pub(crate) const BLOCK: usize = 256 << 10;

/// What is still to be read of a text.
pub(crate) struct Blocks {
    pub(crate) input: Input,
    pub(crate) stream: TextStream,
    pub(crate) limits: Limits,
    /// The last row that is read.
    pub(crate) last_row: Option<u64>,
    /// Whether the last row with a value comes in a block of its own.
    pub(crate) seeks_total: bool,
    /// Whether a row of several cells was seen among the last ones.
    pub(crate) is_wide: bool,
    /// What was read and is in no block yet.
    pub(crate) tail: Vec<u8>,
    /// Where the tail begins in the text.
    pub(crate) offset: u64,
    pub(crate) row: u64,
    pub(crate) line: u64,
    pub(crate) number: u64,
    /// So many bytes are read for a block.
    pub(crate) step: usize,
    /// Whether the input is read to its end.
    pub(crate) is_read: bool,
    pub(crate) is_done: bool,
}

impl Blocks {
    /// Fills the block with the next whole rows.
    pub(crate) fn fill(&mut self, block: &mut Block, dialect: Dialect) -> Result<bool, Error> {
        let mut filled = self.tail.len();
        // The buffer of a short text is no longer than it; a line end may come behind its last row.
        let mut target = filled + self.next_step();
        grow(&mut block.buffer, target + 1);
        for (to, from) in block.buffer.iter_mut().zip(&self.tail) {
            *to = *from;
        }
        let mut found = loop {
            if !self.is_read {
                filled += self.stream.read(block.buffer.get_mut(filled..target).unwrap_or_default())?;
                self.is_read = filled < target || self.stream.is_at_end()?;
            }
            if self.is_read && filled > 0 && block.buffer.get(filled - 1) != Some(&b'\n') {
                grow(&mut block.buffer, filled + 1);
                if let Some(end) = block.buffer.get_mut(filled) {
                    *end = b'\n';
                }
                let whole = block.cut(filled + 1, dialect);
                if whole.end == filled + 1 {
                    filled += 1;
                    break whole;
                }
            }
            let found = block.cut(filled, dialect);
            if found.end > 0 || self.is_read {
                break found;
            }
            if filled >= self.limits.row {
                self.drain(block, filled, dialect)?;
                break found;
            }
            target = (2 * target).min(self.limits.row.max(target));
            grow(&mut block.buffer, target);
        };
        if let Some(last) = self.last_row.filter(|last| self.row + found.rows > *last) {
            found = self.first_rows(block, found, last + 1 - self.row, dialect);
            (self.is_read, filled) = (true, found.end);
        }
        (block.offset, block.number, block.len) = (self.offset, self.number, found.end);
        block.cells.shorten(found.end);
        (block.rows, block.lines, block.first_row, block.first_line) =
            (found.rows, found.lines, self.row, self.line);
        self.tail.clear();
        self.tail.extend_from_slice(block.buffer.get(found.end..filled).unwrap_or_default());
        self.offset += found.end as u64;
        (self.row, self.line, self.number) =
            (self.row + found.rows, self.line + found.lines, self.number + 1);
        (block.open, block.is_ending) = (None, false);
        if self.is_read {
            self.is_done = true;
            block.open = self.open_row(dialect);
            if self.seeks_total && block.open.is_none() {
                self.part_ending(block, dialect);
            }
        }
        block.last = self.is_done;
        block.pad();
        Ok(true)
    }

    /// So many bytes are read next. What little is left behind them comes along, so that the last rows come together.
    fn next_step(&self) -> usize {
        let all = self.stream.left().filter(|left| left.saturating_sub(self.step) < self.step / 16);
        all.unwrap_or(self.step)
    }

    /// The first `count` of the rows that were found.
    #[cold]
    fn first_rows(&self, block: &Block, found: Cut, count: u64, dialect: Dialect) -> Cut {
        let content = block.buffer.get(..found.end).unwrap_or_default();
        let mut first = Cut::default();
        while first.rows < count
            && let RowWalk::Whole { end, .. } = walk_row(content, first.end, dialect, |_| (), |_| ())
        {
            first.lines +=
                memchr::memchr_iter(b'\n', content.get(first.end..end).unwrap_or_default()).count() as u64;
            (first.end, first.rows) = (end, first.rows + 1);
        }
        first
    }

    /// Keeps the last row with a value, the notes it may be and the row above them, each with what follows it, for blocks of
    /// their own.
    fn part_ending(&mut self, block: &mut Block, dialect: Dialect) {
        block.pad();
        let mut cells = RowIndex::default();
        index(&block.buffer, block.len, dialect, &mut cells);
        self.is_wide |= cells.ends().len() as u64 > block.rows;
        let starts = last_rows(block.content(), cells.ends(), (dialect, self.is_wide));
        let (Some(&(_, first)), second) = (starts.first(), starts.get(1)) else { return };
        block.is_ending = first == 0;
        let Some(&(rows_before, at)) = (if first == 0 { second } else { starts.first() }) else { return };
        let content = block.content();
        let lines_before = memchr::memchr_iter(b'\n', content.get(..at).unwrap_or_default()).count() as u64;
        self.tail = content.get(at..).unwrap_or_default().to_vec();
        let taken_back = (block.len - at) as u64;
        self.offset -= taken_back;
        self.row -= block.rows - rows_before;
        self.line -= block.lines - lines_before;
        (block.len, block.rows, block.lines) = (at, rows_before, lines_before);
        block.cells.shorten(at);
        self.is_done = false;
    }

    /// What is left at the end is a row whose quoted cell never closes.
    fn open_row(&self, dialect: Dialect) -> Option<OpenRow> {
        let mut column = 0;
        match walk_row(&self.tail, 0, dialect, |_| column += 1, |_| ()) {
            RowWalk::Open { quote: Some(quote) } => {
                let before = self.tail.get(..quote).unwrap_or_default();
                let lines = before.iter().filter(|&&byte| byte == b'\n').count() as u64;
                Some(OpenRow {
                    offset: self.offset,
                    row: self.row,
                    line: self.line,
                    column,
                    cell_line: self.line + lines,
                })
            }
            _ => None,
        }
    }

    /// A row is longer than the limit. If a quote is open in it, the rest is read without being kept: when
    /// the quote never closes, that is what is wrong.
    #[cold]
    fn drain(&mut self, block: &mut Block, filled: usize, dialect: Dialect) -> Result<(), Error> {
        let too_long =
            Error::RowTooLong { path: self.input.path().to_owned(), line: self.line, limit: self.limits.row };
        let content = block.buffer.get(..filled).unwrap_or_default();
        let RowWalk::Open { quote: Some(_) } = walk_row(content, 0, dialect, |_| (), |_| ()) else {
            return Err(too_long);
        };
        let mut bytes = vec![0; BLOCK];
        let mut after_quote = false;
        loop {
            let count = self.stream.read(&mut bytes)?;
            if count == 0 {
                self.is_read = true;
                return if after_quote { Err(too_long) } else { Ok(()) };
            }
            for &byte in bytes.get(..count).unwrap_or_default() {
                if after_quote && byte != dialect.quote {
                    return Err(too_long);
                }
                after_quote = byte == dialect.quote && !after_quote;
            }
        }
    }
}

/// So many rows below a table are looked at, the row above them among them.
const MOST_ENDING: usize = 6;

/// The last row with a value; and while that has a value in one cell alone, as a note in a table of several columns has, the row
/// with a value above it; above one with more, which may be a total, a row that has one alone, as the word for it. Of each
/// the rows before it and its start, from the first on.
fn last_rows(content: &[u8], ends: &[u32], (dialect, is_wide): (Dialect, bool)) -> Vec<(u64, usize)> {
    let is_row_end = |at: usize| content.get(at) == Some(&b'\n');
    let mut rows_before = ends.iter().filter(|end| is_row_end(**end as usize)).count() as u64;
    let mut found = Vec::new();
    let mut rest = ends;
    let mut is_above_fuller = false;
    while let Some((_, before)) = rest.split_last() {
        let cells = before.iter().rev().take_while(|end| !is_row_end(**end as usize)).count() + 1;
        let (above, row) = rest.split_at(rest.len() - cells);
        let start = above.last().map_or(0, |end| *end as usize + 1);
        rows_before -= 1;
        rest = above;
        let mut from = start;
        let filled = row.iter().filter(|end| {
            let cell = content.get(from..**end as usize).unwrap_or_default();
            from = **end as usize + 1;
            // A formula that was never calculated leaves its mark alone.
            let is_stale = |byte| dialect.marks && byte == SheetMark::Stale.byte();
            !cell.iter().all(|byte| byte.is_ascii_whitespace() || *byte == dialect.quote || is_stale(*byte))
        });
        let filled = filled.count();
        if filled == 0 {
            continue;
        }
        if is_above_fuller && filled > 1 {
            break;
        }
        found.push((rows_before, start));
        if is_above_fuller || !is_wide || found.len() == MOST_ENDING {
            break;
        }
        is_above_fuller = filled > 1;
    }
    found.reverse();
    found
}

/// Room for `len` bytes and the padding behind them.
fn grow(buffer: &mut Vec<u8>, len: usize) {
    if buffer.len() < len + PADDING {
        buffer.resize(len + PADDING, 0);
    }
}
