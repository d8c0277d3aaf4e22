//! Words that several commands take.

use clap::ValueEnum;
use tidy_gate_core::mode::Mode;

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ModeArg {
    /// Every row becomes a new record
    Add,
    /// Every row changes a record that is there
    Update,
    /// What is new is added, the rest updated
    Both,
}

impl From<ModeArg> for Mode {
    fn from(mode: ModeArg) -> Self {
        match mode {
            ModeArg::Add => Self::Add,
            ModeArg::Update => Self::Update,
            ModeArg::Both => Self::Both,
        }
    }
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum FormatArg {
    /// For people
    Text,
    /// For programs: the report of format 1
    Json,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum CheckFormatArg {
    /// For people
    Text,
    /// For programs: the report of format 1
    Json,
    /// For programs: every finding on a line, then the report without them
    Ndjson,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ColorArg {
    /// On a terminal, unless NO_COLOR is set; elsewhere where CLICOLOR_FORCE is
    Auto,
    /// Always
    Always,
    /// Never
    Never,
}
