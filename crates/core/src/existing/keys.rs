//! The keys of the rows of a block. Tables of many records are asked for all of them together: memory that is far away is
//! waited for once, and not once a row.

use xxhash_rust::xxh3::xxh3_64;

/// A key for each row, where it has one.
#[derive(Debug, Default)]
pub struct Keys {
    bytes: Vec<u8>,
    /// Where each ends, and its hash; nothing of rows without one.
    ends: Vec<Option<(usize, u64)>>,
}

impl Keys {
    /// Forgets all.
    pub fn clear(&mut self) {
        self.bytes.clear();
        self.ends.clear();
    }

    /// Takes up the key of the next row; nothing where it has none.
    pub fn push(&mut self, key: Option<&[u8]>) {
        self.bytes.extend(key.unwrap_or_default());
        self.ends.push(key.map(|key| (self.bytes.len(), xxh3_64(key))));
    }

    /// The keys, row by row, each with its hash.
    pub fn iter(&self) -> impl Iterator<Item = Option<(u64, &[u8])>> {
        let mut from = 0;
        self.ends.iter().map(move |end| {
            let (end, hash) = (*end)?;
            let key = self.bytes.get(from..end)?;
            from = end;
            Some((hash, key))
        })
    }

    /// Their hashes; of rows without a key nothing.
    pub(super) fn hashes(&self) -> impl Iterator<Item = Option<u64>> {
        self.ends.iter().map(|end| end.map(|(_, hash)| hash))
    }
}
