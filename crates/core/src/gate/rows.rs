//! Rows of a block read again, once the verdict on every row is known: what the target is to be given of a
//! ready row, and why a held one is held.

use super::cells::{Cells, text_of};
use super::describe::LineCounter;
use super::judge::Judge;
use super::program::Program;
use super::{Gate, Repeats};
use crate::block::Block;
use crate::catalogue::Level;
use crate::finding::Finding;
use crate::scan::plain_text;
use std::borrow::Cow;

/// Reads blocks row by row.
#[derive(Debug)]
pub struct RowsOf<'g> {
    gate: &'g Gate,
    judge: Judge<'g>,
}

/// One row of a block that counts.
#[derive(Debug)]
pub struct RowView<'a> {
    /// Its number.
    pub row: u64,
    /// Its bytes as they came, without the line break.
    pub raw: &'a [u8],
    gate: &'a Gate,
    block: &'a Block,
    cells: &'a Cells,
    /// The number of the row among those that can be judged.
    judged: Option<usize>,
}

/// A field that ready rows carry: from a column, with a default, or both.
#[derive(Debug)]
pub struct ReadyField {
    /// The number of the field.
    pub field: usize,
    column: Option<usize>,
    default: Option<String>,
}

impl Gate {
    /// The fields that ready rows carry, in the schema's order.
    #[must_use]
    pub fn ready_fields(&self) -> Vec<ReadyField> {
        let fields = self.schema.fields.iter().enumerate().filter(|(_, field)| !field.read_only);
        fields
            .filter_map(|(number, field)| {
                let column = self.pairing.column_of.get(number).copied().flatten();
                let program = || Program::of(field, &self.schema, &self.settings.dates, self.settings.today);
                let default = field.default.as_deref().filter(|_| self.settings.mode.adds());
                let default = default.and_then(|default| {
                    Some(program().standard(default, &self.schema.picklists)?.into_owned())
                });
                (column.is_some() || default.is_some()).then_some(ReadyField {
                    field: number,
                    column,
                    default,
                })
            })
            .collect()
    }
}

impl<'g> RowsOf<'g> {
    /// For the blocks that this gate has judged.
    #[must_use]
    pub fn new(gate: &'g Gate) -> Self {
        Self { gate, judge: Judge::new(gate, false) }
    }

    /// Lays out a block; then its rows can be read.
    pub fn read(&mut self, block: &Block) {
        self.judge.lay_out(block);
    }

    /// The stops of the block, judged again, in order.
    pub fn stops(&mut self, block: &Block, repeats: &Repeats) -> Vec<Finding> {
        self.judge.mark(block);
        let marks: Vec<_> =
            self.judge.marks().iter().copied().filter(|mark| mark.level == Level::Stop).collect();
        let mut lines = LineCounter::new(block);
        let cells = self.judge.cells();
        let mut stops: Vec<_> =
            marks.into_iter().map(|mark| self.gate.describe(mark, block, cells, &mut lines)).collect();
        if !repeats.is_empty() {
            stops.extend(self.gate.repeat_findings(&mut self.judge, block, repeats));
            stops.sort_by_key(Finding::order);
        }
        stops
    }

    /// Every row that counts, in order.
    pub fn rows<'a>(&'a self, block: &'a Block) -> impl Iterator<Item = RowView<'a>> {
        let (gate, cells) = (self.gate, self.judge.cells());
        let view = move |place: u32, start: usize, end: usize, judged| RowView {
            row: block.first_row + u64::from(place),
            raw: block.buffer.get(start..end).unwrap_or_default(),
            gate,
            block,
            cells,
            judged,
        };
        let mut misfits = cells.misfits.iter().filter(|misfit| misfit.judged.is_none()).peekable();
        let mut row = 0;
        std::iter::from_fn(move || {
            let next = (row < cells.len()).then(|| cells.place(row));
            if let Some(misfit) = misfits.next_if(|misfit| next.is_none_or(|next| misfit.place < next)) {
                return Some(view(misfit.place, misfit.start as usize, misfit.end as usize, None));
            }
            let place = next?;
            let (start, mut end) = cells.row(row);
            // A row with a blank surplus comes whole.
            if let Some(wide) =
                cells.misfits.iter().find(|misfit| misfit.judged.is_some_and(|n| n as usize == row))
            {
                end = wide.end as usize;
            }
            row += 1;
            Some(view(place, start, end, Some(row - 1)))
        })
    }
}

impl<'a> RowView<'a> {
    /// The value of a field in the target's form; blank where there is none. Of a ready row.
    #[must_use]
    pub fn value(&self, ready: &'a ReadyField) -> Cow<'a, [u8]> {
        let default = || Cow::Borrowed(ready.default.as_deref().unwrap_or_default().as_bytes());
        let (Some(column), Some(row)) = (ready.column, self.judged) else { return default() };
        let Some(program) = self.gate.columns.get(column).map(|column| &column.program) else {
            return default();
        };
        let (start, end) = self.cells.cell(row, column);
        let raw = self.block.buffer.get(start..end).unwrap_or_default();
        let dialect = self.gate.table.dialect;
        if let Some(text) = plain_text(raw, dialect)
            && program.stands(text)
        {
            return Cow::Borrowed(text);
        }
        let text = text_of(raw, dialect).unwrap_or_default();
        let text = text.trim();
        if text.is_empty() {
            return default();
        }
        let standard = program.standard(text, &self.gate.schema.picklists);
        Cow::Owned(standard.map_or_else(|| text.into(), Cow::into_owned).into_bytes())
    }
}
