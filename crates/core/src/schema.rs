//! The record schema: the target's description of one kind of record.

mod check;
mod keys;
mod kinds;
mod lists;
pub mod raw;
mod read;
pub(crate) mod record;
mod references;
mod required;
mod standard;

pub use crate::fault::Fault;
pub(crate) use check::{condition, default_fits, scalar};
pub use kinds::{KindFacts, KindName};
pub use lists::{ListSource, ListTable, NoLists};
pub use record::{
    Affixes, Asks, Combination, DateBound, Field, Kind, Lines, Many, MomentBound, Range, RecordSchema, Rule,
    Stated, TextRules, Together,
};
pub use references::{References, Refers};
pub use required::Required;

#[cfg(test)]
mod tests;
