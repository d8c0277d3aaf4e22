//! Which fields tell likely duplicates: rows with different keys whose descriptive fields agree.

use super::keyset::KeySet;
use crate::catalogue::{Code, Level};
use crate::mode::Mode;
use crate::schema::{Kind, RecordSchema};
use std::collections::HashMap;

/// So many of the fields must be filled.
pub(super) const LEAST_FILLED: u8 = 2;

/// The combination that tells likely duplicates: the fields that the schema names, or all descriptive ones.
pub(super) fn keyset(schema: &RecordSchema, mode: Mode, column_of: &[Option<usize>]) -> Option<KeySet> {
    // An update carries a part of each record, which need not describe it.
    if schema.key.is_empty() || schema.alike.is_empty() && !mode.adds() {
        return None;
    }
    let is_descriptive = |number: &usize| {
        let kind = schema.fields.get(*number).map(|field| &field.kind);
        let is_kind = matches!(
            kind,
            Some(Kind::Text(_) | Kind::Email(_) | Kind::Phone(_) | Kind::Url(_) | Kind::Date { .. })
        );
        // Where several rows make a record, its header describes it.
        let is_header = schema.lines.as_ref().is_none_or(|lines| lines.header.contains(number));
        is_kind && is_header && !schema.key.contains(number)
    };
    let fields: Vec<usize> = match schema.alike.as_slice() {
        [] => (0..schema.fields.len()).filter(is_descriptive).collect(),
        stated => stated.to_vec(),
    };
    let column = |field: &usize| {
        let is_read_only = schema.fields.get(*field).is_none_or(|field| field.read_only);
        column_of.get(*field).copied().flatten().filter(|_| !is_read_only)
    };
    let (fields, columns): (Vec<_>, Vec<_>) =
        fields.into_iter().filter_map(|field| Some((field, column(&field)?))).unzip();
    // Of stated fields, all must be there: without one of them, more would agree than was meant.
    let is_whole = schema.alike.is_empty() || columns.len() == schema.alike.len();
    (is_whole && columns.len() >= usize::from(LEAST_FILLED)).then_some(KeySet {
        columns,
        fields,
        code: Code::DuplicateLikely,
        level: Level::Warn,
        per_record: schema.lines.is_some(),
        is_outcome: false,
    })
}

/// So many combinations that differ tell rows apart well enough: of ten million rows a thousand then agree with another by
/// chance, and are looked at once more.
const ENOUGH: u64 = 1 << 36;

/// The columns that are summed first, by their place in the combination: those that differ most in the first rows for what
/// they cost. `cost` is that of a column's cell, given its usual length.
pub(super) fn probes(
    keyset: &KeySet,
    sample: &[Vec<String>],
    cost: impl Fn(usize, usize) -> usize,
) -> Vec<usize> {
    let mut all: Vec<(u64, u64, usize)> = Vec::new();
    for (at, column) in keyset.columns.iter().enumerate() {
        let cells: Vec<&str> = sample.iter().filter_map(|row| row.get(*column)).map(String::as_str).collect();
        let differ = differing(&cells);
        let length = cells.iter().map(|cell| cell.len()).sum::<usize>() / cells.len().max(1);
        // Bits that it tells, many times over, for its cost.
        let bits = u64::from(differ.ilog2()) * 4096 + u64::from(differ > 1);
        all.push((bits / cost(*column, length).max(1) as u64, differ, at));
    }
    all.sort_by_key(|(worth, _, at)| (std::cmp::Reverse(*worth), *at));
    let mut combinations = 1_u64;
    let mut probes: Vec<usize> = Vec::new();
    for (_, differ, at) in all {
        if combinations >= ENOUGH && probes.len() >= usize::from(LEAST_FILLED) {
            break;
        }
        combinations = combinations.saturating_mul(differ);
        probes.push(at);
    }
    probes.sort_unstable();
    probes
}

/// One in how many pairs of these cells, blank ones among them, holds the same twice; where none does, as if one did.
fn differing(cells: &[&str]) -> u64 {
    let pairs = |count: usize| (count * count.saturating_sub(1) / 2) as u64;
    let counts = cells.iter().fold(HashMap::new(), |mut counts, cell| {
        *counts.entry(cell).or_insert(0_usize) += 1;
        counts
    });
    let same: u64 = counts.into_values().map(pairs).sum();
    (pairs(cells.len()) / same.max(1)).max(1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn columns_are_summed_until_rows_are_told_apart() {
        // Ordered by what they tell: all different, one of two, the same, blank but for a few.
        let sample: Vec<Vec<String>> = (0..200)
            .map(|row| {
                let few = if row % 50 == 0 { row.to_string() } else { String::new() };
                [
                    row.to_string(),
                    (row % 2).to_string(),
                    "x".to_owned(),
                    few,
                    format!("n{row}"),
                    format!("m{row}"),
                ]
                .to_vec()
            })
            .collect();
        let chosen = |columns: &[usize]| {
            let keyset = KeySet {
                columns: columns.to_vec(),
                fields: columns.to_vec(),
                code: Code::DuplicateLikely,
                level: Level::Warn,
                per_record: false,
                is_outcome: false,
            };
            probes(&keyset, &sample, |_, _| 1)
        };
        assert_eq!(chosen(&[0, 1, 2, 3, 4, 5]), [0, 4, 5], "three of twenty thousand each are enough");
        assert_eq!(chosen(&[2, 1, 0, 3, 4]), [0, 1, 2, 3, 4], "two of them are not");
        assert_eq!(chosen(&[2, 0]), [0, 1]);
    }
}
