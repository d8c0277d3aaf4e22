//! Records of a piece of their source.

use super::wanted::Wanted;
use std::borrow::Cow;
use xxhash_rust::xxh3::{xxh3_64, xxh3_128};

/// Records of a piece of their source, on the way to those that are kept.
#[derive(Debug, Default)]
pub struct Batch {
    pub(super) count: u64,
    /// The sum of the hashes of all keys, which is the same in whatever order they come.
    pub(super) key_sum: u128,
    /// Those of them that have no key.
    pub(super) keyless: u64,
    /// Keys and cells of those that are wanted, one behind the other.
    bytes: Vec<u8>,
    /// Of each its key's hash and end, then where its cells end, from the end of its key.
    keys: Vec<(u64, u32)>,
    ends: Vec<u32>,
    /// The keys of all, where the nearest is searched among them.
    pub(super) near: Vec<String>,
    /// Those that the file does not speak of, with their keys where they are listed.
    pub(super) unmentioned: u64,
    unmentioned_keys: Vec<u8>,
    unmentioned_ends: Vec<usize>,
    /// Where several rows make a record: the hash of the key of each.
    pub(super) records: Vec<u64>,
    /// What is looked for, with the keys of those that have it.
    pub(super) found: Vec<(usize, u128, u32)>,
    pub(super) found_keys: Vec<u8>,
}

impl Batch {
    /// Counts a record, and keeps it where it is wanted; `cells` are those of the fields
    /// that are kept.
    pub fn take<'a>(
        &mut self,
        key: &[u8],
        (is_near, is_wanted): (bool, bool),
        cells: impl Iterator<Item = Cow<'a, [u8]>>,
    ) {
        self.count += 1;
        self.key_sum = self.key_sum.wrapping_add(xxh3_128(key));
        if is_near && let Ok(key) = std::str::from_utf8(key) {
            self.near.push(key.to_owned());
        }
        if !is_wanted {
            return;
        }
        self.bytes.extend(key);
        self.keys.push((xxh3_64(key), short(key.len())));
        let from = self.bytes.len();
        for cell in cells {
            self.bytes.extend(cell.as_ref());
            self.ends.push(short(self.bytes.len() - from));
        }
    }

    /// Counts a record that no row asks for.
    pub(crate) fn count_unasked(&mut self, key: &[u8]) {
        self.count += 1;
        self.unmentioned += 1;
        self.key_sum = self.key_sum.wrapping_add(xxh3_128(key));
    }

    /// Says to which record a row belongs, where several make one.
    pub fn take_line(&mut self, key: &[u8]) {
        self.records.push(xxh3_64(key));
    }

    /// Counts a record that has no key.
    pub fn take_keyless(&mut self) {
        self.count += 1;
        self.keyless += 1;
    }

    /// Counts a record that the file may change and does not speak of.
    pub fn take_unmentioned(&mut self, key: &[u8], is_listed: bool) {
        self.unmentioned += 1;
        if is_listed {
            self.unmentioned_keys.extend(key);
            self.unmentioned_ends.push(self.unmentioned_keys.len());
        }
    }

    /// Keeps the key of a record that has these values, where they are wanted; gives whether they are.
    pub fn take_probe(&mut self, probe: usize, values: &[u8], key: &[u8], wanted: Option<&Wanted>) -> bool {
        let hash = xxh3_128(values);
        let is_wanted = wanted.is_none_or(|wanted| wanted.has_probe(probe, hash));
        if is_wanted {
            self.found.push((probe, hash, short(key.len())));
            self.found_keys.extend(key);
        }
        is_wanted
    }
}

/// No cell is longer than four thousand million bytes.
pub(super) fn short(len: usize) -> u32 {
    u32::try_from(len).unwrap_or(u32::MAX)
}

impl Batch {
    /// The keys of records that the file does not speak of, where they are listed.
    pub(super) fn unmentioned(&self) -> impl Iterator<Item = &[u8]> {
        let mut from = 0;
        self.unmentioned_ends.iter().filter_map(move |end| {
            let key = self.unmentioned_keys.get(from..*end);
            from = *end;
            key
        })
    }

    /// Of each record the hash of its key, its key, its cells and where each of them ends.
    pub(super) fn records(&self, width: usize) -> impl Iterator<Item = (u64, &[u8], &[u8], &[u32])> {
        let mut from = 0;
        self.keys.iter().enumerate().map(move |(at, (hash, len))| {
            let ends = self.ends.get(at * width..(at + 1) * width).unwrap_or_default();
            let cells = from + *len as usize;
            let to = cells + ends.last().copied().unwrap_or_default() as usize;
            let parts = (self.bytes.get(from..cells), self.bytes.get(cells..to));
            from = to;
            (*hash, parts.0.unwrap_or_default(), parts.1.unwrap_or_default(), ends)
        })
    }
}
