//! Why a condition cannot be read.

use sqlparser::ast::{Expr, Spanned};

/// Why a condition cannot be read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ConditionFault {
    /// What is wrong.
    pub message: String,
    /// What to do.
    pub help: Option<String>,
    /// The character of the condition where it is, from 0, if that is known.
    pub at: Option<usize>,
}

impl ConditionFault {
    pub(super) fn new(message: impl Into<String>) -> Self {
        Self { message: message.into(), help: None, at: None }
    }

    pub(super) fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }

    pub(super) fn at(mut self, expr: &Expr) -> Self {
        let start = expr.span().start;
        if self.at.is_none() && start.line == 1 && start.column > 0 {
            self.at = usize::try_from(start.column - 1).ok();
        }
        self
    }
}
