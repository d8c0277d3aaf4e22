//! What another record may have that is there: a combination that must not repeat, nearly the same key, the same
//! description.

use crate::catalogue::Code;
use hashbrown::HashTable;
use std::collections::HashMap;
use xxhash_rust::xxh3::{xxh3_64, xxh3_128};

/// Fields whose values are looked for among existing records.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Probe {
    /// What is told of a record that has them: `unique-exists`, `key-nearly-repeated` or `duplicate-likely`.
    pub code: Code,
    /// The fields, in their order.
    pub fields: Vec<usize>,
    /// Of likely duplicates a field of words, whatever else decides how cells are read: where they are alike, so are these.
    pub by: Option<usize>,
}

/// Who has which values.
#[derive(Debug, Default)]
pub(super) struct Holders {
    table: HashTable<Holder>,
}

#[derive(Debug)]
struct Holder {
    hash: u128,
    /// Where the key of the record stands, and how long it is.
    start: usize,
    len: u32,
    /// The layer that it comes from.
    layer: u32,
}

/// The keys of records that have what is looked for.
#[derive(Debug, Default)]
pub(super) struct Owners {
    holders: Vec<Holders>,
    keys: Vec<u8>,
    /// In which layer the record of a key was last handed over; only of those that were, by the key's hash.
    newest: HashMap<u64, u32>,
}

impl Owners {
    pub(super) fn new(probes: usize) -> Self {
        Self { holders: std::iter::repeat_with(Holders::default).take(probes).collect(), ..Self::default() }
    }

    /// Says that the record of this key stands in a later layer, as it is there.
    pub(super) fn supersede(&mut self, key: &[u8], layer: u32) {
        self.newest.insert(xxh3_64(key), layer);
    }

    /// Takes the key of a record that has these values. The first of a layer stands.
    pub(super) fn add(&mut self, probe: usize, hash: u128, key: &[u8], layer: u32) {
        let Some(holders) = self.holders.get_mut(probe) else { return };
        let short = hash as u64;
        let new = Holder { hash, start: self.keys.len(), len: u32::try_from(key.len()).unwrap_or(0), layer };
        match holders.table.find_mut(short, |holder| holder.hash == hash) {
            Some(holder) if holder.layer < layer => *holder = new,
            Some(_) => return,
            None => {
                holders.table.insert_unique(short, new, |holder| holder.hash as u64);
            }
        }
        self.keys.extend(key);
    }

    /// The key of the record that has these values.
    pub(super) fn of(&self, probe: usize, values: &[u8]) -> Option<&[u8]> {
        let hash = xxh3_128(values);
        let holder = self.holders.get(probe)?.table.find(hash as u64, |holder| holder.hash == hash)?;
        let key = self.keys.get(holder.start..holder.start + holder.len as usize)?;
        let newest = if self.newest.is_empty() { None } else { self.newest.get(&xxh3_64(key)) };
        newest.is_none_or(|layer| *layer == holder.layer).then_some(key)
    }
}
