//! What a file asks of existing records, by hash.

use super::keys::Keys;
use super::probe::Probe;
use hashbrown::HashTable;
use std::sync::OnceLock;
use xxhash_rust::xxh3::{xxh3_64, xxh3_128};

/// Hashes of what a file holds: its keys, and what it looks for beside them.
#[derive(Debug, Default, Clone)]
pub struct Wanted {
    keys: HashTable<u64>,
    /// A bit for each key, where its hash says: most that are not there are told without a look at the table.
    bits: OnceLock<Vec<u64>>,
    /// Keys that are in no table yet: they come there together.
    waiting: Vec<u64>,
    /// Of each probe the hashes of its values; nothing where they are not known beforehand.
    probes: Vec<Option<HashTable<u64>>>,
    /// Of each probe sums that are equal where its values are; nothing where it has none.
    sums: Vec<Option<HashTable<u64>>>,
}

impl Wanted {
    /// With these probes, of which `is_known` says whether their values are all taken up.
    #[must_use]
    pub fn new(probes: &[Probe], is_known: impl Fn(&Probe) -> bool) -> Self {
        let table = |is_there: bool| is_there.then(HashTable::new);
        let values = probes.iter().map(|probe| table(is_known(probe))).collect();
        let sums = probes.iter().map(|probe| table(probe.by.is_some())).collect();
        Self { probes: values, sums, ..Self::default() }
    }

    /// Takes up a key.
    pub fn add(&mut self, key: &[u8]) {
        self.waiting.push(xxh3_64(key));
        if self.waiting.len() == MOST_WAITING {
            self.settle();
        }
    }

    /// Takes what waits into the table.
    fn settle(&mut self) {
        self.bits = OnceLock::new();
        self.keys.reserve(self.waiting.len(), |hash| *hash);
        self.waiting.drain(..).for_each(|hash| insert(&mut self.keys, hash));
    }

    /// Takes up the values of a probe.
    pub fn add_probe(&mut self, probe: usize, values: &[u8]) {
        if let Some(Some(hashes)) = self.probes.get_mut(probe) {
            insert(hashes, xxh3_128(values) as u64);
        }
    }

    /// Takes up the sum of what a probe looks for.
    pub fn add_sum(&mut self, probe: usize, sum: u64) {
        if let Some(Some(sums)) = self.sums.get_mut(probe) {
            insert(sums, sum);
        }
    }

    /// Takes up what another has.
    pub fn join(&mut self, mut other: Self) {
        join(&mut self.probes, std::mem::take(&mut other.probes));
        join(&mut self.sums, std::mem::take(&mut other.sums));
        self.join_keys(other);
    }

    /// Takes up the keys of another.
    pub fn join_keys(&mut self, mut other: Self) {
        self.settle();
        other.settle();
        if self.keys.is_empty() {
            self.keys = other.keys;
        } else {
            other.keys.into_iter().for_each(|hash| insert(&mut self.keys, hash));
        }
    }

    /// Of each key whether it may be among them, when all were joined: hashes only suspect.
    pub fn has_each(&self, keys: &Keys, into: &mut Vec<bool>) {
        into.clear();
        into.extend(keys.hashes().map(|hash| hash.is_some_and(|hash| has(&self.keys, hash))));
    }

    /// Whether a key may be among them, when all were joined: only what is not there is certain. Of many keys a table is far
    /// away in memory, and bits alone tell most that are not there.
    #[inline]
    pub(crate) fn may_have(&self, key: &[u8]) -> bool {
        let hash = xxh3_64(key);
        let bits = self.bits();
        let (word, bit) = place(bits, hash);
        let is_suspect = bits.get(word).is_some_and(|word| word & bit != 0);
        is_suspect && (self.keys.len() > MOST_NEAR_BY || has(&self.keys, hash))
    }

    /// How many keys there are at most, when all were joined.
    pub(crate) fn count(&self) -> usize {
        self.keys.len()
    }

    fn bits(&self) -> &[u64] {
        self.bits.get_or_init(|| {
            let mut bits = vec![0; (self.keys.len() * BITS_A_KEY / 64).next_power_of_two()];
            for hash in &self.keys {
                let (word, bit) = place(&bits, *hash);
                bits.get_mut(word).into_iter().for_each(|word| *word |= bit);
            }
            bits
        })
    }

    /// Whether the values of a probe may be among them.
    pub(super) fn has_probe(&self, probe: usize, hash: u128) -> bool {
        self.probes.get(probe).and_then(Option::as_ref).is_none_or(|hashes| has(hashes, hash as u64))
    }

    /// Whether values with this sum may be among those of a probe.
    pub fn may_have_sum(&self, probe: usize, sum: u64) -> bool {
        self.sums.get(probe).and_then(Option::as_ref).is_none_or(|sums| has(sums, sum))
    }
}

/// So many keys wait at most.
const MOST_WAITING: usize = 4096;

/// So many bits there are for each key, or up to twice as many.
const BITS_A_KEY: usize = 8;
/// So many keys are near by in memory.
const MOST_NEAR_BY: usize = 1 << 15;

/// The word of a hash among a power of two of them, and its bit.
fn place(bits: &[u64], hash: u64) -> (usize, u64) {
    ((hash >> 6) as usize & bits.len().wrapping_sub(1), 1 << (hash & 63))
}

fn join(own: &mut [Option<HashTable<u64>>], other: Vec<Option<HashTable<u64>>>) {
    for (own, other) in own.iter_mut().zip(other) {
        match (own.as_mut(), other) {
            (Some(own), Some(other)) => other.into_iter().for_each(|hash| insert(own, hash)),
            _ => *own = None,
        }
    }
}

fn insert(hashes: &mut HashTable<u64>, hash: u64) {
    hashes.entry(hash, |other| *other == hash, |hash| *hash).or_insert(hash);
}

fn has(hashes: &HashTable<u64>, hash: u64) -> bool {
    hashes.find(hash, |other| *other == hash).is_some()
}
