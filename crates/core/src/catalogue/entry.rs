//! What is known of a kind of finding.

use super::code::Code;
use super::level::Level;

/// What a finding concerns.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scope {
    /// The file as a whole.
    File,
    /// Its headings and columns.
    Headings,
    /// One cell's value.
    Values,
    /// One row.
    Rows,
    /// Keys and other combinations that must not repeat.
    Keys,
    /// Several rows that make one record.
    Lines,
}

impl Scope {
    /// All scopes, in the order of the catalogue.
    pub const ALL: [Self; 6] =
        [Self::File, Self::Headings, Self::Values, Self::Rows, Self::Keys, Self::Lines];

    /// The heading under which its codes stand.
    #[must_use]
    pub const fn title(self) -> &'static str {
        match self {
            Self::File => "The file",
            Self::Headings => "Headings",
            Self::Values => "Values",
            Self::Rows => "Rows",
            Self::Keys => "Keys",
            Self::Lines => "Lines",
        }
    }
}

/// What holds of some findings, and what the rest of the gate asks of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Tag {
    /// The cell has no value that could be read: it gets this code alone and is judged no further.
    NoValue,
    /// The value is none of its kind, list or form, and may well fit another field.
    OtherKind,
    /// It is about a word that is not known: the most frequent ones are told.
    Word,
    /// It is counted by the rule, block or combination that made it.
    Rule,
    /// The work ends before any row is judged.
    EndsWork,
    /// It says how the file was laid out, which the head of a report tells.
    Layout,
}

/// One kind of finding.
#[derive(Debug, Clone, Copy)]
pub struct Entry {
    /// The code.
    pub code: Code,
    /// The level it has unless its place lowers it.
    pub level: Level,
    /// The least level that a plan may give it: a stop for all that would load wrong data.
    pub least: Level,
    /// What else holds of it.
    pub tags: &'static [Tag],
    /// What may lower or raise the level, if anything.
    pub otherwise: Option<&'static str>,
    /// What it concerns.
    pub scope: Scope,
    /// What it says, in one line.
    pub title: &'static str,
    /// Why it matters.
    pub why: &'static str,
    /// How to put it right.
    pub remedy: &'static str,
    /// An example that has it.
    pub bad: &'static str,
    /// The same example put right.
    pub good: &'static str,
}

impl Entry {
    /// An entry whose texts are still to be filled in.
    pub(super) const fn new(code: Code, scope: Scope, level: Level, title: &'static str) -> Self {
        Self {
            code,
            level,
            least: Level::Note,
            tags: &[],
            otherwise: None,
            scope,
            title,
            why: "",
            remedy: "",
            bad: "",
            good: "",
        }
    }
}
