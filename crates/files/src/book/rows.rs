//! The rows of a sheet as delimited text: commas, quotes where they are needed, one line a row from row 1 on, so that
//! a sheet is laid out and judged as any text is. What a text cannot say of a cell stands before it as a mark.

use tidy_gate_core::scan::{MARK_STALE, MARK_TEXT};

/// What is known of a cell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Stored {
    /// A text.
    Text,
    /// A number, a day, a boolean or an error: as the text says.
    Value,
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
}

impl Rows {
    pub(super) fn new() -> Self {
        Self { next: 1, ..Self::default() }
    }

    /// Adds a cell to the row; columns count from 0.
    pub(super) fn cell(&mut self, column: u32, stored: Stored, text: String) {
        self.cells.push((column, stored, text));
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
        true
    }

    /// Ends the row.
    pub(super) fn end_row(&mut self) {
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
        }
        self.text.push(b'\n');
        self.next += 1;
    }
}

fn write_cell(into: &mut Vec<u8>, stored: Stored, text: &str) {
    let starts_with_mark = text.starts_with([char::from(MARK_TEXT), char::from(MARK_STALE)]);
    let quoted = text.contains([',', '"', '\n', '\r']) || text.starts_with(' ') && text.trim().is_empty();
    if quoted {
        into.push(b'"');
    }
    match stored {
        Stored::Stale => into.push(MARK_STALE),
        Stored::Text if looks_stored(text) || starts_with_mark => into.push(MARK_TEXT),
        Stored::Text | Stored::Value => {}
    }
    if quoted {
        into.extend(text.replace('"', "\"\"").as_bytes());
        into.push(b'"');
    } else {
        into.extend(text.as_bytes());
    }
}

/// Whether a text could be taken for a stored number.
fn looks_stored(text: &str) -> bool {
    let text = text.trim();
    text.bytes().any(|byte| byte.is_ascii_digit())
        && text.chars().all(|c| c.is_ascii_digit() || ".,+-()\u{2212}".contains(c))
}
