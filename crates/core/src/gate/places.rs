//! Where findings stand: lines, columns, keys.

use super::compiled::Compiled;
use crate::block::Block;
use crate::finding::{Finding, MASK, letter};
use crate::rows::{Cells, text_of};

/// Physical lines of rows, asked for in ascending order.
pub(super) struct LineCounter<'a> {
    block: &'a Block,
    at: usize,
    line: u64,
}

impl<'a> LineCounter<'a> {
    pub(super) fn new(block: &'a Block) -> Self {
        Self { block, at: 0, line: block.first_line }
    }

    /// The line on which the row that begins at `start` begins.
    pub(super) fn of(&mut self, place: u32, start: usize) -> u64 {
        if self.block.lines == self.block.rows {
            return self.block.first_line + u64::from(place);
        }
        let between = self.block.buffer.get(self.at..start).unwrap_or_default();
        self.line += memchr::memchr_iter(b'\n', between).count() as u64;
        self.at = self.at.max(start);
        self.line
    }
}

impl Compiled {
    /// Sets column, letter, heading and field.
    pub(super) fn place(&self, column: usize, finding: &mut Finding) {
        finding.column = Some(column + 1);
        finding.letter = Some(letter(column));
        finding.heading = self.heading(column);
        finding.field = self.field(column).map(|field| field.name.clone());
    }

    /// The row's key as text, where the record has one and its columns are there.
    pub(super) fn key_of(&self, block: &Block, cells: &Cells, row: usize) -> Option<String> {
        let columns: Option<Vec<_>> = self
            .schema
            .key
            .iter()
            .map(|field| self.pairing.column_of.get(*field).copied().flatten())
            .collect();
        let columns = columns.filter(|columns| !columns.is_empty())?;
        let texts = self.texts(block, cells, row, &columns);
        texts.iter().any(|text| !text.is_empty()).then(|| texts.join(" / "))
    }

    /// The texts of some cells of a row, masked where they must be.
    pub(super) fn texts(&self, block: &Block, cells: &Cells, row: usize, columns: &[usize]) -> Vec<String> {
        let text = |&column: &usize| {
            if self.is_sensitive(column) {
                return MASK.to_owned();
            }
            let raw = cells.bytes(block, row, column);
            let text = text_of(raw, self.table.dialect)
                .map(|text| text.trim().chars().take(Finding::LONGEST_VALUE).collect());
            text.unwrap_or_else(|bytes| String::from_utf8_lossy(&bytes).into_owned())
        };
        columns.iter().map(text).collect()
    }
}
