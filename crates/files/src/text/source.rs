//! A delimited text as a source of blocks: one owner of the order. Whoever takes the lock copies the tail
//! that the last block left, reads on, and cuts at the last row end; all else is done outside the lock.

use super::input::{Input, read_at};
use super::opening::{Opening, bom_len, headings, no_table};
use crate::{Error, Shape};
use std::fs::File;
use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};
use tidy_gate_core::block::{Block, Extent, OpenRow};
use tidy_gate_core::gate::Table;
use tidy_gate_core::run::BlockSource;
use tidy_gate_core::scan::{Cut, Dialect, PADDING, RowWalk, cut, walk_row};

/// So many bytes are read at once, unless a test reads fewer.
const BLOCK: usize = 256 << 10;
/// The longest row, in MiB.
const LONGEST_ROW: usize = 32;
/// The most columns: those of a spreadsheet.
const MOST_COLUMNS: usize = 16_384;

/// A delimited text whose headings have been read.
pub struct TextFile {
    path: PathBuf,
    table: Table,
    /// The heading row as it came, with its line break.
    heading_bytes: Vec<u8>,
    /// Whether the file begins with a byte-order mark.
    has_bom: bool,
    size: Option<u64>,
    again: Option<Mutex<File>>,
    inner: Mutex<Inner>,
    interrupted: &'static AtomicBool,
}

struct Inner {
    input: Input,
    /// What was read and is in no block yet.
    tail: Vec<u8>,
    /// Where the tail begins in the file.
    offset: u64,
    row: u64,
    line: u64,
    number: u64,
    /// So many bytes are read for a block.
    step: usize,
    /// Whether the input is read to its end.
    is_read: bool,
    is_done: bool,
}

impl TextFile {
    /// Reads the beginning of the input up to and including its headings. The run ends when `interrupted`
    /// turns true.
    ///
    /// # Errors
    /// When it cannot be read, or is no table.
    pub fn open(input: Input, dialect: Dialect, interrupted: &'static AtomicBool) -> Result<Self, Error> {
        Self::open_by(BLOCK, input, dialect, interrupted)
    }

    /// As [`TextFile::open`], reading so many bytes at once.
    fn open_by(
        step: usize,
        input: Input,
        dialect: Dialect,
        interrupted: &'static AtomicBool,
    ) -> Result<Self, Error> {
        let mut inner = Inner {
            input,
            tail: Vec::new(),
            offset: 0,
            row: 1,
            line: 1,
            number: 0,
            step,
            is_read: false,
            is_done: false,
        };
        let path = inner.input.path().to_owned();
        let not_table = |shape| Error::NotTable { path: path.clone(), shape };
        // Enough for what the first bytes tell, however little is read at once.
        inner.read_on(step.max(PADDING))?;
        if let Some(shape) = no_table(&inner.tail) {
            return Err(not_table(shape));
        }
        let bom = bom_len(&inner.tail);
        let mut heading_bytes = Vec::new();
        let table = loop {
            match headings(&inner.tail, bom, dialect) {
                Opening::Headings { table, start, end } => {
                    heading_bytes = inner.tail.get(start..end).unwrap_or_default().to_vec();
                    inner.pass(end, &table);
                    break table;
                }
                Opening::NoRow if inner.is_read => {
                    inner.is_done = true;
                    break Table { dialect, heading_row: 1, heading_line: 1, ..Table::default() };
                }
                Opening::Unfinished { line, start, row, quote: Some(_) } if inner.is_read => {
                    // The headings themselves never end: what there is of them, and no rows.
                    break inner.open_headings(start, row, line, dialect);
                }
                Opening::Unfinished { line, .. } if inner.tail.len() >= LONGEST_ROW << 20 => {
                    return Err(Error::RowTooLong { path, line, limit: LONGEST_ROW });
                }
                Opening::NoRow | Opening::Unfinished { .. } if !inner.is_read => {
                    inner.read_on(inner.tail.len().max(step))?
                }
                Opening::NoRow | Opening::Unfinished { .. } => inner.tail.push(b'\n'),
            }
        };
        if table.headings.len() > MOST_COLUMNS {
            return Err(Error::TooManyColumns { path, columns: table.headings.len(), limit: MOST_COLUMNS });
        }
        if table.headings.iter().any(|heading| heading.contains('\0')) {
            return Err(not_table(Shape::Nul(table.heading_row)));
        }
        let (size, again) = (inner.input.size(), inner.input.take_again());
        Ok(Self {
            path,
            table,
            heading_bytes,
            has_bom: bom > 0,
            size,
            again,
            inner: Mutex::new(inner),
            interrupted,
        })
    }

