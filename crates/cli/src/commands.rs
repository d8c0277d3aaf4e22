//! One file a command.

pub(crate) mod check;
pub(crate) mod demo;
pub(crate) mod explain;
pub(crate) mod peek;
pub(crate) mod setup;
