//! How cells are read.

use super::fields::field_of;
use crate::fault::{Fault, few_forms};
use crate::plan::raw::{RawPlan, RawRead};
use crate::plan::stated::{Plan, Reading};
use crate::schema::{Kind, RecordSchema};
use crate::value::{DatePattern, FoldedWords, Group, MomentPattern, MonthNames, TimePattern, Zone};
use std::fmt::Display;
use std::sync::Arc;
use toml::Spanned;

pub(super) fn reading(raw: &RawPlan, schema: &RecordSchema, plan: &mut Plan, faults: &mut Vec<Fault>) {
    let read = &raw.read;
    plan.reading = merged(read, &Reading::default(), faults);
    (plan.dates, plan.moments) = (Vec::new(), Vec::new());
    for source in few_forms(read.dates.as_deref().unwrap_or_default(), faults) {
        // A form with a time is for moments, one without for days, and for moments at midnight.
        let has_time =
            DatePattern::new(source.get_ref()).is_err() && MomentPattern::new(source.get_ref()).is_ok();
        plan.moments.extend(MomentPattern::new(source.get_ref()));
        if !has_time {
            let pattern = DatePattern::new(source.get_ref());
            plan.dates
                .extend(pattern.map_err(|fault| faults.push(Fault::new(source.span(), fault.to_string()))));
        }
    }
    plan.times = times(read, faults);
    for (name, one) in &read.fields {
        let Some(field) = field_of(name, &one.span(), schema, faults) else { continue };
        let raw = one.get_ref();
        if !raw.fields.is_empty() {
            faults.push(Fault::new(one.span(), "`fields` cannot stand within a field"));
        }
        plan.reading_of.insert(field, merged(raw, &plan.reading, faults));
        forms_of(raw, (field, name), schema, plan, faults);
    }
}

/// The forms in which the cells of one field write days, moments or times.
fn forms_of(
    raw: &RawRead,
    (field, name): (usize, &str),
    schema: &RecordSchema,
    plan: &mut Plan,
    faults: &mut Vec<Fault>,
) {
    let kind = schema.fields.get(field).map(|field| &field.kind);
    let mut other = |key: &str, sources: &Option<Vec<Spanned<String>>>, kind: &str| {
        let first = sources.iter().flatten().next();
        let fault = |first: &Spanned<String>| {
            Fault::new(first.span(), format!("`{key}` is stated for `{name}`, which is no {kind}"))
        };
        faults.extend(first.map(fault));
    };
    match kind {
        Some(Kind::Date { .. } | Kind::Datetime { .. }) => other("times", &raw.times, "time"),
        Some(Kind::Time { .. }) => other("dates", &raw.dates, "date"),
        _ => {
            other("dates", &raw.dates, "date");
            other("times", &raw.times, "time");
        }
    }
    match kind {
        Some(Kind::Date { .. }) => {
            let dates = read_forms(&raw.dates, DatePattern::new, faults);
            plan.dates_of.extend((!dates.is_empty()).then_some((field, dates)));
        }
        Some(Kind::Datetime { .. }) => {
            let moments = read_forms(&raw.dates, MomentPattern::new, faults);
            plan.moments_of.extend((!moments.is_empty()).then_some((field, moments)));
        }
        Some(Kind::Time { .. }) => {
            let times = times(raw, faults);
            plan.times_of.extend((!times.is_empty()).then_some((field, times)));
        }
        _ => {}
    }
}

fn times(raw: &RawRead, faults: &mut Vec<Fault>) -> Vec<TimePattern> {
    read_forms(&raw.times, TimePattern::new, faults)
}

/// The forms of a list, as far as they are sound.
fn read_forms<T, E: Display>(
    sources: &Option<Vec<Spanned<String>>>,
    form: impl Fn(&str) -> Result<T, E>,
    faults: &mut Vec<Fault>,
) -> Vec<T> {
    let few = few_forms(sources.as_deref().unwrap_or_default(), faults);
    let read = |source: &Spanned<String>| {
        form(source.get_ref()).map_err(|fault| faults.push(Fault::new(source.span(), fault.to_string()))).ok()
    };
    few.iter().filter_map(read).collect()
}

