//! The wrong words of a column, counted: a few words make most findings.

use crate::catalogue::Code;
use crate::finding::Finding;
use crate::rows::text_of;
use crate::scan::Dialect;
use hashbrown::HashMap;
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::BTreeMap;

/// So many different words of a column are counted; where there are more, none is called frequent.
const MOST: usize = 2_000;
/// So many are told.
const TOLD: usize = 3;

/// The wrong words of a column, as they stand, by code.
#[derive(Debug, Default)]
pub struct Words {
    counts: BTreeMap<Code, HashMap<Box<[u8]>, u64>>,
    different: usize,
    is_full: bool,
    dialect: Dialect,
}

impl Words {
    /// Counts the raw cell of a finding.
    pub(super) fn count(&mut self, code: Code, raw: &[u8], dialect: Dialect) {
        self.dialect = dialect;
        if self.is_full {
            return;
        }
        let counts = self.counts.entry(code).or_default();
        match counts.get_mut(raw) {
            Some(count) => *count += 1,
            None => {
                counts.insert(raw.into(), 1);
                self.different += 1;
            }
        }
        if self.different > MOST {
            self.give_up();
        }
    }

    pub(crate) fn join(&mut self, other: Self) {
        self.dialect = other.dialect;
        for (code, words) in other.counts {
            let counts = self.counts.entry(code).or_default();
            for (word, count) in words {
                *counts.entry(word).or_default() += count;
            }
        }
        self.different = self.counts.values().map(HashMap::len).sum();
        if self.is_full || other.is_full || self.different > MOST {
            self.give_up();
        }
    }

    fn give_up(&mut self) {
        self.is_full = true;
        self.counts = BTreeMap::new();
    }

    /// The most frequent words that have a code, where there are several.
    #[must_use]
    pub fn most_frequent(&self, code: Code) -> Vec<WordCount> {
        let mut counts: HashMap<String, u64> = HashMap::new();
        for (raw, count) in self.counts.get(&code).into_iter().flatten() {
            let text = text_of(raw, self.dialect).map(|text| text.trim().to_owned());
            let text = text.unwrap_or_else(|bytes| String::from_utf8_lossy(&bytes).into_owned());
            let text: String = text.chars().take(Finding::LONGEST_VALUE).collect();
            *counts.entry(text).or_default() += count;
        }
        let mut words: Vec<WordCount> =
            counts.into_iter().map(|(value, count)| WordCount { value, count }).collect();
        words.sort_by(|a, b| b.count.cmp(&a.count).then_with(|| a.value.cmp(&b.value)));
        let is_told = words.len() > 1 && words.first().is_some_and(|word| word.count > 1);
        words.truncate(if is_told { TOLD } else { 0 });
        words
    }
}

/// A wrong word and how often it stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct WordCount {
    /// The word, as it stands.
    pub value: String,
    /// In how many cells.
    pub count: u64,
}
