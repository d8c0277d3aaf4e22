//! Findings at the headings of columns.

use super::compiled::Compiled;
use crate::catalogue::{Code, entry};
use crate::finding::{Finding, letter};
use crate::schema::Field;

/// A finding at a column's heading.
pub(crate) fn at_heading(gate: &Compiled, code: Code, column: usize, message: String) -> Finding {
    let mut finding = Finding::new(code, entry(code).level, message);
    finding.row = gate.table.heading_row;
    finding.line = gate.table.heading_row.map(|_| gate.table.heading_line);
    finding.column = Some(column + 1);
    finding.letter = Some(letter(column));
    finding.heading = gate.heading(column);
    finding
}

/// A field as people call it, with its technical name where that differs.
pub(super) fn title(field: &Field) -> String {
    if field.label == field.name { field.name.clone() } else { format!("{} ({})", field.label, field.name) }
}
