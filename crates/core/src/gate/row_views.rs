//! Rows of a block read again, once the verdict on every row is known: what the target is to be given of a
//! ready row, and why a held one is held.

use super::assembly::Gate;
use super::form::Form;
use super::judge::Judge;
use super::kinds::Program;
use super::own_forms::{Made, OwnForms};
use super::places::LineCounter;
use super::ready_fields::ReadyField;
use super::repeats::Repeats;
use super::seen::Seen;
use super::standing::There;
use super::state::RunState;
use super::verdict::Given;
use crate::block::Block;
use crate::catalogue::Level;
use crate::existing::ExistingRow;
use crate::finding::Finding;
use crate::mode::Mode;
use crate::rows::{Cells, text_of};
use crate::scan::{is_plain, plain_text, walk_row};
use crate::value::Picklist;
use std::borrow::Cow;

/// Reads blocks row by row.
#[derive(Debug)]
pub struct RowsOf<'g> {
    gate: &'g Gate,
    judge: Judge<'g>,
    /// For rows that are judged by themselves.
    apart: Judge<'g>,
    /// What cells become in ready rows.
    pub forms: OwnForms,
}

/// One row of a block that counts.
#[derive(Debug)]
pub struct RowView<'a> {
    /// Its number.
    pub row: u64,
    /// Where it starts in the block.
    pub start: usize,
    /// Its bytes as they came, without the line break.
    pub raw: &'a [u8],
    gate: &'a Gate,
    block: &'a Block,
    cells: &'a Cells,
    there: &'a [There<'a>],
    /// The number of the row among those that can be judged.
    judged: Option<usize>,
}

impl<'g> RowsOf<'g> {
    /// For the blocks that this gate has judged.
    #[must_use]
    pub fn new(gate: &'g Gate, state: &'g RunState) -> Self {
        Self {
            gate,
            judge: Judge::new(gate, state, false),
            apart: Judge::new(gate, state, false),
            forms: OwnForms::default(),
        }
    }

    /// Lays out a block; then its rows can be read.
    pub fn read(&mut self, block: &Block) {
        self.judge.lay_out(block);
    }

    /// The findings of the block that are of one of these levels, judged again, in order.
    pub fn told(&mut self, block: &Block, repeats: &Repeats, levels: &[Level]) -> Vec<Finding> {
        Self::told_by((self.gate, &mut self.judge), block, repeats, levels)
    }

    /// The same of some rows of the block that is laid out, which others do not decide; where they are many or their
    /// records have several rows, of all rows.
    pub fn told_of(
        &mut self,
        block: &Block,
        is_meant: impl Fn(u64) -> bool,
        (repeats, levels): (&Repeats, &[Level]),
    ) -> Vec<Finding> {
        let mut lines = LineCounter::new(block);
        let mut meant = Vec::new();
        for row in self.rows(block).filter(|row| is_meant(row.row)) {
            let place = u32::try_from(row.row - block.first_row).unwrap_or_default();
            meant.push((row.row, lines.of(place, row.start), row.start..row.start + row.raw.len()));
        }
        if self.gate.lines.is_some() || meant.len() as u64 * FEW_OF > block.rows {
            return self.told(block, repeats, levels);
        }
        let (mut told, mut alone) = (Vec::new(), Block::default());
        for (row, line, range) in meant {
            alone.buffer.clear();
            alone.buffer.extend_from_slice(block.buffer.get(range).unwrap_or_default());
            alone.buffer.push(b'\n');
            alone.len = alone.buffer.len();
            alone.pad();
            (alone.rows, alone.first_row, alone.first_line) = (1, row, line);
            alone.lines = memchr::memchr_iter(b'\n', alone.content()).count() as u64;
            told.extend(Self::told_by((self.gate, &mut self.apart), &alone, repeats, levels));
        }
        told
    }

    fn told_by(
        (gate, judge): (&'g Gate, &mut Judge<'g>),
        block: &Block,
        repeats: &Repeats,
        levels: &[Level],
    ) -> Vec<Finding> {
        judge.mark(block);
        let marks: Vec<_> =
            judge.marks().iter().copied().filter(|mark| levels.contains(&mark.level)).collect();
        let mut lines = LineCounter::new(block);
        let cells = judge.cells();
        let mut told: Vec<_> =
            marks.into_iter().map(|mark| gate.describe(mark, block, cells, &mut lines)).collect();
        if !repeats.is_empty() {
            let repeats = gate.repeat_findings(judge, block, repeats);
            told.extend(repeats.into_iter().filter(|finding| levels.contains(&finding.level)));
            told.sort_by_key(Finding::order);
        }
        told
    }

    /// Begins to copy rows of the block that is laid out.
    pub fn begin_copy(&mut self, block: &Block, fields: &[ReadyField]) {
        self.forms.begin((self.gate, fields), (block, self.judge.cells()));
    }

