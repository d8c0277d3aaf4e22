//! What the shape cannot tell: names that name nothing, ranges upside down, words that stand twice.

mod fields;
mod lines;
mod own_keys;
mod picklists;
mod rules;

pub(crate) use fields::{default_fits, scalar};
pub(crate) use rules::condition;

use super::lists::ListSource;
use super::raw::{RawField, RawReadOnly, RawRecord};
use super::record::{Field, Kind, RecordSchema};
use crate::fault::Fault;
use crate::value::Picklist;
use crate::{headings, likeness};
use std::collections::{HashMap, HashSet};
use toml::Spanned;

/// Builds the schema as far as it is sound, and adds what is not to the faults.
pub(super) fn check(raw: &RawRecord, lists: &mut dyn ListSource, faults: &mut Vec<Fault>) -> RecordSchema {
    head(raw, faults);
    let picklists = picklists::picklists(raw, lists, faults);
    let fields = fields_of(raw, &picklists, faults);
    let names: Vec<_> =
        raw.field.iter().flatten().filter_map(|field| field.get_ref().name.as_ref()).collect();
    distinct(raw, faults);
    let key = named(raw.key.as_ref(), "key", &names, &fields, faults);
    let unique = raw.unique.iter().flatten();
    let mut unique: Vec<Vec<usize>> =
        unique.map(|list| named(Some(list), "unique", &names, &fields, faults)).collect();
    let also_by = named(raw.also_by.as_ref(), "also_by", &names, &fields, faults);
    // What stands for the key must not repeat either.
    let more: Vec<Vec<usize>> = also_by.iter().map(|field| vec![*field]).collect();
    unique.extend(more.into_iter().filter(|one| !unique.contains(one)).collect::<Vec<_>>());
    let alike = named(raw.alike.as_ref(), "alike", &names, &fields, faults);
    let lines = raw.lines.as_ref().and_then(|lines| {
        let (lines, more) =
            lines::lines(lines, &key, &mut |list, what| named(list, what, &names, &fields, faults));
        faults.extend(more);
        lines
    });
    for &number in key.iter().chain(lines.iter().flat_map(|lines| &lines.key)) {
        no_default_on_key(raw, number, faults);
        no_computed_key(raw, number, faults);
    }
    let may_be_numbered: Vec<usize> =
        key.iter().chain(lines.iter().flat_map(|lines| &lines.key)).copied().collect();
    for (number, (raw, field)) in raw.field.iter().flatten().zip(&fields).enumerate() {
        if field.numbered && !may_be_numbered.contains(&number) {
            let place = raw.get_ref().name.as_ref().map_or(raw.span(), Spanned::span);
            let fault = Fault::new(place, "a field that is `numbered` and belongs to no key");
            faults.push(fault.help(
                "name it in `key`, or in `key` under [lines]; what else the target computes is `read_only`",
            ));
        }
        no_separator_in_codes(raw.get_ref(), field, &picklists, faults);
    }
    let record = raw.record.as_ref().map(|record| record.get_ref().clone()).unwrap_or_default();
    let mut schema = RecordSchema {
        label: raw.label.clone().unwrap_or_else(|| record.clone()),
        record,
        version: raw.version.clone(),
        key,
        unique,
        also_by,
        alike,
        fields,
        picklists: picklists.into_iter().map(|list| list.1).collect(),
        rules: Vec::new(),
        blocks: Vec::new(),
        combinations: Vec::new(),
        lines,
    };
    rules::rules(raw, &mut schema, lists, faults);
    schema
}

/// What the patterns of a schema may take in memory, compiled.
const MOST_OF_PATTERNS: usize = 64 << 20;

fn fields_of(raw: &RawRecord, picklists: &[(String, Picklist, bool)], faults: &mut Vec<Fault>) -> Vec<Field> {
    let (mut fields, mut compiled) = (Vec::new(), 0_usize);
    for raw in raw.field.iter().flatten() {
        let field = fields::field(raw, picklists, faults);
        if let Kind::Text(rules) = &field.kind {
            compiled += rules.pattern.as_ref().map_or(0, crate::value::Pattern::memory);
        }
        fields.push(field);
        if compiled > MOST_OF_PATTERNS {
            let message = "the patterns up to this one take more than 64 MiB when they are compiled";
            let fault = Fault::new(raw.span(), message);
            faults.push(fault.help(
                "write shorter ones: [A-Za-z0-9_] is far smaller than \\w, which stands for all letters",
            ));
            break;
        }
    }
    fields
}

fn head(raw: &RawRecord, faults: &mut Vec<Fault>) {
    match &raw.format {
        Some(format) if *format.get_ref() != 1 => {
            let message = format!("format {} is not known", format.get_ref());
            faults.push(Fault::new(format.span(), message).help("this version reads `format = 1`"));
        }
        None => faults.push(Fault::missing(0..0, "format", "`format = 1`")),
        _ => {}
    }
    match &raw.record {
        Some(name) if name.get_ref().trim().is_empty() => {
            faults.push(Fault::new(name.span(), "the record has no name"));
        }
        None => {
            faults.push(Fault::missing(0..0, "record", "the technical name, such as `record = \"tree\"`"))
        }
        _ => {}
    }
    if raw.field.as_ref().is_none_or(Vec::is_empty) {
        let fault = Fault::new(0..0, "the record schema has no field")
            .help("add a `[[field]]` with `name` and `kind`");
        faults.push(Fault { absent: Some("field"), ..fault });
    }
}

