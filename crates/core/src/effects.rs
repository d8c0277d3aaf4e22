//! What loading the ready rows would do to the records that are there.

use crate::existing::{Existing, Former};
use crate::gate::{FieldReader, Gate, NewValue, RowView};
use schemars::JsonSchema;
use serde::Serialize;
use std::borrow::Cow;
use std::collections::HashMap;

/// So many different changes of a field are counted; further ones are counted as changes alone.
const MOST_CHANGES: usize = 10_000;
/// So many of them are told.
const TOLD: usize = 10;

/// What loading the ready rows would do.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct Effects {
    /// The records.
    pub records: RecordEffects,
    /// What becomes of their lines, where several rows make a record.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub lines: Option<LineEffects>,
    /// The fields of records that are there.
    pub fields: Vec<FieldEffects>,
    /// How many records that are there the file does not speak of, of those that the plan lets it change; nothing where
    /// that is not known.
    pub missing: Option<u64>,
    /// In what they go beyond what was permitted, if they do.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub beyond: Option<String>,
}

/// What becomes of records.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct RecordEffects {
    /// How many are there before the load.
    pub before: u64,
    /// Records that are added.
    pub added: u64,
    /// Records that are there and get another value in any field.
    pub changed: u64,
    /// Records that are there and stay as they are.
    pub unchanged: u64,
    /// How many are there after the load.
    pub after: u64,
    /// Rows that are held.
    pub held: u64,
    /// Rows that are left out.
    pub left_out: u64,
}

/// What becomes of the lines of records that are there.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct LineEffects {
    /// Lines that are added to records that are there.
    pub added: u64,
    /// Lines that are there and get another value in any field of their own.
    pub changed: u64,
    /// Lines that are there and stay as they are.
    pub unchanged: u64,
}

/// What becomes of a field of the records that are there. A blank cell that leaves its field as it is counts nowhere.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct FieldEffects {
    /// The field's name.
    pub field: String,
    /// Blank ones that get a value.
    pub filled: u64,
    /// Values that become others.
    pub overwritten: u64,
    /// Values that are taken away.
    pub emptied: u64,
    /// Values that stay though the file has others, as the plan says.
    pub kept: u64,
    /// Values that are there as the file has them, however they are written.
    pub unchanged: u64,
    /// The most frequent changes.
    pub changes: Vec<Change>,
}

/// A change of a value, and how often it is made.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Change {
    /// The value that is there; nothing where it is blank.
    pub from: Option<String>,
    /// The value that it becomes; nothing where it is taken away.
    pub to: Option<String>,
    /// How many records it concerns.
    pub count: u64,
}

/// One cell that would change.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ChangedCell {
    /// The row of the file.
    pub row: u64,
    /// The field's number.
    pub field: usize,
    /// The value that is there.
    pub from: Option<String>,
    /// The value that it becomes.
    pub to: Option<String>,
}

/// What of one row changes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum RowEffect {
    /// The row is a new record, or a line of one.
    Added {
        /// Whether it is a further line of its record.
        is_below: bool,
    },
    /// The record is there: the cells that change, and the fields that stay as they are though they are filled.
    Met {
        /// Whether it is a further line of its record.
        is_below: bool,
        /// Whether the line is new to the record.
        is_new_line: bool,
        /// The cells that change.
        changes: Vec<ChangedCell>,
        /// The fields whose value is the same.
        unchanged: Vec<usize>,
        /// The fields whose other value stays.
        kept: Vec<usize>,
    },
}

/// Compares ready rows with the records that are there.
#[derive(Debug)]
pub struct Comparing<'g> {
    existing: &'g dyn Existing,
    /// The fields that ready rows carry beside the key.
    fields: Vec<Compared<'g>>,
}

/// A field that is compared.
#[derive(Debug)]
struct Compared<'g> {
    field: usize,
    reader: FieldReader<'g>,
    /// The column of the file and the place among the fields that are kept, where a cell of one and the other that are
    /// the same bytes are the same value.
    alike: Option<(usize, usize)>,
    /// Whether a record of several rows has it once.
    is_of_record: bool,
}

