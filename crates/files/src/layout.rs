//! How a table is laid out: where its headings stand, which rows below them are no records. Read off the
//! first rows, by evidence, and said; whatever is stated comes first.
//!
//! The rows are texts here: delimited text and workbooks are laid out by the same rules.

mod between;
mod fact;
mod headings;
mod units;

pub use fact::{Fact, How};

use crate::Error;
use crate::book::TemplateOf;
use std::path::Path;
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::headings::{HeadingWords, pair};
use tidy_gate_core::plan::PlanPairing;
use tidy_gate_core::schema::{Field, RecordSchema, Required};

/// So many rows are looked at for the headings.
pub(crate) const LOOKED_AT: usize = 50;

/// One of the first rows of a table.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(crate) struct FirstRow {
    /// Its number, as a spreadsheet shows it.
    pub(crate) number: u64,
    /// Its cells, trimmed.
    pub(crate) cells: Vec<String>,
}

impl FirstRow {
    /// How many cells hold something.
    pub(crate) fn filled(&self) -> usize {
        self.cells.iter().filter(|cell| !cell.is_empty()).count()
    }
}

/// What is stated of the rows.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct StatedRows {
    pub(crate) heading_row: Option<u64>,
    pub(crate) first_row: Option<u64>,
    pub(crate) by_position: bool,
    /// Whether the heading row is a plan's: then the file may have changed since.
    pub(crate) is_planned: bool,
    /// The row that holds an example, as a plan says.
    pub(crate) example_row: Option<u64>,
    /// Whether the file is known as a template of the record.
    pub(crate) is_template: bool,
}

/// How the rows are laid out.
#[derive(Debug, Clone, Default)]
pub(crate) struct Rows {
    /// The heading row, by its place among the first rows; none by position, or in a table without rows.
    pub(crate) heading: Option<usize>,
    /// The first row that can be a record, by its number.
    pub(crate) first_row: u64,
    /// How many rows between the headings and the data are counted as left out.
    pub(crate) left_out: u64,
    /// A row among the data that is no record, as a plan says.
    pub(crate) example_row: Option<u64>,
    /// Whether the heading row is like the rows below it.
    pub(crate) is_like_data: bool,
    pub(crate) facts: Vec<Fact>,
    /// Rows left out that have a finding of their own.
    pub(crate) notices: Vec<Finding>,
}

/// Lays out the first rows; `above` many of them were claimed already and hold no headings.
///
/// # Errors
/// When what is stated does not fit the rows.
pub(crate) fn lay_out(
    path: &Path,
    rows: &[FirstRow],
    above: usize,
    stated: StatedRows,
    schema: Option<&RecordSchema>,
) -> Result<Rows, Error> {
    let no_row = |row: u64| Error::NoSuchRow {
        path: path.to_owned(),
        row,
        last: rows.last().map_or(0, |row| row.number),
    };
    let mut found = Rows::default();
    let stated = match moved(rows, above, stated, schema) {
        Some((number, notice)) => {
            found.notices.push(notice);
            let shift = |first: u64| first + number - stated.heading_row.unwrap_or(number).min(first);
            StatedRows {
                heading_row: Some(number),
                first_row: stated.first_row.map(shift).filter(|first| *first > number),
                example_row: stated.example_row.map(shift),
                ..stated
            }
        }
        None => stated,
    };
    let first_filled = rows.iter().skip(above).position(|row| row.filled() > 0).map(|at| at + above);
    if stated.by_position {
        let first =
            stated.first_row.or_else(|| first_filled.and_then(|at| rows.get(at)).map(|row| row.number));
        found.first_row = first.unwrap_or(1);
        let evidence = "as stated; the columns pair by their position".to_owned();
        found.facts.push(Fact { evidence, ..Fact::stated("headings", "none".to_owned()) });
        if stated.first_row.is_some() {
            found.facts.push(Fact::stated("first row", format!("row {}", found.first_row)));
        }
        pass_example(rows, stated, &mut found);
        return Ok(found);
    }
    let heading = match stated.heading_row {
        Some(number) => {
            let at = rows.iter().position(|row| row.number == number).ok_or_else(|| no_row(number))?;
            if rows.get(at).is_some_and(|row| row.filled() == 0) {
                return Err(Error::BlankHeadings { path: path.to_owned(), row: number });
            }
            found.facts.push(Fact::stated("headings", format!("row {number}")));
            Some(at)
        }
        None => headings::find(rows, above, schema).map(|(at, fact)| {
            found.facts.push(fact);
            at
        }),
    };
    let Some(heading) = heading else {
        found.first_row = stated.first_row.unwrap_or(1);
        return Ok(found);
    };
    let heading_number = rows.get(heading).map_or(1, |row| row.number);
    found.heading = Some(heading);
    found.is_like_data = stated.heading_row.is_none() && headings::is_like_data(rows, heading);
    if let Some(fact) = found.facts.last_mut().filter(|_| found.is_like_data) {
        fact.how = How::Guessed;
        fact.evidence.push_str("; it is like the rows below it, so perhaps there are none (--by-position)");
    }
    found.first_row = heading_number + 1;
    match stated.first_row {
        Some(first) if first <= heading_number => {
            return Err(Error::FirstRowAbove { path: path.to_owned(), first, heading: heading_number });
        }
        Some(first) => {
            found.first_row = first;
            found.facts.push(Fact::stated("first row", format!("row {first}")));
        }
        None => between::leave_out(rows, heading, schema, stated.is_template, &mut found),
    }
    pass_example(rows, stated, &mut found);
    Ok(found)
}

