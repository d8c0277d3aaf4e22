//! Existing records kept in memory: those that a file speaks of, as far as that is known beforehand.

use super::former::{Former, Plainly};
use super::known::Existing;
use super::probe::{Owners, Probe};
use super::row::ExistingRow;
use crate::schema::References;
use hashbrown::HashTable;
use std::borrow::Cow;
use std::sync::Arc;
use xxhash_rust::xxh3::{xxh3_64, xxh3_128};

/// More keys than this are not searched for the nearest.
const MOST_NEAR: u64 = 20_000;

/// Hashes of what a file holds: its keys, and what it looks for beside them.
#[derive(Debug, Default)]
pub struct Wanted {
    keys: HashTable<u64>,
    /// Of each probe the hashes of its values; nothing where they are not known beforehand.
    probes: Vec<Option<HashTable<u64>>>,
}

impl Wanted {
    /// With so many probes, of which `is_known` says whether their values are all taken up.
    #[must_use]
    pub fn new(probes: usize, is_known: impl Fn(usize) -> bool) -> Self {
        let probe = |at| is_known(at).then(HashTable::new);
        Self { keys: HashTable::new(), probes: (0..probes).map(probe).collect() }
    }

    /// Takes up a key.
    pub fn add(&mut self, key: &[u8]) {
        insert(&mut self.keys, xxh3_64(key));
    }

    /// Takes up the values of a probe.
    pub fn add_probe(&mut self, probe: usize, values: &[u8]) {
        if let Some(Some(hashes)) = self.probes.get_mut(probe) {
            insert(hashes, xxh3_128(values) as u64);
        }
    }

    /// Takes up what another has.
    pub fn join(&mut self, other: Self) {
        other.keys.into_iter().for_each(|hash| insert(&mut self.keys, hash));
        for (own, other) in self.probes.iter_mut().zip(other.probes) {
            match (own.as_mut(), other) {
                (Some(own), Some(other)) => other.into_iter().for_each(|hash| insert(own, hash)),
                _ => *own = None,
            }
        }
    }

    /// Takes up the keys of another.
    pub fn join_keys(&mut self, other: Self) {
        other.keys.into_iter().for_each(|hash| insert(&mut self.keys, hash));
    }

    /// Whether a key may be among them: hashes only suspect.
    #[must_use]
    pub fn has(&self, key: &[u8]) -> bool {
        has(&self.keys, xxh3_64(key))
    }

    /// Whether the values of a probe may be among them.
    fn has_probe(&self, probe: usize, hash: u128) -> bool {
        self.probes.get(probe).and_then(Option::as_ref).is_none_or(|hashes| has(hashes, hash as u64))
    }
}

fn insert(hashes: &mut HashTable<u64>, hash: u64) {
    hashes.entry(hash, |other| *other == hash, |hash| *hash).or_insert(hash);
}

fn has(hashes: &HashTable<u64>, hash: u64) -> bool {
    hashes.find(hash, |other| *other == hash).is_some()
}

/// Records of a piece of their source, on the way to those that are kept.
#[derive(Debug, Default)]
pub struct Batch {
    count: u64,
    /// Those of them that have no key.
    keyless: u64,
    /// Keys and cells of those that are wanted, one behind the other.
    bytes: Vec<u8>,
    /// Of each its key's hash and end, then where its cells end, from the end of its key.
    keys: Vec<(u64, u32)>,
    ends: Vec<u32>,
    /// The keys of all, where the nearest is searched among them.
    near: Vec<String>,
    /// Those that the file does not speak of, with their keys where they are listed.
    unmentioned: u64,
    unmentioned_keys: Vec<u8>,
    unmentioned_ends: Vec<usize>,
    /// What is looked for, with the keys of those that have it.
    found: Vec<(usize, u128, u32)>,
    found_keys: Vec<u8>,
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
fn short(len: usize) -> u32 {
    u32::try_from(len).unwrap_or(u32::MAX)
}

/// What is kept of existing records, and how.
#[derive(Debug)]
pub struct KeptOf {
    /// What they are read from, for messages.
    pub source: String,
    /// The fields that are kept.
    pub fields: Vec<usize>,
    /// What reads their cells.
    pub former: Arc<dyn Former>,
    /// What is looked for beside keys.
    pub probes: Vec<Probe>,
    /// Whether their key is one text, which can be near another.
    pub names_keys: bool,
    /// Whether those are counted that the file does not speak of, and whether they are listed.
    pub unmentioned: (bool, bool),
}

/// Existing records in memory: those of one source, and over them what was handed over since.
#[derive(Debug)]
pub struct Kept {
    of: KeptOf,
    /// What reads the values of records that were handed over.
    plainly: Plainly,
    /// Keys and cells, one behind the other.
    bytes: Vec<u8>,
    /// Of each record where it begins, how long its key is, and whether its cells are values already.
    starts: Vec<(usize, u32, bool)>,
    /// Of each record where each cell ends, from the end of its key.
    ends: Vec<u32>,
    /// The number of each record, with the hash of its key.
    table: HashTable<(u64, u32)>,
    owners: Owners,
    unmentioned: u64,
    unmentioned_keys: Vec<Vec<u8>>,
    layer: u32,
    count: u64,
    keyless: u64,
    repeated: u64,
    near: Option<References>,
}

impl Kept {
    /// None yet.
    #[must_use]
    pub fn new(mut of: KeptOf) -> Self {
        of.fields.sort_unstable();
        let near = of.names_keys.then(|| References::from_source(String::new()));
        Self {
            owners: Owners::new(of.probes.len()),
            of,
            plainly: Plainly,
            bytes: Vec::new(),
            starts: Vec::new(),
            ends: Vec::new(),
            table: HashTable::new(),
            unmentioned: 0,
            unmentioned_keys: Vec::new(),
            layer: 0,
            count: 0,
            keyless: 0,
            repeated: 0,
            near,
        }
    }

