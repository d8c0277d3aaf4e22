//! One file a command, and what several of them need.

pub(crate) mod check;
pub(crate) mod demo;
pub(crate) mod draft;
pub(crate) mod effects;
mod existing;
pub(crate) mod explain;
pub(crate) mod fields;
pub(crate) mod held_plan;
mod like;
pub(crate) mod limits;
pub(crate) mod look;
pub(crate) mod matching;
pub(crate) mod mend;
pub(crate) mod peek;
pub(crate) mod reconcile;
pub(crate) mod references;
mod reports;
pub(crate) mod setup;
pub(crate) mod stated;
pub(crate) mod template;
