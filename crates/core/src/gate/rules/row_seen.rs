//! A row as rules see it: which fields are filled, what they hold, what only the target knows.

use crate::block::Block;
use crate::catalogue::Level;
use crate::condition::{self, Condition, Held, Holds, Scalar};
use crate::existing::ExistingRow;
use crate::finding::MASK;
use crate::gate::compiled::Compiled;
use crate::gate::kinds::Program;
use crate::gate::quick::Says;
use crate::gate::seen::Seen;
use crate::gate::standing::There;
use crate::gate::verdict::Given;
use crate::gate::writing::Cell;
use crate::mode::Mode;
use crate::rows::Cells;
use crate::scan::is_plain;
use crate::schema::{Combination, Field, Together};
use crate::value::Date;
use std::borrow::Cow;
use std::cell::OnceCell;

/// Whether a field of a row is filled.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Filled {
    Yes,
    No,
    /// Only the target knows.
    Unknown,
}

/// What fields hold whose cells are blank.
#[derive(Debug)]
pub(super) struct Defaults {
    /// The values of defaults, by field.
    values: Vec<Option<Scalar<'static>>>,
    /// Whether a blank cell is what the target already holds, which nobody knows here.
    blank_is_unknown: bool,
    /// What reads the values of existing records, by field; none where no records are known.
    readers: Vec<Program>,
}

impl Defaults {
    pub(super) fn of(gate: &Compiled) -> Self {
        let (schema, mode) = (&gate.schema, gate.settings.mode);
        let value = |field: &Field| {
            let default = field.default.as_deref().filter(|_| mode.adds())?;
            let program = Program::own(field, schema, &gate.settings);
            program.scalar(default.into(), &schema.picklists).map(owned)
        };
        let is_known = gate.settings.existing.is_some();
        let reader = |field: &Field| Program::own(field, schema, &gate.settings);
        Self {
            values: schema.fields.iter().map(value).collect(),
            blank_is_unknown: !mode.adds(),
            readers: schema.fields.iter().filter(|_| is_known).map(reader).collect(),
        }
    }

    /// A value of an existing record.
    fn there(&self, gate: &Compiled, field: usize, value: &str) -> Held<'static> {
        let Some(reader) = self.readers.get(field) else { return Held::Unknown };
        let picklists = &gate.schema.picklists;
        if matches!(reader, Program::Many(_)) {
            let several = reader.several(value, picklists);
            return several
                .map_or(Held::Unknown, |codes| Held::Many(codes.into_iter().map(Cow::Owned).collect()));
        }
        reader.scalar(value.into(), picklists).map_or(Held::Unknown, |value| Held::Value(owned(value)))
    }
}

/// The rows of a block, as rules see them.
#[derive(Clone, Copy)]
pub(super) struct RowsSeen<'a> {
    pub(super) gate: &'a Compiled,
    pub(super) defaults: &'a Defaults,
    pub(super) block: &'a Block,
    pub(super) cells: &'a Cells,
    /// What stands under the key of each row, where that was looked up already.
    pub(super) there: &'a [There<'a>],
    /// Cells that have a stop, by row and column (from 1), in order.
    pub(super) stopped: &'a [(u32, u16)],
    /// Whether cells are judged here, since nobody has yet.
    pub(super) judges: bool,
    /// Whether what the file says counts, and not the record as it would be.
    pub(super) sees_cells: bool,
}

impl<'a> RowsSeen<'a> {
    pub(super) fn row(self, row: usize) -> RowSeen<'a> {
        let Self { gate, defaults, block, cells, there, stopped, judges, sees_cells } = self;
        let there = there.get(row).map(|there| there.record()).map_or_else(OnceCell::new, OnceCell::from);
        RowSeen { gate, defaults, block, cells, row, stopped, judges, sees_cells, there }
    }
}

/// A row, as conditions see it.
pub(super) struct RowSeen<'a> {
    pub(super) gate: &'a Compiled,
    defaults: &'a Defaults,
    pub(super) block: &'a Block,
    pub(super) cells: &'a Cells,
    pub(super) row: usize,
    /// Cells that have a stop, by row and column (from 1), in order.
    stopped: &'a [(u32, u16)],
    /// Whether cells are judged here, since nobody has yet.
    judges: bool,
    /// Whether what the file says counts, and not the record as it would be.
    sees_cells: bool,
    there: OnceCell<Option<ExistingRow<'a>>>,
}

