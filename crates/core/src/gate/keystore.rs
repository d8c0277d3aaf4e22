//! Hashes of combinations, eight bytes a row: they only suspect. Suspected rows are read again, and their values decide.

use crate::aside::Aside;
use crate::{misfire, order};

const PARTITIONS: usize = 256;
const STAGED: usize = 32 << 10;
const CHUNK: usize = 512;
const ROW_BITS: u32 = 24;
const ROW_MASK: u64 = (1 << ROW_BITS) - 1;

/// Hashes of one combination, seen by one judge, rows ascending.
///
/// An entry is 40 bits of hash and the low 24 bits of the row; eight more bits of hash choose the partition,
/// and what the row has beyond 24 bits is its generation, noted where it changes. Rows are staged first: a
/// store into one of 256 lists for each row would be a cache miss each.
#[derive(Debug)]
pub(crate) struct KeyStore {
    generation: u64,
    staged: Vec<u64>,
    staged_partition: Vec<u8>,
    /// The staged ones by partition; kept, as so large a list is dear to ask for.
    sorted: Vec<u64>,
    partitions: Vec<Partition>,
    /// How many are in memory.
    held: usize,
}

#[derive(Debug, Default)]
struct Partition {
    /// Where entries that were put aside are, and how many; they stand before those in memory.
    aside: Vec<(u64, usize)>,
    chunks: Vec<Vec<u64>>,
    /// All of them, also those put aside.
    len: usize,
    /// From which entry on which generation holds.
    generations: Vec<(usize, u64)>,
}

impl KeyStore {
    pub(crate) fn new() -> Self {
        let mut partitions = Vec::new();
        partitions.resize_with(PARTITIONS, Partition::default);
        Self {
            generation: 0,
            staged: Vec::new(),
            staged_partition: Vec::new(),
            sorted: Vec::new(),
            partitions,
            held: 0,
        }
    }

    /// How many bytes they take in memory.
    pub(crate) fn held(&self) -> usize {
        self.held * size_of::<u64>()
    }

    /// Puts what is in memory aside.
    pub(crate) fn put_aside<E: Send>(&mut self, aside: &dyn Aside<Error = E>) -> Result<(), E> {
        let mut bytes = Vec::with_capacity(self.held());
        for partition in &self.partitions {
            bytes.extend(partition.chunks.iter().flatten().flat_map(|entry| entry.to_le_bytes()));
        }
        let mut place = aside.put(&bytes)?;
        for partition in &mut self.partitions {
            let count: usize = std::mem::take(&mut partition.chunks).iter().map(Vec::len).sum();
            if count > 0 {
                partition.aside.push((place, count));
                place += (count * size_of::<u64>()) as u64;
            }
        }
        self.held = 0;
        Ok(())
    }

    #[inline]
    pub(crate) fn push(&mut self, hash: u64, row: u64) {
        if row >> ROW_BITS != self.generation {
            self.flush();
            self.generation = row >> ROW_BITS;
        }
        self.staged_partition.push((hash >> 56) as u8);
        // Never zero, so that an entry tells itself from an empty slot.
        let hash = (hash >> 16 & ((1 << 40) - 1)).max(1);
        self.staged.push(hash << ROW_BITS | row & ROW_MASK);
        if self.staged.len() >= STAGED {
            self.flush();
        }
    }

    #[expect(
        clippy::indexing_slicing,
        reason = "a byte, or a partition's number, indexes one more than 256 places"
    )]
    fn flush(&mut self) {
        // Partition after partition by a counting sort, so that each list is touched once.
        let mut next = [0_usize; PARTITIONS + 1];
        for &partition in &self.staged_partition {
            next[usize::from(partition) + 1] += 1;
        }
        for partition in 0..PARTITIONS {
            next[partition + 1] += next[partition];
        }
        let ends = next;
        let Self { sorted, .. } = self;
        sorted.clear();
        sorted.resize(self.staged.len(), 0);
        for (&entry, &partition) in self.staged.iter().zip(&self.staged_partition) {
            let at = &mut next[usize::from(partition)];
            if let Some(slot) = sorted.get_mut(*at) {
                *slot = entry;
            }
            *at += 1;
        }
        for (number, partition) in self.partitions.iter_mut().enumerate() {
            partition.extend(sorted.get(ends[number]..ends[number + 1]).unwrap_or_default(), self.generation);
        }
        self.held += self.staged.len();
        self.staged.clear();
        self.staged_partition.clear();
    }
}