    /// The headings.
    #[must_use]
    pub fn table(&self) -> &Table {
        &self.table
    }

    /// The heading row as it came, and its line break.
    #[must_use]
    pub fn heading_row(&self) -> (&[u8], &'static [u8]) {
        let row = self.heading_bytes.strip_suffix(b"\n").unwrap_or(&self.heading_bytes);
        match row.strip_suffix(b"\r") {
            Some(row) => (row, b"\r\n"),
            None => (row, b"\n"),
        }
    }

    /// Whether the file begins with a byte-order mark.
    #[must_use]
    pub fn has_bom(&self) -> bool {
        self.has_bom
    }

    /// The size of the file, if it is known.
    #[must_use]
    pub fn size(&self) -> Option<u64> {
        self.size
    }

    /// How many bytes were read.
    #[must_use]
    pub fn bytes_read(&self) -> u64 {
        let inner = self.inner.lock().unwrap_or_else(PoisonError::into_inner);
        self.size.unwrap_or(inner.offset + inner.tail.len() as u64)
    }

    /// Tells that the file is as it was when the run began.
    ///
    /// # Errors
    /// When it is not.
    pub fn confirm_unchanged(&self) -> Result<(), Error> {
        let inner = self.inner.lock().unwrap_or_else(PoisonError::into_inner);
        if inner.input.has_changed() { Err(Error::Changed { path: self.path.clone() }) } else { Ok(()) }
    }

    /// The bytes from a place to the end of the file, some at a time.
    ///
    /// # Errors
    /// When they cannot be read again, or an error of `take`.
    pub fn rest_from(
        &self,
        mut offset: u64,
        take: &mut dyn FnMut(&[u8]) -> Result<(), Error>,
    ) -> Result<(), Error> {
        let mut bytes = vec![0; BLOCK];
        loop {
            let count = self.read_again(offset, &mut bytes)?;
            if count == 0 {
                return Ok(());
            }
            take(bytes.get(..count).unwrap_or_default())?;
            offset += count as u64;
        }
    }

    fn read_again(&self, offset: u64, into: &mut [u8]) -> Result<usize, Error> {
        let Some(again) = &self.again else { return Err(Error::Changed { path: self.path.clone() }) };
        read_at(again, offset, into).map_err(|source| Error::Read { path: self.path.clone(), source })
    }

    fn check_interrupt(&self) -> Result<(), Error> {
        if self.interrupted.load(Ordering::Relaxed) { Err(Error::Interrupted) } else { Ok(()) }
    }
}

impl BlockSource for TextFile {
    type Error = Error;

    fn next(&self, block: &mut Block) -> Result<bool, Error> {
        self.check_interrupt()?;
        let mut inner = self.inner.lock().unwrap_or_else(PoisonError::into_inner);
        if inner.is_done {
            return Ok(false);
        }
        inner.fill(block, self.table.dialect)
    }

    fn again(&self, extent: &Extent, block: &mut Block) -> Result<(), Error> {
        self.check_interrupt()?;
        if block.buffer.len() < extent.len + PADDING {
            block.buffer.resize(extent.len + PADDING, 0);
        }
        let content = block.buffer.get_mut(..extent.len).unwrap_or_default();
        let count = self.read_again(extent.offset, content)?;
        if count + 1 == extent.len
            && let Some(last) = block.buffer.get_mut(count)
        {
            *last = b'\n';
        } else if count != extent.len {
            return Err(Error::Changed { path: self.path.clone() });
        }
        let Extent { offset, len, rows, lines, first_row, first_line } = *extent;
        (block.offset, block.len, block.rows, block.lines) = (offset, len, rows, lines);
        (block.first_row, block.first_line, block.open) = (first_row, first_line, None);
        block.pad();
        // Rows that lie elsewhere than before are those of another file.
        if cut(&block.buffer, block.len, self.table.dialect) != (Cut { end: len, rows, lines }) {
            return Err(Error::Changed { path: self.path.clone() });
        }
        Ok(())
    }

    fn not_text(&self, row: u64) -> Error {
        Error::NotTable { path: self.path.clone(), shape: Shape::Nul(row) }
    }
}

