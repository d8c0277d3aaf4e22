//! From JSON Schema (drafts 4 to 2020-12): an object and its properties.

use super::model::{Draft, DraftFault, DraftField, DraftRequired};
use super::names;
use crate::schema::raw::KindName;
use serde_json::{Map, Value};

type Object = Map<String, Value>;

/// The object of the schema, or the one of this name among its definitions.
///
/// # Errors
/// When it is no JSON, describes no object, or several and none was named.
///
/// ```
/// use tidy_gate_core::draft::from_json_schema;
/// let draft = from_json_schema(r#"{"type": "object", "properties": {"tag": {"type": "string"}}}"#, None, "tree");
/// assert!(draft.is_ok());
/// ```
pub fn from_json_schema(text: &str, name: Option<&str>, stem: &str) -> Result<Draft, DraftFault> {
    let root: Value = serde_json::from_str(text)
        .map_err(|error| DraftFault::Unreadable(format!("it is no JSON: {error}")))?;
    let (chosen, called) = choose(&root, name)?;
    let mut reader = Reader { root: &root, draft: Draft::default() };
    reader.draft.record = names::plain(called.as_deref().unwrap_or(stem));
    reader.draft.label = text_of(&chosen, "title");
    reader.draft.remarks.push("Drafted from a JSON Schema.".to_owned());
    reader.draft.remarks.extend(text_of(&chosen, "description"));
    reader.draft.version =
        text_of(&chosen, "$comment").and_then(|text| text.strip_prefix("version ").map(ToOwned::to_owned));
    reader.object(&chosen, "", 0);
    reader
        .draft
        .key_remarks
        .push("JSON Schema does not say which fields identify a record: name the `key`".to_owned());
    reader.draft.settle();
    reader.draft.with_fields()
}

fn choose(root: &Value, name: Option<&str>) -> Result<(Object, Option<String>), DraftFault> {
    let defined: Vec<(String, Object)> = ["$defs", "definitions"]
        .iter()
        .filter_map(|key| root.get(key)?.as_object())
        .flatten()
        .filter_map(|(name, value)| Some((name.clone(), value.as_object()?.clone())))
        .filter(|(_, value)| value.contains_key("properties"))
        .collect();
    let wanted = |name: &str| defined.iter().find(|found| found.0.eq_ignore_ascii_case(name)).cloned();
    if let Some(name) = name {
        let (name, object) = wanted(name).ok_or_else(|| DraftFault::NoTable(name.to_owned()))?;
        return Ok((object, Some(name)));
    }
    let mut object = root.as_object().cloned().unwrap_or_default();
    // A list of records describes its records.
    if let Some(items) =
        object.get("items").and_then(Value::as_object).filter(|_| !object.contains_key("properties"))
    {
        object = items.clone();
    }
    if let Some(found) = object.get("$ref").and_then(Value::as_str).and_then(|path| resolve(root, path)) {
        object = found;
    }
    if object.contains_key("properties") || object.contains_key("allOf") {
        return Ok((object, None));
    }
    match defined.as_slice() {
        [] => Err(DraftFault::Nothing("it describes no object with properties".to_owned())),
        [(name, object)] => Ok((object.clone(), Some(name.clone()))),
        several => Err(DraftFault::Several(several.iter().map(|found| found.0.clone()).collect())),
    }
}

fn resolve(root: &Value, path: &str) -> Option<Object> {
    root.pointer(path.strip_prefix('#')?)?.as_object().cloned()
}

fn text_of(object: &Object, key: &str) -> Option<String> {
    object.get(key)?.as_str().map(str::trim).filter(|text| !text.is_empty()).map(ToOwned::to_owned)
}

/// A plain value as text.
fn scalar(value: &Value) -> Option<String> {
    match value {
        Value::String(text) => Some(text.clone()),
        Value::Number(number) => Some(number.to_string()),
        Value::Bool(truth) => Some(truth.to_string()),
        _ => None,
    }
}

struct Reader<'a> {
    root: &'a Value,
    draft: Draft,
}

/// So deep may objects lie in each other.
const DEEPEST: usize = 8;

/// Keywords that say nothing of what a record may hold, or are taken up elsewhere.
const KNOWN: [&str; 33] = [
    "type",
    "format",
    "enum",
    "const",
    "oneOf",
    "anyOf",
    "pattern",
    "minLength",
    "maxLength",
    "minimum",
    "maximum",
    "exclusiveMinimum",
    "exclusiveMaximum",
    "multipleOf",
    "items",
    "uniqueItems",
    "maxItems",
    "minItems",
    "title",
    "description",
    "default",
    "examples",
    "example",
    "readOnly",
    "writeOnly",
    "deprecated",
    "$ref",
    "allOf",
    "properties",
    "required",
    "additionalProperties",
    "$id",
    "nullable",
];

