//! One file a command, and what several of them need.

mod begin;
pub(crate) mod check;
pub(crate) mod completions;
pub(crate) mod demo;
pub(crate) mod draft;
pub(crate) mod effects;
mod existing;
pub(crate) mod explain;
pub(crate) mod fields;
mod held_plan;
mod input_digest;
mod like;
mod limits;
mod lists;
mod look;
pub(crate) mod matching;
pub(crate) mod mend;
pub(crate) mod peek;
mod proof;
pub(crate) mod receipt;
pub(crate) mod reconcile;
mod references;
mod reports;
mod setup;
mod stated;
pub(crate) mod template;