impl RowSeen<'_> {
    /// The column of a field that counts: what is not carried changes nothing.
    fn column_of(&self, field: usize) -> Option<usize> {
        self.gate.column_of(field).filter(|_| !self.gate.is_unchangeable(field))
    }

    /// The record that is there and that the row would change.
    fn there(&self) -> Option<ExistingRow<'_>> {
        if self.gate.settings.mode == Mode::Add || self.gate.settings.existing.is_none() {
            return None;
        }
        let find = || self.gate.there(self.block, self.cells, self.row, &mut Vec::new())?.record();
        *self.there.get_or_init(find)
    }

    pub(super) fn holds(&self, condition: &Condition, says: Says) -> Holds {
        match says {
            Says::Yes => Holds::Yes,
            Says::No => Holds::No,
            Says::Unknown => Holds::Unknown,
            Says::Nothing => condition.holds(self),
        }
    }

    /// Whether a condition holds for the record that is there, as it is; nothing where there is none, or a field of it is not
    /// known.
    pub(super) fn record_holds(&self, condition: &Condition) -> Option<bool> {
        let there = self.there()?;
        let existing = self.gate.settings.existing.as_deref()?;
        if !condition.fields.iter().all(|field| existing.knows(*field)) {
            return None;
        }
        let seen = RecordSeen { gate: self.gate, defaults: self.defaults, there };
        Some(condition.holds(&seen) == Holds::Yes)
    }

    fn is_stopped(&self, column: usize) -> bool {
        let wanted = (u32::try_from(self.row).unwrap_or(u32::MAX), u16::try_from(column + 1).unwrap_or(0));
        !self.stopped.is_empty() && self.stopped.binary_search(&wanted).is_ok()
    }

    /// Whether the cell of a field has a stop of its own, a missing value aside.
    pub(super) fn is_faulty(&self, field: usize) -> bool {
        let Some(number) = self.column_of(field) else { return false };
        let Some(column) = self.gate.columns.get(number) else { return false };
        let (raw, dialect) = (self.cells.bytes(self.block, self.row, number), self.gate.table.dialect);
        match column.see(raw, dialect) {
            Seen::Broken => true,
            Seen::Blank { .. } | Seen::Stale => false,
            Seen::Clear(_) => !column.may_clear,
            Seen::Value(text) => {
                let mut codes = self.gate.judge_cell(column, Cell::of(&text, raw, dialect)).codes();
                codes.any(|code| self.gate.level(code, number) == Level::Stop)
            }
        }
    }

    /// What the record has that no cell overwrites.
    fn kept(&self, field: usize) -> Option<Cow<'_, str>> {
        let is_kept = self.gate.fills_only() && !self.sees_cells && !self.gate.schema.is_keyed(field);
        if is_kept { self.there()?.value(field) } else { None }
    }

    /// Whether nothing that counts stands in the cell of a field.
    fn is_blank(&self, field: usize) -> bool {
        let Some(number) = self.column_of(field) else { return true };
        let Some(column) = self.gate.columns.get(number) else { return true };
        let raw = self.cells.bytes(self.block, self.row, number);
        matches!(column.see(raw, self.gate.table.dialect), Seen::Blank { .. } | Seen::Stale)
    }

    /// What a field holds whose cell is blank: what the record has that is there, else a default.
    fn blank(&self, field: usize) -> Held<'_> {
        if self.sees_cells {
            return Held::Null;
        }
        if let (Some(there), Some(existing)) = (self.there(), &self.gate.settings.existing) {
            return match there.value(field) {
                Some(value) => self.defaults.there(self.gate, field, &value),
                None if existing.knows(field) => Held::Null,
                None => Held::Unknown,
            };
        }
        match self.defaults.values.get(field) {
            Some(Some(default)) => Held::Value(default.clone()),
            _ if self.defaults.blank_is_unknown => Held::Unknown,
            _ => Held::Null,
        }
    }

    pub(super) fn filled(&self, field: usize) -> Filled {
        if self.kept(field).is_some() {
            return Filled::Yes;
        }
        // Where something is to be seen in the cell, and no word for blank is stated, the value need not be read.
        if let Some(number) = self.column_of(field)
            && let Some(column) = self.gate.columns.get(number)
            && column.guard.is_none()
            && is_plain(self.cells.bytes(self.block, self.row, number), self.gate.table.dialect)
        {
            return if self.is_stopped(number) { Filled::Unknown } else { Filled::Yes };
        }
        match condition::Cells::held(self, field) {
            Held::Null => Filled::No,
            Held::Unknown => Filled::Unknown,
            // What has a stop is filled, and never forbidden: that is seen by whoever asks.
            Held::Spoilt => Filled::Unknown,
            Held::Value(_) | Held::Many(_) => Filled::Yes,
        }
    }

    /// The names of fields.
    pub(super) fn names(&self, fields: &[usize]) -> Vec<String> {
        let fields = fields.iter().filter_map(|field| self.gate.schema.fields.get(*field));
        fields.map(|field| field.name.clone()).collect()
    }

    /// The fields that a block lacks, if any of it is filled.
    pub(super) fn missing(&self, block: &Together) -> Vec<usize> {
        let is_filled = |field: &usize| match condition::Cells::held(self, *field) {
            Held::Value(_) | Held::Many(_) => true,
            // A fault in a cell fills it, unless the fault is that nothing stands there.
            Held::Spoilt => !self.is_blank(*field),
            Held::Null | Held::Unknown => false,
        };
        if !block.fields.iter().any(is_filled) {
            return Vec::new();
        }
        block.needs.iter().copied().filter(|field| self.filled(*field) == Filled::No).collect()
    }

    /// The values of a combination, by code; nothing where one is blank or cannot be read.
    pub(super) fn combined(&self, combination: &Combination) -> Option<Vec<String>> {
        let value = |field: &usize| match condition::Cells::held(self, *field) {
            Held::Value(Scalar::Text(text)) => Some(text.into_owned()),
            Held::Value(Scalar::Number(number)) => Some(number.normalize().to_string()),
            Held::Value(Scalar::Boolean(truth)) => Some(truth.to_string()),
            Held::Value(Scalar::Date(date)) => Some(date.to_string()),
            _ => None,
        };
        combination.fields.iter().map(value).collect()
    }

    /// Some fields with their texts, for a finding.
    pub(super) fn shown(&self, fields: &[usize]) -> String {
        let one = |field: &usize| {
            let name = &self.gate.schema.fields.get(*field)?.name;
            let column = self.gate.column_of(*field);
            let text =
                column.map(|column| self.gate.texts(self.block, self.cells, self.row, &[column]).concat());
            let text = match text {
                Some(text) if text == MASK || !text.is_empty() => text,
                _ => match self.there().and_then(|there| there.value(*field)) {
                    Some(_) if self.gate.schema.fields.get(*field)?.sensitive => MASK.to_owned(),
                    Some(value) => format!("(blank; {value} is there)"),
                    None => "(blank)".to_owned(),
                },
            };
            Some(format!("{name} {text}"))
        };
        fields.iter().filter_map(one).collect::<Vec<_>>().join(", ")
    }
}