    /// Every row that counts, in order.
    pub fn rows<'a>(&'a self, block: &'a Block) -> impl Iterator<Item = RowView<'a>> {
        let (gate, cells, there) = (self.gate, self.judge.cells(), self.judge.there());
        let view = move |place: u32, start: usize, end: usize, judged| RowView {
            row: block.first_row + u64::from(place),
            start,
            raw: block.buffer.get(start..end).unwrap_or_default(),
            gate,
            block,
            cells,
            there,
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

/// Of so many rows one at most is judged by itself, rather than all of them together.
const FEW_OF: u64 = 4;

/// What a row brings to a field of a record that is there.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum NewValue<'a> {
    /// Nothing: what is there stays.
    Leaves,
    /// What is there stays, though the file has this value, in the target's own form.
    Keeps(Cow<'a, str>),
    /// It is emptied.
    Empties,
    /// This value, in the target's own form.
    Value(Cow<'a, str>),
}

/// Reads values of one field in the target's own form.
#[derive(Debug)]
pub struct FieldReader<'g> {
    program: Option<Program>,
    lists: &'g [Picklist],
}

impl<'g> FieldReader<'g> {
    /// For a field of the gate's record.
    #[must_use]
    pub fn of(gate: &'g Gate, field: usize) -> Self {
        let schema = gate.schema();
        let program = schema.fields.get(field).map(|field| Program::own(field, schema, gate.settings()));
        Self { program, lists: &schema.picklists }
    }

    /// Whether two texts are one value.
    #[must_use]
    pub fn is_same(&self, one: &str, other: &str) -> bool {
        self.program.as_ref().is_some_and(|program| program.is_same(one, other, self.lists))
    }
}

impl<'a> RowView<'a> {
    /// Gives each cell that changes where the row is handed on: where it stands in the block, and what it becomes. False
    /// where the row cannot be copied so.
    pub fn each_change(
        &self,
        forms: &mut OwnForms,
        (fields, render): Made<'_>,
        take: impl FnMut(usize, usize, &[u8]),
    ) -> bool {
        let Some(row) = self.judged.filter(|row| forms.takes(*row)) else { return false };
        let value = |field: &ReadyField| render(&self.value(field));
        forms.each_change(fields, (self.block, self.cells, row), value, take);
        true
    }

    /// The record that is there under the row's key.
    #[must_use]
    pub fn there(&self) -> Option<ExistingRow<'a>> {
        self.there.get(self.judged?)?.record()
    }

    /// Whether the row is a further one of its record, where several make one.
    #[must_use]
    pub fn is_below(&self) -> bool {
        self.judged.is_some_and(|row| self.cells.is_below(row))
    }

    /// The row's key as it is shown, masked where it is sensitive; nothing where it is blank.
    #[must_use]
    pub fn key(&self) -> Option<String> {
        self.gate.key_of(self.block, self.cells, self.judged?)
    }

    /// The row's key in standard form, so that equal keys give equal bytes; nothing where it has none.
    #[must_use]
    pub fn key_values(&self) -> Option<Vec<u8>> {
        let mut key = Vec::new();
        match self.judged {
            Some(row) => self.gate.key_values(self.block, self.cells, row, &mut key),
            None => self.key_of_misfit(&mut key)?,
        }
        (!key.is_empty()).then_some(key)
    }

    /// The key of a row that has more or fewer cells than there are columns, by the cells at its places.
    fn key_of_misfit(&self, into: &mut Vec<u8>) -> Option<()> {
        let (dialect, columns) = (self.gate.table.dialect, &self.gate.key_set()?.columns);
        let (mut starts, mut ends) = (vec![0], Vec::new());
        walk_row(self.raw, 0, dialect, |end| ends.push(end), |_| ());
        starts.extend(ends.iter().map(|end| end + 1));
        ends.push(self.raw.len());
        for column in columns {
            let raw = self.raw.get(*starts.get(*column)?..*ends.get(*column)?)?;
            let column_of = self.gate.columns.get(*column)?;
            let Seen::Value(text) = column_of.see(raw, dialect) else { return None };
            let given = Given::of(text.trim(), raw, dialect);
            let value = column_of.program.standard(given, &self.gate.schema.picklists)?;
            if columns.len() > 1 {
                into.extend((value.len() as u64).to_le_bytes());
            }
            into.extend(value.as_bytes());
        }
        Some(())
    }

    /// The value of a cell in standard form, however it is written; the text where it is none.
    #[must_use]
    pub fn standard(&self, column: usize) -> Cow<'a, [u8]> {
        let (Some(raw), Some(column_of)) = (self.raw(column), self.gate.columns.get(column)) else {
            return Cow::Borrowed(&[]);
        };
        let dialect = self.gate.table.dialect;
        if column_of.guard.is_none()
            && let Some(text) = plain_text(raw, dialect)
            && column_of.program.stands(text)
        {
            return Cow::Borrowed(text);
        }
        let text = match column_of.see(raw, dialect) {
            Seen::Broken | Seen::Clear(_) => self.text(column),
            Seen::Blank { .. } | Seen::Stale => String::new(),
            Seen::Value(text) => {
                let given = Given::of(text.trim(), raw, dialect);
                let value = column_of.program.standard(given, &self.gate.schema.picklists);
                value.map_or_else(|| text.trim().to_owned(), Cow::into_owned)
            }
        };
        Cow::Owned(text.into_bytes())
    }

    /// The trimmed text of a cell; nothing in a row that cannot be judged.
    #[must_use]
    pub fn text(&self, column: usize) -> String {
        let raw = self.raw(column).unwrap_or_default();
        match text_of(raw, self.gate.table.dialect) {
            Ok(text) => text.trim().to_owned(),
            Err(bytes) => String::from_utf8_lossy(&bytes).trim().to_owned(),
        }
    }

    /// The cell of a column as it stands.
    #[must_use]
    pub fn raw(&self, column: usize) -> Option<&'a [u8]> {
        Some(self.cells.bytes(self.block, self.judged?, column))
    }

