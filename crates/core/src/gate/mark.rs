//! Something noticed in a block, before it has words.

use super::tallies::Counted;
use crate::catalogue::{Code, Level, Tag};
use crate::rows::Cells;

/// Something noticed in a block: 16 bytes until somebody asks for words.
#[derive(Debug, Clone, Copy)]
pub(super) struct Mark {
    /// The place of the row in the block.
    pub(super) place: u32,
    /// The judged row; for a row of the wrong width, the number of its misfit.
    pub(super) row: u32,
    /// The column, from 1; 0 for the row as a whole.
    pub(super) column: u16,
    /// The number of the rule, block or combination, or of the field that has no column.
    pub(super) rule: u16,
    pub(super) code: Code,
    pub(super) level: Level,
}

impl Mark {
    /// At a cell of a judged row (`column` from 1), or at the row as a whole (0).
    pub(super) fn at(cells: &Cells, row: usize, column: usize, code: Code, level: Level) -> Self {
        let (place, row) = (cells.place(row), u32::try_from(row).unwrap_or(u32::MAX));
        Self { place, row, column: u16::try_from(column).unwrap_or(0), rule: 0, code, level }
    }

    /// What it counts as.
    pub(super) fn counted(&self) -> Counted {
        let (column, code, level) = (usize::from(self.column), self.code, self.level);
        // A field without a column is told by its number.
        let is_apart = code.is(Tag::Rule) || code == Code::RequiredBlank && column == 0;
        Counted { column, code, level, rule: is_apart.then_some(self.rule) }
    }

    /// The same, made by a rule, block or combination of this number.
    pub(super) fn by(self, rule: usize) -> Self {
        Self { rule: u16::try_from(rule).unwrap_or(u16::MAX), ..self }
    }
}
