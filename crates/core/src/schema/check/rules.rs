//! Rules, blocks and combinations: what they name, and the conditions that they state.

use crate::catalogue::Level;
use crate::condition::{self, Condition};
use crate::fault::Fault;
use crate::likeness;
use crate::schema::lists::ListSource;
use crate::schema::raw::{RawCombination, RawLevel, RawRecord, RawRule, RawSees, RawTogether};
use crate::schema::record::{Asks, Combination, RecordSchema, Rule, Together};
use crate::value::Match;
use std::collections::BTreeSet;
use std::ops::Range as Span;
use toml::Spanned;

pub(super) fn rules(
    raw: &RawRecord,
    schema: &mut RecordSchema,
    lists: &mut dyn ListSource,
    faults: &mut Vec<Fault>,
) {
    let rules: Vec<Rule> = raw.rule.iter().flatten().filter_map(|one| rule(one, schema, faults)).collect();
    let blocks = raw.together.iter().flatten().filter_map(|one| together(one, schema, faults)).collect();
    let combinations =
        raw.combination.iter().flatten().filter_map(|one| combination(one, schema, lists, faults)).collect();
    (schema.rules, schema.blocks, schema.combinations) = (rules, blocks, combinations);
}

fn name(named: &Option<Spanned<String>>, place: Span<usize>, what: &str, faults: &mut Vec<Fault>) -> String {
    match named {
        Some(name) => name.get_ref().clone(),
        None => {
            faults.push(Fault::missing(
                place,
                "name",
                &format!("a `name` for the {what}, which messages use"),
            ));
            String::new()
        }
    }
}

/// The fields that a list names.
fn fields(
    list: Option<&Spanned<Vec<Spanned<String>>>>,
    schema: &RecordSchema,
    faults: &mut Vec<Fault>,
) -> Vec<usize> {
    let mut numbers = Vec::new();
    for name in list.iter().flat_map(|list| list.get_ref()) {
        match schema.field(name.get_ref()) {
            Some(number) if numbers.contains(&number) => {
                faults.push(Fault::new(name.span(), format!("`{}` stands twice", name.get_ref())));
            }
            Some(number) => numbers.push(number),
            None => {
                let fault = Fault::new(name.span(), format!("the record has no field `{}`", name.get_ref()));
                let names = schema.fields.iter().map(|field| (field.name.as_str(), &field.name));
                faults.push(match likeness::nearest(name.get_ref(), names) {
                    Some(near) => fault.help(format!("did you mean `{near}`?")),
                    None => fault.help("use the `name` of a field, not its label"),
                });
            }
        }
    }
    numbers
}

/// Reads a condition; its faults are marked where they stand in the text, if that can be told.
pub(crate) fn condition(
    text: &Spanned<String>,
    schema: &RecordSchema,
    faults: &mut Vec<Fault>,
) -> Option<Condition> {
    condition::parse(text.get_ref(), schema)
        .map_err(|found| {
            let span = text.span();
            // The text stands behind one quote, where nothing in it is escaped.
            let is_plain = span.len() == text.get_ref().len() + 2;
            let place = match found
                .at
                .filter(|at| is_plain && text.get_ref().is_ascii() && *at < text.get_ref().len())
            {
                Some(at) => span.start + 1 + at..span.end - 1,
                None => span,
            };
            let fault = Fault::new(place, found.message);
            faults.push(match found.help {
                Some(help) => fault.help(help),
                None => fault,
            });
        })
        .ok()
}

fn rule(one: &Spanned<RawRule>, schema: &RecordSchema, faults: &mut Vec<Fault>) -> Option<Rule> {
    let (place, raw) = (one.span(), one.get_ref());
    let name = name(&raw.name, place.clone(), "rule", faults);
    let when = raw.when.as_ref().map(|when| condition(when, schema, faults));
    let asked = [raw.require.is_some(), raw.forbid.is_some(), raw.must.is_some()];
    match asked.iter().filter(|asked| **asked).count() {
        0 => {
            let fault = Fault::new(place, format!("the rule \"{name}\" asks nothing"));
            faults.push(fault.help("add one of `require`, `forbid` and `must`"));
            return None;
        }
        1 => {}
        _ => {
            let fault = Fault::new(place, format!("the rule \"{name}\" asks two things"));
            faults.push(
                fault.help("keep one of `require`, `forbid` and `must`, and make another rule of the other"),
            );
            return None;
        }
    }
    let asks = match (&raw.require, &raw.forbid, &raw.must) {
        (Some(list), ..) => Asks::Require(fields(Some(list), schema, faults)),
        (_, Some(list), _) => Asks::Forbid(fields(Some(list), schema, faults)),
        (.., Some(must)) => Asks::Must(condition(must, schema, faults)?, must.get_ref().clone()),
        _ => return None,
    };
    let level = match raw.level {
        None | Some(RawLevel::Stop) => Level::Stop,
        Some(RawLevel::Warn) => Level::Warn,
        Some(RawLevel::Note) => Level::Note,
    };
    let when = match when {
        Some(None) => return None,
        Some(when) => when,
        None => None,
    };
    Some(Rule {
        name,
        when,
        asks,
        level,
        sees_cells: raw.sees == Some(RawSees::Cells),
        message: raw.message.clone(),
    })
}