/// Passes over the row that a plan calls an example, where it holds anything.
fn pass_example(rows: &[FirstRow], stated: StatedRows, found: &mut Rows) {
    let is_there = |row: &&FirstRow| {
        Some(row.number) == stated.example_row && row.number >= found.first_row && row.filled() > 0
    };
    if let Some(row) = rows.iter().find(is_there) {
        found.example_row = Some(row.number);
        found.notices.push(between::example(row.number, "an example row, as the plan says"));
    }
}

/// The row to which the headings have moved since the plan was made, where the plan's row names hardly a field and
/// another names many.
fn moved(
    rows: &[FirstRow],
    above: usize,
    stated: StatedRows,
    schema: Option<&RecordSchema>,
) -> Option<(u64, Finding)> {
    let planned = stated.heading_row.filter(|_| stated.is_planned)?;
    let words = HeadingWords::of(&schema?.fields);
    let named = |row: &FirstRow| words.named_by(&row.cells);
    let (at, _) = headings::find(rows, above, schema)?;
    let there = rows.get(at).filter(|row| row.number != planned)?;
    let before = rows.iter().find(|row| row.number == planned).map_or(0, named);
    if named(there) < 2 || named(there) < 2 * before {
        return None;
    }
    let message =
        format!("the plan's headings stand in row {planned}; here they stand in row {}", there.number);
    Some((there.number, Finding::new(Code::PlanOutdated, Level::Warn, message)))
}

/// What is to be said of a template that was made for another record or another version of it.
pub(crate) fn outdated(template: &TemplateOf, schema: &RecordSchema) -> Option<Finding> {
    let version = schema.version.as_deref().unwrap_or_default();
    let message = if template.record != schema.record {
        format!(
            "the file was filled on a template of the record {}, not of {}",
            template.record, schema.record
        )
    } else if template.version != version {
        let named = |version: &str| {
            if version.is_empty() { "no version".to_owned() } else { format!("version {version}") }
        };
        format!(
            "the file was filled on a template of {}; the record schema is now of {}",
            named(&template.version),
            named(version)
        )
    } else {
        return None;
    };
    Some(Finding::new(Code::TemplateOutdated, Level::Warn, message))
}

/// Whether a sheet that begins with these rows holds the record's key and half of the fields that it needs; without a
/// key, two fields at least.
pub(crate) fn fits(rows: &[FirstRow], schema: &RecordSchema) -> bool {
    let best = rows.iter().take(LOOKED_AT).max_by_key(|row| {
        let paired = pair(&row.cells, &schema.fields, &PlanPairing::default());
        paired.column_of.iter().flatten().count()
    });
    let Some(best) = best else { return false };
    let column_of = pair(&best.cells, &schema.fields, &PlanPairing::default()).column_of;
    let has = |field: usize| column_of.get(field).is_some_and(Option::is_some);
    let is_needed = |field: &Field| matches!(field.required, Required::Always | Required::WhenAdding);
    let needed: Vec<usize> = schema
        .fields
        .iter()
        .enumerate()
        .filter(|(_, field)| is_needed(field))
        .map(|(number, _)| number)
        .collect();
    let there = needed.iter().filter(|field| has(**field)).count();
    let named = column_of.iter().flatten().count();
    schema.key.iter().all(|field| has(*field))
        && there * 2 >= needed.len()
        && (named > 1 || !schema.key.is_empty())
}

/// The findings for what was guessed.
pub(crate) fn findings(facts: &[Fact]) -> impl Iterator<Item = Finding> {
    facts.iter().filter(|fact| fact.how == How::Guessed).map(|fact| {
        let message = format!("{}: {}; {}", fact.what, fact.choice, fact.evidence);
        let mut finding = Finding::new(Code::LayoutGuessed, Level::Note, message);
        finding.row = fact.row;
        finding
    })
}

#[cfg(test)]
mod tests;
