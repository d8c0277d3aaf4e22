//! The findings by level, code and field: how many, where first, and one true example.

use crate::terminal::{cut, shown};
use tidy_gate_core::catalogue::{Code, Level, entry};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::gate::WordCount;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::{Report, Total};

/// So many rows are named.
const MOST_ROWS: usize = 6;

/// The findings of one level, code and field.
#[derive(Debug)]
pub(crate) struct Group<'a> {
    pub(crate) level: Level,
    pub(crate) code: Code,
    /// How many there are.
    pub(crate) count: u64,
    /// The fields they speak of, by the headings of their columns.
    pub(crate) place: String,
    /// A true example, where a cell is told of.
    pub(crate) sample: Option<Sample>,
    /// A true example as a sentence, where none is.
    pub(crate) sentence: Option<String>,
    /// The most frequent of several wrong words.
    pub(crate) words: &'a [WordCount],
    /// Where they stand: the first rows, or the columns whose headings they speak of.
    pub(crate) places: Option<String>,
}

/// An example: the value, why, what was expected, what would fit.
#[derive(Debug)]
pub(crate) struct Sample {
    pub(crate) cell: Cell,
    /// What else is said of it; perhaps nothing.
    pub(crate) more: String,
    pub(crate) expected: Option<String>,
    pub(crate) near: Option<String>,
}

/// What a finding shows of a cell.
#[derive(Debug)]
pub(crate) enum Cell {
    /// Nothing stands there.
    Blank,
    /// Its text.
    Text(String),
    /// What stands there instead of one cell.
    Said(String),
}

/// The groups, what holds rows first; examples for `most` of them.
pub(super) fn groups(report: &Report, most: usize) -> Vec<Group<'_>> {
    // How the file is laid out stands among the facts.
    let is_told = |total: &&Total| !matches!(total.code, Code::LayoutGuessed | Code::FormGuessed);
    let explained = report.explained.iter().copied().chain(std::iter::repeat(0));
    let totals = report.totals.iter().zip(explained).filter(|(total, _)| is_told(total));
    let open = totals.filter(|(total, explained)| *explained < total.count);
    let mut totals: Vec<(&Total, u64)> = open.collect();
    totals.sort_by_key(|(total, explained)| {
        (total.level, total.first.row.is_some(), std::cmp::Reverse(total.count - explained))
    });
    let mut groups = Vec::with_capacity(totals.len());
    for (number, (total, explained)) in totals.into_iter().enumerate() {
        let group = if number < most { whole(report, total) } else { bare(total) };
        // What a cause explains is told there.
        let places = group.places.filter(|_| explained == 0);
        groups.push(Group { count: group.count - explained, places, ..group });
    }
    groups
}

/// Whether a cause explains a finding, as far as that can be told of it: by its word, or by its row.
fn is_explained(report: &Report, finding: &Finding) -> bool {
    report.causes.iter().any(|cause| {
        let is_word = finding.field.as_ref().is_some_and(|field| cause.fields.contains(field))
            && cause
                .words
                .iter()
                .any(|word| word.likely.is_some() && Some(&word.value) == finding.value.as_ref());
        let is_row =
            |[first, last]: &[u64; 2]| finding.row.is_some_and(|row| (*first..=*last).contains(&row));
        is_word || cause.remedy.rows.iter().any(is_row)
    })
}

/// What is counted of a group.
fn bare(total: &Total) -> Group<'_> {
    Group {
        level: total.level,
        code: total.code,
        count: total.count,
        place: String::new(),
        sample: None,
        sentence: None,
        words: &[],
        places: None,
    }
}

fn whole<'a>(report: &'a Report, total: &'a Total) -> Group<'a> {
    let is_of_group = |finding: &&Finding| {
        finding.code == total.code
            && finding.level == total.level
            && finding.field == total.field
            && finding.rule == total.rule
            && (total.rule.is_some() || finding.fields == total.fields)
    };
    let mut examples: Vec<&Finding> = report.findings.iter().filter(is_of_group).collect();
    // What a cause explains is told there.
    let open: Vec<&Finding> =
        examples.iter().copied().filter(|finding| !is_explained(report, finding)).collect();
    if !open.is_empty() {
        examples = open;
    }
    let mut group = Group { place: place(report, total, &examples), ..bare(total) };
    let Some(example) = examples.first() else { return group };
    group.sample = sample(example);
    group.sentence = group.sample.is_none().then(|| sentence(example));
    let of_causes = || report.causes.iter().flat_map(|cause| &cause.words).map(|word| &word.value);
    let is_told = total.words.iter().any(|word| of_causes().any(|told| *told == word.value));
    group.words = if total.words.len() > 1 && !is_told { &total.words } else { &[] };
    group.places = places(report, total, &examples);
    group
}

