//! Texts for people.

mod columns;
mod context;
pub(crate) mod draft;
pub(crate) mod fields;
mod groups;
pub(crate) mod matching;
mod next;
pub(crate) mod peek;
mod report;
pub(crate) mod template;
mod verdict;
mod words;

pub(crate) use context::Context;
pub(crate) use next::command_lines;
pub(crate) use report::report;
pub(crate) use words::{level_style, program, say_aside};
