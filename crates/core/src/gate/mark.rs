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

/// Puts the marks of a block in the order of rows and columns; what is beside them is used again from block to block.
#[derive(Debug, Default)]
pub(super) struct Sorter {
    sorted: Vec<Mark>,
    next: Vec<u32>,
}

impl Sorter {
    /// Of fewer marks, comparing them is quick.
    const FEW: usize = 64;

    pub(super) fn sort(&mut self, marks: &mut Vec<Mark>) {
        let key = |mark: &Mark| (mark.place, mark.column, mark.code, mark.rule);
        if marks.is_sorted_by_key(key) {
            return;
        }
        if marks.len() < Self::FEW {
            return marks.sort_unstable_by_key(key);
        }
        // Row by row by a counting sort: marks come column by column, so that hardly a row is left to be sorted.
        let rows = marks.iter().map(|mark| mark.place as usize + 1).max().unwrap_or(0);
        self.next.clear();
        self.next.resize(rows + 1, 0);
        for mark in marks.iter() {
            if let Some(count) = self.next.get_mut(mark.place as usize + 1) {
                *count += 1;
            }
        }
        let mut sum = 0;
        for count in &mut self.next {
            sum += *count;
            *count = sum;
        }
        self.sorted.clone_from(marks);
        for mark in marks.iter() {
            if let Some(next) = self.next.get_mut(mark.place as usize)
                && let Some(slot) = self.sorted.get_mut(*next as usize)
            {
                *slot = *mark;
                *next += 1;
            }
        }
        for row in self.sorted.chunk_by_mut(|one, other| one.place == other.place) {
            if !row.is_sorted_by_key(key) {
                row.sort_unstable_by_key(key);
            }
        }
        std::mem::swap(marks, &mut self.sorted);
    }
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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn marks_come_in_the_order_of_rows(found in prop::collection::vec((0_u32..40, 0_u16..6, 0_u16..3), 0..400)) {
            let mark = |(place, column, rule)| {
                let code = if rule == 0 { Code::RuleBroken } else { Code::DateBad };
                Mark { place, row: place, column, rule, code, level: Level::Stop }
            };
            let key = |mark: &Mark| (mark.place, mark.column, mark.code, mark.rule);
            let mut marks: Vec<Mark> = found.into_iter().map(mark).collect();
            let mut wanted: Vec<_> = marks.iter().map(key).collect();
            wanted.sort_unstable();
            Sorter::default().sort(&mut marks);
            prop_assert_eq!(marks.iter().map(key).collect::<Vec<_>>(), wanted);
        }
    }
}
