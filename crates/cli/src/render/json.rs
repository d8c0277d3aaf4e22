//! The report for programs.

use tidy_gate_core::profile::PeekReport;
use tidy_gate_core::report::Report;

/// The report of format 1.
pub(crate) fn report(report: &Report) -> Result<String, serde_json::Error> {
    serde_json::to_string_pretty(report).map(|text| text + "\n")
}

/// What a file holds, of format 1.
pub(crate) fn peek(report: &PeekReport) -> Result<String, serde_json::Error> {
    serde_json::to_string_pretty(report).map(|text| text + "\n")
}
