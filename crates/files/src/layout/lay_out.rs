//! Where the headings stand, which rows below them are no records.

use super::fact::{Fact, How};
use super::first_rows::{FirstRow, Rows, StatedRows};
use super::{between, headings};
use crate::error::Error;
use std::path::Path;
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::headings::HeadingWords;
use tidy_gate_core::schema::RecordSchema;

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
    let mut found = Rows::default();
    let stated = match moved(rows, above, stated, schema) {
        Some((number, notice)) => {
            found.notices.push(notice);
            stated.moved_to(number)
        }
        None => stated,
    };
    if stated.by_position {
        by_position(rows, above, stated, &mut found);
        return Ok(found);
    }
    let heading = match stated.heading_row {
        Some(number) => Some(stated_heading(path, rows, number, &mut found)?),
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

/// Lays out rows without headings.
fn by_position(rows: &[FirstRow], above: usize, stated: StatedRows, found: &mut Rows) {
    let first_filled = rows.iter().skip(above).find(|row| row.filled() > 0).map(|row| row.number);
    found.first_row = stated.first_row.or(first_filled).unwrap_or(1);
    let evidence = "as stated; the columns pair by their position".to_owned();
    found.facts.push(Fact { evidence, ..Fact::stated("headings", "none".to_owned()) });
    if stated.first_row.is_some() {
        found.facts.push(Fact::stated("first row", format!("row {}", found.first_row)));
    }
    pass_example(rows, stated, found);
}

/// The place of the heading row that is stated.
fn stated_heading(path: &Path, rows: &[FirstRow], number: u64, found: &mut Rows) -> Result<usize, Error> {
    let Some(at) = rows.iter().position(|row| row.number == number) else {
        let last = rows.last().map_or(0, |row| row.number);
        return Err(Error::NoSuchRow { path: path.to_owned(), row: number, last });
    };
    if rows.get(at).is_some_and(|row| row.filled() == 0) {
        return Err(Error::BlankHeadings { path: path.to_owned(), row: number });
    }
    found.facts.push(Fact::stated("headings", format!("row {number}")));
    Ok(at)
}

impl StatedRows {
    /// The same for headings that stand in another row now.
    fn moved_to(self, number: u64) -> Self {
        let shift = |first: u64| first + number - self.heading_row.unwrap_or(number).min(first);
        Self {
            heading_row: Some(number),
            first_row: self.first_row.map(shift).filter(|first| *first > number),
            example_row: self.example_row.map(shift),
            ..self
        }
    }
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
