//! What a file was judged by, part by part, so that a later report can tell which of it is another.

use super::salt::hex;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use toml::Value;

/// What a file was judged by.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub struct Basis(pub Vec<BasisPart>);

/// One part of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct BasisPart {
    /// Where it stands: `record`, `plan` or `run`.
    pub of: String,
    /// Which it is, such as `field girth_cm`.
    pub part: String,
    /// The first bytes of the SHA-256 of what is stated of it, in hexadecimal digits.
    pub mark: String,
}

impl Basis {
    /// Adds the parts of a record schema. Its comments, and the order in which fields are written down, do not count.
    pub fn add_record(&mut self, text: &str) {
        self.add_tables("record", text);
    }

    /// Adds the parts of a plan.
    pub fn add_plan(&mut self, text: &str) {
        self.add_tables("plan", text);
    }

    /// Adds what a run states, or reads besides.
    pub fn add(&mut self, of: &str, part: &str, stated: &[u8]) {
        let mark = Sha256::digest(stated);
        let mark = hex(mark.get(..8).unwrap_or_default());
        self.0.push(BasisPart { of: of.to_owned(), part: part.to_owned(), mark });
    }

    fn add_tables(&mut self, of: &str, text: &str) {
        let Ok(table) = toml::from_str::<toml::Table>(text) else { return };
        for (name, value) in table {
            match (name.as_str(), value) {
                // What stands in lists of tables has names of its own.
                (_, Value::Array(parts)) if parts.iter().any(Value::is_table) => {
                    for (number, part) in parts.iter().enumerate() {
                        let own = part.get("name").and_then(Value::as_str).map(ToOwned::to_owned);
                        let own = own.unwrap_or_else(|| (number + 1).to_string());
                        self.add(of, &format!("{name} {own}"), part.to_string().as_bytes());
                    }
                }
                ("picklist" | "values" | "references", Value::Table(parts)) => {
                    for (own, part) in parts {
                        self.add(of, &format!("{name} {own}"), part.to_string().as_bytes());
                    }
                }
                (_, Value::Table(part)) => {
                    self.add(of, &format!("[{name}]"), Value::Table(part).to_string().as_bytes());
                }
                // Of the format nothing hangs, and a name or a number says what a change is about.
                ("format" | "version" | "label", _) => {}
                (_, value) => self.add(of, &format!("`{name}`"), value.to_string().as_bytes()),
            }
        }
    }
}
