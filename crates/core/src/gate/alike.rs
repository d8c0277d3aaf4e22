//! Which fields tell likely duplicates: rows with different keys whose descriptive fields agree.

use super::keyset::KeySet;
use crate::catalogue::{Code, Level};
use crate::mode::Mode;
use crate::schema::{Kind, RecordSchema};
use std::collections::HashSet;

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

/// So many different combinations in the first rows of a file tell its rows apart well enough: of ten million rows one in a
/// thousand then agrees with another by chance, and is looked at once more.
const ENOUGH: usize = 1 << 32;

/// The columns that are summed first, by their place in the combination: those that differ most in the first rows for what
/// they cost. `cost` is that of a column's cell, given its usual length.
pub(super) fn probes(
    keyset: &KeySet,
    sample: &[Vec<String>],
    cost: impl Fn(usize, usize) -> usize,
) -> Vec<usize> {
    let look_at = |column: usize| {
        let cells = || sample.iter().filter_map(|row| row.get(column)).filter(|cell| !cell.is_empty());
        let length = cells().map(String::len).sum::<usize>() / sample.len().max(1);
        (cells().collect::<HashSet<_>>().len(), cost(column, length).max(1))
    };
    let mut all: Vec<(u32, usize, usize)> = Vec::new();
    for (at, column) in keyset.columns.iter().enumerate() {
        let (distinct, cost) = look_at(*column);
        // Bits that it tells, many times over, for its cost.
        let bits = distinct.max(1).ilog2() * 4096 + u32::from(distinct > 1);
        all.push((bits / u32::try_from(cost).unwrap_or(u32::MAX), distinct, at));
    }
    all.sort_by_key(|(worth, _, at)| (std::cmp::Reverse(*worth), *at));
    let mut combinations = 1_usize;
    let mut probes: Vec<usize> = Vec::new();
    for (_, distinct, at) in all {
        if combinations >= ENOUGH && probes.len() >= usize::from(LEAST_FILLED) {
            break;
        }
        combinations = combinations.saturating_mul(distinct.max(1));
        probes.push(at);
    }
    probes.sort_unstable();
    probes
}