impl Partition {
    fn extend(&mut self, mut entries: &[u64], generation: u64) {
        if !entries.is_empty() && self.generations.last().is_none_or(|last| last.1 != generation) {
            self.generations.push((self.len, generation));
        }
        self.len += entries.len();
        while !entries.is_empty() {
            if self.chunks.last().is_none_or(|chunk| chunk.len() == CHUNK) {
                // The first chunk grows with small files; a list of full ones never doubles.
                let capacity = if self.chunks.is_empty() { entries.len().min(CHUNK) } else { CHUNK };
                self.chunks.push(Vec::with_capacity(capacity));
            }
            let Some(chunk) = self.chunks.last_mut() else { return };
            let (now, later) = entries.split_at(entries.len().min(CHUNK - chunk.len()));
            chunk.extend_from_slice(now);
            entries = later;
        }
    }

    /// The same, with what was put aside read into memory.
    fn whole<E: Send>(&self, aside: &dyn Aside<Error = E>) -> Result<Self, E> {
        let mut all = Vec::with_capacity(self.len);
        for (place, count) in &self.aside {
            let mut bytes = vec![0; count * size_of::<u64>()];
            aside.get(*place, &mut bytes)?;
            all.extend(bytes.as_chunks().0.iter().map(|entry| u64::from_le_bytes(*entry)));
        }
        all.extend(self.chunks.iter().flatten());
        let generations = self.generations.clone();
        Ok(Self { aside: Vec::new(), chunks: vec![all], len: self.len, generations })
    }

    /// The entries with the generation of their rows.
    fn rows(&self) -> impl Iterator<Item = (u64, u64)> {
        let mut generation = 0;
        let mut changes = self.generations.iter().peekable();
        self.chunks.iter().flatten().enumerate().map(move |(number, &entry)| {
            while let Some(change) = changes.next_if(|change| change.0 <= number) {
                generation = change.1;
            }
            (entry >> ROW_BITS, generation << ROW_BITS | entry & ROW_MASK)
        })
    }
}

/// A row that may repeat another: they have the same hash.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct SuspectRow {
    /// The row.
    pub row: u64,
    /// The number of the combination.
    pub keyset: usize,
    /// What the hashes have in common.
    pub hash: u64,
}

/// All suspected rows, in the order of rows.
#[derive(Debug, Default)]
pub struct Suspects {
    /// The rows; one stands here once for each combination.
    pub rows: Vec<SuspectRow>,
}

impl Suspects {
    /// Looks through the hashes of all judges.
    ///
    /// # Errors
    /// When what was put aside cannot be read again.
    pub(crate) fn find<E: Send>(
        mut stores: Vec<Vec<KeyStore>>,
        aside: Option<&dyn Aside<Error = E>>,
        threads: usize,
    ) -> Result<Self, E> {
        stores.iter_mut().flatten().for_each(KeyStore::flush);
        let keysets = stores.first().map_or(0, Vec::len);
        let work: Vec<(usize, usize)> =
            (0..keysets).flat_map(|keyset| (0..PARTITIONS).map(move |p| (keyset, p))).collect();
        let share = work.len().div_ceil(threads.max(1)).max(1);
        let look = |work: &[(usize, usize)]| {
            let (mut table, mut found) = (Vec::new(), Vec::new());
            misfire::point("settle");
            for &(keyset, partition) in work {
                let parts = stores.iter().filter_map(|store| store.get(keyset)?.partitions.get(partition));
                match aside.filter(|_| parts.clone().any(|part| !part.aside.is_empty())) {
                    Some(aside) => {
                        let whole = parts.map(|part| part.whole(aside)).collect::<Result<Vec<_>, E>>()?;
                        equal_hashes(whole.iter(), keyset, partition, (&mut table, &mut found));
                    }
                    None => equal_hashes(parts, keyset, partition, (&mut table, &mut found)),
                }
            }
            Ok(found)
        };
        let found: Result<Vec<Vec<SuspectRow>>, E> =
            order::apart(work.chunks(share), look).into_iter().collect();
        let mut rows = found?.concat();
        rows.sort_unstable();
        rows.dedup();
        Ok(Self { rows })
    }
}

