//! A file whose headings belong to another record.

use super::catalogue::CauseCode;
use super::cause::{Cause, Remedy};
use crate::catalogue::Code;
use crate::gate::{Counted, Gate};
use crate::headings::Paired;
use crate::numerals::grouped;
use crate::run::Outcome;
use std::collections::BTreeMap;

/// The cause, where few headings pair and the key or a needed field has no column.
pub(crate) fn record_wrong(gate: &Gate, outcome: &Outcome) -> Option<Cause> {
    let opening = gate.opening_of(&outcome.filled);
    let is_of_headings =
        |code| matches!(code, Code::FieldMissing | Code::HeadingUnpaired | Code::HeadingClose);
    let told: Vec<_> = opening.iter().filter(|finding| is_of_headings(finding.code)).collect();
    let named = gate.table().headings.iter().filter(|heading| !heading.trim().is_empty()).count();
    let is_paired = |paired: &&Paired| matches!(paired, Paired::Field { .. });
    let paired = gate.pairing().columns.iter().filter(is_paired).count();
    let close = told.iter().filter(|finding| finding.code == Code::HeadingClose).count();
    let is_missing = told.iter().any(|finding| finding.code == Code::FieldMissing);
    if !is_missing || named < 3 || (paired + close) * 3 > named || gate.table().is_records() {
        return None;
    }
    let claims: BTreeMap<Counted, u64> = BTreeMap::new();
    let sheet = gate.table().sheet().map(|sheet| format!(" of the sheet {sheet}")).unwrap_or_default();
    let explanation = format!(
        "{} of {} headings{sheet} have a field in {}: the file is for another record, or another table was meant",
        grouped(paired as u64),
        grouped(named as u64),
        gate.schema().label
    );
    let text = match gate.table().sheet() {
        Some(_) => {
            "Name the sheet that was meant with --sheet, or the record schema that the file is for with --record."
        }
        None => "Name the record schema that the file is for with --record.",
    };
    Some(Cause {
        code: CauseCode::RecordWrong,
        fields: Vec::new(),
        findings: told.len() as u64,
        rows: 0,
        explanation,
        remedy: Remedy::sender(text),
        words: Vec::new(),
        sample: None,
        claims,
    })
}
