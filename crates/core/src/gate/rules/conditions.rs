//! Conditions between the fields of one row: what must hold, what is required and what is forbidden where another holds.

use super::row_seen::{Filled, RowSeen, RowsSeen};
use crate::catalogue::{Code, Level};
use crate::condition::{Condition, Holds};
use crate::finding::Finding;
use crate::gate::compiled::Compiled;
use crate::gate::quick::{Quick, Says};
use crate::schema::{Asks, Rule};

/// A rule with the quick ways of its conditions.
#[derive(Debug)]
pub(super) struct Ready {
    when: Quick,
    must: Quick,
}

/// The rules of a gate, ready.
pub(super) fn compile(gate: &Compiled) -> Vec<Ready> {
    let quick = |rule: &Rule, condition: &Condition| match rule.sees_cells {
        true => Quick::Slow,
        false => Quick::of(&condition.root, gate),
    };
    let ready = |rule: &Rule| Ready {
        when: rule.when.as_ref().map_or(Quick::Slow, |when| quick(rule, when)),
        must: match &rule.asks {
            Asks::Must(must, _) => quick(rule, must),
            Asks::Require(_) | Asks::Forbid(_) => Quick::Slow,
        },
    };
    gate.schema.rules.iter().map(ready).collect()
}

/// Takes a broken rule: the row, the column (from 1; 0 for the row as a whole), the number of the rule, code and level.
pub(super) type Push<'a> = &'a mut dyn FnMut(usize, usize, usize, Code, Level);

/// Marks the rows that break a rule. Rule by rule: most rows need no more than the bytes of a few cells.
pub(super) fn mark(rules: &[Ready], rows: RowsSeen<'_>, push: Push<'_>) {
    let (mut applies, mut kept) = (Vec::new(), Vec::new());
    for (number, (rule, ready)) in rows.gate.schema.rules.iter().zip(rules).enumerate() {
        let block = (rows.block, rows.gate.table.dialect);
        ready.when.tell(block, rows.cells, rows.stopped, &mut applies);
        ready.must.tell(block, rows.cells, rows.stopped, &mut kept);
        for (row, (applies, kept)) in applies.iter().zip(&kept).enumerate() {
            // What cannot be told breaks no rule, and makes none apply.
            let is_kept = matches!(kept, Says::Yes | Says::Unknown);
            if is_kept || rule.when.is_some() && matches!(applies, Says::No | Says::Unknown) {
                continue;
            }
            let row = RowsSeen { sees_cells: rule.sees_cells, ..rows }.row(row);
            if rule.when.as_ref().is_none_or(|when| row.holds(when, *applies) == Holds::Yes) {
                mark_row((number, rule), &row, *kept, push);
            }
        }
    }
}

/// Marks a row to which a rule applies.
fn mark_row((number, rule): (usize, &Rule), row: &RowSeen<'_>, kept: Says, push: Push<'_>) {
    let gate = row.gate;
    let mut each = |fields: &[usize], wanted: fn(Filled) -> bool, code: Code| {
        for field in fields.iter().filter(|field| wanted(row.filled(**field))) {
            // That a needed field has no column is told once.
            if gate.column_of(*field).is_none() && gate.is_needed(*field) {
                continue;
            }
            let column = gate.column_of(*field).map_or(0, |column| column + 1);
            push(row.row, column, number, code, rule.level);
        }
    };
    match &rule.asks {
        Asks::Require(fields) => each(fields, |filled| filled == Filled::No, Code::RuleRequired),
        Asks::Forbid(fields) => each(fields, |filled| filled == Filled::Yes, Code::RuleForbidden),
        Asks::Must(must, _) => {
            if row.holds(must, kept) == Holds::No {
                push(row.row, 0, number, Code::RuleBroken, rule.level);
            }
        }
    }
}

/// Puts a condition that does not hold into words; gives what the row holds.
pub(super) fn describe_broken(row: &RowSeen<'_>, number: usize, finding: &mut Finding) -> Option<String> {
    let rule = row.gate.schema.rules.get(number)?;
    let Asks::Must(_, text) = &rule.asks else { return None };
    let fields = rule.fields();
    finding.fields = row.names(&fields);
    finding.message = rule.message.clone().unwrap_or_else(|| format!("not so: {}", rule.name));
    finding.rule = Some(rule.name.clone());
    finding.expect(text.clone());
    Some(row.shown(&fields))
}

/// Puts a field that is required or forbidden here into words.
pub(super) fn describe_asked(
    row: &RowSeen<'_>,
    (number, code): (usize, Code),
    has_column: bool,
    finding: &mut Finding,
) -> Option<()> {
    let rule = row.gate.schema.rules.get(number)?;
    let what = if code == Code::RuleRequired { "required here" } else { "must be blank here" };
    finding.message = format!("{what}: {}", rule.message.as_ref().unwrap_or(&rule.name));
    finding.rule = Some(rule.name.clone());
    if let (Asks::Require(fields), false) = (&rule.asks, has_column) {
        // Fields without a column.
        let is_absent = |field: &usize| row.gate.column_of(*field).is_none();
        finding.fields = row.names(&fields.iter().copied().filter(is_absent).collect::<Vec<_>>());
    }
    Some(())
}
