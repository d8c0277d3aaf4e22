//! Texts for people.

mod causes;
mod columns;
pub(crate) mod draft;
mod effects;
pub(crate) mod fields;
mod groups;
pub(crate) mod matching;
pub(crate) mod mended;
mod next;
pub(crate) mod peek;
mod receipt;
mod reconciled;
mod report;
mod since;
pub(crate) mod template;
mod values;
mod words;

pub(crate) use effects::effects;
pub(crate) use mended::mended;
pub(crate) use next::command_lines;
pub(crate) use receipt::receipt;
pub(crate) use reconciled::reconciled;
pub(crate) use report::report;
pub(crate) use words::{level_style, say_aside};
