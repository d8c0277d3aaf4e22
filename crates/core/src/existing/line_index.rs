//! The lines of existing records, where several rows make one: found by the key of their record and their own.

use hashbrown::HashTable;
use std::collections::HashSet;
use xxhash_rust::xxh3::xxh3_64;

/// Which line stands where, and which records the lines make.
#[derive(Debug, Default)]
pub(super) struct LineIndex {
    /// The number of each line, with the hash of its record's key and its own.
    table: HashTable<(u64, u32)>,
    /// The hashes of the keys of all records: lines of one need not stand together.
    records: HashSet<u64>,
    unmentioned: HashSet<u64>,
}

/// The hash of a line, from that of its record's key.
pub(super) fn line_hash(record: u64, line: &[u8]) -> u64 {
    record.rotate_left(17) ^ xxh3_64(line)
}

impl LineIndex {
    /// Takes up the record of a line; whether it is new.
    pub(super) fn begin(&mut self, record: u64) -> bool {
        self.records.insert(record)
    }

    /// Takes up a record that the file does not speak of; whether it is new.
    pub(super) fn leave(&mut self, key: &[u8]) -> bool {
        self.unmentioned.insert(xxh3_64(key))
    }

    /// The line of this hash for which `is_it` holds.
    pub(super) fn find(&self, hash: u64, is_it: impl Fn(u32) -> bool) -> Option<u32> {
        self.table.find(hash, |known| known.0 == hash && is_it(known.1)).map(|known| known.1)
    }

    /// Puts a line under its hash, in the place of the one that stands there.
    pub(super) fn put(&mut self, hash: u64, number: u32, is_it: impl Fn(u32) -> bool) {
        match self.table.find_mut(hash, |known| known.0 == hash && is_it(known.1)) {
            Some(known) => known.1 = number,
            None => {
                self.table.insert_unique(hash, (hash, number), |known| known.0);
            }
        }
    }
}
