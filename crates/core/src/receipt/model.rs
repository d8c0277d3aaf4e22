//! What a receipt holds.

use crate::mode::Mode;
use crate::report::Tool;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A receipt of format 1.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Receipt {
    /// The version of the receipt's format: 1.
    pub format: u32,
    /// What made it.
    pub tool: Tool,
    /// When it was made: a UTC time (RFC 3339).
    pub made: String,
    /// The file that was checked.
    pub input: FileProof,
    /// The ready rows, in the target's form.
    pub ready: FileProof,
    /// The record schema.
    pub record: RecordProof,
    /// The picklists that it reads from files, and the files of its combinations.
    pub lists: Vec<FileProof>,
    /// The plan, if there was one.
    pub plan: Option<FileProof>,
    /// What loading would do.
    pub mode: Mode,
    /// The day of the run, which "today" means.
    pub today: String,
    /// The records that the target held.
    pub existing: Option<KeysProof>,
    /// What references were held against, in the order of their names.
    pub references: Vec<KeysProof>,
    /// How many rows and findings there were.
    pub counts: Counts,
    /// With what the gate was still open.
    pub tolerances: Tolerances,
    /// The SHA-256 of all else in canonical form (RFC 8785), without the signature, in hexadecimal digits.
    pub seal: String,
    /// The signature over the same form.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub signature: Option<Signature>,
}

/// A file, by its bytes.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FileProof {
    /// Its name, without folders.
    pub name: String,
    /// Its size.
    pub bytes: u64,
    /// The SHA-256 (FIPS 180-4) of its bytes, in hexadecimal digits.
    pub sha256: String,
}

/// A record schema, by its bytes.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RecordProof {
    /// The record's technical name.
    pub record: String,
    /// The schema's version.
    pub version: Option<String>,
    /// The file.
    pub file: FileProof,
}

/// Records, by their keys.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct KeysProof {
    /// What they are called: the record, or where they came from.
    pub name: String,
    /// How many there are.
    pub count: u64,
    /// A hash over all keys in standard form, whatever their order, in hexadecimal digits.
    pub keys: String,
}

/// How many rows and findings there were.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Counts {
    /// Rows read.
    pub rows: u64,
    /// Rows handed over.
    pub ready: u64,
    /// Rows with a stop.
    pub held: u64,
    /// Rows that are no records.
    pub left_out: u64,
    /// Findings that hold.
    pub stops: u64,
    /// Findings to look at.
    pub warns: u64,
    /// Findings to know of.
    pub notes: u64,
}

/// With what the gate was still open.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Tolerances {
    /// The held rows that the plan tolerates, where there were some: a share or a number.
    pub held: Option<String>,
    /// The most records to be added or changed, where that was limited.
    pub most_changes: Option<String>,
    /// The most values to be emptied, where that was limited.
    pub most_emptied: Option<u64>,
}

/// A signature.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Signature {
    /// How it was made: Ed25519 (RFC 8032).
    pub algorithm: String,
    /// The SHA-256 of the public key (SPKI, RFC 8410, in DER), in hexadecimal digits: which key it is, and no proof of that.
    pub key: String,
    /// The signature in base 64.
    pub value: String,
}
