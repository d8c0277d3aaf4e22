//! What is known from the headings alone, before any row.

use super::{Gate, blank_level};
use crate::catalogue::{Code, Level, entry};
use crate::finding::{Finding, letter};
use crate::headings::Paired;
use crate::schema::Field;

/// The findings about headings, fields without a column and the missing key, in order.
pub(super) fn findings(gate: &Gate) -> Vec<Finding> {
    let notices = || gate.table.notices.iter().cloned();
    if notices().any(|finding| finding.code == Code::SheetUnclear) {
        // The work ends before anything of the sheet is looked at.
        return notices().filter(|finding| finding.code == Code::SheetUnclear).collect();
    }
    let mut found: Vec<Finding> =
        (0..gate.pairing.columns.len()).filter_map(|column| of_column(gate, column)).collect();
    found.extend((0..gate.schema.fields.len()).filter_map(|field| missing(gate, field)));
    if gate.schema.key.is_empty() {
        let message = "the record schema names no key, so repeated records cannot be seen".to_owned();
        found.push(Finding::new(Code::KeyNone, Level::Note, message));
    }
    found.extend(notices());
    found.sort_by_key(Finding::order);
    found.into_iter().map(|finding| gate.table.placed(finding)).collect()
}

/// A finding at a column's heading.
pub(crate) fn at_heading(gate: &Gate, code: Code, column: usize, message: String) -> Finding {
    let mut finding = Finding::new(code, entry(code).level, message);
    finding.row = gate.table.heading_row;
    finding.line = gate.table.heading_row.map(|_| gate.table.heading_line);
    finding.column = Some(column + 1);
    finding.letter = Some(letter(column));
    finding.heading = gate.heading(column);
    finding
}

fn of_column(gate: &Gate, column: usize) -> Option<Finding> {
    let name = |field: &usize| gate.schema.fields.get(*field).map(title).unwrap_or_default();
    let at = |code, message| at_heading(gate, code, column, message);
    Some(match gate.pairing.columns.get(column)? {
        Paired::Field { field, .. } => {
            let field = gate.schema.fields.get(*field).filter(|field| field.read_only)?;
            let message = format!("{} is computed by the target; the column is left out", title(field));
            Finding { field: Some(field.name.clone()), ..at(Code::FieldReadOnly, message) }
        }
        // Only a column that holds values is one; that is known at the end.
        Paired::Blank | Paired::Own => return None,
        Paired::Repeated { first } => at(
            Code::HeadingRepeated,
            format!("column {} has the same heading; both are left out", letter(*first)),
        ),
        Paired::Unknown { nearest } => {
            let finding =
                at(Code::HeadingUnpaired, "no field has this heading; the column is left out".to_owned());
            let near = |field: &usize| {
                let taken = gate.pairing.column_of.get(*field).copied().flatten();
                let taken =
                    taken.map(|column| format!(", which has column {}", letter(column))).unwrap_or_default();
                format!("{}{taken}", name(field))
            };
            let near: Vec<_> = nearest.iter().map(near).collect();
            Finding { suggestion: (!near.is_empty()).then(|| near.join(" or ")), ..finding }
        }
        Paired::Unclear { fields } => {
            let fields: Vec<_> = fields.iter().map(name).collect();
            let message = format!("the heading could mean {}; the column is left out", fields.join(" or "));
            at(Code::HeadingUnpaired, message)
        }
        Paired::Taken { field, by } => {
            let message = format!(
                "column {} has the better heading for {}; this one is left out",
                letter(*by),
                name(field)
            );
            at(Code::HeadingUnpaired, message)
        }
        Paired::Shared { field, with } => {
            let with: Vec<_> = with.iter().map(|column| letter(*column)).collect();
            let message =
                format!("column {} claims {} too; neither is taken", with.join(" and "), name(field));
            let field = gate.schema.fields.get(*field).map(|field| field.name.clone());
            Finding { field, ..at(Code::HeadingShared, message) }
        }
    })
}

/// A needed field without a column, if no two columns quarrel about it.
fn missing(gate: &Gate, number: usize) -> Option<Finding> {
    let field = gate.schema.fields.get(number)?;
    let is_key = gate.schema.key.contains(&number);
    let needed = is_key || blank_level(field, gate.settings.mode) == Some(Level::Stop) && !field.read_only;
    let has_column = gate.pairing.column_of.get(number).copied().flatten().is_some();
    if !needed || has_column || gate.pairing.shared.contains(&number) {
        return None;
    }
    let why = if is_key { "the key of the record" } else { "required" };
    let message = format!("no column for {}, which is {why}", title(field));
    let mut finding = Finding::new(Code::FieldMissing, Level::Stop, message);
    finding.field = Some(field.name.clone());
    finding.expect(format!("the heading {}", headings_of(field)));
    Some(finding)
}

/// The headings that would pair with the field.
fn headings_of(field: &Field) -> String {
    let mut words = vec![&field.label];
    if field.name != field.label {
        words.push(&field.name);
    }
    words.extend(&field.also);
    words.iter().map(|word| format!("\"{word}\"")).collect::<Vec<_>>().join(" or ")
}

/// A field as people call it, with its technical name where that differs.
pub(super) fn title(field: &Field) -> String {
    if field.label == field.name { field.name.clone() } else { format!("{} ({})", field.label, field.name) }
}