impl Inner {
    /// Reads so many bytes more to the tail, or to the end.
    fn read_on(&mut self, count: usize) -> Result<(), Error> {
        let start = self.tail.len();
        self.tail.resize(start + count, 0);
        let read = fill_from(&mut self.input, &mut self.tail, start)?;
        self.tail.truncate(read);
        self.is_read = read < start + count;
        Ok(())
    }

    /// Passes over the headings, which end at `end` in the tail.
    fn pass(&mut self, end: usize, table: &Table) {
        let lines = self.tail.get(..end).unwrap_or_default().iter().filter(|&&byte| byte == b'\n').count();
        self.row = table.heading_row + 1;
        self.line = lines as u64 + 1;
        self.offset = end as u64;
        self.tail.drain(..end);
        self.is_done = self.tail.is_empty() && self.is_read;
    }

    /// Headings with a quote that never closes.
    fn open_headings(&mut self, start: usize, row: u64, line: u64, dialect: Dialect) -> Table {
        let mut ends = Vec::new();
        walk_row(&self.tail, start, dialect, |at| ends.push(at), |_| ());
        ends.push(self.tail.len());
        let headings = super::opening::cells(&self.tail, start, &ends, dialect);
        self.tail.drain(..start);
        (self.offset, self.row, self.line) = (start as u64, row, line);
        Table { headings, heading_row: row, heading_line: line, dialect }
    }

    /// Fills the block with the next whole rows.
    fn fill(&mut self, block: &mut Block, dialect: Dialect) -> Result<bool, Error> {
        let mut filled = self.tail.len();
        let mut target = filled + self.step;
        grow(&mut block.buffer, target);
        for (to, from) in block.buffer.iter_mut().zip(&self.tail) {
            *to = *from;
        }
        let found = loop {
            if !self.is_read {
                let read =
                    fill_from(&mut self.input, block.buffer.get_mut(..target).unwrap_or_default(), filled)?;
                self.is_read = read < target;
                filled = read;
            }
            if self.is_read && filled > 0 && block.buffer.get(filled - 1) != Some(&b'\n') {
                grow(&mut block.buffer, filled + 1);
                if let Some(end) = block.buffer.get_mut(filled) {
                    *end = b'\n';
                }
                let whole = cut(&block.buffer, filled + 1, dialect);
                if whole.end == filled + 1 {
                    filled += 1;
                    break whole;
                }
            }
            let found = cut(&block.buffer, filled, dialect);
            if found.end > 0 || self.is_read {
                break found;
            }
            if filled >= LONGEST_ROW << 20 {
                self.drain(block, filled, dialect)?;
                break found;
            }
            target = (2 * target).min(LONGEST_ROW << 20);
            grow(&mut block.buffer, target);
        };
        (block.offset, block.number, block.len) = (self.offset, self.number, found.end);
        (block.rows, block.lines) = (found.rows, found.lines);
        (block.first_row, block.first_line) = (self.row, self.line);
        self.tail.clear();
        self.tail.extend_from_slice(block.buffer.get(found.end..filled).unwrap_or_default());
        self.offset += found.end as u64;
        self.row += found.rows;
        self.line += found.lines;
        self.number += 1;
        block.open = None;
        if self.is_read {
            self.is_done = true;
            block.open = self.open_row(dialect);
        }
        block.last = self.is_done;
        block.pad();
        Ok(true)
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
            Error::RowTooLong { path: self.input.path().to_owned(), line: self.line, limit: LONGEST_ROW };
        let content = block.buffer.get(..filled).unwrap_or_default();
        let RowWalk::Open { quote: Some(_) } = walk_row(content, 0, dialect, |_| (), |_| ()) else {
            return Err(too_long);
        };
        let mut bytes = vec![0; BLOCK];
        let mut after_quote = false;
        loop {
            let count = self.input.read(&mut bytes)?;
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

/// Fills the buffer from `start` on, as far as the input goes; gives the place behind the last byte read.
fn fill_from(input: &mut Input, buffer: &mut [u8], start: usize) -> Result<usize, Error> {
    let mut filled = start;
    while let Some(rest) = buffer.get_mut(filled..).filter(|rest| !rest.is_empty()) {
        match input.read(rest)? {
            0 => break,
            count => filled += count,
        }
    }
    Ok(filled)
}

/// Room for `len` bytes and the padding behind them.
fn grow(buffer: &mut Vec<u8>, len: usize) {
    if buffer.len() < len + PADDING {
        buffer.resize(len + PADDING, 0);
    }
}

#[cfg(test)]
mod tests;
