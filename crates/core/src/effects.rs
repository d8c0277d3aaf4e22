//! What loading the ready rows would do to the records that are there.

use crate::existing::Existing;
use crate::gate::{FieldReader, Gate, NewValue, RowView};
use schemars::JsonSchema;
use serde::Serialize;
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
    /// The fields of records that are there.
    pub fields: Vec<FieldEffects>,
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
    /// The row is a new record.
    Added,
    /// The record is there: the cells that change, and the fields that stay as they are though they are filled.
    Met {
        /// The cells that change.
        changes: Vec<ChangedCell>,
        /// The fields whose value is the same.
        unchanged: Vec<usize>,
    },
}

/// Compares ready rows with the records that are there.
#[derive(Debug)]
pub struct Comparing<'g> {
    existing: &'g dyn Existing,
    /// The fields that ready rows carry beside the key, with what reads their values.
    fields: Vec<(usize, FieldReader)>,
}

impl<'g> Comparing<'g> {
    /// For the rows of this gate; nothing where no existing records are known.
    #[must_use]
    pub fn of(gate: &'g Gate) -> Option<Self> {
        let existing = gate.settings().existing.as_deref()?;
        let carried = gate.ready_fields().into_iter().map(|ready| ready.field);
        let fields = carried.filter(|field| !gate.schema().is_keyed(*field) && existing.knows(*field));
        Some(Self { existing, fields: fields.map(|field| (field, FieldReader::of(gate, field))).collect() })
    }

    /// What a ready row would change.
    #[must_use]
    pub fn row(&self, row: &RowView<'_>) -> RowEffect {
        let Some(there) = row.there() else { return RowEffect::Added };
        let (mut changes, mut unchanged) = (Vec::new(), Vec::new());
        for (field, reader) in &self.fields {
            let from = there.value(*field);
            let to = match row.new_value(*field) {
                NewValue::Leaves => continue,
                NewValue::Empties => None,
                NewValue::Value(value) => Some(value),
            };
            let is_same = match (from, to.as_deref()) {
                (Some(from), Some(to)) => from == to || reader.is_same(from, to),
                (None, None) => continue,
                _ => false,
            };
            if is_same {
                unchanged.push(*field);
            } else {
                let (from, to) = (from.map(str::to_owned), to.map(std::borrow::Cow::into_owned));
                changes.push(ChangedCell { row: row.row, field: *field, from, to });
            }
        }
        RowEffect::Met { changes, unchanged }
    }

    /// The fields that are compared.
    pub fn fields(&self) -> impl Iterator<Item = usize> {
        self.fields.iter().map(|field| field.0)
    }
}

/// How often each value becomes each other.
type Changes = HashMap<(Option<String>, Option<String>), u64>;

/// The effects of rows, summed up.
#[derive(Debug)]
pub struct EffectsSum {
    records: RecordEffects,
    fields: Vec<(usize, FieldEffects)>,
    changes: Vec<Changes>,
    masked: Vec<bool>,
}

impl EffectsSum {
    /// Nothing yet.
    #[must_use]
    pub fn new(gate: &Gate, comparing: &Comparing<'_>) -> Self {
        let field = |number: usize| gate.schema().fields.get(number);
        let name = |number| field(number).map(|field| field.name.clone()).unwrap_or_default();
        let fields: Vec<_> = comparing
            .fields()
            .map(|number| (number, FieldEffects { field: name(number), ..FieldEffects::default() }))
            .collect();
        Self {
            records: RecordEffects { before: comparing.existing.count(), ..RecordEffects::default() },
            changes: vec![HashMap::new(); fields.len()],
            masked: fields
                .iter()
                .map(|(number, _)| field(*number).is_some_and(|field| field.sensitive))
                .collect(),
            fields,
        }
    }

    /// Takes up a row.
    pub fn add(&mut self, effect: RowEffect) {
        let (changes, unchanged) = match effect {
            RowEffect::Added => {
                self.records.added += 1;
                return;
            }
            RowEffect::Met { changes, unchanged } => (changes, unchanged),
        };
        *(if changes.is_empty() { &mut self.records.unchanged } else { &mut self.records.changed }) += 1;
        let at =
            |fields: &[(usize, FieldEffects)], field: usize| fields.iter().position(|known| known.0 == field);
        for field in unchanged {
            if let Some((_, sum)) = at(&self.fields, field).and_then(|at| self.fields.get_mut(at)) {
                sum.unchanged += 1;
            }
        }
        for ChangedCell { field, from, to, .. } in changes {
            let Some(at) = at(&self.fields, field) else { continue };
            if let Some((_, sum)) = self.fields.get_mut(at) {
                match (&from, &to) {
                    (None, _) => sum.filled += 1,
                    (_, None) => sum.emptied += 1,
                    _ => sum.overwritten += 1,
                }
            }
            let Some(known) = self.changes.get_mut(at) else { continue };
            let is_known = known.contains_key(&(from.clone(), to.clone()));
            if is_known || known.len() < MOST_CHANGES {
                *known.entry((from, to)).or_default() += 1;
            }
        }
    }

    /// The sum, with how many rows were held and left out.
    #[must_use]
    pub fn done(mut self, held: u64, left_out: u64) -> Effects {
        self.records.after = self.records.before + self.records.added;
        (self.records.held, self.records.left_out) = (held, left_out);
        let told = self.fields.into_iter().zip(self.changes).zip(self.masked);
        let fields = told.map(|(((_, mut sum), changes), is_masked)| {
            let mut changes: Vec<Change> =
                changes.into_iter().map(|((from, to), count)| Change { from, to, count }).collect();
            changes
                .sort_by(|a, b| b.count.cmp(&a.count).then_with(|| (&a.from, &a.to).cmp(&(&b.from, &b.to))));
            changes.truncate(TOLD);
            sum.changes = if is_masked { Vec::new() } else { changes };
            sum
        });
        Effects { records: self.records, fields: fields.collect(), beyond: None }
    }
}

impl Effects {
    /// How many values would be taken away.
    #[must_use]
    pub fn emptied(&self) -> u64 {
        self.fields.iter().map(|field| field.emptied).sum()
    }
}
