//! Faults of the files people write for the tool: record schemas and plans.

use std::ops::Range;

/// One fault of a record schema or a plan: what was found, where, and what to do.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fault {
    /// The bytes concerned.
    pub span: Range<usize>,
    /// What was found.
    pub message: String,
    /// A few words beside the place, if they say more.
    pub label: Option<String>,
    /// What to do.
    pub help: Option<String>,
    /// The key that is missing, if that is the fault: where its line cannot be read, or it was faulty itself,
    /// it is not told twice.
    pub(crate) absent: Option<&'static str>,
}

impl Fault {
    /// A fault at a place.
    pub fn new(span: Range<usize>, message: impl Into<String>) -> Self {
        Self { span, message: message.into(), label: None, help: None, absent: None }
    }

    /// With words beside the place.
    #[must_use]
    pub fn label(mut self, label: impl Into<String>) -> Self {
        self.label = Some(label.into());
        self
    }

    /// With what to do.
    #[must_use]
    pub fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }
}

/// The number of the line on which the fault begins, from 0.
pub(crate) fn line_of(text: &str, fault: &Fault) -> usize {
    let before = text.as_bytes().get(..fault.span.start).unwrap_or_default();
    before.iter().filter(|&&byte| byte == b'\n').count()
}