fn equal_hashes<'a>(
    parts: impl Iterator<Item = &'a Partition> + Clone,
    keyset: usize,
    partition: usize,
    (table, found): (&mut Vec<u64>, &mut Vec<SuspectRow>),
) {
    let count: usize = parts.clone().map(|part| part.len).sum();
    if count < 2 {
        return;
    }
    let size = (2 * count).next_power_of_two();
    // Slots hold a hash, which is never zero; and the hashes that are there more than once, mostly none.
    table.clear();
    table.resize(size, 0);
    let mut equal: Vec<u64> = Vec::new();
    for entry in parts.clone().flat_map(|part| part.chunks.iter().flatten()) {
        let hash = entry >> ROW_BITS;
        let mut at = hash as usize & (size - 1);
        while let Some(slot) = table.get_mut(at) {
            if *slot == 0 {
                *slot = hash;
                break;
            }
            if *slot == hash {
                equal.push(hash);
                break;
            }
            at = (at + 1) & (size - 1);
        }
    }
    if equal.is_empty() {
        return;
    }
    equal.sort_unstable();
    equal.dedup();
    for (hash, row) in parts.flat_map(Partition::rows) {
        if equal.binary_search(&hash).is_ok() {
            found.push(SuspectRow { row, keyset, hash: (partition as u64) << 40 | hash });
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::Mutex;

    #[derive(Default)]
    struct InMemory(Mutex<Vec<u8>>);

    impl Aside for InMemory {
        type Error = ();

        fn room(&self) -> usize {
            0
        }

        fn put(&self, bytes: &[u8]) -> Result<u64, ()> {
            let mut kept = self.0.lock().unwrap();
            kept.extend(bytes);
            Ok((kept.len() - bytes.len()) as u64)
        }

        fn get(&self, place: u64, into: &mut [u8]) -> Result<(), ()> {
            let kept = self.0.lock().unwrap();
            into.copy_from_slice(&kept[place as usize..place as usize + into.len()]);
            Ok(())
        }
    }

    #[test]
    fn equal_hashes_are_found_across_judges_and_generations_in_memory_and_aside() {
        let far = 5_u64 << ROW_BITS;
        let hash = |n: u64| xxhash_rust::xxh3::xxh3_64(&n.to_le_bytes());
        for every in [u64::MAX, 40_000, 70_000] {
            let aside = InMemory::default();
            let mut stores = vec![vec![KeyStore::new()], vec![KeyStore::new()]];
            for n in 0..100_000_u64 {
                stores[(n % 2) as usize][0].push(hash(n), 2 + n);
                if n % every == every - 1 {
                    stores[1][0].put_aside(&aside).unwrap();
                    stores[0][0].put_aside(&aside).unwrap();
                }
            }
            for n in [7_u64, 99_999] {
                stores[0][0].push(hash(n), far + n);
            }
            let found = Suspects::find(stores, Some(&aside as &dyn Aside<Error = ()>), 2).unwrap();
            let found: Vec<_> = found.rows.iter().map(|suspect| suspect.row).collect();
            assert_eq!(found, [9, 100_001, far + 7, far + 99_999], "{every}");
            assert_eq!(aside.0.lock().unwrap().is_empty(), every > 100_000);
        }
    }
}
