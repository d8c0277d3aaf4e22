//! Required fields of records that are there: what counts is the record as it would be.

use super::compiled::Compiled;
use super::mark::Mark;
use super::places::LineCounter;
use super::seen::Seen;
use super::standing::There;
use crate::block::Block;
use crate::catalogue::{Code, entry};
use crate::finding::Finding;
use crate::mode::Mode;
use crate::rows::Cells;
use crate::schema::{Field, Required};

impl Compiled {
    /// Whether a required field without a column is asked of each row by itself, since a record that is there may have it.
    pub(super) fn is_asked_by_row(&self, field: usize) -> bool {
        self.settings.mode == Mode::Both
            && self.settings.existing.as_deref().is_some_and(|existing| existing.knows(field))
    }

    /// Marks the required fields that a record would lack, and takes back what is missing from rows whose record has it.
    pub(super) fn mark_required(
        &self,
        block: &Block,
        cells: &Cells,
        there: &[There<'_>],
        marks: &mut Vec<Mark>,
    ) {
        let Some(existing) = self.settings.existing.as_deref().filter(|_| self.settings.mode.updates())
        else {
            return;
        };
        let has = |mark: &Mark| {
            let field = self.columns.get(usize::from(mark.column).checked_sub(1)?)?.field?;
            let asks_cell = self.schema.fields.get(field)?.required == Required::Filled;
            let there = there.get(mark.row as usize)?.record().filter(|_| !asks_cell)?;
            Some(there.has(field) || !existing.knows(field))
        };
        marks.retain(|mark| mark.code != Code::RequiredBlank || has(mark) != Some(true));
        for (number, field) in self.schema.fields.iter().enumerate() {
            let is_asked =
                matches!(field.required, Required::Always | Required::WhenAdding | Required::Filled);
            if is_asked && !field.read_only && !self.schema.is_keyed(number) && existing.knows(number) {
                self.mark_lacking((number, field), (block, cells), there, marks);
            }
        }
    }

    fn mark_lacking(
        &self,
        (number, field): (usize, &Field),
        (block, cells): (&Block, &Cells),
        there: &[There<'_>],
        marks: &mut Vec<Mark>,
    ) {
        let column = self.column_of(number);
        let of_column = column.and_then(|at| self.columns.get(at));
        // Blank cells of the column are marked already.
        if of_column.is_some_and(|column| column.blank.is_some()) {
            return;
        }
        let level = self.told_level(Code::RequiredBlank, entry(Code::RequiredBlank).level);
        for (row, there) in there.iter().enumerate().filter(|(row, _)| !cells.is_below(*row)) {
            let lacks = match there {
                There::Record(record) => match field.required {
                    Required::Always => !record.has(number),
                    Required::Filled => true,
                    _ => false,
                },
                _ => self.settings.mode == Mode::Both && field.default.is_none() && of_column.is_none(),
            };
            // What must not change is not given by a cell.
            let is_kept = matches!(there, There::Record(_)) && self.is_unchangeable(number);
            let is_blank = || {
                let (Some(at), Some(column)) = (column, of_column) else { return true };
                let raw = cells.bytes(block, row, at);
                matches!(column.see(raw, self.table.dialect), Seen::Blank { .. } | Seen::Stale)
            };
            if lacks && (is_kept || is_blank()) {
                let mark = Mark::at(cells, row, column.map_or(0, |at| at + 1), Code::RequiredBlank, level);
                marks.push(if column.is_none() { mark.by(number) } else { mark });
            }
        }
    }

    /// Says which field a record would lack that has no column.
    pub(super) fn describe_lacking(
        &self,
        mark: Mark,
        block: &Block,
        cells: &Cells,
        lines: &mut LineCounter<'_>,
        finding: &mut Finding,
    ) {
        let row = mark.row as usize;
        let field = self.schema.fields.get(usize::from(mark.rule));
        finding.line = Some(lines.of(mark.place, cells.row(row).0));
        finding.key = self.key_of(block, cells, row);
        finding.fields = field.iter().map(|field| field.name.clone()).collect();
        finding.message = match self.there(block, cells, row, &mut Vec::new()) {
            Some(There::Record(_)) => {
                "required; neither the file nor the record that is there has it".to_owned()
            }
            _ => "required of a new record; the file has no column for it".to_owned(),
        };
    }
}
