//! The marks of a report, by which a later one follows its findings and rows.

use super::groups::Group;
use super::salt::Salt;
use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The marks of a report.
#[derive(Debug, Clone, Default, Serialize, Deserialize, JsonSchema)]
pub struct Fingerprints {
    /// What they are salted with, in hexadecimal digits.
    pub salt: String,
    /// The fields whose cells tell rows without a whole key apart.
    pub content: Vec<String>,
    /// Of every finding.
    pub findings: Vec<FindingPrints>,
    /// Of every held row, and of other rows with findings that have no key.
    pub rows: Vec<RowPrints>,
}

/// The marks of the findings of one code about one field, or by one rule.
#[derive(Debug, Clone, Default, Serialize, Deserialize, JsonSchema)]
pub struct FindingPrints {
    /// What they are.
    #[serde(flatten)]
    pub group: Group,
    /// The marks in ascending order, eight bytes each, most significant first, in base 64 (RFC 4648, section 4).
    pub marks: String,
}

/// The marks of rows that are followed in one way.
#[derive(Debug, Clone, Default, Serialize, Deserialize, JsonSchema)]
pub struct RowPrints {
    /// The fields that had findings, whose cells do not count; nothing where rows are followed by their key.
    pub without: Option<Vec<String>>,
    /// Held rows, written as the marks of findings are.
    pub held: String,
    /// Rows with findings that are not held.
    pub other: String,
}

impl Fingerprints {
    /// The salt, if it is one.
    #[must_use]
    pub fn salt(&self) -> Option<Salt> {
        Salt::read(&self.salt)
    }
}

/// Marks as a report carries them.
#[must_use]
pub fn written(mut marks: Vec<u64>) -> String {
    marks.sort_unstable();
    let bytes: Vec<u8> = marks.into_iter().flat_map(u64::to_be_bytes).collect();
    STANDARD.encode(bytes)
}

/// Marks as a report carries them, read; nothing where they are none.
#[must_use]
pub fn read(text: &str) -> Option<Vec<u64>> {
    let bytes = STANDARD.decode(text).ok()?;
    let (marks, rest) = bytes.as_chunks::<8>();
    rest.is_empty().then(|| marks.iter().map(|mark| u64::from_be_bytes(*mark)).collect())
}
