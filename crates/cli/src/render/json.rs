//! What programs read.

use serde::Serialize;
use tidy_gate_core::letters::in_json;

/// A report as JSON, in lines.
pub(crate) fn pretty<T: Serialize>(report: &T) -> Result<String, serde_json::Error> {
    serde_json::to_string_pretty(report).map(|text| in_json(&text).into_owned() + "\n")
}
