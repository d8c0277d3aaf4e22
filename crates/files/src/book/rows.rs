//! The rows of a sheet as delimited text: commas, quotes where they are needed, one line a row from row 1 on, so that
//! a sheet is laid out and judged as any text is. What a text cannot say of a cell stands before it as a mark.

use crate::error::Error;
use crate::text::options::Limits;
use std::path::{Path, PathBuf};
use tidy_gate_core::scan::SheetMark;

/// What the rows of a sheet may grow to: a small file can say much.
#[derive(Debug, Clone, Default)]
pub(super) struct Bounds {
    path: PathBuf,
    /// The longest row in bytes.
    row: usize,
    /// All rows in bytes.
    text: u64,
    /// Columns that are no part of the table, from 0: first and last.
    without: Option<(usize, usize)>,
}

impl Bounds {
    /// Sheets of a workbook may hold so many bytes of text whatever its size.
    const FREELY: u64 = 4 << 30;

    /// For a workbook of this size.
    pub(super) fn new(path: &Path, size: u64, limits: Limits) -> Self {
        // Text of a sheet is packed less than what stands in its parts.
        let text = size.saturating_mul(limits.expansion / 10).max(Self::FREELY);
        Self { path: path.to_owned(), row: limits.row, text, without: None }
    }

    /// These columns are taken off every row.
    pub(super) fn take_off(&mut self, columns: Option<(usize, usize)>) {
        self.without = columns;
    }

    /// How long a row may be.
    pub(super) fn row(&self) -> usize {
        self.row
    }

    /// The error for a row that is longer.
    pub(super) fn too_long(&self, row: u32) -> Error {
        Error::RowTooLong { path: self.path.clone(), line: u64::from(row), limit: self.row }
    }
}

/// What is known of a cell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Stored {
    /// A text.
    Text,
    /// A number, a day, a boolean or an error: as the text says.
    Value,
    /// A number that is shown as a percentage.
    Percent,
    /// A formula whose result is not stored.
    Stale,
}

/// Rows, written one behind the other.
#[derive(Debug, Default)]
pub(super) struct Rows {
    pub(super) text: Vec<u8>,
    /// The row that comes next.
    next: u32,
    cells: Vec<(u32, Stored, String)>,
    /// How many bytes the cells of the row hold that is being filled.
    filled: usize,
    /// How many bytes were handed on, and where the last row begins in those that were not.
    made: u64,
    begin: usize,
    bounds: Bounds,
}

impl Rows {
    pub(super) fn new(bounds: &Bounds) -> Self {
        Self { next: 1, bounds: bounds.clone(), ..Self::default() }
    }

    /// Hands over the text so far.
    pub(super) fn take_text(&mut self) -> Vec<u8> {
        self.made += self.text.len() as u64;
        self.begin = 0;
        std::mem::take(&mut self.text)
    }

    /// Whether the row that is being written is longer than any may be.
    pub(super) fn is_too_long(&self) -> bool {
        self.text.len().saturating_sub(self.begin) > self.bounds.row
    }

    /// Whether all is still within its bounds.
    ///
    /// # Errors
    /// When the sheet has grown beyond what such a file may hold.
    pub(super) fn check(&self) -> Result<(), Error> {
        if self.made + self.text.len() as u64 > self.bounds.text {
            let limit = self.bounds.text;
            return Err(Error::SheetTooLarge { path: self.bounds.path.clone(), limit });
        }
        Ok(())
    }

    /// Adds a cell to the row; columns count from 0.
    ///
    /// # Errors
    /// When the row has become longer than it may be.
    pub(super) fn cell(&mut self, column: u32, stored: Stored, text: String) -> Result<(), Error> {
        self.filled += text.len() + 1;
        if self.filled > self.bounds.row {
            return Err(self.bounds.too_long(self.next));
        }
        self.cells.push((column, stored, text));
        Ok(())
    }

    /// Whether the row that is being filled has cells.
    pub(super) fn has_cells(&self) -> bool {
        !self.cells.is_empty()
    }

    /// Writes empty rows up to the one of this number; false when that one is written already.
    pub(super) fn go_to(&mut self, row: u32) -> bool {
        if row < self.next {
            return false;
        }
        self.text.extend(std::iter::repeat_n(b'\n', (row - self.next) as usize));
        self.next = row;
        self.begin = self.text.len();
        true
    }

    /// How far the rows are written.
    pub(super) fn mark(&self) -> (usize, u32) {
        (self.text.len(), self.next)
    }

    /// Takes back what was written since.
    pub(super) fn take_back(&mut self, (len, next): (usize, u32)) {
        self.text.truncate(len);
        self.next = next;
        self.begin = len;
    }

    /// Ends a row whose cells stand in the text already.
    pub(super) fn line_written(&mut self) {
        if let Some(columns) = self.bounds.without {
            take_off(&mut self.text, self.begin, columns);
        }
        self.text.push(b'\n');
        self.next += 1;
        self.begin = self.text.len();
    }

