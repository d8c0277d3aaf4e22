//! The cells of a block: which rows can be judged, and where each of their cells stands.

use super::taken::{HeadCell, Taken};
use crate::block::Block;
use crate::scan::{Dialect, Oddities, RowIndex, decode, index, is_utf8};
use std::borrow::Cow;

/// The rows of a block that have the right width and hold a value, and what became of the others.
#[derive(Debug, Default)]
pub(crate) struct Cells {
    index: RowIndex,
    /// For each judged row the place before its first cell, and the end of each of its cells: so the cell of a
    /// column lies between two neighbours. Behind the last row there is room for one more.
    bounds: Vec<u32>,
    /// The judged rows.
    rows: usize,
    /// The place in the block of each judged row; empty where all rows are judged.
    places: Vec<u32>,
    width: usize,
    /// Whether cells that are missing at a row's end are blank.
    pub(crate) short_rows_are_blank: bool,
    /// The columns of which one must hold a value, lest the row count as blank; any, where there are none here.
    pub(crate) needed: Vec<usize>,
    /// Rows that are passed over, by their place in the block, ascending.
    pub(crate) passed: Vec<u32>,
    /// Rows of the wrong width: their place in the block, start and end, and their number of cells.
    pub(crate) misfits: Vec<Misfit>,
    /// Runs of rows without a value.
    pub(crate) blank: Vec<BlankRun>,
    /// Cells with a stray quote: judged row and column.
    pub(crate) strays: Vec<(u32, u32)>,
    pub(crate) oddities: Oddities,
    /// Whether the block holds bytes that are no UTF-8.
    pub(crate) broken_text: bool,
    /// What rows take over from the first of their record, where several make one.
    pub(crate) taken: Option<Taken>,
}

/// A row at which reading a block again can begin.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct Milestone {
    /// Its place in the block.
    pub(crate) place: u32,
    /// Where it starts in the block.
    pub(crate) start: u32,
    /// The physical lines of the block above it.
    pub(crate) lines: u32,
}

/// A row of the wrong width.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Misfit {
    pub(crate) place: u32,
    pub(crate) cells: u32,
    pub(crate) start: u32,
    /// The end of its text, without the line break.
    pub(crate) end: u32,
    /// The judged row, where the surplus is blank and the row is judged all the same.
    pub(crate) judged: Option<u32>,
}

/// Rows without a value, one behind the other: first and last place in the block.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct BlankRun {
    pub(crate) first: u32,
    pub(crate) last: u32,
    /// Whether one of them holds delimiters: more than an empty line.
    pub(crate) formatted: bool,
}

impl Cells {
    /// Lays out the rows of the block. `probe` is a column that is seldom blank: only where it is blank can
    /// a row be without any value.
    pub(crate) fn lay_out(&mut self, block: &Block, dialect: Dialect, width: usize, probe: usize) {
        let mut own = std::mem::take(&mut self.index);
        let index = if block.cells.is_of(block.len) {
            &block.cells
        } else {
            index(&block.buffer, block.len, dialect, &mut own);
            &own
        };
        self.oddities = index.oddities;
        // What follows the block may have counted, and the first block that is not ASCII tells the encoding.
        self.oddities.non_ascii = self.oddities.non_ascii && !block.content().is_ascii();
        self.broken_text = self.oddities.non_ascii && !is_utf8(block.content());
        self.width = width;
        self.misfits.clear();
        self.blank.clear();
        self.strays.clear();
        self.places.clear();
        self.bounds.clear();
        self.rows = 0;
        self.taken = None;
        if !self.passed.is_empty() || !self.regular(index, block, dialect, probe) {
            self.irregular(index, block, dialect);
        }
        self.index = own;
        self.rows = self.bounds.len() / (width + 1);
        self.bounds.resize(self.bounds.len() + width + 1, 0);
    }