impl<'g> Comparing<'g> {
    /// For the rows of this gate; nothing where no existing records are known.
    #[must_use]
    pub fn of(gate: &'g Gate) -> Option<Self> {
        let existing = gate.settings().existing.as_deref()?;
        let carried = gate.ready_fields().into_iter().map(|ready| ready.field);
        let fields = carried.filter(|field| !gate.schema().is_keyed(*field) && existing.knows(*field));
        let compared = |field: usize| {
            let way = gate.way(field);
            let is_read_alike = way.is_some() && way == existing.way(field);
            let places = gate.pairing().column_of.get(field).copied().flatten().zip(existing.place(field));
            let lines = gate.schema().lines.as_ref();
            let is_of_record = lines.is_some_and(|lines| lines.header.contains(&field));
            let alike = places.filter(|_| is_read_alike);
            Compared { field, reader: FieldReader::of(gate, field), alike, is_of_record }
        };
        Some(Self { existing, fields: fields.map(compared).collect() })
    }

    /// What a ready row would change.
    #[must_use]
    pub fn row(&self, row: &RowView<'_>) -> RowEffect {
        let is_below = row.is_below();
        let Some(there) = row.there() else { return RowEffect::Added { is_below } };
        let (mut changes, mut unchanged, mut kept) =
            (Vec::new(), Vec::with_capacity(self.fields.len()), Vec::new());
        for Compared { field, reader, alike, is_of_record } in &self.fields {
            if !there.holds(*field) || is_below && *is_of_record {
                continue;
            }
            if let Some((column, place)) = alike.filter(|_| !there.is_formed())
                && let Some(raw) = row.raw(column)
                && there.raw_at(place) == Some(raw)
            {
                if !raw.is_empty() && row.has_value(column, raw) {
                    unchanged.push(*field);
                }
                continue;
            }
            let from = there.value(*field);
            let to = match row.new_value(*field) {
                NewValue::Leaves => continue,
                NewValue::Keeps(value) => {
                    let is_same =
                        from.as_deref().is_some_and(|from| from == value || reader.is_same(from, &value));
                    if is_same {
                        unchanged.push(*field)
                    } else {
                        kept.push(*field)
                    }
                    continue;
                }
                NewValue::Empties => None,
                NewValue::Value(value) => Some(value),
            };
            let is_same = match (from.as_deref(), to.as_deref()) {
                (Some(from), Some(to)) => from == to || reader.is_same(from, to),
                (None, None) => continue,
                _ => false,
            };
            if is_same {
                unchanged.push(*field);
            } else {
                let (from, to) = (from.map(Cow::into_owned), to.map(Cow::into_owned));
                changes.push(ChangedCell { row: row.row, field: *field, from, to });
            }
        }
        RowEffect::Met { is_below, is_new_line: there.is_new_line(), changes, unchanged, kept }
    }
}

/// The effects on one field, summed up.
#[derive(Debug)]
struct FieldSum {
    number: usize,
    is_masked: bool,
    effects: FieldEffects,
    /// How often each value becomes each other.
    changes: HashMap<(Option<String>, Option<String>), u64>,
}

impl FieldSum {
    fn add(&mut self, from: Option<String>, to: Option<String>) {
        let effects = &mut self.effects;
        *(match (&from, &to) {
            (None, _) => &mut effects.filled,
            (_, None) => &mut effects.emptied,
            _ => &mut effects.overwritten,
        }) += 1;
        let change = (from, to);
        if let Some(count) = self.changes.get_mut(&change) {
            *count += 1;
        } else if self.changes.len() < MOST_CHANGES {
            self.changes.insert(change, 1);
        }
    }

