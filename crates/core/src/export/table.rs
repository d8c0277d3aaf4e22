//! A schema as a table, one row a field: the headings are those that a drafted dictionary is read by.

use super::exported::{Exported, Unsaid, list_of, of_field, pattern_of};
use crate::fields::{kind_words, limits, required_words, rules_of};
use crate::schema::raw::KindName;
use crate::schema::{Field, RecordSchema, Required, Stated};

/// The headings.
pub const COLUMNS: [&str; 17] = [
    "name",
    "label",
    "kind",
    "length",
    "required",
    "key",
    "minimum",
    "maximum",
    "pattern",
    "values",
    "separator",
    "references",
    "default",
    "help",
    "example",
    "other headings",
    "date form",
];

/// The rows of these fields.
#[must_use]
pub fn table(schema: &RecordSchema, fields: &[usize]) -> (Vec<[String; 17]>, Vec<String>) {
    let mut unsaid = Unsaid::default();
    let rows = fields.iter().filter_map(|number| schema.fields.get(*number).map(|field| (*number, field)));
    let rows = rows.map(|(number, field)| row(schema, number, field, &mut unsaid)).collect();
    let mut unsaid = unsaid.lines();
    if !schema.unique.is_empty() {
        unsaid.push("combinations that must not repeat".to_owned());
    }
    (rows, unsaid)
}

fn kind_of(stated: &Stated) -> String {
    match (stated.kind, &stated.many) {
        (kind, Some(_)) => format!("{} (several)", kind.name()),
        (KindName::Decimal, None) => match stated.digits {
            (Some(before), Some(after)) => format!("decimal({},{after})", before + after),
            _ => "decimal".to_owned(),
        },
        (kind, None) => kind.name().to_owned(),
    }
}

fn length_of(stated: &Stated) -> String {
    match (stated.length.min, stated.length.max) {
        (Some(min), Some(max)) if min == max => max.to_string(),
        (Some(min), Some(max)) => format!("{min} to {max}"),
        (Some(min), None) => format!("at least {min}"),
        (None, Some(max)) => max.to_string(),
        (None, None) => String::new(),
    }
}

fn row(schema: &RecordSchema, number: usize, field: &Field, unsaid: &mut Unsaid) -> [String; 17] {
    of_field(field, unsaid);
    let stated = &field.stated;
    let list = list_of(field, schema);
    unsaid.note(
        stated.kind == KindName::Decimal && (stated.digits.0.is_none() != stated.digits.1.is_none()),
        "the most digits on one side of the point",
        &field.name,
    );
    unsaid.note(field.read_only, "that the target computes it", &field.name);
    let values = list.map(|list| {
        unsaid.note(list.open, "that a picklist is open", &field.name);
        let retired = list.values.iter().any(|value| value.retired || !value.also.is_empty());
        unsaid.note(retired, "retired values and other words of a picklist", &field.name);
        let current = list.values.iter().filter(|value| !value.retired);
        let words = current.map(|value| match &value.label {
            Some(label) if *label != value.code => format!("{} = {label}", value.code),
            _ => value.code.clone(),
        });
        words.collect::<Vec<_>>().join("\n")
    });
    let required = match field.required {
        Required::Always => "yes",
        Required::Filled => "always",
        Required::WhenAdding => "add",
        Required::Advised => "advised",
        Required::No => "no",
    };
    [
        field.name.clone(),
        field.label.clone(),
        kind_of(stated),
        length_of(stated),
        required.to_owned(),
        if schema.key.contains(&number) { "yes".to_owned() } else { String::new() },
        stated.range.min.clone().unwrap_or_default(),
        stated.range.max.clone().unwrap_or_default(),
        pattern_of(field).unwrap_or_default(),
        values.unwrap_or_default(),
        stated.many.as_ref().map(|many| many.separator.clone()).unwrap_or_default(),
        stated.to.clone().unwrap_or_default(),
        field.default.clone().unwrap_or_default(),
        stated.help.clone().unwrap_or_default(),
        field.example.clone().unwrap_or_default(),
        field.also.join("; "),
        stated.dates.join("; "),
    ]
}

/// The fields as a table of Markdown (CommonMark with tables), with what each asks in words.
#[must_use]
pub fn markdown(schema: &RecordSchema, fields: &[usize]) -> Exported {
    let version = schema.version.as_ref().map(|version| format!(", version {version}")).unwrap_or_default();
    let mut text = format!("# {} (`{}`{version})\n\n", escaped(&schema.label), schema.record);
    text.push_str("| Field | Label | Kind | Needed | Limits | Help |\n|---|---|---|---|---|---|\n");
    let mut lists = Vec::new();
    for (number, field) in fields.iter().filter_map(|number| Some((*number, schema.fields.get(*number)?))) {
        let needed = required_words(field, number, schema);
        let mut help = field.stated.help.clone().unwrap_or_default();
        if let Some(example) = &field.example {
            help.push_str(&format!(" Such as {example}."));
        }
        text.push_str(&format!(
            "| `{}` | {} | {} | {needed} | {} | {} |\n",
            field.name.replace('|', "\\|"),
            escaped(&field.label),
            escaped(&kind_words(field, schema)),
            escaped(&[limits(field, schema), rules_of(number, schema)].concat().join("; ")),
            escaped(help.trim())
        ));
        lists.extend(field.stated.picklist.filter(|list| !lists.contains(list)));
    }
    for list in lists.into_iter().filter_map(|list| schema.picklists.get(list)) {
        text.push_str(&format!("\n## Picklist {}\n\n| Code | Label |\n|---|---|\n", escaped(&list.name)));
        for value in list.values.iter().filter(|value| !value.retired) {
            let label = value.label.as_deref().unwrap_or(&value.code);
            text.push_str(&format!("| {} | {} |\n", escaped(&value.code), escaped(label)));
        }
    }
    Exported { text, unsaid: Vec::new() }
}

/// A text that Markdown takes as it stands.
fn escaped(text: &str) -> String {
    let mut safe = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\n' | '\r' => safe.push(' '),
            '\\' | '`' | '*' | '_' | '[' | ']' | '<' | '>' | '|' | '#' => {
                safe.push('\\');
                safe.push(c);
            }
            c => safe.push(c),
        }
    }
    safe
}
