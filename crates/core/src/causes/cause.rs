//! One cause.

use super::catalogue::CauseCode;
use crate::catalogue::Code;
use crate::gate::Counted;
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::BTreeMap;

/// So many words are told.
pub(super) const MOST_WORDS: usize = 20;

/// What explains many findings at once.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct Cause {
    /// What kind of cause it is.
    pub code: CauseCode,
    /// The fields concerned; none where whole rows are meant.
    pub fields: Vec<String>,
    /// How many findings it explains.
    pub findings: u64,
    /// How many rows they stand in.
    pub rows: u64,
    /// What it is, in one sentence.
    pub explanation: String,
    /// The one thing to do.
    pub remedy: Remedy,
    /// Where a field holds words that are off its list: the most frequent of them.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub words: Vec<CauseWord>,
    /// A true example.
    pub sample: Option<CauseSample>,
    /// The findings that it explains, as they are counted.
    #[serde(skip)]
    #[schemars(skip)]
    pub(crate) claims: BTreeMap<Counted, u64>,
}

/// A word that is off a list.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct CauseWord {
    /// The word, as it stands.
    pub value: String,
    /// In how many cells.
    pub count: u64,
    /// What it likely stands for.
    pub likely: Option<String>,
}

/// An example of a cause.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct CauseSample {
    /// The row.
    pub row: u64,
    /// The column's letter.
    pub letter: Option<String>,
    /// What stands there.
    pub value: Option<String>,
}

/// The one thing that removes the findings of a cause.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Remedy {
    /// What kind of thing it is.
    pub kind: RemedyKind,
    /// What to do, in one sentence.
    pub text: String,
    /// For the plan: the lines to put into it, in TOML.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub plan: Option<String>,
    /// For `mend`: the codes it is told with `--only`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub codes: Vec<Code>,
    /// For rows: the first and last of each run, to delete or move.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub rows: Vec<[u64; 2]>,
}

/// Where a remedy is applied.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum RemedyKind {
    /// In the plan.
    Plan,
    /// To the file, by `mend`.
    Mend,
    /// To rows of the file, by hand.
    Rows,
    /// By whoever sent the file.
    Sender,
}

impl Remedy {
    /// Lines for the plan.
    pub(super) fn plan(text: impl Into<String>, plan: String) -> Self {
        Self { plan: Some(plan), ..Self::of(RemedyKind::Plan, text) }
    }

    /// Something that `mend` does.
    pub(super) fn mend(text: impl Into<String>, codes: &[Code]) -> Self {
        Self { codes: codes.to_vec(), ..Self::of(RemedyKind::Mend, text) }
    }

    /// Rows to be deleted.
    pub(super) fn rows(text: impl Into<String>, rows: Vec<[u64; 2]>) -> Self {
        Self { rows, ..Self::of(RemedyKind::Rows, text) }
    }

    /// A sentence for the sender.
    pub(super) fn sender(text: impl Into<String>) -> Self {
        Self::of(RemedyKind::Sender, text)
    }

    fn of(kind: RemedyKind, text: impl Into<String>) -> Self {
        Self { kind, text: text.into(), plan: None, codes: Vec::new(), rows: Vec::new() }
    }
}