impl Reader<'_> {
    fn object(&mut self, object: &Object, prefix: &str, depth: usize) {
        for part in object.get("allOf").and_then(Value::as_array).into_iter().flatten() {
            let part = self.resolved(part);
            self.object(&part, prefix, depth + 1);
        }
        let required: Vec<&str> = object
            .get("required")
            .and_then(Value::as_array)
            .into_iter()
            .flatten()
            .filter_map(Value::as_str)
            .collect();
        let properties = object.get("properties").and_then(Value::as_object).cloned().unwrap_or_default();
        for (name, property) in &properties {
            let property = self.resolved(property);
            let name_here = format!("{prefix}{name}");
            let is_required = required.contains(&name.as_str());
            if property.contains_key("properties") && depth < DEEPEST {
                self.object(&property, &format!("{name_here}."), depth + 1);
            } else {
                self.property(&name_here, &property, is_required);
            }
        }
        for keyword in ["if", "then", "else", "dependentRequired", "dependencies", "patternProperties", "not"]
        {
            if object.contains_key(keyword) {
                self.draft
                    .not_understood
                    .push(format!("{keyword} of {}", if prefix.is_empty() { "the object" } else { prefix }));
            }
        }
    }

    /// A schema with its reference followed, and without the part that lets it be null.
    fn resolved(&self, value: &Value) -> Object {
        let mut object = value.as_object().cloned().unwrap_or_default();
        for _ in 0..DEEPEST {
            let Some(found) =
                object.get("$ref").and_then(Value::as_str).and_then(|path| resolve(self.root, path))
            else {
                break;
            };
            object.remove("$ref");
            // What stands beside a reference counts more.
            object = found.into_iter().chain(object).collect();
        }
        for key in ["anyOf", "oneOf"] {
            let Some(parts) = object.get(key).and_then(Value::as_array).cloned() else { continue };
            let is_null = |part: &Value| part.get("type").and_then(Value::as_str) == Some("null");
            let rest: Vec<Value> = parts.iter().filter(|part| !is_null(part)).cloned().collect();
            if rest.len() < parts.len() && rest.len() == 1 {
                object.remove(key);
                let inner = rest.first().map(|one| self.resolved(one)).unwrap_or_default();
                object = inner.into_iter().chain(object).collect();
            }
        }
        object
    }

    fn property(&mut self, name: &str, property: &Object, is_required: bool) {
        let mut field = DraftField::new(name, KindName::Text);
        field.required = if is_required { DraftRequired::Always } else { DraftRequired::No };
        let is_list = type_of(property).as_deref() == Some("array");
        let items = property.get("items").map(|items| self.resolved(items)).unwrap_or_default();
        self.value(&mut field, if is_list { &items } else { property });
        if is_list {
            let max =
                property.get("maxItems").and_then(Value::as_u64).and_then(|max| u32::try_from(max).ok());
            if matches!(field.kind, KindName::Picklist | KindName::Reference) {
                field.many = Some((";".to_owned(), max));
                field
                    .remarks
                    .push("an array: in a file its values stand in one cell, with \";\" between".to_owned());
            } else {
                field.remarks.push(
                    "an array of plain values: only picklists and references may have several".to_owned(),
                );
                field.kind = KindName::Text;
            }
        }
        field.label = text_of(property, "title");
        field.help = text_of(property, "description");
        field.default = property.get("default").and_then(scalar);
        let examples = property.get("examples").and_then(Value::as_array);
        field.example = examples.and_then(|all| all.first()).or(property.get("example")).and_then(scalar);
        let is = |key: &str| property.get(key).and_then(Value::as_bool).unwrap_or_default();
        field.read_only = is("readOnly");
        if is("deprecated") {
            field.remarks.push("deprecated".to_owned());
        }
        for keyword in property.keys().chain(items.keys()) {
            if !KNOWN.contains(&keyword.as_str()) && !keyword.starts_with("x-") && !keyword.starts_with('$') {
                self.draft.not_understood.push(format!("{name}: {keyword}"));
            }
        }
        self.draft.fields.push(field);
    }

    /// What one value may be.
    fn value(&mut self, field: &mut DraftField, value: &Object) {
        let format = text_of(value, "format");
        let reads =
            |kind: &&KindName| kind.facts().formats.iter().any(|known| Some(*known) == format.as_deref());
        let by_format = KindName::ALL.iter().find(reads).copied();
        field.kind = by_format.unwrap_or_else(|| match type_of(value).as_deref() {
            Some("integer") => KindName::Integer,
            Some("number") => KindName::Decimal,
            Some("boolean") => KindName::Boolean,
            Some("object") => {
                self.draft.not_understood.push(format!("{}: an object without known properties", field.name));
                KindName::Text
            }
            _ => KindName::Text,
        });
        if let Some(other) = format.filter(|_| by_format.is_none()) {
            // The sizes of numbers in programs say nothing more.
            if !["int32", "int64", "float", "double"].contains(&other.as_str()) {
                self.draft.not_understood.push(format!("{}: the format {other}", field.name));
            }
        }
        self.permitted(field, value);
        let count =
            |key: &str| value.get(key).and_then(Value::as_u64).and_then(|count| u32::try_from(count).ok());
        field.length = (count("minLength").filter(|min| *min > 0), count("maxLength"));
        if field.kind == KindName::Picklist {
            field.length = (None, None);
            return;
        }
        if let Some(pattern) = text_of(value, "pattern") {
            field.pattern = Some(whole(&pattern));
        }
        self.bounds(field, value);
        let step = value.get("multipleOf").and_then(scalar);
        match step.as_deref() {
            Some("1" | "1.0") if field.kind == KindName::Decimal => field.digits.1 = Some(0),
            Some(step)
                if step.starts_with("0.") && step.trim_start_matches("0.").trim_start_matches('0') == "1" =>
            {
                field.digits.1 = u32::try_from(step.len() - 2).ok();
            }
            Some(step) => self.draft.not_understood.push(format!("{}: multipleOf {step}", field.name)),
            None => {}
        }
    }

    fn bounds(&mut self, field: &mut DraftField, value: &Object) {
        for (key, exclusive, is_low) in
            [("minimum", "exclusiveMinimum", true), ("maximum", "exclusiveMaximum", false)]
        {
            let mut end = value.get(key).filter(|end| end.is_number()).and_then(scalar);
            match value.get(exclusive) {
                Some(Value::Number(number)) => {
                    let whole = number.as_i64().filter(|_| field.kind == KindName::Integer);
                    let inside = whole.map(|end| if is_low { end + 1 } else { end - 1 }.to_string());
                    if inside.is_none() {
                        field.remarks.push(format!("{exclusive} {number}: the range includes its end"));
                    }
                    end = inside.or_else(|| Some(number.to_string()));
                }
                Some(Value::Bool(true)) => {
                    field.remarks.push(format!("{exclusive}: the range includes its end"))
                }
                _ => {}
            }
            let slot = if is_low { &mut field.range.0 } else { &mut field.range.1 };
            *slot = end.or(slot.take());
        }
    }

    /// The values that are permitted, if they are listed.
    fn permitted(&mut self, field: &mut DraftField, value: &Object) {
        let listed: Option<Vec<(String, Option<String>)>> = match (value.get("enum"), value.get("oneOf")) {
            (Some(Value::Array(values)), _) => {
                Some(values.iter().filter_map(scalar).map(|value| (value, None)).collect())
            }
            (_, Some(Value::Array(parts))) => parts
                .iter()
                .map(|part| {
                    let part = part.as_object()?;
                    Some((scalar(part.get("const")?)?, text_of(part, "title")))
                })
                .collect(),
            _ => value.get("const").and_then(scalar).map(|value| vec![(value, None)]),
        };
        let is_whole_list = listed.as_ref().is_some_and(|values| !values.is_empty());
        match listed {
            Some(mut values) if is_whole_list => {
                if field.kind == KindName::Boolean {
                    return;
                }
                values
                    .iter_mut()
                    .for_each(|(code, label)| *label = label.take().filter(|label| label != code));
                field.kind = KindName::Picklist;
                field.picklist = Some(self.draft.list(&field.name.clone(), values));
            }
            _ => {
                for key in ["oneOf", "anyOf"].into_iter().filter(|key| value.contains_key(*key)) {
                    self.draft.not_understood.push(format!("{}: {key}", field.name));
                }
            }
        }
    }
}

/// The type, null aside.
fn type_of(object: &Object) -> Option<String> {
    match object.get("type")? {
        Value::String(name) => Some(name.clone()),
        Value::Array(names) => {
            let named: Vec<&str> =
                names.iter().filter_map(Value::as_str).filter(|name| *name != "null").collect();
            match named.as_slice() {
                [one] => Some((*one).to_owned()),
                _ => None,
            }
        }
        _ => None,
    }
}

/// A pattern that may match anywhere, as one for the whole value.
fn whole(pattern: &str) -> String {
    let (start, rest) = match pattern.strip_prefix('^') {
        Some(rest) => ("", rest),
        None => (".*", pattern),
    };
    let (rest, end) = match rest.strip_suffix('$').filter(|rest| !rest.ends_with('\\')) {
        Some(rest) => (rest, ""),
        None => (rest, ".*"),
    };
    let inner = rest.strip_prefix("(?:").and_then(|inner| inner.strip_suffix(')'));
    let inner = inner.filter(|inner| !inner.contains(['(', ')'])).unwrap_or(rest);
    match (start, end) {
        ("", "") => inner.to_owned(),
        _ if inner.contains('|') => format!("{start}(?:{inner}){end}"),
        _ => format!("{start}{inner}{end}"),
    }
}
