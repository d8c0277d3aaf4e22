//! Which columns tell rows apart.

use super::evidence::{ENOUGH, SPOILT};
use crate::draft::model::{Draft, DraftField};
use crate::draft::sample::{Column, Sampled};
use crate::draft::together::{Rows, Runs};
use crate::draft::write;
use crate::headings::calls_a_key;
use crate::numerals::grouped;
use crate::schema::raw::KindName;

/// The rank of a column that no heading calls a key, but whose values have the form of one.
const FORMED: usize = 2;

/// How likely a column is the key, the likeliest first.
pub(super) fn rank(field: &DraftField, column: &Column) -> usize {
    let is_named = calls_a_key(field.label.as_deref().unwrap_or(&field.name));
    let is_code = |text: &str| text.chars().any(char::is_numeric) && !text.contains(char::is_whitespace);
    let is_formed = field.pattern.is_some() || column.first.as_ref().is_some_and(|(_, text)| is_code(text));
    match (is_named, field.kind) {
        (true, KindName::Text) if !is_formed => 1,
        (true, _) => 0,
        (false, KindName::Date | KindName::Datetime | KindName::Time) => 6,
        (false, KindName::Text) if !is_formed => {
            4 + usize::from(column.lengths.is_some_and(|lengths| lengths.1 > 40))
        }
        (false, KindName::Integer) => 3,
        (false, _) => FORMED,
    }
}

/// A column that may tell rows apart.
pub(super) struct Candidate {
    pub(super) number: usize,
    pub(super) rank: usize,
    pub(super) name: String,
    pub(super) kind: KindName,
    pub(super) blank: u64,
    /// The first rows that hold what a row above holds, and how many; nothing where many do.
    pub(super) repeats: Option<(Vec<u32>, usize)>,
}

impl Candidate {
    /// Whether its heading says that it is a key.
    fn is_named(&self) -> bool {
        self.rank < 2
    }

    /// Whether its heading or its form says that it is a key, and not that its few values differ alone.
    fn is_told(&self, rows: u64) -> bool {
        self.is_named() || self.rank == FORMED && rows >= ENOUGH
    }

    /// What spoils it.
    fn spoilt_by(&self) -> String {
        let mut parts = Vec::new();
        if let Some((rows, count)) = self.repeats.as_ref().filter(|repeats| repeats.1 > 0) {
            let rows: Vec<String> = rows.iter().map(|row| grouped(u64::from(*row))).collect();
            let more = if *count > rows.len() { " and others" } else { "" };
            let (noun, verb) = if *count == 1 { ("row", "repeats") } else { ("rows", "repeat") };
            parts.push(format!("{noun} {}{more} {verb} what stands above", rows.join(", ")));
        }
        if self.blank > 0 {
            let noun = if self.blank == 1 { "row leaves" } else { "rows leave" };
            parts.push(format!("{} {noun} it blank", grouped(self.blank)));
        }
        parts.join(", and ")
    }
}

impl Candidate {
    fn is_single(&self) -> bool {
        matches!(self.kind, KindName::Text | KindName::Integer | KindName::Uuid)
    }

    /// How many rows spoil it, as far as they were counted.
    fn spoilers(&self) -> Option<u64> {
        let repeats = self.repeats.as_ref()?;
        Some(self.blank + u64::try_from(repeats.1).unwrap_or(u64::MAX))
    }
}

/// Of a key that was chosen because its values differ, and for nothing else.
const NOT_TOLD: &str = "LOOK: neither its heading nor its form says that it is the key";

