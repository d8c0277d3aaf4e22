//! A finding of a report of format 1.

use crate::catalogue::{Code, Level};
use crate::finding::Finding;
use schemars::JsonSchema;
use serde::{Serialize, Serializer};
use std::borrow::Cow;

/// A finding as the report tells it. Keys without such a place are left out.
#[derive(Debug, Clone, Serialize, JsonSchema)]
#[schemars(rename = "Finding")]
pub struct FindingReport<'a> {
    /// What kind of finding it is.
    pub code: Code,
    /// How grave it is.
    pub level: Level,
    /// The sheet, in a workbook.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub sheet: Option<&'a str>,
    /// The row, as a spreadsheet shows it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub row: Option<u64>,
    /// The last row, where the finding speaks of several rows one behind the other.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub row_last: Option<u64>,
    /// The physical line on which the row begins.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub line: Option<u64>,
    /// The column, from 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub column: Option<usize>,
    /// The column's letter, as a spreadsheet shows it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub letter: Option<&'a str>,
    /// The column's heading.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub heading: Option<&'a str>,
    /// The name of the field, if there is one.
    pub field: Option<&'a str>,
    /// The names of the fields, where several are concerned.
    #[serde(skip_serializing_if = "<[_]>::is_empty")]
    pub fields: &'a [String],
    /// The cell's text, at most 200 code points; `***` where it is masked.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub value: Option<&'a str>,
    /// Whether the value was cut.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub value_cut: bool,
    /// What was expected instead.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub expected: Option<&'a str>,
    /// The finding in words; it never holds the value.
    pub message: Cow<'a, str>,
    /// The nearest permitted value, or what would fit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub suggestion: Option<&'a str>,
    /// The name of the rule.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rule: Option<&'a str>,
    /// The key of the row, its parts joined by ` / `.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub key: Option<&'a str>,
    /// The first rows of a repeat.
    #[serde(skip_serializing_if = "<[_]>::is_empty")]
    pub places: &'a [u64],
    /// How many further rows a repeat has.
    #[serde(skip_serializing_if = "is_zero")]
    pub places_left_out: u64,
    /// Its mark, by which a later report finds it again: 16 hexadecimal digits.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fingerprint: Option<String>,
}

impl<'a> From<&'a Finding> for FindingReport<'a> {
    fn from(finding: &'a Finding) -> Self {
        Self {
            code: finding.code,
            level: finding.level,
            sheet: finding.sheet.as_deref(),
            row: finding.row,
            row_last: finding.row_last,
            line: finding.line,
            column: finding.column,
            letter: finding.letter.as_deref(),
            heading: finding.heading.as_deref(),
            field: finding.field.as_deref(),
            fields: &finding.fields,
            value: finding.value.as_deref(),
            value_cut: finding.value_cut,
            expected: finding.expected.as_deref(),
            message: finding.sentence(),
            suggestion: finding.suggestion.as_deref(),
            rule: finding.rule.as_deref(),
            key: finding.key.as_deref(),
            places: &finding.places,
            places_left_out: finding.places_left_out,
            fingerprint: finding.fingerprint.map(|mark| format!("{mark:016x}")),
        }
    }
}

/// Writes findings as a report tells them.
pub(crate) fn told<S: Serializer>(findings: &[Finding], serializer: S) -> Result<S::Ok, S::Error> {
    serializer.collect_seq(findings.iter().map(FindingReport::from))
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "the serialiser asks for a reference")]
fn is_zero(count: &u64) -> bool {
    *count == 0
}