    /// The fields that are kept.
    #[must_use]
    pub fn fields(&self) -> &[usize] {
        &self.of.fields
    }

    /// Whether those are counted that the file does not speak of, and whether they are listed.
    #[must_use]
    pub fn counts_unmentioned(&self) -> (bool, bool) {
        self.of.unmentioned
    }

    /// In so many rows of the source keys may be near one that is asked for.
    #[must_use]
    pub fn near_rows(&self) -> u64 {
        if self.near.is_some() { MOST_NEAR * 2 } else { 0 }
    }

    /// Takes up a piece of the source. The first of several records with the same key stands.
    pub fn join(&mut self, batch: &Batch) {
        self.count += batch.count;
        self.keyless += batch.keyless;
        self.unmentioned += batch.unmentioned;
        let mut from = 0;
        for end in &batch.unmentioned_ends {
            self.unmentioned_keys.extend(batch.unmentioned_keys.get(from..*end).map(<[u8]>::to_vec));
            from = *end;
        }
        self.join_near(batch);
        self.join_found(batch);
        for (hash, key, bytes, ends) in batch.records(self.of.fields.len()) {
            match self.find(hash, key) {
                Some(_) => self.repeated += 1,
                None => self.push((hash, key), (bytes, ends), false),
            }
        }
    }

    /// What is handed over from here on stands over what was there before.
    pub fn begin_released(&mut self, source: &str) {
        self.layer += 1;
        self.of.source = match self.of.source.is_empty() {
            true => source.to_owned(),
            false => format!("{} and {source}", self.of.source),
        };
    }

    /// Takes up a piece of rows that were handed over, their cells as values: what is blank in them leaves what is there.
    pub fn join_released(&mut self, batch: &Batch) {
        self.join_near(batch);
        for (hash, key, bytes, ends) in batch.records(self.of.fields.len()) {
            let below = self.find(hash, key);
            self.count += u64::from(below.is_none());
            self.owners.supersede(key, self.layer);
            let (mut merged, mut merged_ends) = (Vec::new(), Vec::new());
            let row = ExistingRow {
                number: 0,
                key,
                fields: &self.of.fields,
                bytes,
                ends,
                former: &self.plainly,
                is_formed: true,
            };
            let there = self.row(key);
            for field in &self.of.fields {
                let value = row.value(*field).or_else(|| there?.value(*field));
                merged.extend(value.iter().flat_map(|value| value.bytes()));
                merged_ends.push(short(merged.len()));
            }
            if below.is_some() {
                self.forget(hash, key);
            }
            self.push((hash, key), (&merged, &merged_ends), true);
        }
        self.join_found(batch);
    }

    fn join_near(&mut self, batch: &Batch) {
        if self.count > MOST_NEAR {
            self.near = None;
        }
        if let Some(near) = &mut self.near {
            batch.near.iter().for_each(|key| near.add(key, &[]));
        }
    }

    fn join_found(&mut self, batch: &Batch) {
        let mut from = 0;
        for (probe, hash, len) in &batch.found {
            let key = batch.found_keys.get(from..from + *len as usize).unwrap_or_default();
            self.owners.add(*probe, *hash, key, self.layer);
            from += *len as usize;
        }
    }

    fn push(&mut self, (hash, key): (u64, &[u8]), (cells, ends): (&[u8], &[u32]), is_formed: bool) {
        // Nobody holds four thousand million records in memory.
        let Ok(number) = u32::try_from(self.starts.len()) else { return };
        self.starts.push((self.bytes.len(), short(key.len()), is_formed));
        self.bytes.extend(key);
        self.bytes.extend(cells);
        self.ends.extend(ends);
        self.table.insert_unique(hash, (hash, number), |known| known.0);
    }

