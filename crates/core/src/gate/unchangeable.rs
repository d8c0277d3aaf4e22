//! Columns of fields that a file must not change: what the target computes, what may be set when adding only, and what is
//! outside the plan's scope. Where the records are known that are there, it is changes that count: a cell that equals what
//! the record has is no fault, and no such column is carried into ready rows.

use super::compiled::{Column, Compiled};
use super::fixed_columns::FixedColumn;
use super::mark::Mark;
use super::seen::Seen;
use super::standing::There;
use crate::block::Block;
use crate::catalogue::Code;
use crate::existing::ExistingRow;
use crate::rows::Cells;

impl Compiled {
    /// Whether a field's column must not change what is there, and is held against it.
    pub(super) fn is_unchangeable(&self, field: usize) -> bool {
        self.unchangeable.iter().any(|one| one.field == field)
    }

    /// Marks the cells that would change what must not change; nothing else of them counts, but where a new record gets it.
    pub(super) fn mark_unchangeable(
        &self,
        block: &Block,
        cells: &Cells,
        there: &[There<'_>],
        marks: &mut Vec<Mark>,
    ) {
        let is_told = |mark: &Mark| {
            let of_column = |one: &&FixedColumn| one.number + 1 == usize::from(mark.column);
            let is_new =
                |one: &FixedColumn| !there.get(mark.row as usize).is_some_and(|there| there.holds(one.field));
            self.unchangeable.iter().find(of_column).is_none_or(|one| one.is_set_at_first && is_new(one))
        };
        if !self.unchangeable.is_empty() {
            marks.retain(is_told);
        }
        for one in &self.unchangeable {
            let Some(column) = self.columns.get(one.number) else { continue };
            let level = self.told_level(one.code, one.level);
            for (row, there) in there.iter().enumerate() {
                let raw = cells.bytes(block, row, one.number);
                let changes = match there {
                    There::Record(record) if record.holds(one.field) => {
                        self.differs(column, one.field, raw, *record)
                    }
                    // A new record may have what is only fixed later.
                    _ if one.code == Code::ReadOnlyChanged => false,
                    _ => matches!(column.see(raw, self.table.dialect), Seen::Value(_) | Seen::Broken),
                };
                if changes {
                    marks.push(Mark::at(cells, row, one.number + 1, one.code, level));
                }
            }
        }
    }

    /// Whether a cell would give a field of a record another value.
    fn differs(&self, column: &Column, field: usize, raw: &[u8], record: ExistingRow<'_>) -> bool {
        let text = match column.see(raw, self.table.dialect) {
            Seen::Blank { .. } | Seen::Stale => return false,
            Seen::Broken => return true,
            Seen::Clear(_) => return record.value(field).is_some(),
            Seen::Value(text) => text,
        };
        let Some(value) = record.value(field) else { return true };
        let new = self.formed_or_as_it_is(column, &text, raw);
        new != value && !self.is_same(field, &new, &value)
    }

    /// Whether two texts in the target's own form are one value.
    pub(super) fn is_same(&self, field: usize, one: &str, other: &str) -> bool {
        self.own_programs.get(field).is_some_and(|own| own.is_same(one, other, &self.schema.picklists))
    }
}
