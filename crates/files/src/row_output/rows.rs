//! Rows on their way to an output: delimited text where the output is that, cells where it is anything else.

use std::borrow::Cow;
use tidy_gate_core::scan::{Dialect, SheetMark, decode, mark_of};

/// Rows on their way to an output.
#[derive(Debug)]
pub(crate) enum Rows {
    /// Delimited text in UTF-8, whole rows.
    Text(Vec<u8>),
    /// Cells.
    Cells(CellRows),
}

impl Rows {
    /// Whether there is none.
    pub(crate) fn is_empty(&self) -> bool {
        match self {
            Self::Text(text) => text.is_empty(),
            Self::Cells(rows) => rows.ends.is_empty(),
        }
    }
}

/// Rows of cells, whose texts stand one behind the other.
#[derive(Debug, Default)]
pub(crate) struct CellRows {
    text: String,
    /// Where the text of each cell ends, and what a sheet knew of it beyond that.
    cells: Vec<(usize, Option<SheetMark>)>,
    /// The cells before each row's end.
    ends: Vec<usize>,
}

/// A cell: its text, and what a sheet knew of it.
pub(super) type Cell<'a> = (&'a str, Option<SheetMark>);

impl CellRows {
    /// Adds a cell of this text.
    pub(crate) fn text(&mut self, text: &str) {
        self.text.push_str(text);
        self.cells.push((self.text.len(), None));
    }

    /// Adds a cell of these bytes of text; what is none becomes U+FFFD.
    pub(crate) fn bytes(&mut self, bytes: &[u8]) {
        self.text(&String::from_utf8_lossy(bytes));
    }

    /// Adds a cell as it stands in a file.
    pub(crate) fn raw(&mut self, raw: &[u8], dialect: Dialect) {
        let decoded: Cow<'_, [u8]> = decode(raw, dialect);
        self.text.push_str(&String::from_utf8_lossy(&decoded));
        self.cells.push((self.text.len(), mark_of(raw, dialect)));
    }

    /// Ends the row; cells are added until there are so many.
    pub(crate) fn end_row(&mut self, least: usize) {
        let begin = self.ends.last().copied().unwrap_or_default();
        let missing = least.saturating_sub(self.cells.len() - begin);
        self.cells.extend(std::iter::repeat_n((self.text.len(), None), missing));
        self.ends.push(self.cells.len());
    }

    /// The rows, one by one.
    pub(super) fn rows(&self) -> impl Iterator<Item = Vec<Cell<'_>>> {
        let (mut cell, mut start) = (0, 0);
        self.ends.iter().map(move |end| {
            let cells = self.cells.get(cell..*end).unwrap_or_default();
            cell = *end;
            cells
                .iter()
                .map(|(end, mark)| {
                    let text = self.text.get(start..*end).unwrap_or_default();
                    start = *end;
                    (text, *mark)
                })
                .collect()
        })
    }
}

/// One record of a CSV, with its line break.
pub(crate) fn record<T: AsRef<[u8]>>(
    cells: impl IntoIterator<Item = T>,
    delimiter: u8,
    line_break: &[u8],
) -> Vec<u8> {
    let mut writer =
        csv::WriterBuilder::new().delimiter(delimiter).buffer_capacity(256).from_writer(Vec::new());
    // Writing to memory cannot fail.
    let _ = writer.write_record(cells);
    let mut bytes = writer.into_inner().unwrap_or_default();
    bytes.truncate(bytes.len().saturating_sub(1));
    bytes.extend(line_break);
    bytes
}
