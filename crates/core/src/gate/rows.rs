//! Rows of a block read again, once the verdict on every row is known: what the target is to be given of a
//! ready row, and why a held one is held.

use super::cells::{Cells, text_of};
use super::dates::writes;
use super::describe::LineCounter;
use super::judge::Judge;
use super::program::{Given, Program};
use super::{Gate, Repeats};
use crate::block::Block;
use crate::catalogue::Level;
use crate::finding::Finding;
use crate::plan::{Reading, Writing};
use crate::scan::plain_text;
use crate::schema::{Field, Kind};
use crate::value::DatePattern;
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
    /// The heading that it gets.
    pub heading: String,
    column: Option<usize>,
    /// What fills blank cells, in the form in which it is handed on.
    pub default: Option<String>,
    form: Form,
}

/// In what form a value is handed on.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Form {
    /// The standard one.
    Standard,
    /// A date in this pattern.
    Dated(DatePattern),
    /// With this mark before the decimals.
    Marked(char),
    /// The label of a value of this picklist.
    Labelled(usize),
}

impl Form {
    pub(super) fn of(field: &Field, write: &Writing) -> Self {
        match (&field.kind, &write.dates) {
            (Kind::Date { .. }, Some(pattern)) => Self::Dated(pattern.clone()),
            (Kind::Decimal { .. }, _) if write.decimal_mark != '.' => Self::Marked(write.decimal_mark),
            (Kind::Picklist(list), _) if write.value_labels => Self::Labelled(*list),
            _ => Self::Standard,
        }
    }
}

impl Gate {
    /// The fields that ready rows carry, in the schema's order.
    #[must_use]
    pub fn ready_fields(&self) -> Vec<ReadyField> {
        let plan = &self.settings.plan;
        let fields = self.schema.fields.iter().enumerate().filter(|(_, field)| !field.read_only);
        fields
            .filter(|(number, _)| plan.is_in_scope(*number))
            .filter_map(|(number, field)| {
                let column = self.pairing.column_of.get(number).copied().flatten();
                let default = field.default.as_deref().filter(|_| self.settings.mode.adds());
                let form = Form::of(field, &plan.write);
                let default = default.and_then(|default| {
                    // A default is written in the schema's own form.
                    let program = Program::of(field, &self.schema, &self.settings, &Reading::default());
                    Some(self.formed(&form, default.into(), &program)?.into_owned())
                });
                (column.is_some() || default.is_some()).then(|| ReadyField {
                    field: number,
                    heading: if plan.write.labels { field.label.clone() } else { field.name.clone() },
                    column,
                    default,
                    form,
                })
            })
            .collect()
    }

    /// Whether the value of a cell is written in another way than the target's; noughts that carry nothing, and how a
    /// sheet stores numbers and days, are no matter.
    pub(super) fn is_unlike(&self, column: &super::Column, text: &str, given: Given<'_>) -> bool {
        let has_outer_space = column.reading.trim && given.text.len() < text.len();
        if column.program.is_verbatim() {
            return has_outer_space && column.field.is_some();
        }
        let is_stored = given.is_stored
            && matches!(
                column.program,
                Program::Integer { .. }
                    | Program::Decimal { .. }
                    | Program::Date(_)
                    | Program::Time { .. }
                    | Program::Datetime { .. }
            );
        let is_plain = |text: &str| {
            let digits = text.strip_prefix('-').unwrap_or(text);
            column.form == Form::Standard
                && matches!(column.program, Program::Integer { .. } | Program::Decimal { .. })
                && digits.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.')
                && !self.is_grouped(column, text)
        };
        if is_stored || is_plain(given.text) {
            return has_outer_space;
        }
        let formed = self.formed(&column.form, given, &column.program);
        formed.is_some_and(|formed| has_outer_space || *formed != *given.text)
    }

    /// Whether a point in a number parts thousands.
    fn is_grouped(&self, column: &super::Column, text: &str) -> bool {
        let plain = crate::value::Number::decimal(text).map(|number| number.to_string());
        let read = column.program.standard(text, &self.schema.picklists);
        read.map(Cow::into_owned) != plain
    }

    /// A value in the form in which it is handed on; nothing where the text has none.
    fn formed<'a>(&'a self, form: &Form, given: Given<'a>, program: &Program) -> Option<Cow<'a, str>> {
        let picklists = &self.schema.picklists;
        let own = || program.written(given, picklists);
        Some(match (form, program) {
            // A field's own forms are what the target takes.
            (Form::Dated(pattern), Program::Date(dates))
                if dates.own.is_empty() || dates.own.contains(pattern) =>
            {
                let day = dates.day(given)?;
                match writes(pattern, day, dates.today) {
                    true => pattern.write(day).into(),
                    false => dates.write(day).into(),
                }
            }
            (Form::Marked(mark), _) => own()?.replace('.', &mark.to_string()).into(),
            (Form::Labelled(list), Program::Picklist { .. }) => {
                let code = own()?;
                let list = picklists.get(*list);
                match list.and_then(|list| list.label_of(&code)) {
                    Some(label) => Cow::Owned(label.to_owned()),
                    None => code,
                }
            }
            _ => own()?,
        })
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
            let repeats = self.gate.repeat_findings(&mut self.judge, block, repeats);
            stops.extend(repeats.into_iter().filter(|finding| finding.level == Level::Stop));
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
        let Some(column_of) = self.gate.columns.get(column) else { return default() };
        let program = &column_of.program;
        let raw = self.cells.bytes(self.block, row, column);
        let dialect = self.gate.table.dialect;
        if ready.form == Form::Standard
            && column_of.guard.is_none()
            && let Some(text) = plain_text(raw, dialect)
            && program.stands(text)
        {
            return Cow::Borrowed(text);
        }
        let whole = text_of(raw, dialect).unwrap_or_default();
        let text = whole.trim();
        if column_of.is_blank(text) {
            return default();
        }
        // The word as the plan states it, in whatever case it came.
        if let Some(word) = column_of.reading.clear.as_deref().filter(|_| column_of.reading.clears(text)) {
            return Cow::Borrowed(word.as_bytes());
        }
        if !column_of.reading.trim && program.is_verbatim() {
            return Cow::Owned(whole.into_owned().into_bytes());
        }
        let given = Given::of(text, raw, dialect);
        let value = self.gate.formed(&ready.form, given, program);
        Cow::Owned(value.map_or_else(|| text.to_owned(), Cow::into_owned).into_bytes())
    }
}
