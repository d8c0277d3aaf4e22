//! Causes: what explains many findings at once, each with the one thing to do.
//!
//! A walk over the judged rows ([`causes`]) gives a clue of each finding ([`crate::gate::Clues`]); `evidence` sorts them
//! by what they may come from, each finding under one heading alone; `weigh` tells which of these are causes. What none
//! of them explains is held against the values of the other columns (`one_value`).

mod blocks;
mod catalogue;
mod cause;
mod evidence;
mod fragment;
mod headings;
mod one_value;
mod series;
mod walk;
mod weigh;
mod weigh_columns;

pub use catalogue::{CauseCode, CauseEntry, cause_entries, cause_entry};
pub use cause::{Cause, CauseSample, CauseWord, Remedy, RemedyKind};
pub use walk::causes;
