//! How grave a finding is.

use schemars::JsonSchema;
use serde::Serialize;

/// How grave a finding is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Level {
    /// Holds its row; without a row, every row.
    Stop,
    /// Holds nothing; somebody should look.
    Warn,
    /// Holds nothing; said so that nothing is silent.
    Note,
}

impl Level {
    /// All levels, the gravest first.
    pub const ALL: [Self; 3] = [Self::Stop, Self::Warn, Self::Note];

    /// The word for it.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Stop => "stop",
            Self::Warn => "warn",
            Self::Note => "note",
        }
    }
}
