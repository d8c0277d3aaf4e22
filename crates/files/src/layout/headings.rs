//! The heading row: the one with most cells that name a field, the first of equals; where none does, the first
//! whose shape is that of headings.

use super::fact::Fact;
use super::first_rows::{FirstRow, LOOKED_AT};
use tidy_gate_core::headings::HeadingWords;
use tidy_gate_core::schema::RecordSchema;

/// The place of the heading row among the rows, and why; nothing when no row holds anything.
pub(super) fn find(rows: &[FirstRow], above: usize, schema: Option<&RecordSchema>) -> Option<(usize, Fact)> {
    let looked_at =
        || rows.iter().enumerate().skip(above).take(LOOKED_AT).filter(|(_, row)| row.filled() > 0);
    let (first, _) = looked_at().next()?;
    let named = schema.and_then(|schema| {
        let words = HeadingWords::of(&schema.fields);
        let best = looked_at().map(|(at, row)| (words.named_by(&row.cells), at));
        let best = best.filter(|(named, _)| *named > 0).max_by_key(|(named, at)| (*named, usize::MAX - at));
        // One word alone may stand in any row: it says something only where there is hardly another.
        best.filter(|(named, at)| *named > 1 || rows.get(*at).is_some_and(|row| row.filled() <= 2))
    });
    let (at, evidence) = match named {
        Some((named, at)) => {
            let filled = rows.get(at).map_or(0, FirstRow::filled);
            (at, format!("{named} of its {} name a field of the record", cells(filled)))
        }
        None => {
            let at = by_shape(rows, above).unwrap_or(first);
            let is_shaped = by_shape(rows, above).is_some();
            let why = match (schema, is_shaped) {
                (Some(_), true) => {
                    "no row names two fields of the record; by its shape it holds the headings"
                }
                (None, true) => "by its shape it holds the headings",
                (_, false) => "it is the first; by its shape no row holds headings",
            };
            (at, why.to_owned())
        }
    };
    let number = rows.get(at).map_or(1, |row| row.number);
    let choice = format!("row {number}");
    if at == first {
        return Some((at, Fact::plain("headings", choice, evidence)));
    }
    let passed = rows.iter().take(at).skip(above).filter(|row| row.filled() > 0).count();
    let passed =
        if passed == 1 { "1 row above it is".to_owned() } else { format!("{passed} rows above it are") };
    Some((at, Fact::guessed("headings", choice, format!("{evidence}; {passed} passed over"))))
}

fn cells(count: usize) -> String {
    format!("{count} {}", if count == 1 { "cell" } else { "cells" })
}

/// The first row that is nearly as wide as most and holds hardly anything but words, no two of them the same.
pub(crate) fn by_shape(rows: &[FirstRow], above: usize) -> Option<usize> {
    let mut widths: Vec<usize> =
        rows.iter().skip(above).map(FirstRow::filled).filter(|&width| width > 0).collect();
    widths.sort_unstable();
    let usual = *widths.get(widths.len() / 2)?;
    rows.iter().enumerate().skip(above).take(LOOKED_AT).find_map(|(at, row)| {
        let filled: Vec<_> = row.cells.iter().filter(|cell| !cell.is_empty()).collect();
        let words = filled.iter().filter(|cell| is_wordy(cell)).count();
        let mut different = filled.clone();
        different.sort_unstable();
        different.dedup();
        let is_wide = filled.len() * 10 >= usual * 6 && filled.len() > usize::from(usual > 1);
        (is_wide && words * 10 >= filled.len() * 8 && different.len() * 10 >= filled.len() * 8).then_some(at)
    })
}

/// Whether a row is like those below it: most of its cells that hold digits have the shape of the cells below them.
pub(super) fn is_like_data(rows: &[FirstRow], at: usize) -> bool {
    let Some(heading) = rows.get(at) else { return false };
    let below: Vec<&FirstRow> = rows.iter().skip(at + 1).filter(|row| row.filled() > 0).take(10).collect();
    if below.is_empty() {
        return false;
    }
    let (mut like, mut telling) = (0, 0);
    for (column, cell) in heading.cells.iter().enumerate().filter(|(_, cell)| has_digit(cell)) {
        telling += 1;
        let form = shape(cell);
        let same = below.iter().filter(|row| row.cells.get(column).is_some_and(|cell| shape(cell) == form));
        let filled = below.iter().filter(|row| row.cells.get(column).is_some_and(|cell| !cell.is_empty()));
        let (same, filled) = (same.count(), filled.count());
        like += usize::from(same * 2 > filled && filled > 0);
    }
    // Headings may hold years and numbers of questions, but not mostly.
    like > 0 && like * 2 > telling && telling * 4 >= heading.filled()
}

fn has_digit(cell: &str) -> bool {
    cell.bytes().any(|byte| byte.is_ascii_digit())
}

/// A text with each run of digits and of letters as one.
fn shape(cell: &str) -> String {
    let mut shape = String::new();
    for c in cell.chars() {
        let class = if c.is_ascii_digit() {
            '9'
        } else if c.is_alphabetic() {
            'a'
        } else {
            c
        };
        if !(matches!(class, '9' | 'a') && shape.ends_with(class)) {
            shape.push(class);
        }
    }
    shape
}

/// Whether a cell may be a heading: letters in it, and not too long; no number, date or address.
fn is_wordy(cell: &str) -> bool {
    let letters = cell.chars().filter(|c| c.is_alphabetic()).count();
    let digits = cell.chars().filter(char::is_ascii_digit).count();
    letters > 0 && letters >= digits && cell.chars().count() <= 120 && !cell.contains('@')
}