    /// With the most frequent changes; of what must not be shown none.
    fn done(self) -> FieldEffects {
        let changes = self.changes.into_iter().filter(|_| !self.is_masked);
        let mut changes: Vec<Change> =
            changes.map(|((from, to), count)| Change { from, to, count }).collect();
        changes.sort_by(|a, b| b.count.cmp(&a.count).then_with(|| (&a.from, &a.to).cmp(&(&b.from, &b.to))));
        changes.truncate(TOLD);
        FieldEffects { changes, ..self.effects }
    }
}

/// The effects of rows, summed up.
#[derive(Debug)]
pub struct EffectsSum {
    records: RecordEffects,
    lines: Option<LineEffects>,
    /// The fields that a record of several rows has once.
    header: Vec<usize>,
    /// Whether the record that is being read changes, where one is.
    open: Option<bool>,
    missing: Option<u64>,
    fields: Vec<FieldSum>,
}

impl EffectsSum {
    /// Nothing yet.
    #[must_use]
    pub fn new(gate: &Gate, comparing: &Comparing<'_>) -> Self {
        let sum = |number: usize| {
            let field = gate.schema().fields.get(number)?;
            let effects = FieldEffects { field: field.name.clone(), ..FieldEffects::default() };
            Some(FieldSum { number, is_masked: field.sensitive, effects, changes: HashMap::new() })
        };
        let records = RecordEffects { before: comparing.existing.count(), ..RecordEffects::default() };
        let missing = comparing.existing.unmentioned();
        Self {
            records,
            lines: gate.schema().lines.as_ref().map(|_| LineEffects::default()),
            header: gate.schema().lines.iter().flat_map(|lines| lines.header.clone()).collect(),
            open: None,
            missing,
            fields: comparing.fields.iter().filter_map(|compared| sum(compared.field)).collect(),
        }
    }

    /// Takes up a row.
    pub fn add(&mut self, effect: RowEffect) {
        let (is_below, is_new_line, changes, unchanged, kept) = match effect {
            RowEffect::Added { is_below: true } => return,
            RowEffect::Added { is_below: false } => {
                self.end_record();
                self.records.added += 1;
                return;
            }
            RowEffect::Met { is_below, is_new_line, changes, unchanged, kept } => {
                (is_below, is_new_line, changes, unchanged, kept)
            }
        };
        if !is_below {
            self.end_record();
        }
        let changes_line = is_new_line || !changes.is_empty();
        self.open = Some(self.open.unwrap_or_default() || changes_line);
        if let Some(lines) = &mut self.lines {
            let is_changed = changes.iter().any(|change| !self.header.contains(&change.field));
            *(match (is_new_line, is_changed) {
                (true, _) => &mut lines.added,
                (false, true) => &mut lines.changed,
                (false, false) => &mut lines.unchanged,
            }) += 1;
        }
        for field in unchanged {
            self.of(field).into_iter().for_each(|sum| sum.effects.unchanged += 1);
        }
        for field in kept {
            self.of(field).into_iter().for_each(|sum| sum.effects.kept += 1);
        }
        for ChangedCell { field, from, to, .. } in changes {
            if let Some(sum) = self.of(field) {
                sum.add(from, to);
            }
        }
    }

    /// Counts the record whose last line was read.
    fn end_record(&mut self) {
        match self.open.take() {
            Some(true) => self.records.changed += 1,
            Some(false) => self.records.unchanged += 1,
            None => {}
        }
    }

    fn of(&mut self, field: usize) -> Option<&mut FieldSum> {
        self.fields.iter_mut().find(|sum| sum.number == field)
    }

    /// The sum, with how many rows were held and left out.
    #[must_use]
    pub fn done(mut self, held: u64, left_out: u64) -> Effects {
        self.end_record();
        let after = self.records.before + self.records.added;
        let records = RecordEffects { after, held, left_out, ..self.records };
        let fields = self.fields.into_iter().map(FieldSum::done).collect();
        Effects { records, lines: self.lines, fields, missing: self.missing, beyond: None }
    }
}

impl Effects {
    /// How many values would be taken away.
    #[must_use]
    pub fn emptied(&self) -> u64 {
        self.fields.iter().map(|field| field.emptied).sum()
    }
}
