//! The texts of some columns of a table, block by block.

use crate::block::Block;
use crate::rows::{Cells, text_of};
use crate::scan::Dialect;

/// Reads the cells of some columns.
#[derive(Debug)]
pub struct ColumnTexts {
    cells: Cells,
    dialect: Dialect,
    width: usize,
    columns: Vec<usize>,
}

impl ColumnTexts {
    /// For these columns of a table of so many.
    #[must_use]
    pub fn new(width: usize, dialect: Dialect, columns: Vec<usize>) -> Self {
        let mut cells = Cells::default();
        cells.short_rows_are_blank = true;
        Self { cells, dialect, width, columns }
    }

    /// The texts of a block, row by row, trimmed.
    pub fn of(&mut self, block: &Block) -> Vec<Vec<String>> {
        self.cells.lay_out(block, self.dialect, self.width, 0);
        let cell = |row: usize, column: usize| {
            let (start, end) = self.cells.cell(row, column);
            let raw = block.buffer.get(start..end).unwrap_or_default();
            text_of(raw, self.dialect).map(|text| text.trim().to_owned()).unwrap_or_default()
        };
        (0..self.cells.len())
            .map(|row| self.columns.iter().map(|column| cell(row, *column)).collect())
            .collect()
    }
}
