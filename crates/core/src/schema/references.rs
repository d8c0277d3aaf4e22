//! The values of references: what the keys of another record are.

use super::keys::Keys;
use crate::likeness;
use std::collections::HashMap;
use std::sync::{Arc, OnceLock};
use xxhash_rust::xxh3::xxh3_128;

/// So many keys are told for which one word stands.
const TOLD: usize = 4;

/// The keys of a record, and what may stand for them.
#[derive(Default)]
pub struct References {
    keys: Keys,
    /// Other words: the keys that each stands for, the first of them.
    also: HashMap<String, Vec<Box<str>>>,
    /// The key of each form that slips do not change, if it is one alone.
    slips: OnceLock<HashMap<String, Option<Box<str>>>>,
    /// Where they came from, for messages.
    pub source: String,
}

/// Keys may be millions: which ones they are is no matter of whoever looks.
impl std::fmt::Debug for References {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} keys of {} at {self:p}", self.len(), self.source)
    }
}

/// What a text refers to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Refers<'a> {
    /// A key, as it stands.
    Key,
    /// A key for which another word stands.
    Through(&'a str),
    /// Several keys.
    Several,
    /// None.
    Nothing,
}

impl References {
    /// None yet, from this source.
    #[must_use]
    pub fn from_source(source: String) -> Self {
        Self { source, ..Self::default() }
    }

    /// These keys, each with the other words for it.
    pub fn new(source: String, rows: impl IntoIterator<Item = (String, Vec<String>)>) -> Arc<Self> {
        let mut found = Self::from_source(source);
        for (key, also) in rows {
            found.add(&key, &also);
        }
        Arc::new(found)
    }

    /// Takes up a key with the other words for it; what is blank is none.
    pub fn add(&mut self, key: &str, also: &[String]) {
        let key = key.trim();
        if key.is_empty() {
            return;
        }
        self.keys.insert(key);
        for word in also.iter().map(|word| word.trim()).filter(|word| !word.is_empty()) {
            let keys = self.also.entry(word.to_owned()).or_default();
            if keys.len() < TOLD && !keys.iter().any(|known| **known == *key) {
                keys.push(key.into());
            }
        }
    }

    /// The keys, if all of them are short and they are not very many.
    pub(crate) fn short_keys(&self) -> impl Iterator<Item = &str> {
        const MOST: usize = 50_000;
        const LONGEST: usize = 16;
        let is_short = self.keys.len() <= MOST && self.keys.iter().all(|key| key.len() <= LONGEST);
        self.keys.iter().filter(move |_| is_short)
    }

    /// All keys, in the order in which they came.
    pub fn keys(&self) -> impl Iterator<Item = &str> {
        self.keys.iter()
    }

    /// The sum of the hashes of all keys, which is the same in whatever order they come.
    #[must_use]
    pub fn key_sum(&self) -> u128 {
        self.keys().fold(0, |sum: u128, key| sum.wrapping_add(xxh3_128(key.as_bytes())))
    }

    /// Whether the text is a key.
    #[must_use]
    pub fn has(&self, text: &str) -> bool {
        self.keys.has(text)
    }

    /// What a trimmed text refers to.
    #[must_use]
    pub fn find(&self, text: &str) -> Refers<'_> {
        if self.has(text) {
            return Refers::Key;
        }
        match self.also.get(text).map(Vec::as_slice) {
            Some([key]) => Refers::Through(key),
            Some([_, _, ..]) => Refers::Several,
            Some([]) | None => Refers::Nothing,
        }
    }

    /// The first keys that a word stands for.
    #[must_use]
    pub fn stands_for(&self, text: &str) -> &[Box<str>] {
        self.also.get(text).map(Vec::as_slice).unwrap_or_default()
    }

    /// The only key from which a text differs by a slip: another key is no help.
    #[must_use]
    pub fn nearest(&self, text: &str) -> Option<&str> {
        // Whoever has very many keys has one that is a slip away.
        if self.keys.len() > 20_000 {
            return None;
        }
        let slips = self.slips.get_or_init(|| {
            let mut slips: HashMap<String, Option<Box<str>>> = HashMap::new();
            for key in self.keys.iter() {
                slips
                    .entry(likeness::slip_form(key))
                    .and_modify(|key| *key = None)
                    .or_insert(Some(key.into()));
            }
            slips
        });
        let mut found = None;
        for form in likeness::slip_forms(text) {
            match (slips.get(&form), found) {
                (Some(None), _) => return None,
                (Some(Some(key)), Some(before)) if key != before => return None,
                (Some(Some(key)), _) => found = Some(key),
                (None, _) => {}
            }
        }
        found.map(AsRef::as_ref).filter(|key: &&str| *key != text)
    }

    /// How many keys there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.keys.len()
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.keys.len() == 0
    }
}