/// The language of month names and the zone of datetimes.
fn language_and_zone(raw: &RawRead, reading: &mut Reading, faults: &mut Vec<Fault>) {
    if let Some(language) = &raw.language {
        let tag = language.get_ref();
        match MonthNames::of(tag) {
            Some(_) if tag == "en" => reading.months = None,
            Some(months) => reading.months = Some(Arc::new(months)),
            None => {
                let message = format!("no month names are known for the language `{tag}`");
                let fault = Fault::new(language.span(), message);
                faults.push(fault.help(
                    "use the tag of a language of the Unicode CLDR, such as \"en\", \"de\" or \"pt-BR\"",
                ));
            }
        }
    }
    if let Some(zone) = &raw.zone {
        reading.zone = Zone::of(zone.get_ref());
        if reading.zone.is_none() {
            let fault = Fault::new(zone.span(), format!("`{}` is no time zone", zone.get_ref()));
            faults.push(fault.help("use a name of the IANA Time Zone Database, such as \"Europe/London\""));
        }
    }
}

/// How cells are read: what is stated, over what stands for all.
fn merged(raw: &RawRead, over: &Reading, faults: &mut Vec<Fault>) -> Reading {
    let mut reading = over.clone();
    language_and_zone(raw, &mut reading, faults);
    let texts = |words: &[Spanned<String>]| {
        FoldedWords::new(words.iter().map(Spanned::get_ref).filter(|word| !word.trim().is_empty()))
    };
    if let Some(blank) = &raw.blank {
        reading.blank = texts(blank);
    }
    if let Some(clear) = &raw.clear {
        if clear.get_ref().trim().is_empty() {
            let fault = Fault::new(clear.span(), "the word that empties a field cannot be blank");
            faults.push(fault.help("a blank cell leaves the field as it is; use a word such as \"(empty)\""));
        }
        reading.clear = Some(clear.get_ref().trim().to_owned());
    }
    for (words, slot) in [(&raw.r#true, &mut reading.truth.yes), (&raw.r#false, &mut reading.truth.no)] {
        if let Some(words) = words {
            *slot = texts(words);
        }
    }
    let stated = raw.r#true.iter().chain(&raw.r#false).flatten();
    for word in stated {
        let text = word.get_ref().trim();
        if reading.truth.yes.holds(text) && reading.truth.no.holds(text) {
            let fault = Fault::new(word.span(), format!("`{text}` would be both yes and no"));
            faults.push(fault.help("state both `true` and `false`, without a word in common"));
        }
    }
    for word in raw.clear.iter().chain(raw.blank.iter().flatten()) {
        let text = word.get_ref().trim();
        if !text.is_empty() && reading.blank.holds(text) && reading.clears(text) {
            faults.push(Fault::new(word.span(), format!("`{text}` cannot both be blank and empty a field")));
            break;
        }
    }
    marks(raw, &mut reading, faults);
    if let Some(trim) = raw.trim {
        reading.trim = trim;
    }
    reading
}

fn marks(raw: &RawRead, reading: &mut Reading, faults: &mut Vec<Fault>) {
    if raw.decimal_mark.is_none() && raw.group_mark.is_none() {
        return;
    }
    let mut marks = reading.marks.unwrap_or_default();
    if let Some(mark) = &raw.decimal_mark {
        match mark.get_ref().as_str() {
            "." => marks.decimal = '.',
            "," => marks.decimal = ',',
            _ => faults.push(Fault::new(mark.span(), "a decimal mark is \".\" or \",\"")),
        }
    }
    if let Some(mark) = &raw.group_mark {
        marks.group = match mark.get_ref().as_str() {
            "" => Group::None,
            " " | "\u{A0}" | "\u{202F}" | "\u{2009}" => Group::Space,
            "space" | "no-break space" | "narrow no-break space" | "thin space" => Group::Space,
            "'" | "\u{2019}" | "apostrophe" => Group::Apostrophe,
            "." | "," => Group::Mark(if mark.get_ref() == "." { '.' } else { ',' }),
            _ => {
                let fault =
                    Fault::new(mark.span(), "a mark between thousands is \".\", \",\", \" \" or \"'\"");
                faults.push(fault);
                Group::None
            }
        };
    }
    if marks.group == Group::Mark(marks.decimal) {
        let span = raw.group_mark.as_ref().or(raw.decimal_mark.as_ref()).map_or(0..0, Spanned::span);
        let fault = Fault::new(span, "the decimal mark and the mark between thousands are the same");
        faults.push(fault.help("state both `decimal_mark` and `group_mark`"));
    }
    reading.marks = Some(marks);
}