    /// Takes the rows as they are if every one has the right width and a value in it.
    fn regular(&mut self, index: &RowIndex, block: &Block, dialect: Dialect, probe: usize) -> bool {
        let buffer = &block.buffer;
        let rows = usize::try_from(block.rows).unwrap_or(usize::MAX);
        if index.ends().len() != rows.saturating_mul(self.width) || self.width == 0 {
            return false;
        }
        self.bounds.reserve(rows * (self.width + 1) + self.width + 1);
        let mut start = 0_u32;
        for ends in index.ends().chunks_exact(self.width) {
            let Some(&end) = ends.last() else { return false };
            if buffer.get(end as usize) != Some(&b'\n') {
                self.bounds.clear();
                return false;
            }
            self.bounds.push(start.wrapping_sub(1));
            self.bounds.extend_from_slice(ends);
            let text_end = without_return(buffer, start, end);
            if text_end != end
                && let Some(last) = self.bounds.last_mut()
            {
                *last = text_end;
            }
            let before_probe = probe.checked_sub(1).and_then(|before| ends.get(before));
            let probe_start = before_probe.map_or(start, |end| end + 1);
            let first = buffer.get(probe_start as usize).copied().unwrap_or_default();
            let shows = is_ink(first) && first != dialect.delimiter && first != dialect.quote;
            let tells = self.needed.is_empty() || self.needed.contains(&probe);
            if !(shows && tells) && self.holds_nothing(buffer, start, ends, dialect) {
                self.bounds.clear();
                return false;
            }
            start = end + 1;
        }
        let width = self.width;
        #[expect(clippy::cast_possible_truncation, reason = "positions in a block are 32 bits")]
        self.strays.extend(index.strays.iter().map(|&at| (at / width as u32, at % width as u32)));
        true
    }

    /// Looks at row after row, and keeps those that can be judged.
    fn irregular(&mut self, index: &RowIndex, block: &Block, dialect: Dialect) {
        let mut strays = index.strays.iter().copied().peekable();
        let (mut from, mut start) = (0, 0_u32);
        for place in 0.. {
            let found = index.ends().get(from..).unwrap_or_default();
            let last = found.iter().position(|&end| block.buffer.get(end as usize) == Some(&b'\n'));
            let Some(ends) = last.and_then(|last| found.get(..=last)) else { break };
            let row_strays: Vec<_> =
                std::iter::from_fn(|| strays.next_if(|&at| (at as usize) < from + ends.len()))
                    .map(|at| u32::try_from(at as usize - from).unwrap_or(0))
                    .collect();
            if self.take_row(block, dialect, ends, start, place) {
                let row = u32::try_from(self.places.len()).unwrap_or(u32::MAX);
                self.strays.extend(row_strays.into_iter().map(|column| (row, column)));
                self.places.push(place);
                self.bounds.push(start.wrapping_sub(1));
                self.bounds.extend_from_slice(ends.get(..self.width.min(ends.len())).unwrap_or_default());
                if let Some(missing) = self.width.checked_sub(ends.len()).filter(|missing| *missing > 0) {
                    self.fill_up(block, start, missing);
                }
                if ends.len() == self.width
                    && let Some(last) = self.bounds.last_mut()
                {
                    *last = without_return(&block.buffer, start, *last);
                }
            }
            from += ends.len();
            start = ends.last().map_or(start, |end| end + 1);
        }
    }

    /// Adds empty cells behind the last one of a row; they stand beyond its end, where nothing is read.
    fn fill_up(&mut self, block: &Block, start: u32, missing: usize) {
        let Some(last) = self.bounds.last_mut() else { return };
        *last = without_return(&block.buffer, start, *last);
        let mut end = *last;
        for _ in 0..missing {
            end += 1;
            self.bounds.push(end);
        }
    }

