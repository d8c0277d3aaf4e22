//! What a field asks, in words.

use crate::numerals::grouped;
use crate::schema::raw::KindName;
use crate::schema::{Asks, Field, Kind, RecordSchema, Required};
use crate::value::{Length, LengthUnit};

/// The kind in words.
#[must_use]
pub fn kind_words(field: &Field, schema: &RecordSchema) -> String {
    let stated = &field.stated;
    let list = stated.picklist.and_then(|list| schema.picklists.get(list));
    let mut words = match (stated.kind, list, &stated.to) {
        (KindName::Picklist, Some(list), _) => format!("picklist {}", list.name),
        (KindName::Reference, _, Some(to)) => format!("reference to {to}"),
        (kind, _, _) => kind.facts().people.to_owned(),
    };
    if stated.many.is_some() {
        words.push_str(", several");
    }
    words
}

/// Whether a record must have it, in words.
#[must_use]
pub fn required_words(field: &Field, number: usize, schema: &RecordSchema) -> &'static str {
    match field.required {
        _ if schema.key.contains(&number) => "key",
        _ if schema.is_line_key(number) => "key of the line",
        _ if field.read_only => "computed by the target",
        Required::Always => "required",
        Required::Filled => "required, when updating too",
        Required::WhenAdding => "required when adding",
        Required::Advised => "advised",
        Required::No => "",
    }
}

/// Its limits, each in a few words, such as "between 1 and 1,500".
#[must_use]
pub fn limits(field: &Field, schema: &RecordSchema) -> Vec<String> {
    let stated = &field.stated;
    let mut limits = Vec::new();
    if let Kind::Text(rules) = &field.kind
        && let Some(pattern) = &rules.pattern
    {
        let words = rules.pattern_says.clone().or_else(|| pattern.words());
        limits.push(words.unwrap_or_else(|| format!("of the form {}", pattern.source())));
    }
    if let Kind::Text(rules) = &field.kind {
        limits.extend(rules.case.map(|case| case.name().to_owned()));
    }
    limits.extend(length(stated.length));
    let is_number = stated.kind.is_number();
    let end = |end: &String| if is_number { grouped_text(end) } else { end.clone() };
    match (&stated.range.min, &stated.range.max) {
        (Some(min), Some(max)) => limits.push(format!("between {} and {}", end(min), end(max))),
        (Some(min), None) => limits.push(format!("{} or more", end(min))),
        (None, Some(max)) => limits.push(format!("{} or less", end(max))),
        (None, None) => {}
    }
    match stated.digits {
        (Some(before), Some(after)) => {
            limits.push(format!("at most {before} digits before and {after} after the point"));
        }
        (Some(before), None) => limits.push(format!("at most {before} digits before the point")),
        (None, Some(after)) => limits.push(format!("at most {after} digits after the point")),
        (None, None) => {}
    }
    if !stated.dates.is_empty() {
        limits.push(format!("as {}", stated.dates.join(" or ")));
    }
    if let Some(many) = &stated.many {
        let most = many.max.map(|max| format!(", at most {max}")).unwrap_or_default();
        limits.push(format!("several with \"{}\" between{most}", many.separator));
    }
    if stated.percent {
        limits.push("a percentage".to_owned());
    }
    if !stated.currency.is_empty() {
        limits.push(format!("with {} if wanted", stated.currency.join(" or ")));
    }
    if let Some(list) = stated.picklist.and_then(|list| schema.picklists.get(list)) {
        let current = list.values.iter().filter(|value| !value.retired).count();
        let open = if list.open { ", others permitted" } else { "" };
        if current > 0 {
            limits.push(format!("{} values{open}", grouped(current as u64)));
        }
    }
    limits
}

/// What rules, blocks and permitted combinations ask of it, each in a few words.
#[must_use]
pub fn rules_of(number: usize, schema: &RecordSchema) -> Vec<String> {
    let label =
        |field: &usize| schema.fields.get(*field).map(|field| field.label.clone()).unwrap_or_default();
    let others = |fields: &[usize]| {
        let others = fields.iter().filter(|field| **field != number);
        others.map(label).collect::<Vec<_>>().join(" and ")
    };
    let mut said = Vec::new();
    for rule in &schema.rules {
        let own = rule.message.clone().unwrap_or_else(|| rule.name.clone());
        let own = own.trim_end_matches('.').to_owned();
        let when = rule.when.as_ref().and_then(|when| when.words(schema));
        let told = |what: &str| {
            when.as_ref().map_or_else(|| format!("{what}: {own}"), |when| format!("{what} when {when}"))
        };
        match &rule.asks {
            Asks::Require(fields) if fields.contains(&number) => said.push(told("needed")),
            Asks::Forbid(fields) if fields.contains(&number) => said.push(told("to be left blank")),
            Asks::Must(..) if rule.fields().contains(&number) => said.push(own),
            _ => {}
        }
    }
    for block in schema.blocks.iter().filter(|block| block.fields.contains(&number)) {
        let needs = others(&block.needs);
        if !needs.is_empty() {
            said.push(format!("if filled, {needs} too"));
        }
    }
    for combination in schema.combinations.iter().filter(|one| one.fields.contains(&number)) {
        said.push(format!("goes with certain values of {} only", others(&combination.fields)));
    }
    said
}

fn length(length: Length) -> Option<String> {
    let units = match length.unit {
        LengthUnit::Character => "characters",
        LengthUnit::Byte => "bytes",
        LengthUnit::Utf16 => "UTF-16 units",
    };
    match (length.min, length.max) {
        (Some(min), Some(max)) if min == max => Some(format!("exactly {min} {units}")),
        (Some(min), Some(max)) => Some(format!("{min} to {max} {units}")),
        (Some(min), None) => Some(format!("at least {min} {units}")),
        (None, Some(max)) => Some(format!("at most {max} {units}")),
        (None, None) => None,
    }
}

/// A number as text with commas between its thousands.
fn grouped_text(number: &str) -> String {
    match number.parse::<u64>() {
        Ok(number) => grouped(number),
        Err(_) => number.to_owned(),
    }
}