    fn find(&self, hash: u64, key: &[u8]) -> Option<u32> {
        let is_it = |known: &(u64, u32)| known.0 == hash && key_of(&self.bytes, &self.starts, known.1) == key;
        self.table.find(hash, is_it).map(|known| known.1)
    }

    fn forget(&mut self, hash: u64, key: &[u8]) {
        let (bytes, starts) = (&self.bytes, &self.starts);
        if let Ok(found) = self.table.find_entry(hash, |known| key_of(bytes, starts, known.1) == key) {
            found.remove();
        }
    }
}

impl Batch {
    /// Of each record the hash of its key, its key, its cells and where each of them ends.
    fn records(&self, width: usize) -> impl Iterator<Item = (u64, &[u8], &[u8], &[u32])> {
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

/// The key of the record of this number.
fn key_of<'a>(bytes: &'a [u8], starts: &[(usize, u32, bool)], number: u32) -> &'a [u8] {
    let (start, len, _) = starts.get(number as usize).copied().unwrap_or_default();
    bytes.get(start..start + len as usize).unwrap_or_default()
}

impl Existing for Kept {
    fn row(&self, key: &[u8]) -> Option<ExistingRow<'_>> {
        let number = self.find(xxh3_64(key), key)?;
        let width = self.of.fields.len();
        let ends = self.ends.get(number as usize * width..(number as usize + 1) * width)?;
        let (start, _, is_formed) = *self.starts.get(number as usize)?;
        let start = start + key.len();
        let key = key_of(&self.bytes, &self.starts, number);
        let end = start + ends.last().copied().unwrap_or_default() as usize;
        let bytes = self.bytes.get(start..end)?;
        let former: &dyn Former = if is_formed { &self.plainly } else { self.of.former.as_ref() };
        Some(ExistingRow { number, key, fields: &self.of.fields, bytes, ends, former, is_formed })
    }

    fn count(&self) -> u64 {
        self.count
    }

    fn repeated(&self) -> u64 {
        self.repeated
    }

    fn keyless(&self) -> u64 {
        self.keyless
    }

    fn knows(&self, field: usize) -> bool {
        self.place(field).is_some()
    }

    fn place(&self, field: usize) -> Option<usize> {
        self.of.fields.binary_search(&field).ok()
    }

    fn way(&self, field: usize) -> Option<String> {
        self.of.former.way(field)
    }

    fn nearest(&self, key: &str) -> Option<&str> {
        self.near.as_ref()?.nearest(key)
    }

    fn unmentioned(&self) -> Option<u64> {
        self.of.unmentioned.0.then_some(self.unmentioned)
    }

    fn unmentioned_keys(&self) -> Vec<&[u8]> {
        self.unmentioned_keys.iter().map(Vec::as_slice).collect()
    }

    fn probes(&self) -> &[Probe] {
        &self.of.probes
    }

    fn holder(&self, probe: usize, values: &[u8]) -> Option<&[u8]> {
        self.owners.of(probe, values)
    }

    fn source(&self) -> &str {
        &self.of.source
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn records_are_found_by_their_key_and_the_first_of_equals_stands() {
        let mut wanted = Wanted::default();
        ["a", "b", "z"].iter().for_each(|key| wanted.add(key.as_bytes()));
        let mut kept = Kept::new(KeptOf {
            source: "export.csv".to_owned(),
            fields: vec![4, 2],
            former: Arc::new(Plainly),
            probes: Vec::new(),
            names_keys: true,
            unmentioned: (false, false),
        });
        for (key, two, four) in [("a", "1", ""), ("HT-0042", "2", "x"), ("b", "3", "y"), ("b", "5", "z")] {
            let mut batch = Batch::default();
            let cells = [two, four].into_iter().map(|cell| Cow::Borrowed(cell.as_bytes()));
            batch.take(key.as_bytes(), (true, wanted.has(key.as_bytes())), cells);
            kept.join(&batch);
        }
        let value =
            |key: &str, field| kept.row(key.as_bytes()).and_then(|row| row.value(field)).map(Cow::into_owned);
        let some = |text: &str| Some(text.to_owned());
        assert_eq!((value("a", 2), value("a", 4), value("b", 4)), (some("1"), None, some("y")));
        // What the file does not speak of is counted alone, and may be near what it does.
        assert_eq!((value("HT-0042", 2), value("z", 2), value("a", 3)), (None, None, None));
        assert_eq!((kept.count(), kept.repeated(), kept.nearest("HT-042")), (4, 1, Some("HT-0042")));
        assert!(kept.knows(4) && !kept.knows(3) && kept.has(b"a"));
    }
}
