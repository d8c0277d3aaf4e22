//! What the cells of a file decided of how its columns are written, to be kept: a part of the file that comes back alone
//! no longer shows it.

use serde::{Deserialize, Serialize};

/// The property of a workbook that holds it.
pub const DECIDED: &str = "tidy-gate-decided";

/// What was decided of some fields.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Decided {
    /// The fields, in the order of their columns.
    pub fields: Vec<DecidedField>,
}

/// How the column of a field is written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct DecidedField {
    /// The field's name.
    pub field: String,
    /// The forms of its dates, in Unicode LDML patterns.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub dates: Vec<String>,
    /// What begins its decimals.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub decimal_mark: Option<char>,
    /// On what evidence, in words.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub why: String,
}

impl Decided {
    /// As properties of a workbook; none where nothing was decided.
    #[must_use]
    pub fn properties(&self) -> Vec<(String, String)> {
        if self.fields.is_empty() {
            return Vec::new();
        }
        let short: Vec<DecidedField> =
            self.fields.iter().map(|field| DecidedField { why: String::new(), ..field.clone() }).collect();
        let text = serde_json::to_string(&Self { fields: short }).unwrap_or_default();
        vec![(DECIDED.to_owned(), text)]
    }

    /// What a property of a workbook says; what it does not understand says nothing.
    #[must_use]
    pub fn of_property(text: &str) -> Self {
        serde_json::from_str(text).unwrap_or_default()
    }
}
