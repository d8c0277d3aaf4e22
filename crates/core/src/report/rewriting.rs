//! What ready rows carry otherwise than the file.

use super::v1::{FilledReport, ToRewrite, TranslatedReport};
use crate::finding::MASK;
use crate::gate::{Gate, ReadyField};
use crate::headings::Paired;
use crate::run::Outcome;

/// The fields that defaults fill.
pub(super) fn filled_by_defaults(gate: &Gate, outcome: &Outcome) -> Vec<FilledReport> {
    let fill = |ready: ReadyField| {
        let field = gate.schema().fields.get(ready.field)?;
        let rows = match gate.pairing().column_of.get(ready.field).copied().flatten() {
            Some(column) => outcome.rewriting.get(column).map_or(0, |found| found.defaulted),
            None => outcome.counts.records(),
        };
        let value = ready.default.filter(|_| rows > 0)?;
        let value = if field.sensitive { MASK.to_owned() } else { value };
        Some(FilledReport { field: field.name.clone(), value, rows })
    };
    gate.ready_fields().into_iter().filter_map(fill).collect()
}

/// So many words are told.
const TOLD: usize = 1_000;

/// What words became that the plan replaces, the most frequent of a field first.
pub(super) fn translated(gate: &Gate, outcome: &Outcome) -> Vec<TranslatedReport> {
    let mut all = Vec::new();
    for (number, words) in &outcome.translated {
        let Some(Paired::Field { field, .. }) = gate.pairing().columns.get(*number) else { continue };
        let Some(field) = gate.schema().fields.get(*field) else { continue };
        let shown = |word: String| if field.sensitive { MASK.to_owned() } else { word };
        let told = |((from, to), count)| TranslatedReport {
            field: field.name.clone(),
            from: shown(from),
            to: shown(to),
            count,
        };
        let mut of_field: Vec<_> = gate.translated(*number, words).into_iter().map(told).collect();
        of_field.sort_by_key(|one| std::cmp::Reverse(one.count));
        all.append(&mut of_field);
    }
    all.truncate(TOLD);
    all
}

/// What of the file is not as the target writes it.
pub(super) fn to_rewrite(gate: &Gate, outcome: &Outcome) -> ToRewrite {
    let mut found = ToRewrite::default();
    if gate.table().heading_row.is_some() {
        for ready in gate.ready_fields() {
            let column = gate.pairing().column_of.get(ready.field).copied().flatten();
            let heading = column.and_then(|column| gate.table().headings.get(column));
            let is_padded =
                column.and_then(|column| gate.table().padded.get(column)).copied().unwrap_or_default();
            found.headings +=
                u64::from(heading.is_some_and(|heading| is_padded || *heading != ready.heading));
        }
    }
    let is_handed_on = |column: usize| match gate.pairing().columns.get(column) {
        Some(Paired::Field { field, .. }) => {
            let is_read_only = gate.schema().fields.get(*field).is_some_and(|field| field.read_only);
            !is_read_only && gate.settings().plan.is_in_scope(*field)
        }
        _ => false,
    };
    for (column, rewriting) in outcome.rewriting.iter().enumerate() {
        if is_handed_on(column) {
            found.values += rewriting.unlike;
        } else {
            found.columns += u64::from(outcome.filled.get(column).is_some_and(|filled| *filled > 0));
        }
    }
    found
}
