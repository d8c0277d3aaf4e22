//! What is asked of whole rows, one room a form of rule. A new form is a file here, with what it compiles, marks and says,
//! and a line in each of the three functions below.

mod combinations;
mod conditions;
mod row_seen;
mod scope;
mod together;

use super::compiled::Compiled;
use super::mark::Mark;
use super::places::LineCounter;
use super::standing::There;
use crate::block::Block;
use crate::catalogue::{Code, Level};
use crate::condition::Holds;
use crate::finding::Finding;
use crate::rows::Cells;
use row_seen::{Defaults, RowsSeen};

/// The rules of a gate, ready.
#[derive(Debug)]
pub(super) struct RowRules {
    conditions: Vec<conditions::Ready>,
    scope: scope::Scope,
    defaults: Defaults,
}

impl RowRules {
    /// The rules of a gate; nothing where there are none.
    pub(super) fn of(gate: &Compiled) -> Option<Self> {
        let schema = &gate.schema;
        let is_empty = schema.rules.is_empty()
            && schema.blocks.is_empty()
            && schema.combinations.is_empty()
            && gate.scope_condition().is_none();
        (!is_empty).then(|| Self {
            conditions: conditions::compile(gate),
            scope: scope::Scope::of(gate),
            defaults: Defaults::of(gate),
        })
    }

    fn seen<'a>(
        &'a self,
        gate: &'a Compiled,
        block: &'a Block,
        (cells, there): (&'a Cells, &'a [There<'a>]),
    ) -> RowsSeen<'a> {
        RowsSeen {
            gate,
            defaults: &self.defaults,
            block,
            cells,
            there,
            stopped: &[],
            judges: false,
            sees_cells: false,
        }
    }

    /// The judged rows that the file may not change. What is wrong with their cells is not known yet.
    pub(super) fn outside(
        &self,
        gate: &Compiled,
        block: &Block,
        seen: (&Cells, &[There<'_>]),
        rows: &mut Vec<u32>,
    ) {
        rows.clear();
        self.scope.outside(RowsSeen { judges: true, ..self.seen(gate, block, seen) }, rows);
    }

    /// Whether the condition on what may be changed holds for a row as it stands.
    pub(super) fn is_within(&self, gate: &Compiled, block: &Block, cells: &Cells, row: usize) -> bool {
        let rows = RowsSeen { sees_cells: true, ..self.seen(gate, block, (cells, &[])) };
        gate.scope_condition().is_none_or(|condition| condition.holds(&rows.row(row)) == Holds::Yes)
    }

    /// Marks the rows of a block; the marks of its cells are there already.
    pub(super) fn mark(
        &self,
        gate: &Compiled,
        block: &Block,
        (cells, there): (&Cells, &[There<'_>]),
        marks: &mut Vec<Mark>,
    ) {
        let is_stopped = |mark: &&Mark| mark.level == Level::Stop && mark.column > 0;
        let mut stopped: Vec<(u32, u16)> =
            marks.iter().filter(is_stopped).map(|mark| (mark.row, mark.column)).collect();
        stopped.sort_unstable();
        let rows = RowsSeen { stopped: &stopped, ..self.seen(gate, block, (cells, there)) };
        let mut push = |row: usize, column: usize, rule: usize, code: Code, level: Level| {
            marks.push(Mark::at(cells, row, column, code, gate.told_level(code, level)).by(rule));
        };
        conditions::mark(&self.conditions, rows, &mut push);
        if gate.schema.blocks.is_empty() && gate.schema.combinations.is_empty() {
            return;
        }
        for row in 0..cells.len() {
            let seen = rows.row(row);
            for number in together::incomplete(&seen) {
                push(row, 0, number, Code::BlockIncomplete, Level::Stop);
            }
            for number in combinations::broken(&seen) {
                push(row, 0, number, Code::CombinationNotPermitted, Level::Stop);
            }
        }
    }

    /// Puts a mark of a rule into words; nothing where it is none.
    pub(super) fn describe(
        &self,
        gate: &Compiled,
        mark: Mark,
        block: &Block,
        cells: &Cells,
        lines: &mut LineCounter<'_>,
        finding: &mut Finding,
    ) -> Option<()> {
        let (number, row) = (usize::from(mark.rule), mark.row as usize);
        let is_of_rule = matches!(mark.code, Code::RuleBroken | Code::RuleRequired | Code::RuleForbidden);
        let sees_cells = is_of_rule && gate.schema.rules.get(number).is_some_and(|rule| rule.sees_cells);
        let seen = RowsSeen { sees_cells, ..self.seen(gate, block, (cells, &[])) }.row(row);
        let value = match mark.code {
            Code::RuleBroken => Some(conditions::describe_broken(&seen, number, finding)?),
            Code::RuleRequired | Code::RuleForbidden => {
                conditions::describe_asked(&seen, (number, mark.code), mark.column > 0, finding)?;
                None
            }
            Code::RowOutOfScope => Some(scope::describe(&seen, mark.level, finding)?),
            Code::BlockIncomplete => {
                together::describe(&seen, number, finding)?;
                None
            }
            Code::CombinationNotPermitted => Some(combinations::describe(&seen, number, finding)?),
            _ => return None,
        };
        finding.line = Some(lines.of(mark.place, cells.row(row).0));
        if let Some(column) = usize::from(mark.column).checked_sub(1) {
            gate.place(column, finding);
            let text = gate.texts(block, cells, row, &[column]).concat();
            let masked = gate.is_sensitive(column) && !text.is_empty();
            finding.set_value(&text, masked);
        } else if let Some(value) = value {
            finding.set_value(&value, false);
        }
        finding.key = gate.key_of(block, cells, row);
        Some(())
    }
}
