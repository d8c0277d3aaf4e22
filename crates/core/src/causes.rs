//! Causes: what explains many findings at once, each with the one thing to do.
//!
//! While rows are judged, a clue of each finding ([`crate::gate::Clue`]) is sorted by what it may come from
//! ([`crate::origins`]), each finding under one heading alone; `weigh` tells which of these are causes. What none of them
//! explains is held against the values of the other columns (`one_value`). Rows are read again only where that may tell
//! more: a few of them for a sample, all of them where the sample speaks for it.

mod blocks;
mod catalogue;
mod cause;
mod fragment;
mod headings;
mod one_value;
mod walk;
mod weigh;
mod weigh_columns;

pub use catalogue::{CauseCode, CauseEntry, cause_entries, cause_entry};
pub use cause::{Cause, CauseSample, CauseWord, Remedy, RemedyKind};
pub use walk::causes;
