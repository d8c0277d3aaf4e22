//! JSON Schema, draft 2020-12: a record as an object.

use super::exported::{Exported, Unsaid, list_of, names, of_field, pattern_of};
use crate::schema::raw::KindName;
use crate::schema::{Field, RecordSchema, Required};
use crate::value::{LengthUnit, PickValue, Picklist, truth};
use serde_json::{Map, Value, json};

/// The schema of an object with these fields.
///
/// ```
/// use tidy_gate_core::export::json_schema;
/// use tidy_gate_core::schema::{NoLists, RecordSchema};
/// let schema = "format = 1\nrecord = \"tree\"\n[[field]]\nname = \"girth\"\nkind = \"decimal\"\n";
/// let schema = RecordSchema::read(schema, &mut NoLists).unwrap();
/// assert!(json_schema(&schema, &[0]).text.contains("girth"));
/// ```
#[must_use]
pub fn json_schema(schema: &RecordSchema, fields: &[usize]) -> Exported {
    let mut unsaid = Unsaid::default();
    let there: Vec<(usize, &Field)> =
        fields.iter().filter_map(|number| Some((*number, schema.fields.get(*number)?))).collect();
    let properties: Map<String, Value> =
        there.iter().map(|(_, field)| (field.name.clone(), property(schema, field, &mut unsaid))).collect();
    let is_required = |(number, field): &&(usize, &Field)| {
        schema.is_keyed(*number) || matches!(field.required, Required::Always | Required::Filled)
    };
    let required: Vec<String> =
        there.iter().filter(is_required).map(|(_, field)| field.name.clone()).collect();
    let mut root = Map::new();
    root.insert("$schema".to_owned(), "https://json-schema.org/draft/2020-12/schema".into());
    root.insert("title".to_owned(), schema.label.clone().into());
    if let Some(version) = &schema.version {
        root.insert("$comment".to_owned(), format!("version {version}").into());
    }
    root.insert("type".to_owned(), "object".into());
    root.insert("properties".to_owned(), properties.into());
    root.insert("required".to_owned(), required.into());
    let mut unsaid = unsaid.lines();
    if !schema.key.is_empty() {
        unsaid.push(format!("which fields identify a record: {}", names(schema, &schema.key).join(", ")));
    }
    unsaid.extend((!schema.unique.is_empty()).then(|| "combinations that must not repeat".to_owned()));
    let text = serde_json::to_string_pretty(&Value::Object(root)).unwrap_or_default() + "\n";
    Exported { text, unsaid }
}

/// The values of a picklist.
fn permitted(list: &Picklist, name: &str, value: &mut Map<String, Value>, unsaid: &mut Unsaid) {
    let current: Vec<_> = list.values.iter().filter(|value| !value.retired).collect();
    if list.open || current.is_empty() {
        unsaid.note(true, "the values of an open picklist", name);
    } else if current.iter().any(|value| value.label.is_some()) {
        let one = |one: &&PickValue| json!({ "const": one.code, "title": one.label.as_deref().unwrap_or(&one.code) });
        value.insert("oneOf".to_owned(), current.iter().map(one).collect());
    } else {
        value.insert("enum".to_owned(), current.iter().map(|one| Value::from(one.code.clone())).collect());
    }
}

/// Lengths, ranges and digits.
fn limits(field: &Field, value: &mut Map<String, Value>, unsaid: &mut Unsaid) {
    let (stated, name) = (&field.stated, &field.name);
    if stated.length.unit == LengthUnit::Character {
        stated.length.min.iter().for_each(|min| drop(value.insert("minLength".to_owned(), (*min).into())));
        stated.length.max.iter().for_each(|max| drop(value.insert("maxLength".to_owned(), (*max).into())));
    }
    let is_number = stated.kind.is_number();
    for (key, end) in [("minimum", &stated.range.min), ("maximum", &stated.range.max)] {
        match end.as_ref().map(|end| end.parse::<serde_json::Number>()) {
            Some(Ok(number)) if is_number => drop(value.insert(key.to_owned(), Value::Number(number))),
            Some(_) => unsaid.note(true, "bounds of dates and times", name),
            None => {}
        }
    }
    if let (KindName::Decimal, Some(after)) = (stated.kind, stated.digits.1) {
        let step = if after == 0 { "1".to_owned() } else { format!("0.{}1", "0".repeat(after as usize - 1)) };
        if let Ok(step) = step.parse::<serde_json::Number>() {
            value.insert("multipleOf".to_owned(), Value::Number(step));
        }
    }
    unsaid.note(stated.digits.0.is_some(), "the most digits before the point", name);
}

fn property(schema: &RecordSchema, field: &Field, unsaid: &mut Unsaid) -> Value {
    of_field(field, unsaid);
    let stated = &field.stated;
    let name = &field.name;
    let mut value = Map::new();
    let (kind, format) = stated.kind.facts().json;
    value.insert("type".to_owned(), kind.into());
    if let Some(format) = format {
        value.insert("format".to_owned(), format.into());
    }
    unsaid.note(stated.kind == KindName::Phone, "phone numbers", name);
    unsaid.note(stated.to.is_some(), "references to other records", name);
    unsaid.note(!stated.dates.is_empty(), "forms of dates other than ISO", name);
    unsaid.note(!field.also.is_empty(), "other headings", name);
    if let Some(pattern) = pattern_of(field) {
        // A pattern of JSON Schema may match anywhere.
        value.insert("pattern".to_owned(), format!("^(?:{pattern})$").into());
    }
    limits(field, &mut value, unsaid);
    if let Some(list) = list_of(field, schema) {
        permitted(list, name, &mut value, unsaid);
    }
    let mut value = match &stated.many {
        None => value,
        Some(many) => {
            let mut list = Map::new();
            list.insert("type".to_owned(), "array".into());
            list.insert("items".to_owned(), value.into());
            list.insert("uniqueItems".to_owned(), true.into());
            many.max.iter().for_each(|max| drop(list.insert("maxItems".to_owned(), (*max).into())));
            list
        }
    };
    value.insert("title".to_owned(), field.label.clone().into());
    if let Some(help) = &stated.help {
        value.insert("description".to_owned(), help.clone().into());
    }
    if let Some(default) = &field.default {
        value.insert("default".to_owned(), typed(stated.kind, default));
    }
    if let Some(example) = &field.example {
        value.insert("examples".to_owned(), vec![typed(stated.kind, example)].into());
    }
    if field.read_only {
        value.insert("readOnly".to_owned(), true.into());
    }
    Value::Object(value)
}

/// A text as a value of its kind.
fn typed(kind: KindName, text: &str) -> Value {
    match kind {
        KindName::Integer | KindName::Decimal => {
            text.parse::<serde_json::Number>().map_or_else(|_| text.into(), Value::Number)
        }
        KindName::Boolean => truth::read(text).map_or_else(|| text.into(), Value::Bool),
        _ => text.into(),
    }
}
