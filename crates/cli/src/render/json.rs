//! What programs read.

use serde::Serialize;
use tidy_gate_core::letters::in_json;
use tidy_gate_core::report::Report;

/// A report as JSON, in lines.
pub(crate) fn pretty<T: Serialize>(report: &T) -> Result<String, serde_json::Error> {
    serde_json::to_string_pretty(report).map(|text| in_json(&text).into_owned() + "\n")
}

/// A report behind its findings, on one line: all but those.
pub(crate) fn head(mut report: Report) -> Result<String, serde_json::Error> {
    report.findings_left_out += report.findings.len() as u64;
    report.findings.clear();
    line(&report)
}

/// As JSON on one line.
pub(crate) fn line<T: Serialize>(told: &T) -> Result<String, serde_json::Error> {
    serde_json::to_string(told).map(|text| in_json(&text).into_owned() + "\n")
}
