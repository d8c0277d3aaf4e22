//! The findings counted, by level, code, field, rule and fields.

use super::v1::{Place, Total};
use crate::catalogue::{Code, Level};
use crate::causes::{Cause, CauseCode};
use crate::finding::{Finding, letter};
use crate::gate::{Counted, Gate};
use crate::headings::Paired;
use crate::run::Outcome;
use std::collections::BTreeMap;

pub(super) type Totals = BTreeMap<Group, Total>;

/// Findings that are counted together: of one level, code, field, rule, and of the same several fields.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Group {
    level: Level,
    code: Code,
    number: Option<usize>,
    field: Option<String>,
    rule: Option<String>,
    fields: Vec<String>,
}

/// What was counted while rows were judged, and what was known before.
pub(super) fn totals(gate: &Gate, outcome: &Outcome) -> Totals {
    let mut totals = Totals::new();
    for (counted, tally) in outcome.tallies.iter() {
        let at = counted.column.checked_sub(1);
        let first = Place {
            row: Some(tally.first).filter(|row| *row > 0),
            column: at.map(|column| column + 1),
            letter: at.filter(|_| !gate.table().is_records()).map(letter),
        };
        let group = group_of(gate, &counted);
        add(&mut totals, group.clone(), tally.count, tally.rows, first);
        let words =
            at.filter(|column| !gate.is_sensitive(*column)).and_then(|column| outcome.words.get(column));
        if let (Some(words), Some(total)) = (words, totals.get_mut(&group)) {
            total.words = words.most_frequent(counted.code);
        }
    }
    for finding in gate.opening() {
        let number = finding.field.as_deref().and_then(|name| gate.schema().field(name));
        count_finding(&mut totals, finding, number);
    }
    totals
}

/// The findings that are counted together with some.
fn group_of(gate: &Gate, counted: &Counted) -> Group {
    let at = counted.column.checked_sub(1);
    let number = at.and_then(|column| match gate.pairing().columns.get(column) {
        Some(Paired::Field { field, .. }) => Some(*field),
        _ => None,
    });
    let field = number.and_then(|field| gate.schema().fields.get(field)).map(|field| field.name.clone());
    let (rule, fields) = gate.made_by(counted);
    Group { level: counted.level, code: counted.code, number, field, rule, fields }
}

/// How many findings of each total the causes explain.
pub(super) fn explained(gate: &Gate, causes: &[Cause], totals: &[Total]) -> Vec<u64> {
    let mut claimed: BTreeMap<Group, u64> = BTreeMap::new();
    for (counted, count) in causes.iter().flat_map(|cause| &cause.claims) {
        *claimed.entry(group_of(gate, counted)).or_default() += count;
    }
    let of_headings = causes.iter().any(|cause| cause.code == CauseCode::RecordWrong);
    let is_of_headings =
        |code| matches!(code, Code::FieldMissing | Code::HeadingUnpaired | Code::HeadingClose);
    let of = |total: &Total| {
        let is_it = |group: &&Group| {
            (group.level, group.code, &group.field, &group.rule, &group.fields)
                == (total.level, total.code, &total.field, &total.rule, &total.fields)
        };
        match of_headings && is_of_headings(total.code) {
            true => total.count,
            false => claimed
                .iter()
                .filter(|claim| is_it(&claim.0))
                .map(|claim| *claim.1)
                .sum::<u64>()
                .min(total.count),
        }
    };
    totals.iter().map(of).collect()
}

pub(super) fn count_finding(totals: &mut Totals, finding: &Finding, number: Option<usize>) {
    let first = Place { row: finding.row, column: finding.column, letter: finding.letter.clone() };
    let group = Group {
        level: finding.level,
        code: finding.code,
        number,
        field: finding.field.clone(),
        rule: finding.rule.clone(),
        fields: finding.fields.clone(),
    };
    add(totals, group, 1, u64::from(finding.row.is_some()), first);
}

fn add(totals: &mut Totals, group: Group, count: u64, rows: u64, first: Place) {
    let Group { level, code, field, rule, fields, .. } = group.clone();
    totals
        .entry(group)
        .and_modify(|total| {
            total.count += count;
            total.rows += rows;
            if (first.row, first.column) < (total.first.row, total.first.column) {
                total.first = first.clone();
            }
        })
        .or_insert_with(|| Total { code, level, field, fields, rule, count, rows, first, words: Vec::new() });
}
