//! Rows laid out: where each cell of a block stands, and which cells take over what stands above them.

mod cells;
mod taken;

pub(crate) use cells::{BlankRun, Cells, Milestone, text_of};
pub(crate) use taken::{Above, Head, Taken};