    /// Ends the row.
    ///
    /// # Errors
    /// When the sheet has grown beyond what such a file may hold.
    pub(super) fn end_row(&mut self) -> Result<(), Error> {
        self.cells.sort_by_key(|cell| cell.0);
        let mut column = 0;
        for (at, stored, text) in self.cells.drain(..) {
            // The first of two cells in one place counts.
            let Some(skipped) = at.checked_sub(column) else { continue };
            self.text.extend(std::iter::repeat_n(b',', skipped as usize));
            write_cell(&mut self.text, stored, &text);
            self.text.push(b',');
            column = at + 1;
        }
        // One comma too many stands behind the last cell.
        if column > 0 {
            self.text.pop();
            self.mark_formatted();
        }
        self.filled = 0;
        self.line_written();
        self.check()
    }

    /// A row with formats and no value is more than an empty line.
    pub(super) fn mark_formatted(&mut self) {
        if matches!(self.text.last(), None | Some(b'\n')) {
            self.text.push(b',');
        }
    }
}

/// Writes the content of a cell, quoted where it must be, with its mark.
pub(crate) fn write_cell(into: &mut Vec<u8>, stored: Stored, text: &str) {
    let bytes = text.as_bytes();
    let starts_with_mark = bytes.first().is_some_and(|byte| SheetMark::of(*byte).is_some());
    let (has_quote, has_separator) = special(bytes);
    let quoted = has_quote || has_separator || bytes.first() == Some(&b' ') && text.trim().is_empty();
    if quoted {
        into.push(b'"');
    }
    let mark = match stored {
        Stored::Stale => Some(SheetMark::Stale),
        Stored::Percent => Some(SheetMark::Percent),
        Stored::Text if looks_stored(bytes) || starts_with_mark => Some(SheetMark::Text),
        Stored::Text | Stored::Value => None,
    };
    into.extend(mark.map(SheetMark::byte));
    if has_quote {
        into.extend(text.replace('"', "\"\"").as_bytes());
    } else {
        into.extend(bytes);
    }
    if quoted {
        into.push(b'"');
    }
}

/// Whether a content holds quotes, and whether it holds what separates cells or rows.
#[inline]
fn special(bytes: &[u8]) -> (bool, bool) {
    /// A search takes so long to begin that shorter contents are looked through sooner.
    const SHORT: usize = 32;
    if bytes.len() > SHORT {
        let has_separator = memchr::memchr3(b',', b'\n', b'\r', bytes).is_some();
        return (memchr::memchr(b'"', bytes).is_some(), has_separator);
    }
    bytes.iter().fold((false, false), |(quote, separator), byte| {
        (quote | (*byte == b'"'), separator | (*byte == b',') | (*byte == b'\n') | (*byte == b'\r'))
    })
}

/// Whether a text could be taken for a stored number, day or time.
fn looks_stored(text: &[u8]) -> bool {
    let text = text.trim_ascii();
    let text = text.strip_prefix("\u{2212}".as_bytes()).unwrap_or(text);
    text.iter().all(|byte| byte.is_ascii_digit() || b".,+-():TZ ".contains(byte))
        && text.iter().any(u8::is_ascii_digit)
}

/// Takes these columns out of the row of delimited text that begins there.
fn take_off(text: &mut Vec<u8>, begin: usize, (first, last): (usize, usize)) {
    let (mut column, mut quoted, mut from, mut to) = (0, false, None, None);
    for (at, byte) in text.iter().enumerate().skip(begin) {
        if column == first && from.is_none() {
            from = Some(at);
        }
        match byte {
            b'"' => quoted = !quoted,
            b',' if !quoted => {
                column += 1;
                if column == last + 1 {
                    to = Some(at + 1);
                    break;
                }
            }
            _ => {}
        }
    }
    if column == first && from.is_none() {
        from = Some(text.len());
    }
    let Some(from) = from else { return };
    match to {
        Some(to) => drop(text.drain(from..to)),
        // The comma before them goes with them.
        None => text.truncate(from.saturating_sub(1).max(begin)),
    }
}

#[cfg(test)]
mod tests {
    use super::take_off;

    #[test]
    fn columns_of_marks_go_and_the_others_stay() {
        let cases = [
            ("a,b,c,d", "a,b"),
            ("a,b,c,d,e", "a,b,e"),
            ("a,\"b,\"\"\n\",c,\"d,d\"", "a,\"b,\"\"\n\""),
            ("a", "a"),
            ("a,b", "a,b"),
            ("a,b,", "a,b"),
            (",,c,d", ","),
            ("", ""),
        ];
        for (row, wanted) in cases {
            let mut text = format!("x\n{row}").into_bytes();
            take_off(&mut text, 2, (2, 3));
            assert_eq!(String::from_utf8_lossy(&text), format!("x\n{wanted}"), "{row}");
        }
    }
}