    /// Whether the row is to be judged; if not, it is noted as blank or as a misfit.
    fn take_row(&mut self, block: &Block, dialect: Dialect, row: &[u32], start: u32, place: u32) -> bool {
        if self.passed.binary_search(&place).is_ok() {
            return false;
        }
        if self.holds_nothing(&block.buffer, start, row, dialect) {
            let formatted = row.len() > 1 || self.width == 1 && row.last().is_some_and(|end| *end > start);
            match self.blank.last_mut() {
                Some(run) if run.last + 1 == place => {
                    run.last = place;
                    run.formatted |= formatted;
                }
                _ => self.blank.push(BlankRun { first: place, last: place, formatted }),
            }
            return false;
        }
        if row.len() == self.width {
            return true;
        }
        let surplus = row.get(self.width..).unwrap_or_default();
        let is_filled_up = row.len() < self.width && self.short_rows_are_blank;
        let judged = is_filled_up
            || row.len() > self.width
                && self
                    .width
                    .checked_sub(1)
                    .and_then(|last| row.get(last))
                    .is_some_and(|end| row_is_blank(&block.buffer, end + 1, surplus, dialect));
        self.misfits.push(Misfit {
            place,
            cells: u32::try_from(row.len()).unwrap_or(u32::MAX),
            start,
            end: row.last().map_or(start, |&end| without_return(&block.buffer, start, end)),
            judged: judged.then(|| u32::try_from(self.places.len()).unwrap_or(u32::MAX)),
        });
        judged
    }

    /// Whether the row holds no value, or none in a column where it counts.
    fn holds_nothing(&self, buffer: &[u8], start: u32, row: &[u32], dialect: Dialect) -> bool {
        let is_blank = |column: &usize| {
            let end = row.get(*column).copied();
            let from = column.checked_sub(1).and_then(|before| row.get(before)).map_or(start, |end| end + 1);
            let end =
                end.map(|end| if column + 1 == row.len() { without_return(buffer, start, end) } else { end });
            end.is_some_and(|end| {
                let raw = buffer.get(from as usize..end as usize).unwrap_or_default();
                raw.is_empty() || text_of(raw, dialect).is_ok_and(|text| text.trim().is_empty())
            })
        };
        row_is_blank(buffer, start, row, dialect)
            || !self.needed.is_empty() && row.len() == self.width && self.needed.iter().all(is_blank)
    }

    /// How many rows can be judged.
    pub(crate) fn len(&self) -> usize {
        self.rows
    }

    /// The place in the block of a judged row.
    #[inline]
    pub(crate) fn place(&self, row: usize) -> u32 {
        match self.places.get(row) {
            Some(place) => *place,
            None => u32::try_from(row).unwrap_or(u32::MAX),
        }
    }

    /// Every so many judged rows one at which reading the block again can begin.
    pub(crate) fn milestones(&self, block: &Block) -> Box<[Milestone]> {
        const APART: usize = 64;
        let (mut lines, mut from) = (0, 0);
        (APART..self.rows)
            .step_by(APART)
            .map(|row| {
                let (place, start) = (self.place(row), self.cell(row, 0).0);
                if block.lines == block.rows {
                    lines = place;
                } else {
                    let feeds = memchr::memchr_iter(b'\n', block.buffer.get(from..start).unwrap_or_default());
                    lines += u32::try_from(feeds.count()).unwrap_or_default();
                    from = start;
                }
                Milestone { place, start: u32::try_from(start).unwrap_or(u32::MAX), lines }
            })
            .collect()
    }

    /// Hands start and end of every cell of a column to `each`, with the number of the row. There is one
    /// place only that calls `each`, so that it is built into the loop.
    #[inline(always)]
    pub(crate) fn each_in_column(&self, column: usize, mut each: impl FnMut(usize, usize, usize)) {
        // Rows shifted so that each begins with the bound before the cell: the two stand side by side.
        let (shifted, stride) = self.column_bounds(column);
        for (row, pair) in shifted.chunks_exact(stride).enumerate() {
            if let [before, end, ..] = pair {
                each(row, before.wrapping_add(1) as usize, *end as usize);
            }
        }
    }

