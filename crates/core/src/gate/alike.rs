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

/// So many different combinations in the first rows of a file tell its rows apart well enough.
const ENOUGH: usize = 1_000_000;

/// The columns that are summed first, by their place in the combination: those that differ most in the first rows.
pub(super) fn probes(keyset: &KeySet, sample: &[Vec<String>]) -> Vec<usize> {
    let distinct = |column: usize| {
        let cells = sample.iter().filter_map(|row| row.get(column)).filter(|cell| !cell.is_empty());
        cells.collect::<HashSet<_>>().len()
    };
    let mut all: Vec<(usize, usize)> =
        keyset.columns.iter().enumerate().map(|(at, column)| (distinct(*column), at)).collect();
    all.sort_by(|one, other| other.cmp(one));
    let mut combinations = 1_usize;
    let mut probes: Vec<usize> = Vec::new();
    for (distinct, at) in all {
        if combinations >= ENOUGH && probes.len() >= usize::from(LEAST_FILLED) {
            break;
        }
        combinations = combinations.saturating_mul(distinct.max(1));
        probes.push(at);
    }
    probes.sort_unstable();
    probes
}