/// Names the key of the draft, or says why none is named.
pub(super) fn name_key(sampled: &Sampled, mut keys: Vec<Candidate>, draft: &mut Draft) {
    keys.sort_by_key(|key| key.rank);
    // A column called a key that a few rows spoil: those rows are wrong, not the key.
    let is_nearly = |key: &&Candidate| {
        let most = (sampled.rows * SPOILT).max(100);
        let is_little = key.spoilers().is_some_and(|count| count * 100 <= most);
        sampled.rows >= ENOUGH && key.is_single() && is_little
    };
    let mut found = keys.iter().filter(|key| key.is_single() && key.spoilers() == Some(0));
    if let Some(key) = found.next().filter(|_| sampled.rows > 1) {
        draft.key = vec![key.name.clone()];
        draft.key_remarks.push(format!("filled and different in each of {} rows", grouped(sampled.rows)));
        if !key.is_told(sampled.rows) {
            draft.key_remarks.push(NOT_TOLD.to_owned());
        }
        let others: Vec<&str> = found.map(|other| other.name.as_str()).collect();
        if !others.is_empty() {
            draft.key_remarks.push(format!("so are: {}", others.join(", ")));
        }
        // One that is called a key, where this one is not.
        let called = keys.iter().find(|other| !key.is_named() && other.is_named() && is_nearly(other));
        draft.key_remarks.extend(
            called.map(|called| format!("LOOK: {} is called one, but {}", called.name, called.spoilt_by())),
        );
        return;
    }
    if sampled.rows < 2 {
        return;
    }
    let nearly: Vec<&Candidate> = keys.iter().filter(is_nearly).collect();
    let rows = Rows::of(&sampled.columns);
    let order: Vec<usize> = keys.iter().map(|key| key.number).collect();
    if let Some(runs) = rows.runs(&order) {
        return name_lines(&runs, &keys, draft);
    }
    if let Some(key) = nearly.first().filter(|key| key.is_named()) {
        draft.key = vec![key.name.clone()];
        draft.key_remarks.push(format!("LOOK: likely the key, but {}", key.spoilt_by()));
        return;
    }
    name_several(sampled, &rows, &order, &keys, draft);
    for key in nearly {
        draft.key_remarks.push(format!("LOOK: {} is nearly one, but {}", key.name, key.spoilt_by()));
    }
}

/// The names of columns.
fn names(numbers: &[usize], keys: &[Candidate]) -> Vec<String> {
    let name = |number: &usize| keys.iter().find(|key| key.number == *number).map(|key| key.name.clone());
    numbers.iter().filter_map(name).collect()
}

/// Names the key of records of several rows.
fn name_lines(runs: &Runs, keys: &[Candidate], draft: &mut Draft) {
    let (header, key) = (names(&runs.header, keys), names(&runs.key, keys));
    let of = format!("{} runs of {} rows", grouped(runs.runs as u64), grouped(runs.rows as u64));
    if runs.has_blanks {
        draft.key = header.iter().take(1).cloned().collect();
        let says = format!("LOOK: below the first row of a record its own cells are blank, in {of}");
        draft.key_remarks.push(says);
        draft.lines = Some((header, key));
        return;
    }
    draft.key_remarks.push(format!(
        "LOOK: {} stay the same in {of}: where one record has several lines, take its key from them and add [lines] with \
         header = {} and key = {}",
        header.join(", "),
        write::list(&header),
        write::list(&key),
    ));
    draft.key = header.into_iter().take(1).chain(key).collect();
}

/// Names a key of several columns.
fn name_several(sampled: &Sampled, rows: &Rows, order: &[usize], keys: &[Candidate], draft: &mut Draft) {
    let none = "no column is filled and different in every row: name the key, perhaps of several fields";
    let is_named = |number: &usize| keys.iter().any(|key| key.number == *number && key.is_named());
    let Some(several) = rows.key_of_several(order) else {
        draft.key_remarks.push(none.to_owned());
        return;
    };
    let seen = if (rows.len() as u64) < sampled.rows { "the first " } else { "all " };
    let together = names(&several, keys).join(" and ");
    let count = grouped(rows.len() as u64);
    if several.iter().any(is_named) {
        draft.key = names(&several, keys);
        draft.key_remarks.push(format!(
            "LOOK: no column alone, but {together} together differ in {seen}{count} rows: make sure that they always do"
        ));
    } else {
        // What nobody calls a key may differ by chance.
        draft.key_remarks.push(format!("{none}; {together} together differ in {seen}{count} rows"));
    }
}
