//! What a judge gathers of its blocks, for the end of the file.

use super::evidence::Votes;
use super::keystore::KeyStore;
use super::tallies::Tallies;
use super::translated::Translated;
use super::words::Words;
use crate::finding::Finding;
use std::collections::BTreeMap;

/// What of a column is handed on otherwise than it stands.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Rewriting {
    /// Cells that are written in another way than the target's.
    pub unlike: u64,
    /// Blank cells that a default fills.
    pub defaulted: u64,
}

/// What a judge has gathered of all its blocks.
#[derive(Debug)]
pub(crate) struct Gathered {
    pub(crate) tallies: Tallies,
    pub(crate) filled: Vec<u64>,
    pub(crate) votes: Vec<Votes>,
    pub(crate) rewriting: Vec<Rewriting>,
    pub(crate) words: Vec<Words>,
    pub(crate) translated: BTreeMap<usize, Translated>,
    pub(crate) kept: Vec<Finding>,
    pub(crate) keys: Vec<KeyStore>,
}

/// The findings kept with their words: the first of all, and the first of each code and column.
#[derive(Debug, Default)]
pub(crate) struct Kept {
    pub(crate) findings: Vec<Finding>,
    pub(super) first: usize,
    /// The codes of fields seen so far.
    pub(super) groups: usize,
}

impl Kept {
    /// How many of each code and field a report can show at most: fewer where there are many.
    pub(super) fn of_each(&self) -> u64 {
        ((MOST_KEPT / self.groups.max(1)) as u64).min(FIRST_OF_EACH)
    }
}

/// The most findings a report holds.
pub(crate) const MOST_KEPT: usize = 1000;
/// The first so many of each code and field are among them.
pub(crate) const FIRST_OF_EACH: u64 = 10;
