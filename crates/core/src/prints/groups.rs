//! What findings are counted by, from round to round.

use crate::catalogue::Code;
use crate::finding::Finding;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The findings of one code about one field, or by one rule. The level is none of it: a finding that is told at another
/// level is the same.
#[derive(Debug, Clone, Default, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, JsonSchema)]
pub struct Group {
    /// The code.
    pub code: String,
    /// The field's name.
    pub field: Option<String>,
    /// The names of the fields, where several are concerned.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub fields: Vec<String>,
    /// The name of the rule, block or combination.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rule: Option<String>,
}

impl Group {
    /// Of a finding.
    pub(crate) fn of(finding: &Finding) -> Self {
        Self::new(finding.code, &finding.field, &finding.fields, &finding.rule)
    }

    /// Of what a finding or a total says of itself.
    pub(crate) fn new(code: Code, field: &Option<String>, fields: &[String], rule: &Option<String>) -> Self {
        Self {
            code: code.name().to_owned(),
            field: field.clone(),
            // A rule is one thing, whichever of its fields have a column.
            fields: if rule.is_some() { Vec::new() } else { fields.to_vec() },
            rule: rule.clone(),
        }
    }

    /// The parts of its mark.
    pub(crate) fn parts(&self) -> Vec<&[u8]> {
        let mut parts = vec![self.code.as_bytes(), self.field.as_deref().unwrap_or_default().as_bytes()];
        parts.push(self.rule.as_deref().unwrap_or_default().as_bytes());
        parts.extend(self.fields.iter().map(String::as_bytes));
        parts
    }
}
