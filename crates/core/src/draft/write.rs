//! A draft as the text of a record schema, with its evidence as comments.

use super::model::{Draft, DraftField, DraftList, DraftRequired};
use crate::letters::is_odd;
use crate::schema::raw::KindName;
use toml_edit::Value;

/// A text as TOML writes it.
pub(super) fn quoted(text: &str) -> String {
    // A value on one line, whatever the text holds.
    let value = Value::from(text).to_string();
    if value.starts_with("\"\"\"") || value.starts_with('\'') || value.contains(is_odd) {
        let mut plain = String::from("\"");
        for c in text.chars() {
            match c {
                '"' | '\\' => plain.extend(['\\', c]),
                '\n' => plain.push_str("\\n"),
                '\t' => plain.push_str("\\t"),
                '\r' => plain.push_str("\\r"),
                c if is_odd(c) => plain.push_str(&format!("\\U{:08X}", u32::from(c))),
                c => plain.push(c),
            }
        }
        plain.push('"');
        return plain;
    }
    value
}

pub(super) fn list(texts: &[String]) -> String {
    format!("[{}]", texts.iter().map(|text| quoted(text)).collect::<Vec<_>>().join(", "))
}

/// A comment; a text of several lines stays one.
fn remark(text: &str, into: &mut String) {
    let line: String = text.chars().map(|c| if is_odd(c) { ' ' } else { c }).collect();
    let words: Vec<&str> = line.split_whitespace().collect();
    let mut width = 0;
    into.push('#');
    for word in words {
        let len = word.chars().count();
        if width + len + 1 > 110 && width > 0 {
            into.push_str("\n#  ");
            width = 2;
        }
        into.push(' ');
        into.push_str(word);
        width += len + 1;
    }
    into.push('\n');
}

impl Draft {
    /// The record schema as text.
    #[must_use]
    pub fn to_toml(&self) -> String {
        toml(self)
    }
}

fn toml(draft: &Draft) -> String {
    let mut text = String::new();
    for line in &draft.remarks {
        remark(line, &mut text);
    }
    remark(
        "A draft: read it through, put right what is not so, and take out what nobody asks for.",
        &mut text,
    );
    for line in &draft.not_understood {
        remark(&format!("NOT UNDERSTOOD: {line}"), &mut text);
    }
    text.push_str("\nformat = 1\n");
    text.push_str(&format!("record = {}\n", quoted(&draft.record)));
    if let Some(label) = &draft.label {
        text.push_str(&format!("label = {}\n", quoted(label)));
    }
    if let Some(version) = &draft.version {
        text.push_str(&format!("version = {}\n", quoted(version)));
    }
    for line in &draft.key_remarks {
        remark(line, &mut text);
    }
    if !draft.key.is_empty() {
        text.push_str(&format!("key = {}\n", list(&draft.key)));
    }
    if !draft.unique.is_empty() {
        let sets: Vec<String> = draft.unique.iter().map(|set| list(set)).collect();
        text.push_str(&format!("unique = [{}]\n", sets.join(", ")));
    }
    if let Some((header, key)) = &draft.lines {
        text.push_str(&format!("\n[lines]\nheader = {}\nkey = {}\n", list(header), list(key)));
    }
    for one in &draft.fields {
        field(one, &mut text);
    }
    for one in &draft.picklists {
        picklist(one, &mut text);
    }
    for rule in &draft.rules {
        let (name, must) = (quoted(&rule.name), quoted(&rule.must));
        text.push_str(&format!("\n[[rule]]\nname = {name}\nmust = {must}\n"));
    }
    text
}

fn field(field: &DraftField, text: &mut String) {
    text.push('\n');
    for line in &field.remarks {
        remark(line, text);
    }
    let mut set = |key: &str, value: String| text.push_str(&format!("{key} = {value}\n"));
    set("[[field]]\nname", quoted(&field.name));
    if let Some(label) = field.label.as_ref().filter(|label| **label != field.name) {
        set("label", quoted(label));
    }
    if !field.also.is_empty() {
        set("also", list(&field.also));
    }
    set("kind", quoted(field.kind.name()));
    match field.required {
        DraftRequired::No => {}
        DraftRequired::Always => set("required", "true".to_owned()),
        DraftRequired::WhenAdding => set("required", quoted("add")),
        DraftRequired::Advised => set("required", quoted("advised")),
    }
    if let Some(default) = &field.default {
        set("default", quoted(default));
    }
    if field.read_only {
        set("read_only", "true".to_owned());
    }
    if let Some(pattern) = &field.pattern {
        set("pattern", quoted(pattern));
    }
    limits(field).into_iter().for_each(|(key, value)| set(key, value));
    if !field.dates.is_empty() {
        set(if field.kind == KindName::Time { "times" } else { "dates" }, list(&field.dates));
    }
    if let Some(picklist) = &field.picklist {
        set("picklist", quoted(picklist));
    }
    if let Some((separator, max)) = &field.many {
        let max = max.map(|max| format!(", max = {max}")).unwrap_or_default();
        set("many", format!("{{ separator = {}{max} }}", quoted(separator)));
    }
    if let Some(to) = &field.to {
        set("to", quoted(to));
    }
    if let Some(help) = &field.help {
        set("help", quoted(help));
    }
    if let Some(example) = &field.example {
        set("example", quoted(example));
    }
}

/// The limits of a field as inline tables.
fn limits(field: &DraftField) -> Vec<(&'static str, String)> {
    let table = |parts: [Option<String>; 2]| {
        let parts: Vec<String> = parts.into_iter().flatten().collect();
        (!parts.is_empty()).then(|| format!("{{ {} }}", parts.join(", ")))
    };
    let counts = |(one, other): (Option<u32>, Option<u32>), names: [&str; 2]| {
        let [first, second] = names;
        table([(first, one), (second, other)].map(|(name, count)| Some(format!("{name} = {}", count?))))
    };
    let is_number = field.kind.is_number();
    let end = |name: &str, end: &Option<String>| {
        let end = end.as_ref()?;
        Some(format!("{name} = {}", if is_number { end.clone() } else { quoted(end) }))
    };
    let found = [
        ("length", counts(field.length, ["min", "max"])),
        ("digits", counts(field.digits, ["before", "after"])),
        ("range", table([end("min", &field.range.0), end("max", &field.range.1)])),
    ];
    found.into_iter().filter_map(|(key, value)| Some((key, value?))).collect()
}

fn picklist(one: &DraftList, text: &mut String) {
    text.push('\n');
    for line in &one.remarks {
        remark(line, text);
    }
    let is_plain = one.name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_' || byte == b'-');
    let name = if is_plain && !one.name.is_empty() { one.name.clone() } else { quoted(&one.name) };
    text.push_str(&format!("[picklist.{name}]\n"));
    if one.open {
        text.push_str("open = true\n");
    }
    if one.values.is_empty() {
        return;
    }
    text.push_str("values = [\n");
    for (code, label) in &one.values {
        let label = label.as_ref().map(|label| format!(", label = {}", quoted(label))).unwrap_or_default();
        let others: Vec<String> =
            one.also.iter().filter(|also| also.0 == *code).map(|also| also.1.clone()).collect();
        let also = if others.is_empty() { String::new() } else { format!(", also = {}", list(&others)) };
        text.push_str(&format!("  {{ code = {}{label}{also} }},\n", quoted(code)));
    }
    text.push_str("]\n");
}
