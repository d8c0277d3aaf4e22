//! What a report file tells.

use crate::render::story::Context;
use tidy_gate_core::overview::Overview;
use tidy_gate_core::report::Report;

/// What is told.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Told<'a> {
    pub(crate) report: &'a Report,
    pub(crate) context: &'a Context,
    /// For a page alone.
    pub(crate) overview: &'a Overview,
}