/// The fields by the headings of their columns.
fn place(report: &Report, total: &Total, examples: &[&Finding]) -> String {
    let column_of = |name: &String| report.columns.iter().find(|column| column.field.as_ref() == Some(name));
    let named = |name: &String| match column_of(name) {
        Some(column) if !column.heading.is_empty() => format!("{} ({})", column.heading, column.letter),
        Some(column) => format!("{name} ({})", column.letter),
        None => name.clone(),
    };
    let several = |names: &[String]| cut(&names.iter().map(named).collect::<Vec<_>>().join(" + "), 60);
    match (&total.field, examples) {
        (Some(field), _) => match column_of(field) {
            Some(column) => format!("{} (column {})", cut(&column.heading, 34), column.letter),
            None => cut(field, 34),
        },
        (None, _) if !total.fields.is_empty() => several(&total.fields),
        (None, [one]) => match (&one.letter, one.fields.as_slice()) {
            (Some(letter), _) => format!("column {letter}"),
            (None, []) => String::new(),
            (None, fields) => several(fields),
        },
        (None, [first, ..]) if !first.fields.is_empty() => several(&first.fields),
        _ => String::new(),
    }
}

/// Nothing when the finding has no value.
fn sample(example: &Finding) -> Option<Sample> {
    let value = example.value.as_deref()?;
    let cell = match value {
        value if example.code == Code::RowWidth => Cell::Said(value.to_owned()),
        "" => Cell::Blank,
        value => Cell::Text(shown(value)),
    };
    let title = entry(example.code).title;
    let more = example.message.strip_prefix(title).unwrap_or(&example.message);
    let more = more.trim_start_matches([':', ' ']);
    // Where nothing else is said of the value, the title says it.
    let more = if more.is_empty() && example.expected.is_none() { title } else { more };
    let (expected, near) = (example.expected.as_deref().map(shown), example.suggestion.as_deref().map(shown));
    Some(Sample { cell, more: shown(more), expected, near })
}

/// The finding as a sentence, for those without a value.
fn sentence(example: &Finding) -> String {
    let heading = example.heading.as_deref().filter(|heading| !heading.is_empty() && example.field.is_none());
    let heading = heading.map(|heading| format!("\"{}\": ", cut(heading, 30))).unwrap_or_default();
    let near = example.suggestion.as_deref().map(|near| format!("; perhaps {near}")).unwrap_or_default();
    shown(&format!("{heading}{}{near}", example.sentence()))
}

/// Where the findings stand: the first rows, or the columns whose headings they speak of.
fn places(report: &Report, total: &Total, examples: &[&Finding]) -> Option<String> {
    let first = total.first.row?;
    let is_of_headings = report.file.heading_row == Some(first)
        && examples.iter().all(|finding| finding.row == Some(first) && finding.letter.is_some());
    let (one, several) = if is_of_headings { ("column", "columns") } else { ("row", "rows") };
    let place = |finding: &&Finding| {
        if is_of_headings {
            return finding.letter.clone();
        }
        let row = finding.row?;
        Some(match finding.row_last {
            Some(last) => format!("{row} to {last}"),
            None => row.to_string(),
        })
    };
    let mut places: Vec<_> = examples.iter().filter_map(place).take(MOST_ROWS).collect();
    places.dedup();
    let all = if is_of_headings { total.count } else { total.rows.max(places.len() as u64) };
    let hidden = all.saturating_sub(places.len() as u64);
    let is_run = examples.first().is_some_and(|finding| finding.row_last.is_some());
    let hidden = if is_run { total.count.saturating_sub(places.len() as u64) } else { hidden };
    let name = if places.len() == 1 && hidden == 0 && !is_run { one } else { several };
    let more = if hidden > 0 { format!(" and {} more", grouped(hidden)) } else { String::new() };
    Some(format!("{name} {}{more}", places.join(", ")))
}