    /// The bounds of a column's cells: the place before a cell and its end, every so many numbers.
    pub(crate) fn column_bounds(&self, column: usize) -> (&[u32], usize) {
        let stride = self.width + 1;
        (self.bounds.get(column..column + self.rows * stride).unwrap_or_default(), stride)
    }

    /// Start and end of one cell.
    pub(crate) fn cell(&self, row: usize, column: usize) -> (usize, usize) {
        match self.bounds.get(row * (self.width + 1) + column..) {
            Some([before, end, ..]) => (before.wrapping_add(1) as usize, *end as usize),
            _ => (0, 0),
        }
    }

    /// The bytes of a cell, or those that it takes over.
    pub(crate) fn bytes<'a>(&'a self, block: &'a Block, row: usize, column: usize) -> &'a [u8] {
        if self.taken.is_some() && self.takes_over(row, column) {
            return self.head(block, row, column).map(|head| head.1).unwrap_or_default();
        }
        self.stored(block, row, column)
    }

    /// The bytes of a cell as it stands.
    pub(crate) fn stored<'a>(&self, block: &'a Block, row: usize, column: usize) -> &'a [u8] {
        let (start, end) = self.cell(row, column);
        block.buffer.get(start..end).unwrap_or_default()
    }

    /// The row in which the record of a judged row begins, and its cell of a header's column.
    pub(crate) fn head<'a>(&'a self, block: &'a Block, row: usize, column: usize) -> Option<(u64, &'a [u8])> {
        match self.taken.as_ref()?.head(row, column)? {
            HeadCell::Row(head) => {
                Some((block.first_row + u64::from(self.place(head)), self.stored(block, head, column)))
            }
            HeadCell::Above(row, raw) => Some((row, raw)),
        }
    }

    /// Whether a cell is blank and means "as above".
    pub(crate) fn takes_over(&self, row: usize, column: usize) -> bool {
        self.taken.as_ref().is_some_and(|taken| taken.takes_over(row, column))
    }

    /// Whether a row is a further one of its record.
    pub(crate) fn is_below(&self, row: usize) -> bool {
        self.taken.as_ref().is_some_and(|taken| taken.is_below(row))
    }

    /// Start of a judged row, and the end of its text.
    pub(crate) fn row(&self, row: usize) -> (usize, usize) {
        (self.cell(row, 0).0, self.cell(row, self.width.saturating_sub(1)).1)
    }
}

/// The end of a row's text: the carriage return before its line feed is none of it.
#[inline(always)]
fn without_return(buffer: &[u8], start: u32, end: u32) -> u32 {
    if end > start && buffer.get(end as usize - 1) == Some(&b'\r') { end - 1 } else { end }
}

#[inline(always)]
fn is_ink(byte: u8) -> bool {
    byte.wrapping_sub(0x21) < 0x7F - 0x21
}

/// Whether no cell of the row holds a value.
#[cold]
#[inline(never)]
fn row_is_blank(buffer: &[u8], start: u32, ends: &[u32], dialect: Dialect) -> bool {
    let mut from = start as usize;
    ends.iter().all(|&end| {
        let raw = buffer.get(from..end as usize).unwrap_or_default();
        from = end as usize + 1;
        raw.is_empty() || text_of(raw, dialect).is_ok_and(|text| text.trim().is_empty())
    })
}

/// The text of a raw cell, not trimmed.
///
/// # Errors
/// The decoded bytes, when they are no UTF-8.
pub(crate) fn text_of(raw: &[u8], dialect: Dialect) -> Result<Cow<'_, str>, Vec<u8>> {
    match decode(raw, dialect) {
        Cow::Borrowed(bytes) => std::str::from_utf8(bytes).map(Cow::Borrowed).map_err(|_| bytes.to_vec()),
        Cow::Owned(bytes) => {
            String::from_utf8(bytes).map(Cow::Owned).map_err(std::string::FromUtf8Error::into_bytes)
        }
    }
}
