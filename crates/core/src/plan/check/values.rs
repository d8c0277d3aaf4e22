//! Words of the sender's, and what stands in their place.

use super::fields::field_of;
use crate::fault::Fault;
use crate::plan::raw::RawPlan;
use crate::plan::stated::{Plan, Reading};
use crate::schema::{Field, Kind, RecordSchema, scalar};
use crate::value::{Match, PutWords};
use std::ops::Range;
use std::sync::Arc;
use toml::Value;

/// Puts the words of `[values]` into how the cells of their fields are read.
pub(super) fn values(raw: &RawPlan, schema: &RecordSchema, plan: &mut Plan, faults: &mut Vec<Fault>) {
    for (name, words) in &raw.values {
        let Some(number) = field_of(name, &words.span(), schema, faults) else { continue };
        let Some(field) = schema.fields.get(number) else { continue };
        if !takes_words(field) {
            let message =
                format!("`{name}` is of kind {}, whose values are no words", field.stated.kind.name());
            let help = "[values] is for picklists, booleans, references and texts with a pattern; [read.fields] says \
                        how other values are written";
            faults.push(Fault::new(words.span(), message).help(help));
            continue;
        }
        let is_exact =
            words.get_ref().get("exact").is_some_and(|exact| *exact.get_ref() == Value::Boolean(true));
        let separator = field.stated.many.as_ref().map(|many| many.separator.clone());
        let mut put = PutWords::new(is_exact, separator);
        let mut reading = plan.reading(number).clone();
        for (word, value) in words.get_ref() {
            if word == "exact" && matches!(value.get_ref(), Value::Boolean(_)) {
                continue;
            }
            if word.trim().is_empty() {
                let fault = Fault::new(value.span(), "a blank cell is no word");
                faults.push(fault.help("[defaults] fills blank cells"));
                continue;
            }
            let text = scalar(value.get_ref()).unwrap_or_default();
            let text = text.trim();
            match held(field, schema, &reading, text) {
                Some(value) if put.put(word, &value).is_none() => {}
                Some(_) => {
                    let fault = Fault::new(value.span(), format!("`{word}` is told twice, with two values"));
                    faults.push(
                        fault.help("case and doubled spaces are no matter; `exact = true` tells them apart"),
                    );
                }
                None => faults.push(not_held(field, schema, text, value.span())),
            }
        }
        reading.put = (!put.is_empty()).then(|| Arc::new(put));
        plan.reading_of.insert(number, reading);
    }
}

/// Whether the values of a field are words, of which one may stand for another.
fn takes_words(field: &Field) -> bool {
    match &field.kind {
        Kind::Picklist(_) | Kind::Boolean | Kind::Reference(_) => true,
        Kind::Text(rules) => rules.pattern.is_some(),
        _ => false,
    }
}

/// The value as a cell would have to hold it, if the field can.
fn held(field: &Field, schema: &RecordSchema, reading: &Reading, text: &str) -> Option<String> {
    if text.is_empty() {
        return Some(String::new());
    }
    if matches!(field.kind, Kind::Boolean) {
        // Which words are read as yes and no, the plan may say.
        let wanted = match text {
            "true" => true,
            "false" => false,
            _ => return None,
        };
        let words = if wanted { &reading.truth.yes } else { &reading.truth.no };
        return match reading.truth.read(text) == Some(wanted) {
            true => Some(text.to_owned()),
            false => words.iter().next().map(str::to_owned),
        };
    }
    let parts = field.stated.many.as_ref().map_or("\0", |many| many.separator.as_str());
    let fits = |part: &str| fits(field, schema, part.trim());
    text.split(parts).all(fits).then(|| text.to_owned())
}

/// Whether a field can hold a value; which keys there are, is known later.
fn fits(field: &Field, schema: &RecordSchema, text: &str) -> bool {
    match &field.kind {
        Kind::Picklist(list) => schema
            .picklists
            .get(*list)
            .is_none_or(|list| list.open || matches!(list.find(text), Match::Value(_))),
        Kind::Text(rules) => rules.pattern.as_ref().is_none_or(|pattern| pattern.fits(text)),
        _ => true,
    }
}

fn not_held(field: &Field, schema: &RecordSchema, text: &str, span: Range<usize>) -> Fault {
    let fault = Fault::new(span, format!("`{}` cannot hold `{text}`", field.name));
    match &field.kind {
        Kind::Boolean => fault.help("write true, false or \"\""),
        Kind::Picklist(list) => match schema.picklists.get(*list).and_then(|list| list.nearest(text)) {
            Some(near) => fault.help(format!("did you mean `{near}`? `tidy-gate fields` lists its values")),
            None => fault.help("use a code of its picklist; `tidy-gate fields` lists them"),
        },
        _ => fault.help("write it as the record schema says of the field"),
    }
}
