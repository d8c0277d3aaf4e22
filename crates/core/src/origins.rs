//! What findings may come from: each clue stands under one origin, and of each origin is kept what tells whether it is a
//! cause ([`crate::causes`]).

mod evidence;
mod series;

pub use evidence::Evidence;
pub(crate) use evidence::{Findings, Origin, origin};
