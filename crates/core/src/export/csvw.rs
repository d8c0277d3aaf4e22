//! W3C "Metadata Vocabulary for Tabular Data" (Recommendation of 17 December 2015), known as CSVW.

use super::exported::{Exported, Unsaid, list_of, names, of_field, pattern_of};
use crate::schema::raw::KindName;
use crate::schema::{Field, RecordSchema, Required};
use crate::value::Picklist;
use serde_json::{Map, Value, json};

/// The table description of these fields.
#[must_use]
pub fn csvw(schema: &RecordSchema, fields: &[usize]) -> Exported {
    let mut unsaid = Unsaid::default();
    let there = fields.iter().filter_map(|number| schema.fields.get(*number));
    let columns: Vec<Value> = there.clone().map(|field| column(schema, field, &mut unsaid)).collect();
    let mut table = Map::new();
    table.insert("columns".to_owned(), columns.into());
    let key: Vec<usize> = schema.key.iter().copied().filter(|key| fields.contains(key)).collect();
    if !key.is_empty() && key.len() == schema.key.len() {
        let key: Vec<String> = names(schema, &key).iter().map(|name| variable(name)).collect();
        table.insert("primaryKey".to_owned(), key.into());
    }
    let references: Vec<Value> = there
        .filter_map(|field| {
            let to = field.stated.to.as_ref()?;
            // A list of references is no foreign key.
            field.stated.many.is_none().then(|| {
                json!({
                    "columnReference": variable(&field.name),
                    "reference": { "resource": format!("{to}.csv"), "columnReference": variable(&field.name) },
                })
            })
        })
        .collect();
    if !references.is_empty() {
        table.insert("foreignKeys".to_owned(), references.into());
    }
    let mut root = Map::new();
    root.insert("@context".to_owned(), "http://www.w3.org/ns/csvw".into());
    root.insert("url".to_owned(), format!("{}.csv", schema.record).into());
    root.insert("dc:title".to_owned(), schema.label.clone().into());
    if let Some(version) = &schema.version {
        root.insert("schema:version".to_owned(), version.clone().into());
    }
    root.insert("tableSchema".to_owned(), table.into());
    let mut unsaid = unsaid.lines();
    unsaid.extend((!schema.unique.is_empty()).then(|| "combinations that must not repeat".to_owned()));
    let text = serde_json::to_string_pretty(&Value::Object(root)).unwrap_or_default() + "\n";
    Exported { text, unsaid }
}

/// A name as CSVW takes it: a variable of RFC 6570, other characters as percent triplets.
fn variable(name: &str) -> String {
    let mut safe = String::new();
    for (number, byte) in name.bytes().enumerate() {
        let plain = byte.is_ascii_alphanumeric() || byte == b'_' && number > 0;
        if plain { safe.push(char::from(byte)) } else { safe.push_str(&format!("%{byte:02X}")) }
    }
    safe
}

fn column(schema: &RecordSchema, field: &Field, unsaid: &mut Unsaid) -> Value {
    of_field(field, unsaid);
    let stated = &field.stated;
    let mut column = Map::new();
    column.insert("name".to_owned(), variable(&field.name).into());
    let mut titles = vec![field.label.clone()];
    titles.extend((field.name != field.label).then(|| field.name.clone()));
    titles.extend(field.also.iter().cloned());
    column.insert(
        "titles".to_owned(),
        if titles.len() == 1 { field.label.clone().into() } else { titles.into() },
    );
    if let Some(help) = &stated.help {
        column.insert("dc:description".to_owned(), help.clone().into());
    }
    column.insert("datatype".to_owned(), datatype(schema, field, unsaid));
    if matches!(field.required, Required::Always | Required::Filled) {
        column.insert("required".to_owned(), true.into());
    }
    if let Some(default) = &field.default {
        column.insert("default".to_owned(), default.clone().into());
    }
    if let Some(many) = &stated.many {
        column.insert("separator".to_owned(), many.separator.clone().into());
        unsaid.note(many.max.is_some(), "how many values a cell may hold", &field.name);
    }
    unsaid.note(field.read_only, "that the target computes it", &field.name);
    unsaid.note(field.example.is_some(), "examples", &field.name);
    Value::Object(column)
}

/// The codes of a list as a pattern. A many-valued cell is cut before its parts are held against the format.
fn codes_of(list: &Picklist, name: &str, unsaid: &mut Unsaid) -> Option<String> {
    let current = list.values.iter().filter(|value| !value.retired);
    let codes: Vec<String> = current.map(|value| regex_syntax::escape(&value.code)).collect();
    let has_labels = list.values.iter().any(|value| value.label.is_some());
    unsaid.note(has_labels, "the labels of picklist values", name);
    unsaid.note(list.open, "that a picklist is open", name);
    (!list.open && !codes.is_empty()).then(|| codes.join("|"))
}

fn datatype(schema: &RecordSchema, field: &Field, unsaid: &mut Unsaid) -> Value {
    let stated = &field.stated;
    let name = &field.name;
    let mut datatype = Map::new();
    datatype.insert("base".to_owned(), stated.kind.facts().csvw.into());
    unsaid.note(
        matches!(stated.kind, KindName::Email | KindName::Phone),
        "e-mail addresses and phone numbers",
        name,
    );
    let mut set = |key: &str, value: Value| drop(datatype.insert(key.to_owned(), value));
    if stated.kind == KindName::Uuid {
        set("format", "[0-9A-Fa-f]{8}(-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}".into());
    }
    if let Some(pattern) = pattern_of(field) {
        set("format", pattern.into());
    }
    if let Some(list) = list_of(field, schema) {
        codes_of(list, name, unsaid).into_iter().for_each(|codes| set("format", codes.into()));
    }
    if stated.kind == KindName::Boolean {
        set("format", "true|false".into());
    }
    if let Some(form) = stated.dates.first() {
        set("format", form.clone().into());
        unsaid.note(stated.dates.len() > 1, "further forms of dates", name);
    }
    if stated.length.unit == crate::value::LengthUnit::Character {
        stated.length.min.iter().for_each(|min| set("minLength", (*min).into()));
        stated.length.max.iter().for_each(|max| set("maxLength", (*max).into()));
    }
    for (key, end) in [("minimum", &stated.range.min), ("maximum", &stated.range.max)] {
        match end.as_deref() {
            Some("today") => unsaid.note(true, "bounds of \"today\"", name),
            Some(end) => set(key, number_or_text(end)),
            None => {}
        }
    }
    unsaid.note(stated.digits != (None, None), "the most digits of a number", name);
    if datatype.len() == 1 { stated.kind.facts().csvw.into() } else { Value::Object(datatype) }
}

/// A number as a number, so that nothing is lost; anything else as text.
fn number_or_text(text: &str) -> Value {
    match text.parse::<serde_json::Number>() {
        Ok(number) => Value::Number(number),
        Err(_) => text.into(),
    }
}
