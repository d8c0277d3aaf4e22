//! The condition that makes a row one that the file may change.

use super::row_seen::{RowSeen, RowsSeen};
use crate::catalogue::Level;
use crate::condition::Holds;
use crate::finding::Finding;
use crate::gate::compiled::Compiled;
use crate::gate::quick::Quick;

/// The quick way to whether a row is within.
#[derive(Debug)]
pub(super) struct Scope(Quick);

impl Scope {
    pub(super) fn of(gate: &Compiled) -> Self {
        Self(gate.scope_condition().map_or(Quick::Slow, |condition| Quick::of(&condition.root, gate)))
    }

    /// The judged rows outside. What is wrong with their cells is not known yet.
    pub(super) fn outside(&self, rows: RowsSeen<'_>, found: &mut Vec<u32>) {
        let Some(condition) = rows.gate.scope_condition() else { return };
        let mut says = Vec::new();
        self.0.tell((rows.block, rows.gate.table.dialect), rows.cells, &[], &mut says);
        for (number, says) in says.iter().enumerate() {
            let row = rows.row(number);
            // A quick way may pass over what is wrong with a cell: asked again, such a cell is unknown.
            let is_faulty = condition.fields.iter().any(|field| row.is_faulty(*field));
            let holds = if is_faulty { condition.holds(&row) } else { row.holds(condition, *says) };
            let was_within = row.record_holds(condition);
            if was_within == Some(false) {
                found.push(u32::try_from(number).unwrap_or(u32::MAX));
                continue;
            }
            // What a fault alone leaves open is no ground for leaving a row out: it is held with its fault.
            if holds != Holds::Yes && !(is_faulty && holds == Holds::Unknown) {
                found.push(u32::try_from(number).unwrap_or(u32::MAX));
            }
        }
    }
}

/// Puts a row outside into words; gives what it holds.
pub(super) fn describe(row: &RowSeen<'_>, level: Level, finding: &mut Finding) -> Option<String> {
    let (condition, text) = row.gate.settings.plan.scope.as_ref()?.condition.as_ref()?;
    finding.fields = row.names(&condition.fields);
    let what = if level == Level::Stop { "" } else { "; it is left out" };
    finding.message = format!("not a record that this file may change{what}");
    finding.expect(text.clone());
    Some(row.shown(&condition.fields))
}