/// The numbers of the fields that a list names.
fn named(
    list: Option<&Spanned<Vec<Spanned<String>>>>,
    key: &str,
    names: &[&Spanned<String>],
    fields: &[Field],
    faults: &mut Vec<Fault>,
) -> Vec<usize> {
    let Some(list) = list else { return Vec::new() };
    if list.get_ref().is_empty() {
        let fault = Fault::new(list.span(), format!("`{key}` names no field"));
        faults.push(fault.help(format!("name one at least, or leave `{key}` out")));
    }
    let (mut numbers, mut seen) = (Vec::new(), HashSet::new());
    // The first of two fields of a name, as everywhere.
    let number_of: HashMap<&str, usize> =
        fields.iter().enumerate().rev().map(|(number, field)| (field.name.as_str(), number)).collect();
    for name in list.get_ref() {
        match number_of.get(name.get_ref().as_str()).copied() {
            Some(number) if !seen.insert(number) => {
                faults.push(Fault::new(name.span(), format!("`{}` stands twice in `{key}`", name.get_ref())));
            }
            Some(number) => numbers.push(number),
            None => {
                let fault =
                    Fault::new(name.span(), format!("`{key}` names `{}`, which is no field", name.get_ref()));
                // Perhaps its name could not be read.
                let fault = Fault { absent: Some("name"), ..fault };
                let names = names.iter().map(|name| name.get_ref().as_str());
                faults.push(match likeness::nearest(name.get_ref(), names.map(|name| (name, name))) {
                    Some(near) => fault.help(format!("did you mean `{near}`?")),
                    None => fault.help("use the `name` of a field, not its label"),
                });
            }
        }
    }
    numbers
}

fn no_default_on_key(raw: &RawRecord, number: usize, faults: &mut Vec<Fault>) {
    let field = raw.field.as_ref().and_then(|fields| fields.get(number)).map(Spanned::get_ref);
    if let Some(default) = field.and_then(|field| field.default.as_ref()) {
        let fault = Fault::new(default.span(), "a field of the key takes no default");
        faults.push(fault.help("every record would get the same key; take the default out"));
    }
}

/// Ready rows must carry the key, and could not.
fn no_computed_key(raw: &RawRecord, number: usize, faults: &mut Vec<Fault>) {
    let field = raw.field.as_ref().and_then(|fields| fields.get(number));
    let Some(field) = field.filter(|field| field.get_ref().read_only == Some(RawReadOnly::Always)) else {
        return;
    };
    let place = field.get_ref().name.as_ref().map_or(field.span(), Spanned::span);
    let fault = Fault::new(place, "a field of the key cannot be `read_only`");
    faults.push(fault.help("a load finds records by their key; take `read_only` out, or name another key"));
}

/// Several values in one cell could not be parted again.
fn no_separator_in_codes(
    raw: &RawField,
    field: &Field,
    picklists: &[(String, Picklist, bool)],
    faults: &mut Vec<Fault>,
) {
    let (Some(many), Some(list), Some(named)) = (&field.stated.many, field.stated.picklist, &raw.picklist)
    else {
        return;
    };
    let codes =
        picklists.get(list).into_iter().flat_map(|list| list.1.values.iter()).map(|value| &value.code);
    if let Some(code) = codes.into_iter().find(|code| code.contains(&many.separator)) {
        let message = format!("the code `{code}` holds the separator \"{}\"", many.separator);
        let fault = Fault::new(named.span(), message);
        faults.push(fault.help("several values could not be told apart; choose another `separator`"));
    }
}

/// No two fields share a name, a label or another heading, exactly or loosely.
fn distinct(raw: &RawRecord, faults: &mut Vec<Fault>) {
    type Words = fn(&RawField) -> Vec<&Spanned<String>>;
    let kinds: [(&str, Words); 3] = [
        ("name", |field| field.name.iter().collect()),
        ("label", |field| field.label.iter().collect()),
        ("other heading", |field| field.also.iter().flatten().collect()),
    ];
    for (what, words) in kinds {
        let mut seen: HashMap<String, (usize, &str)> = HashMap::new();
        for (number, field) in raw.field.iter().flatten().enumerate() {
            for word in words(field.get_ref()) {
                let loose = headings::loose(word.get_ref());
                let loose = if loose.is_empty() { word.get_ref().clone() } else { loose };
                let Some((other, before)) = seen.insert(loose, (number, word.get_ref())) else { continue };
                if other == number {
                    continue;
                }
                let same = if before == word.get_ref() { "the same" } else { "nearly the same" };
                let message = format!("two fields have {same} {what}: `{before}` and `{}`", word.get_ref());
                let help = "a heading could not be told to belong to one of them; case, spaces and punctuation do not count";
                faults.push(Fault::new(word.span(), message).label("stands twice").help(help));
            }
        }
    }
}
