//! What loading a file would do.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What loading the file would do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Mode {
    /// Every row becomes a new record.
    #[default]
    Add,
    /// Every row changes a record that is there.
    Update,
    /// What is new is added, the rest updated.
    Both,
}

impl Mode {
    /// The word for it.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Add => "add",
            Self::Update => "update",
            Self::Both => "both",
        }
    }

    /// Whether a row is judged as an addition.
    #[must_use]
    pub const fn updates(self) -> bool {
        matches!(self, Self::Update | Self::Both)
    }

    /// Whether records may be added.
    #[must_use]
    pub const fn adds(self) -> bool {
        !matches!(self, Self::Update)
    }
}
