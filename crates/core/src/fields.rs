//! The fields of a record schema, for people: what each asks in words, and finding one by its name, label, other
//! headings, help or permitted values, tolerant of spelling.

mod search;
mod words;

pub use search::{Hit, search};
pub use words::{kind_words, limits, required_words, rules_of};

use crate::matching::required_value;
use crate::report::RecordFacts;
use crate::schema::{Field, RecordSchema};
use schemars::JsonSchema;
use serde::Serialize;

/// The fields of a record schema, of format 1.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct FieldsReport {
    /// The version of the format: 1.
    pub format: u32,
    /// The record schema.
    pub record: RecordFacts,
    /// The names of the fields that identify a record.
    pub key: Vec<String>,
    /// The fields that were found, the best first; all in the schema's order where nothing was searched for.
    pub fields: Vec<FieldReport>,
}

/// One field.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct FieldReport {
    /// Its technical name.
    pub name: String,
    /// The name people use.
    pub label: String,
    /// Other headings.
    pub also: Vec<String>,
    /// Its kind.
    pub kind: &'static str,
    /// true, false, "add" or "advised".
    pub required: serde_json::Value,
    /// Whether it belongs to the key.
    pub key: bool,
    /// Whether the target computes it.
    pub read_only: bool,
    /// Its default.
    pub default: Option<String>,
    /// What it asks, in words.
    pub limits: Vec<String>,
    /// What rules, blocks and permitted combinations ask of it, in words.
    pub rules: Vec<String>,
    /// The lowest value.
    pub min: Option<String>,
    /// The highest value.
    pub max: Option<String>,
    /// The most characters.
    pub longest: Option<u64>,
    /// The name of its picklist.
    pub picklist: Option<String>,
    /// The permitted values.
    pub values: Vec<ValueReport>,
    /// What stands between several values of a cell.
    pub separator: Option<String>,
    /// The record that it refers to.
    pub to: Option<String>,
    /// Help for those who fill it.
    pub help: Option<String>,
    /// A value that shows the form.
    pub example: Option<String>,
    /// What of it fits what was searched for, where that is not plain.
    pub found_by: Option<String>,
}

/// A permitted value.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct ValueReport {
    /// What the target stores.
    pub code: String,
    /// What people read.
    pub label: String,
    /// Whether new records may no longer carry it.
    pub retired: bool,
}

/// The fields that were found, as data.
#[must_use]
pub fn report(schema: &RecordSchema, hits: &[Hit]) -> FieldsReport {
    let name = |number: &usize| schema.fields.get(*number).map(|field| field.name.clone());
    let one = |hit: &Hit| Some(field_report(schema, hit, schema.fields.get(hit.field)?));
    FieldsReport {
        format: 1,
        record: RecordFacts::of(schema),
        key: schema.key.iter().filter_map(name).collect(),
        fields: hits.iter().filter_map(one).collect(),
    }
}

fn field_report(schema: &RecordSchema, hit: &Hit, field: &Field) -> FieldReport {
    let list = field.stated.picklist.and_then(|list| schema.picklists.get(list));
    FieldReport {
        name: field.name.clone(),
        label: field.label.clone(),
        also: field.also.clone(),
        kind: field.stated.kind.name(),
        required: required_value(field.required),
        key: schema.key.contains(&hit.field),
        read_only: field.read_only,
        default: field.default.clone(),
        limits: limits(field, schema),
        rules: rules_of(hit.field, schema),
        min: field.stated.range.min.clone(),
        max: field.stated.range.max.clone(),
        longest: field.stated.length.max.map(|max| max as u64),
        picklist: list.map(|list| list.name.clone()),
        values: list
            .iter()
            .flat_map(|list| list.values.iter())
            .map(|value| ValueReport {
                code: value.code.clone(),
                label: value.label.clone().unwrap_or_else(|| value.code.clone()),
                retired: value.retired,
            })
            .collect(),
        separator: field.stated.many.as_ref().map(|many| many.separator.clone()),
        to: field.stated.to.clone(),
        help: field.stated.help.clone(),
        example: field.example.clone(),
        found_by: hit.because.clone(),
    }
}
