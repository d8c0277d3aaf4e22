//! What a column of texts asks.

use super::evidence::{ENOUGH, shortened};
use crate::draft::model::{Draft, DraftField};
use crate::draft::sample::Column;
use crate::likeness::unaccented;
use crate::numerals::grouped;
use crate::schema::raw::KindName;
use crate::value::suspicion;
use std::collections::HashMap;

/// Text: a picklist where few values come again and again, else its form and its length.
pub(super) fn texts(
    field: &mut DraftField,
    column: &Column,
    is_coded: bool,
    is_evident: bool,
    draft: &mut Draft,
) {
    if let Some((mark, parts)) = parted(column) {
        field.remarks.push(format!("several values with \"{mark}\" between, {} of them", parts.len()));
        let parts: Vec<(&str, u64)> = parts.iter().map(|part| (part.as_str(), 2)).collect();
        listed(field, &parts, is_evident, draft);
        field.many = Some((mark.to_string(), None));
        return;
    }
    let is_short = column.lengths.is_some_and(|lengths| lengths.1 <= 40);
    if let Some(values) = column.values()
        && is_short
        && !is_coded
    {
        let spellings = Spelling::of(&values);
        let once = spellings.iter().filter(|spelling| spelling.count == 1).count() as u64;
        let wordy = values.iter().filter(|value| value.0.split_whitespace().count() > 4).count();
        let is_list = spellings.len() > 1
            && spellings.len() <= 50
            && spellings.len() as u64 * 5 <= column.filled
            // What people write freely comes once, or in sentences.
            && once * 10 <= column.filled
            && wordy * 5 <= values.len();
        if is_list {
            return listed(field, &values, is_evident, draft);
        }
    }
    if let Some(pattern) = column.places().filter(|_| column.filled >= ENOUGH).and_then(pattern) {
        let says = format!("each of {} values has this form", grouped(column.filled));
        field.remarks.push(says);
        field.pattern = Some(pattern);
        return;
    }
    if let Some((least, most)) = column.lengths {
        let steps = [1, 2, 5, 10, 20, 50, 100, 200, 255, 500, 1_000, 2_000, 4_000, 10_000, 32_000];
        let max = steps.into_iter().find(|step| *step >= most).filter(|_| is_evident);
        field.remarks.push(format!(
            "{} to {} characters{}",
            grouped(least),
            grouped(most),
            if is_evident { "" } else { ": too little to go by for a limit" }
        ));
        field.length.1 = max.and_then(|max| u32::try_from(max).ok());
    }
}

/// A value with the other spellings of it: in another case, with other spaces or accents.
struct Spelling<'a> {
    value: &'a str,
    count: u64,
    others: Vec<&'a str>,
}

