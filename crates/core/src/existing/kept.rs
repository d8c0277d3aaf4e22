//! Existing records kept in memory: those that a file speaks of, as far as that is known beforehand.

use super::known::Existing;
use super::row::ExistingRow;
use crate::schema::References;
use hashbrown::HashTable;
use xxhash_rust::xxh3::xxh3_64;

/// More keys than this are not searched for the nearest.
const MOST_NEAR: u64 = 20_000;

/// The hashes of the keys that a file holds.
#[derive(Debug, Default)]
pub struct Wanted(HashTable<u64>);

impl Wanted {
    /// Takes up a key.
    pub fn add(&mut self, key: &[u8]) {
        self.insert(xxh3_64(key));
    }

    /// Takes up what another has.
    pub fn join(&mut self, other: Self) {
        other.0.into_iter().for_each(|hash| self.insert(hash));
    }

    fn insert(&mut self, hash: u64) {
        self.0.entry(hash, |other| *other == hash, |hash| *hash).or_insert(hash);
    }

    /// Whether a key may be among them: hashes only suspect.
    #[must_use]
    pub fn may_hold(&self, key: &[u8]) -> bool {
        let hash = xxh3_64(key);
        self.0.find(hash, |other| *other == hash).is_some()
    }
}

/// Existing records in memory.
#[derive(Debug, Default)]
pub struct Kept {
    source: String,
    /// The fields that are known, by number, ascending.
    fields: Vec<usize>,
    /// Keys and values, one behind the other.
    bytes: Vec<u8>,
    /// Where each key and each value ends: of every record its key first, then its values in the order of fields.
    ends: Vec<usize>,
    table: HashTable<u32>,
    count: u64,
    repeated: u64,
    near: Option<References>,
}

impl Kept {
    /// None yet, of these fields, from this source; `names_keys` where their key is one text, which can be near another.
    #[must_use]
    pub fn new(source: String, mut fields: Vec<usize>, names_keys: bool) -> Self {
        fields.sort_unstable();
        let near = names_keys.then(|| References::from_source(String::new()));
        Self { source, fields, near, ..Self::default() }
    }

    /// The fields that are known.
    #[must_use]
    pub fn fields(&self) -> &[usize] {
        &self.fields
    }

    /// Counts a record, and keeps it where its key is wanted; `value` gives the value of each field. The first of
    /// several records with the same key stands.
    pub fn take<V: AsRef<str>>(
        &mut self,
        key: &[u8],
        wanted: Option<&Wanted>,
        mut value: impl FnMut(usize) -> Option<V>,
    ) {
        self.count += 1;
        if self.count > MOST_NEAR {
            self.near = None;
        }
        if let (Some(near), Ok(key)) = (&mut self.near, std::str::from_utf8(key)) {
            near.add(key, &[]);
        }
        if !wanted.is_none_or(|wanted| wanted.may_hold(key)) {
            return;
        }
        // Nobody holds four thousand million records in memory.
        let Ok(number) = u32::try_from(self.ends.len() / self.width()) else { return };
        if self.row(key).is_some() {
            self.repeated += 1;
            return;
        }
        self.bytes.extend(key);
        self.ends.push(self.bytes.len());
        for at in 0..self.fields.len() {
            let value = self.fields.get(at).and_then(|field| value(*field));
            self.bytes.extend(value.iter().flat_map(|value| value.as_ref().bytes()));
            self.ends.push(self.bytes.len());
        }
        let (bytes, ends, width) = (&self.bytes, &self.ends, self.width());
        let hash = |number: &u32| xxh3_64(part(bytes, ends, *number as usize * width));
        self.table.insert_unique(xxh3_64(key), number, hash);
    }

    /// How many ends a record has.
    fn width(&self) -> usize {
        self.fields.len() + 1
    }
}

/// The bytes of this number.
fn part<'a>(bytes: &'a [u8], ends: &[usize], at: usize) -> &'a [u8] {
    let start = at.checked_sub(1).and_then(|before| ends.get(before)).copied().unwrap_or_default();
    let end = ends.get(at).copied().unwrap_or_default();
    bytes.get(start..end).unwrap_or_default()
}

impl Existing for Kept {
    fn row(&self, key: &[u8]) -> Option<ExistingRow<'_>> {
        let is_it = |number: &u32| part(&self.bytes, &self.ends, *number as usize * self.width()) == key;
        let first = *self.table.find(xxh3_64(key), is_it)? as usize * self.width();
        let ends = self.ends.get(first..first + self.width())?;
        Some(ExistingRow { fields: &self.fields, bytes: &self.bytes, ends })
    }

    fn count(&self) -> u64 {
        self.count
    }

    fn repeated(&self) -> u64 {
        self.repeated
    }

    fn knows(&self, field: usize) -> bool {
        self.fields.binary_search(&field).is_ok()
    }

    fn nearest(&self, key: &str) -> Option<&str> {
        self.near.as_ref()?.nearest(key)
    }

    fn source(&self) -> &str {
        &self.source
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn records_are_found_by_their_key_and_the_first_of_equals_stands() {
        let mut wanted = Wanted::default();
        ["a", "b", "z"].iter().for_each(|key| wanted.add(key.as_bytes()));
        let mut kept = Kept::new("export.csv".to_owned(), vec![4, 2], true);
        for (key, two, four) in [("a", "1", ""), ("HT-0042", "2", "x"), ("b", "3", "y"), ("b", "5", "z")] {
            let value = |field| Some(if field == 2 { two } else { four });
            kept.take(key.as_bytes(), Some(&wanted), value);
        }
        let value = |key: &str, field| kept.row(key.as_bytes()).and_then(|row| row.value(field));
        assert_eq!((value("a", 2), value("a", 4), value("b", 4)), (Some("1"), None, Some("y")));
        // What the file does not speak of is counted alone, and may be near what it does.
        assert_eq!((value("HT-0042", 2), value("z", 2), value("a", 3)), (None, None, None));
        assert_eq!((kept.count(), kept.repeated(), kept.nearest("HT-042")), (4, 1, Some("HT-0042")));
        assert!(kept.knows(4) && !kept.knows(3) && kept.has(b"a"));
    }
}