fn together(one: &Spanned<RawTogether>, schema: &RecordSchema, faults: &mut Vec<Fault>) -> Option<Together> {
    let (place, raw) = (one.span(), one.get_ref());
    let name = name(&raw.name, place.clone(), "block", faults);
    let numbers = fields(raw.fields.as_ref(), schema, faults);
    if raw.fields.as_ref().is_none_or(|fields| fields.get_ref().len() < 2) {
        let fault = Fault::new(place, format!("the block \"{name}\" has fewer than two fields"));
        faults.push(fault.help("name them in `fields`"));
        return None;
    }
    let needs = match &raw.needs {
        Some(needs) => fields(Some(needs), schema, faults),
        None => numbers.clone(),
    };
    for name in raw.needs.iter().flat_map(|needs| needs.get_ref()) {
        if schema.field(name.get_ref()).is_some_and(|number| !numbers.contains(&number)) {
            faults.push(Fault::new(
                name.span(),
                format!("`{}` is none of the block's `fields`", name.get_ref()),
            ));
        }
    }
    Some(Together { name, fields: numbers, needs })
}

fn combination(
    one: &Spanned<RawCombination>,
    schema: &RecordSchema,
    lists: &mut dyn ListSource,
    faults: &mut Vec<Fault>,
) -> Option<Combination> {
    let (place, raw) = (one.span(), one.get_ref());
    let name = name(&raw.name, place.clone(), "combination", faults);
    let numbers = fields(raw.fields.as_ref(), schema, faults);
    if raw.fields.as_ref().is_none_or(|fields| fields.get_ref().len() < 2) {
        faults.push(Fault::new(place, format!("the combination \"{name}\" has fewer than two fields")));
        return None;
    }
    if raw.fields.as_ref().is_some_and(|fields| fields.get_ref().len() != numbers.len()) {
        return None;
    }
    let mut allowed = BTreeSet::new();
    match (&raw.allowed, &raw.file) {
        (Some(_), Some(file)) => {
            faults.push(Fault::new(file.span(), "the combination has two sources: keep `allowed` or `file`"));
        }
        (None, None) => {
            let fault = Fault::new(place, format!("the combination \"{name}\" permits nothing"));
            faults.push(fault.help("add `allowed`, or a `file` with the fields' names as headings"));
        }
        (Some(rows), None) => {
            for row in rows {
                if row.get_ref().len() != numbers.len() {
                    let message = format!("{} values for {} fields", row.get_ref().len(), numbers.len());
                    faults.push(Fault::new(row.span(), message));
                    continue;
                }
                allowed.extend(codes(row.get_ref(), &numbers, schema, &row.span(), faults));
            }
        }
        (None, Some(file)) => allowed.extend(from_file(file, &numbers, schema, lists, faults)?),
    }
    Some(Combination { name, fields: numbers, allowed: allowed.into() })
}

/// The combinations that a file lists under the names of the fields.
fn from_file(
    file: &Spanned<String>,
    numbers: &[usize],
    schema: &RecordSchema,
    lists: &mut dyn ListSource,
    faults: &mut Vec<Fault>,
) -> Option<Vec<Vec<String>>> {
    let table = match lists.table(file.get_ref(), None) {
        Ok(table) => table,
        Err(reason) => {
            faults.push(Fault::new(file.span(), format!("the combinations cannot be read: {reason}")));
            return Some(Vec::new());
        }
    };
    let column = |number: &usize| {
        let name = schema.fields.get(*number).map(|field| &field.name);
        table.headings.iter().position(|heading| Some(heading) == name)
    };
    let Some(columns) = numbers.iter().map(column).collect::<Option<Vec<usize>>>() else {
        let message = format!("{} has no column for each of the fields", file.get_ref());
        faults.push(Fault::new(file.span(), message).help("its headings are the names of the fields"));
        return None;
    };
    let mut allowed = Vec::new();
    for row in &table.rows {
        let values: Vec<String> =
            columns.iter().map(|column| row.get(*column).cloned().unwrap_or_default()).collect();
        if values.iter().all(|value| !value.is_empty()) {
            allowed.extend(codes(&values, numbers, schema, &file.span(), faults));
        }
    }
    Some(allowed)
}

/// The codes of a permitted row; a value off its list is a fault.
fn codes(
    values: &[String],
    fields: &[usize],
    schema: &RecordSchema,
    place: &Span<usize>,
    faults: &mut Vec<Fault>,
) -> Option<Vec<String>> {
    let mut row = Vec::new();
    for (value, number) in values.iter().zip(fields) {
        let list = schema.fields.get(*number).and_then(|field| field.stated.picklist);
        let list = list.and_then(|list| schema.picklists.get(list));
        row.push(match list.map(|list| (list, list.find(value))) {
            Some((list, Match::Value(found))) => list.values.get(found)?.code.clone(),
            Some((list, _)) if !list.open && !list.values.is_empty() => {
                let fault =
                    Fault::new(place.clone(), format!("`{value}` is not on the picklist {}", list.name));
                let words = list.values.iter().map(|value| (value.code.as_str(), &value.code));
                faults.push(match likeness::nearest(value, words) {
                    Some(near) => fault.help(format!("did you mean `{near}`?")),
                    None => fault,
                });
                return None;
            }
            _ => value.clone(),
        });
    }
    Some(row)
}