impl<'a> Spelling<'a> {
    /// The most frequent spelling of each value comes first.
    fn of(values: &[(&'a str, u64)]) -> Vec<Self> {
        let mut order: Vec<String> = Vec::new();
        let mut found: HashMap<String, Self> = HashMap::new();
        for (value, count) in values {
            let bare: String = unaccented(value).filter(|c| !c.is_whitespace()).collect();
            let folded = bare.to_lowercase();
            if let Some(known) = found.get_mut(&folded) {
                known.count += count;
                known.others.push(value);
            } else {
                order.push(folded.clone());
                found.insert(folded, Self { value, count: *count, others: Vec::new() });
            }
        }
        order.iter().filter_map(|folded| found.remove(folded)).collect()
    }
}

/// A picklist of these values, the most frequent first; closed only where there is enough to go by.
fn listed(field: &mut DraftField, values: &[(&str, u64)], is_evident: bool, draft: &mut Draft) {
    let mut spellings = Spelling::of(values);
    let rare: Vec<String> = spellings
        .iter()
        .filter(|spelling| spelling.count == 1)
        .map(|spelling| format!("\"{}\"", shortened(spelling.value)))
        .collect();
    if !rare.is_empty() && rare.len() <= 8 {
        field.remarks.push(format!("LOOK: only once each: {}", rare.join(", ")));
    }
    if let Some((formula, _)) = values.iter().find(|value| suspicion::is_formula_like(value.0)) {
        field.remarks.push(format!(
            "LOOK: \"{}\" would run as a formula when a spreadsheet opens the file",
            shortened(formula)
        ));
    }
    spellings.sort_by_key(|spelling| spelling.value);
    for spelling in spellings.iter().filter(|spelling| !spelling.others.is_empty()) {
        let others: Vec<String> =
            spelling.others.iter().map(|other| format!("\"{}\"", shortened(other))).collect();
        let says = format!("LOOK: {} taken for \"{}\"", others.join(", "), shortened(spelling.value));
        field.remarks.push(says);
    }
    let codes = spellings.iter().map(|spelling| (spelling.value.to_owned(), None)).collect();
    let name = draft.list(&field.name.clone(), codes);
    if let Some(list) = draft.picklists.iter_mut().find(|list| list.name == name) {
        let also = spellings.iter().flat_map(|spelling| {
            spelling.others.iter().map(|other| (spelling.value.to_owned(), (*other).to_owned()))
        });
        let new: Vec<(String, String)> = also.filter(|pair| !list.also.contains(pair)).collect();
        list.also.extend(new);
        if !is_evident && list.remarks.is_empty() {
            list.open = true;
            list.remarks.push("LOOK: left open, since too few rows were seen: is the list whole?".to_owned());
        }
    }
    field.kind = KindName::Picklist;
    field.picklist = Some(name);
}

/// The mark between the values of cells that hold several, and the different parts.
fn parted(column: &Column) -> Option<(char, Vec<String>)> {
    let values = column.values()?;
    let cells_with = |mark: char| -> u64 {
        values.iter().filter(|value| value.0.contains(mark)).map(|value| value.1).sum()
    };
    let marks = [';', '|'].map(|mark| (mark, cells_with(mark)));
    let (mark, with_mark) =
        marks.into_iter().filter(|(_, count)| *count > 0).max_by_key(|(_, count)| *count)?;
    let mut parts: Vec<String> = Vec::new();
    for (value, _) in &values {
        for part in value.split(mark).map(str::trim).filter(|part| !part.is_empty()) {
            if !parts.iter().any(|known| known == part) {
                parts.push(part.to_owned());
            }
        }
    }
    parts.sort();
    let is_list = with_mark * 10 >= column.filled
        && parts.len() <= 40
        && parts.len() < values.len().max(2)
        && parts.iter().all(|part| part.chars().count() <= 40);
    is_list.then_some((mark, parts))
}

/// The pattern of values of one length: what never changes, digits, letters; only where digits are among them.
fn pattern(places: &[(u8, u8)]) -> Option<String> {
    let class = |&(low, high): &(u8, u8)| {
        if low == high && !low.is_ascii_digit() {
            let c = char::from(low);
            return Some(if r"\.+*?()|[]{}^$".contains(c) { format!("\\{c}") } else { c.to_string() });
        }
        let within = |from: u8, to: u8| low >= from && high <= to;
        if within(b'0', b'9') {
            Some("[0-9]".to_owned())
        } else if within(b'A', b'Z') {
            Some("[A-Z]".to_owned())
        } else if within(b'a', b'z') {
            Some("[a-z]".to_owned())
        } else {
            None
        }
    };
    let parts: Vec<String> = places.iter().map(class).collect::<Option<_>>()?;
    if !parts.iter().any(|part| part == "[0-9]") {
        return None;
    }
    let mut pattern = String::new();
    for run in parts.chunk_by(|one, other| one == other && one.starts_with('[')) {
        let [first, ..] = run else { continue };
        pattern.push_str(first);
        if run.len() > 1 {
            pattern.push_str(&format!("{{{}}}", run.len()));
        }
    }
    Some(pattern)
}
