//! Looks at blocks in order, and gathers what each column holds.

use super::column::{ColumnLook, ColumnProfile};
use super::kind::Kinds;
use super::seen::Seen;
use crate::block::Block;
use crate::rows::{Cells, text_of};
use crate::scan::Dialect;
use crate::value::Date;
use std::borrow::Cow;

/// Looks at blocks in order, and gathers what each column holds.
#[derive(Debug)]
pub struct Profiler {
    dialect: Dialect,
    cells: Cells,
    kinds: Kinds,
    columns: Vec<ColumnLook>,
    rows: RowLook,
    /// So many of the first rows are kept.
    shown: usize,
}

/// What the rows are like.
#[derive(Debug, Clone, Default)]
pub struct RowLook {
    /// Rows that hold a value.
    pub rows: u64,
    /// The first rows: their numbers and their cells, trimmed.
    pub first: Vec<(u64, Vec<String>)>,
    /// Rows with more or fewer cells than there are columns, and the first of them.
    pub misfits: Seen,
    /// Rows without a value.
    pub blank: Seen,
    /// Cells with a stray quote.
    pub strays: Seen,
}

impl Profiler {
    /// For a table with these headings; the first `shown` rows are kept. `today` decides the century of years of two
    /// digits.
    #[must_use]
    pub fn new(headings: &[String], dialect: Dialect, shown: usize, today: Date) -> Self {
        Self {
            dialect,
            cells: Cells::default(),
            kinds: Kinds::new(today),
            columns: headings.iter().map(|heading| ColumnLook::of(heading)).collect(),
            rows: RowLook::default(),
            shown,
        }
    }

    /// Takes cells that are missing at a row's end as blank.
    #[must_use]
    pub fn filling_short_rows(mut self, yes: bool) -> Self {
        self.cells.short_rows_are_blank = yes;
        self
    }

    /// Sees how the values of each column are spread, too.
    #[must_use]
    pub fn with_spreads(mut self) -> Self {
        self.columns.iter_mut().for_each(ColumnLook::see_spread);
        self
    }

    /// Looks at the next block.
    pub fn look_at(&mut self, block: &Block) {
        let width = self.columns.len();
        self.cells.lay_out(block, self.dialect, width, 0);
        let cells = &self.cells;
        let row_of = |place: u32| block.first_row + u64::from(place);
        // The rows of a sheet end with their last cell.
        for misfit in cells.misfits.iter().filter(|misfit| !self.dialect.marks || misfit.judged.is_none()) {
            self.rows.misfits.note(1, row_of(misfit.place));
        }
        for run in &cells.blank {
            self.rows.blank.note(u64::from(run.last - run.first) + 1, row_of(run.first));
        }
        for (row, _) in &cells.strays {
            self.rows.strays.note(1, row_of(cells.place(*row as usize)));
        }
        self.rows.rows +=
            cells.len() as u64 + cells.misfits.iter().filter(|misfit| misfit.judged.is_none()).count() as u64;
        for row in 0..cells.len() {
            let number = row_of(cells.place(row));
            let is_shown = self.rows.first.len() < self.shown;
            let mut shown = Vec::new();
            for (column, look) in self.columns.iter_mut().enumerate() {
                let (start, end) = cells.cell(row, column);
                let raw = block.buffer.get(start..end).unwrap_or_default();
                let text = text_of(raw, self.dialect);
                let is_broken = text.is_err();
                let text =
                    text.unwrap_or_else(|bytes| Cow::Owned(String::from_utf8_lossy(&bytes).into_owned()));
                look.look_at(&text, is_broken, number, &self.kinds);
                if is_shown {
                    shown.push(text.trim().to_owned());
                }
            }
            if is_shown {
                self.rows.first.push((number, shown));
            }
        }
    }

    /// How many rows were looked at.
    #[must_use]
    pub fn rows(&self) -> u64 {
        self.rows.rows
    }

    /// What was seen.
    #[must_use]
    pub fn finish(self) -> (Vec<ColumnProfile>, RowLook) {
        let kinds = self.kinds;
        (self.columns.into_iter().map(|look| look.finish(&kinds)).collect(), self.rows)
    }
}
