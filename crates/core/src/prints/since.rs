//! What became of the findings of an earlier report, as data.

use super::groups::Group;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What became of the findings and the held rows of an earlier report.
#[derive(Debug, Clone, Default, Serialize, JsonSchema)]
pub struct Since {
    /// The earlier report.
    pub earlier: SinceFile,
    /// Its findings that are gone.
    pub settled: u64,
    /// Its findings that are still there.
    pub open: u64,
    /// Findings that it did not have.
    pub new: u64,
    /// The held rows.
    pub rows: RowsSince,
    /// What of the record schema, the plan, the columns and the run is another.
    pub changed: Vec<Change>,
    /// The same by code and field.
    pub groups: Vec<GroupSince>,
    /// The causes, then and now.
    pub causes: Vec<CauseSince>,
    /// The first findings that are settled, where they stood then.
    pub first_settled: Vec<EarlierFinding>,
    /// The first findings that are new, by their numbers among the findings of the report, from 0.
    pub first_new: Vec<usize>,
}

/// The earlier report.
#[derive(Debug, Clone, Default, Serialize, JsonSchema)]
pub struct SinceFile {
    /// The file it is of.
    pub name: String,
    /// The day of its run.
    pub today: String,
    /// How many findings it has.
    pub findings: u64,
    /// How many rows it holds.
    pub held: u64,
    /// Whether it is of the very same bytes.
    pub same_bytes: bool,
}

/// What became of held rows.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct RowsSince {
    /// Held then, and not held any more.
    pub settled: u64,
    /// Held then and now.
    pub open: u64,
    /// Held now, and not then.
    pub new: u64,
    /// Held then, and no longer in the file.
    pub gone: u64,
}

/// Something that is another than it was.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Change {
    /// Where it stands: `record`, `plan`, `columns` or `run`.
    pub of: String,
    /// What it is, such as `field girth_cm`.
    pub what: String,
    /// `added`, `removed` or `changed`.
    pub how: String,
}

/// What became of the findings of one code about one field, or by one rule.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct GroupSince {
    /// What they are.
    #[serde(flatten)]
    pub group: Group,
    /// Those that are gone.
    pub settled: u64,
    /// Those that are still there.
    pub open: u64,
    /// Those that are new.
    pub new: u64,
}

/// A cause, then and now.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct CauseSince {
    /// What kind of cause it is.
    pub code: String,
    /// The fields concerned.
    pub fields: Vec<String>,
    /// What it was or is, in one sentence.
    pub explanation: String,
    /// How many findings it explained then; 0 where it is new.
    pub then: u64,
    /// How many it explains now; 0 where it is gone.
    pub now: u64,
}

/// A finding of an earlier report.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct EarlierFinding {
    /// The code.
    pub code: String,
    /// The row then.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub row: Option<u64>,
    /// The column's letter then.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub letter: Option<String>,
    /// The column's heading then.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub heading: Option<String>,
    /// The field.
    #[serde(default)]
    pub field: Option<String>,
    /// The value then.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub value: Option<String>,
    /// The key of the row.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub key: Option<String>,
    /// Its mark.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fingerprint: Option<String>,
}
