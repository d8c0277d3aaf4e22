use crate::fault::Fault;
use crate::likeness;
use crate::schema::lists::ListSource;
use crate::schema::raw::{RawPicklist, RawRecord, RawValue};
use crate::schema::standard;
use crate::value::{PickValue, Picklist};
use std::ops::Range as Span;
use toml::Spanned;

/// The picklists with their names; the flag tells of a standard list.
pub(super) fn picklists(
    raw: &RawRecord,
    lists: &mut dyn ListSource,
    faults: &mut Vec<Fault>,
) -> Vec<(String, Picklist, bool)> {
    raw.picklist.iter().map(|(name, list)| picklist(name, list, lists, faults)).collect()
}

fn picklist(
    name: &str,
    raw: &Spanned<RawPicklist>,
    lists: &mut dyn ListSource,
    faults: &mut Vec<Fault>,
) -> (String, Picklist, bool) {
    let list = raw.get_ref();
    let sources = [
        list.values.as_ref().map(Spanned::span),
        list.file.as_ref().map(Spanned::span),
        list.standard.as_ref().map(Spanned::span),
    ];
    if let [_, second, ..] = sources.iter().flatten().collect::<Vec<_>>().as_slice() {
        let fault = Fault::new((*second).clone(), format!("the picklist `{name}` has two sources of values"));
        faults.push(fault.help("keep one of `values`, `file` and `standard`"));
    }
    let (values, places) = match (&list.values, &list.file) {
        (Some(values), _) => inline(values.get_ref(), faults),
        (None, Some(_)) => from_file(name, list, lists, faults),
        (None, None) => match &list.standard {
            Some(standard) => {
                let values = standard::values(*standard.get_ref());
                let places = vec![standard.span(); values.len()];
                (values, places)
            }
            None => (Vec::new(), Vec::new()),
        },
    };
    let open = list.open.unwrap_or_default();
    let sourced = list.values.as_ref().is_none_or(|values| values.get_ref().is_empty());
    if values.is_empty() && !open && list.standard.is_none() && list.file.is_none() && sourced {
        let fault = Fault::new(raw.span(), format!("the picklist `{name}` has no values"));
        let fault = fault.help("give it `values` or a `file`, or let it be `open = true`");
        faults.push(Fault { absent: Some("values"), ..fault });
    }
    let mut picklist = Picklist::new(name, open, list.exact.unwrap_or_default(), values);
    // Countries and languages share names; what is not one value alone is found by its code.
    if list.standard.is_none() {
        told_apart(&picklist, &places, faults);
    }
    picklist.is_standard = list.standard.is_some();
    (name.to_owned(), picklist, list.standard.is_some())
}

type Placed = (Vec<PickValue>, Vec<Span<usize>>);

fn inline(values: &[Spanned<RawValue>], faults: &mut Vec<Fault>) -> Placed {
    let mut placed = Placed::default();
    for raw in values {
        let value = raw.get_ref();
        let code = value.code.clone().unwrap_or_default();
        if code.trim().is_empty() {
            faults.push(
                Fault::new(raw.span(), "a value without a code")
                    .help("give it `code`, what the target stores"),
            );
            continue;
        }
        placed.0.push(PickValue {
            code,
            label: value.label.clone(),
            also: value.also.clone().unwrap_or_default(),
            retired: value.retired.unwrap_or_default(),
        });
        placed.1.push(raw.span());
    }
    placed
}

fn from_file(name: &str, list: &RawPicklist, lists: &mut dyn ListSource, faults: &mut Vec<Fault>) -> Placed {
    let Some(file) = &list.file else { return Placed::default() };
    let mut table = match lists
        .table(file.get_ref(), list.sheet.as_ref().map(|sheet| sheet.get_ref().as_str()))
    {
        Ok(table) => table,
        Err(reason) => {
            let fault = Fault::new(file.span(), format!("the values of `{name}` cannot be read: {reason}"));
            faults.push(fault.help("the path is relative to the record schema"));
            return Placed::default();
        }
    };
    let mut column = |key: Option<&Spanned<String>>, fallback: Option<&str>| {
        let wanted = key.map(|key| key.get_ref().as_str()).or(fallback)?;
        let found = table.headings.iter().position(|heading| heading == wanted);
        if found.is_none() {
            let span = key.unwrap_or(file).span();
            let fault = Fault::new(span, format!("{} has no column `{wanted}`", file.get_ref()));
            let headings = table.headings.iter().map(|heading| (heading.as_str(), heading));
            faults.push(match likeness::nearest(wanted, headings) {
                Some(near) => fault.help(format!("did you mean `{near}`?")),
                None => fault.help(format!("its columns are: {}", table.headings.join(", "))),
            });
        }
        found
    };
    let code_column = column(list.code.as_ref(), Some("code"));
    let label_column = column(list.label.as_ref(), None);
    let Some(code_column) = code_column else { return Placed::default() };
    let cell = |row: &[String], column: usize| {
        row.get(column).map(|cell| cell.trim().to_owned()).filter(|cell| !cell.is_empty())
    };
    // A long list is not held twice: each row is let go of when its value is made.
    let rows = std::mem::take(&mut table.rows).into_iter();
    let values: Vec<_> = rows
        .filter_map(|row| {
            let label = label_column.and_then(|column| cell(&row, column));
            Some(PickValue { code: cell(&row, code_column)?, label, ..PickValue::default() })
        })
        .collect();
    if values.is_empty() {
        faults.push(Fault::new(file.span(), format!("{} holds no values", file.get_ref())));
    }
    // All values stand at one place.
    (values, vec![file.span()])
}

/// No word is two codes, two labels or two other words.
fn told_apart(list: &Picklist, places: &[Span<usize>], faults: &mut Vec<Fault>) {
    for (number, which) in list.told_twice() {
        let said = list.values.get(number).and_then(|value| value.words().nth(which));
        let Some((rank, word)) = said else { continue };
        let what = ["codes", "labels", "other words"].get(rank as usize).copied().unwrap_or_default();
        let place = places.get(number).or(places.last()).cloned().unwrap_or_default();
        let fault = Fault::new(place, format!("`{word}` is two {what} of the picklist `{}`", list.name));
        faults.push(fault.label("stands twice").help("take one of them out, or give it another word"));
    }
}
