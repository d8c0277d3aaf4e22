use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::finding::Finding;

/// One thing about the layout of a table, and why it is taken to be so.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fact {
    /// What it is about, such as "delimiter".
    pub what: &'static str,
    /// What was chosen.
    pub choice: String,
    /// On what evidence.
    pub evidence: String,
    /// How it was chosen.
    pub how: How,
    /// The row it is about, where that is none of the headings' or above.
    pub row: Option<u64>,
}

/// How something about a layout was chosen.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum How {
    /// It was stated.
    Stated,
    /// It is the plain form, and nothing speaks against it.
    Plain,
    /// It was read off the table.
    Guessed,
}

impl Fact {
    pub(crate) fn stated(what: &'static str, choice: String) -> Self {
        Self { what, choice, evidence: "as stated".to_owned(), how: How::Stated, row: None }
    }

    pub(crate) fn plain(what: &'static str, choice: String, evidence: String) -> Self {
        Self { what, choice, evidence, how: How::Plain, row: None }
    }

    pub(crate) fn guessed(what: &'static str, choice: String, evidence: String) -> Self {
        Self { what, choice, evidence, how: How::Guessed, row: None }
    }
}

/// The findings for what was guessed.
pub(crate) fn findings(facts: &[Fact]) -> impl Iterator<Item = Finding> {
    facts.iter().filter(|fact| fact.how == How::Guessed).map(|fact| {
        let message = format!("{}: {}; {}", fact.what, fact.choice, fact.evidence);
        let mut finding = Finding::new(Code::LayoutGuessed, Level::Note, message);
        finding.row = fact.row;
        finding
    })
}
