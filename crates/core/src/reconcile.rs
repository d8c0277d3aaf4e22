//! Whether what was handed over has arrived: each ready row held against the records after the load.

use crate::existing::Existing;
use crate::finding::MASK;
use crate::gate::{FieldReader, Gate, NewValue, RowView};
use crate::mode::Mode;
use schemars::JsonSchema;
use serde::Serialize;

/// So many of the missing records and of the differences are told; all are counted.
pub const TOLD: usize = 1_000;

/// What became of ready rows.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Reconciled {
    /// Ready rows.
    pub rows: u64,
    /// Rows whose record is there with all their values.
    pub arrived: u64,
    /// Rows whose record is there with other values.
    pub different: u64,
    /// Rows whose record is not there.
    pub missing: u64,
    /// The fields, by what was found in them.
    pub fields: Vec<FieldReconciled>,
    /// The records that are not there, the first of them.
    pub missing_records: Vec<MissingRecord>,
    /// The values that differ, the first of them.
    pub differences: Vec<Difference>,
    /// How many missing records and differences are not told.
    pub left_out: u64,
}

/// What was found in a field.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct FieldReconciled {
    /// The field's name.
    pub field: String,
    /// Values that are there as they were handed over, however they are written.
    pub arrived: u64,
    /// Values that are others.
    pub different: u64,
    /// Blank ones that the target has filled with the field's default.
    pub defaulted: u64,
}

/// A record that is not there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct MissingRecord {
    /// Its row among the ready ones.
    pub row: u64,
    /// Its key; nothing where it is blank, and the target was to number it.
    pub key: Option<String>,
}

/// A value that is another than was handed over.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Difference {
    /// The row among the ready ones.
    pub row: u64,
    /// The key of the record.
    pub key: String,
    /// The field.
    pub field: String,
    /// What was handed over; nothing where the field was to be blank.
    pub wanted: Option<String>,
    /// What is there; nothing where it is blank.
    pub found: Option<String>,
}

/// What became of one ready row.
#[derive(Debug, Clone, Default)]
pub struct RowReconciled {
    row: u64,
    key: String,
    is_there: bool,
    /// Each field by its place among those that are compared.
    fields: Vec<(usize, Met)>,
}

#[derive(Debug, Clone)]
enum Met {
    Arrived,
    Defaulted,
    Different(Option<String>, Option<String>),
}

/// Holds ready rows against the records after the load.
#[derive(Debug)]
pub struct Reconciling<'g> {
    fields: Vec<ComparedField<'g>>,
    /// Whether blank cells mean blank fields: when records are added.
    adds: bool,
}

#[derive(Debug)]
struct ComparedField<'g> {
    field: usize,
    name: String,
    default: Option<String>,
    is_masked: bool,
    reader: FieldReader<'g>,
}

impl<'g> Reconciling<'g> {
    /// For ready rows that were made in a mode; nothing where no existing records are known.
    #[must_use]
    pub fn of(gate: &'g Gate, mode: Mode) -> Option<Self> {
        let existing: &dyn Existing = gate.settings().existing.as_deref()?;
        let schema = gate.schema();
        let carried = gate.ready_fields().into_iter().map(|ready| ready.field);
        let compared = carried.filter(|field| !schema.is_keyed(*field) && existing.knows(*field));
        let fields = compared.filter_map(|number| {
            let field = schema.fields.get(number)?;
            Some(ComparedField {
                field: number,
                name: field.name.clone(),
                default: field.default.clone(),
                is_masked: field.sensitive,
                reader: FieldReader::of(gate, number),
            })
        });
        Some(Self { fields: fields.collect(), adds: mode == Mode::Add })
    }

    /// What became of a row.
    #[must_use]
    pub fn row(&self, row: &RowView<'_>) -> RowReconciled {
        let key = row.key().unwrap_or_default();
        let Some(there) = row.there().filter(|there| !there.is_new_line()) else {
            return RowReconciled { row: row.row, key, ..Default::default() };
        };
        let mut fields = Vec::with_capacity(self.fields.len());
        for (at, compared) in self.fields.iter().enumerate() {
            let found = there.value(compared.field);
            let wanted = match row.new_value(compared.field) {
                NewValue::Leaves if !self.adds => continue,
                NewValue::Leaves | NewValue::Empties => None,
                NewValue::Value(value) | NewValue::Keeps(value) => Some(value),
            };
            let is = |one: &str, other: &str| one == other || compared.reader.is_same(one, other);
            let met = match (wanted.as_deref(), found.as_deref()) {
                (None, None) => continue,
                (Some(wanted), Some(found)) if is(wanted, found) => Met::Arrived,
                (None, Some(found))
                    if compared.default.as_deref().is_some_and(|default| is(default, found)) =>
                {
                    Met::Defaulted
                }
                _ => {
                    let shown = |value: Option<&str>| {
                        value.map(|value| if compared.is_masked { MASK.to_owned() } else { value.to_owned() })
                    };
                    Met::Different(shown(wanted.as_deref()), shown(found.as_deref()))
                }
            };
            fields.push((at, met));
        }
        RowReconciled { row: row.row, key, is_there: true, fields }
    }

    /// Nothing yet.
    #[must_use]
    pub fn none_yet(&self) -> Reconciled {
        let field =
            |field: &ComparedField<'_>| FieldReconciled { field: field.name.clone(), ..Default::default() };
        Reconciled { fields: self.fields.iter().map(field).collect(), ..Default::default() }
    }
}

impl Reconciled {
    /// Takes up a row; gives what is to be listed of it.
    pub fn add(&mut self, row: RowReconciled) -> Vec<Difference> {
        self.rows += 1;
        if !row.is_there {
            self.missing += 1;
            if self.missing_records.len() < TOLD {
                let key = Some(row.key.clone()).filter(|key| !key.is_empty());
                self.missing_records.push(MissingRecord { row: row.row, key });
            } else {
                self.left_out += 1;
            }
            let (key, field) = (row.key, String::new());
            return vec![Difference { row: row.row, key, field, wanted: None, found: None }];
        }
        let mut differences = Vec::new();
        for (at, met) in row.fields {
            let Some(sum) = self.fields.get_mut(at) else { continue };
            match met {
                Met::Arrived => sum.arrived += 1,
                Met::Defaulted => sum.defaulted += 1,
                Met::Different(wanted, found) => {
                    sum.different += 1;
                    let field = sum.field.clone();
                    differences.push(Difference { row: row.row, key: row.key.clone(), field, wanted, found });
                }
            }
        }
        *(if differences.is_empty() { &mut self.arrived } else { &mut self.different }) += 1;
        let room = TOLD.saturating_sub(self.differences.len());
        self.left_out += differences.len().saturating_sub(room) as u64;
        self.differences.extend(differences.iter().take(room).cloned());
        differences
    }

    /// Whether all rows have arrived.
    #[must_use]
    pub fn is_whole(&self) -> bool {
        self.arrived == self.rows
    }
}