    /// Where the cell of a column begins and ends in the row as it came.
    #[must_use]
    pub fn cell_in_row(&self, column: usize) -> Option<(usize, usize)> {
        let row = self.judged?;
        let ((begin, _), (start, end)) = (self.cells.row(row), self.cells.cell(row, column));
        (start <= end).then(|| Some((start.checked_sub(begin)?, end.checked_sub(begin)?)))?
    }

    /// Whether a cell of a column holds a value.
    #[must_use]
    pub fn has_value(&self, column: usize, raw: &[u8]) -> bool {
        let dialect = self.gate.table.dialect;
        self.gate.columns.get(column).is_some_and(|column| {
            column.guard.is_none() && is_plain(raw, dialect)
                || matches!(column.see(raw, dialect), Seen::Value(_))
        })
    }

    /// What the row brings to a field of the record that is there.
    #[must_use]
    pub fn new_value(&self, field: usize) -> NewValue<'a> {
        match self.stated_value(field) {
            NewValue::Value(value) if self.keeps(field) => NewValue::Keeps(value),
            value => value,
        }
    }

    /// Whether what the record has in a field stays, whatever the file has.
    fn keeps(&self, field: usize) -> bool {
        self.gate.fills_only()
            && !self.gate.schema.is_keyed(field)
            && self.there().is_some_and(|there| there.has(field))
    }

    fn stated_value(&self, field: usize) -> NewValue<'a> {
        let (Some(number), Some(row)) = (self.gate.column_of(field), self.judged) else {
            return NewValue::Leaves;
        };
        let Some(column) = self.gate.columns.get(number) else { return NewValue::Leaves };
        let (raw, dialect) = (self.cells.bytes(self.block, row, number), self.gate.table.dialect);
        if let Some(text) = self.gate.standing(column, raw) {
            return NewValue::Value(Cow::Borrowed(text));
        }
        match column.see(raw, dialect) {
            Seen::Broken | Seen::Blank { .. } | Seen::Stale => NewValue::Leaves,
            Seen::Clear(_) => NewValue::Empties,
            Seen::Value(text) => NewValue::Value(self.gate.formed_or_as_it_is(column, &text, raw)),
        }
    }

    /// The value of a field in the target's form; blank where there is none. Of a ready row.
    #[must_use]
    pub fn value(&self, ready: &'a ReadyField) -> Cow<'a, [u8]> {
        // What is there is not filled by a default.
        let holds = || self.there().is_some_and(|there| there.holds(ready.field));
        let adds = || self.gate.settings.mode == Mode::Add || !holds();
        // What must not change is not handed on, equal or not.
        let is_left = self.keeps(ready.field)
            || self.gate.is_unchangeable(ready.field)
                && !self.gate.schema.also_by.contains(&ready.field)
                && holds();
        if is_left {
            return Cow::Borrowed(&[]);
        }
        let default = || match ready.default.as_deref() {
            Some(default) if adds() => Cow::Borrowed(default.as_bytes()),
            _ => Cow::Borrowed(&[][..]),
        };
        let (Some(column), Some(row)) = (ready.column, self.judged) else { return default() };
        let Some(column_of) = self.gate.columns.get(column) else { return default() };
        let program = &column_of.program;
        if let Some(lines) = &self.gate.lines
            && lines.stays_blank(self.gate, self.block, self.cells, row, column)
        {
            return Cow::Borrowed(&[]);
        }
        let raw = self.cells.bytes(self.block, row, column);
        let dialect = self.gate.table.dialect;
        if ready.form == Form::Standard
            && column_of.guard.is_none()
            && let Some(text) = plain_text(raw, dialect)
            && program.stands(text)
        {
            return Cow::Borrowed(text);
        }
        let whole = match column_of.see(raw, dialect) {
            Seen::Broken | Seen::Blank { .. } | Seen::Stale => return default(),
            // The word as the plan states it, in whatever case it came.
            Seen::Clear(text) => match column_of.reading.clear.as_deref() {
                Some(word) => return Cow::Borrowed(word.as_bytes()),
                None => text,
            },
            Seen::Value(text) => text,
        };
        let text = whole.trim();
        if !column_of.reading.trim && program.is_verbatim() {
            return Cow::Owned(whole.into_owned().into_bytes());
        }
        let given = Given::of(text, raw, dialect);
        let value = self.gate.formed(&ready.form, given, program);
        Cow::Owned(value.map_or_else(|| text.to_owned(), Cow::into_owned).into_bytes())
    }
}