impl condition::Cells for RowSeen<'_> {
    fn held(&self, field: usize) -> Held<'_> {
        if let Some(value) = self.kept(field) {
            return self.defaults.there(self.gate, field, &value);
        }
        let Some(number) = self.column_of(field) else { return self.blank(field) };
        let Some(column) = self.gate.columns.get(number) else { return Held::Unknown };
        let raw = self.cells.bytes(self.block, self.row, number);
        let dialect = self.gate.table.dialect;
        let seen = column.see(raw, dialect);
        if matches!(seen, Seen::Broken) || self.is_stopped(number) {
            return Held::Spoilt;
        }
        // Of what a row takes over, the row above has the finding.
        if (self.judges || self.cells.takes_over(self.row, number)) && self.is_faulty(field) {
            return Held::Spoilt;
        }
        let text = match seen {
            Seen::Broken => return Held::Spoilt,
            Seen::Blank { .. } | Seen::Stale => return self.blank(field),
            Seen::Clear(_) => return if column.may_clear { Held::Null } else { Held::Spoilt },
            Seen::Value(text) => text,
        };
        let picklists = &self.gate.schema.picklists;
        if matches!(column.program, Program::Many(_)) {
            let several = column.program.several(text.trim(), picklists);
            return several
                .map_or(Held::Spoilt, |codes| Held::Many(codes.into_iter().map(Cow::Owned).collect()));
        }
        let given = Given::of(text.trim(), raw, dialect);
        column.program.scalar(given, picklists).map_or(Held::Spoilt, |value| Held::Value(owned(value)))
    }

    fn today(&self) -> Date {
        self.gate.settings.today
    }
}

/// A record that is there, as it is.
struct RecordSeen<'a> {
    gate: &'a Compiled,
    defaults: &'a Defaults,
    there: ExistingRow<'a>,
}

impl condition::Cells for RecordSeen<'_> {
    fn held(&self, field: usize) -> Held<'_> {
        match self.there.value(field) {
            Some(value) => self.defaults.there(self.gate, field, &value),
            None => Held::Null,
        }
    }

    fn today(&self) -> Date {
        self.gate.settings.today
    }
}

/// The same, independent of the text it was read from.
fn owned(value: Scalar<'_>) -> Scalar<'static> {
    match value {
        Scalar::Text(text) => Scalar::Text(Cow::Owned(text.into_owned())),
        Scalar::Number(number) => Scalar::Number(number),
        Scalar::Ratio(over, under) => Scalar::Ratio(over, under),
        Scalar::Boolean(truth) => Scalar::Boolean(truth),
        Scalar::Date(date) => Scalar::Date(date),
        Scalar::Time(time) => Scalar::Time(time),
        Scalar::Moment(moment) => Scalar::Moment(moment),
    }
}
