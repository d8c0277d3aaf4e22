//! Faults of the files people write for the tool: record schemas and plans.

use std::ops::Range;
use toml::Spanned;

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

    /// A key that is not there; `what` says what to add.
    pub(crate) fn missing(span: Range<usize>, key: &'static str, what: &str) -> Self {
        Self {
            absent: Some(key),
            ..Self::new(span, format!("`{key}` is missing")).help(format!("add {what}"))
        }
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

/// Where the lines of a text begin.
pub(crate) struct Lines(Vec<usize>);

impl Lines {
    pub(crate) fn of(text: &str) -> Self {
        Self(memchr::memchr_iter(b'\n', text.as_bytes()).map(|end| end + 1).collect())
    }

    /// The number of the line on which a fault begins, from 0.
    pub(crate) fn line_of(&self, fault: &Fault) -> usize {
        self.0.partition_point(|begin| *begin <= fault.span.start)
    }
}

/// The first hundred forms of days or times: more are a fault, since no value could be told to have one of them.
pub(crate) fn few_forms<'a>(
    sources: &'a [Spanned<String>],
    faults: &mut Vec<Fault>,
) -> &'a [Spanned<String>] {
    const MOST: usize = 100;
    if let Some(next) = sources.get(MOST) {
        let message = format!("{} forms are stated; at most {MOST} are read", sources.len());
        faults.push(Fault::new(next.span(), message).help("keep those that people really write"));
    }
    sources.get(..MOST).unwrap_or(sources)
}
