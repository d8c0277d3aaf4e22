//! Hashes of combinations, eight bytes a row: they only suspect. Suspected rows are read again, and their values decide.

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
    partitions: Vec<Partition>,
}

#[derive(Debug, Default)]
struct Partition {
    chunks: Vec<Vec<u64>>,
    len: usize,
    /// From which entry on which generation holds.
    generations: Vec<(usize, u64)>,
}

impl KeyStore {
    pub(crate) fn new() -> Self {
        let mut partitions = Vec::new();
        partitions.resize_with(PARTITIONS, Partition::default);
        Self { generation: 0, staged: Vec::new(), staged_partition: Vec::new(), partitions }
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
        let mut sorted = vec![0; self.staged.len()];
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
    pub(crate) fn find(mut stores: Vec<Vec<KeyStore>>, threads: usize) -> Self {
        stores.iter_mut().flatten().for_each(KeyStore::flush);
        let keysets = stores.first().map_or(0, Vec::len);
        let work: Vec<(usize, usize)> =
            (0..keysets).flat_map(|keyset| (0..PARTITIONS).map(move |p| (keyset, p))).collect();
        let share = work.len().div_ceil(threads.max(1)).max(1);
        let look = |work: &[(usize, usize)]| {
            let mut found = Vec::new();
            misfire::point("settle");
            for &(keyset, partition) in work {
                let parts = stores.iter().filter_map(|store| store.get(keyset)?.partitions.get(partition));
                equal_hashes(parts, keyset, partition, &mut found);
            }
            found
        };
        let mut rows = order::apart(work.chunks(share), look).concat();
        rows.sort_unstable();
        rows.dedup();
        Self { rows }
    }
}

fn equal_hashes<'a>(
    parts: impl Iterator<Item = &'a Partition> + Clone,
    keyset: usize,
    partition: usize,
    found: &mut Vec<SuspectRow>,
) {
    let count: usize = parts.clone().map(|part| part.len).sum();
    if count < 2 {
        return;
    }
    let mut entries: Vec<(u64, u64)> = Vec::with_capacity(count);
    let size = (2 * count).next_power_of_two();
    // Slots hold the number of an entry, from 1.
    let mut table = vec![0_u32; size];
    for (hash, row) in parts.flat_map(Partition::rows) {
        entries.push((hash, row));
        #[expect(clippy::cast_possible_truncation, reason = "masked to the table")]
        let mut at = hash as usize & (size - 1);
        while let Some(slot) = table.get_mut(at) {
            let Some(&(seen, first)) = (*slot as usize).checked_sub(1).and_then(|number| entries.get(number))
            else {
                *slot = u32::try_from(entries.len()).unwrap_or(u32::MAX);
                break;
            };
            if seen == hash {
                let hash = (partition as u64) << 40 | hash;
                found.extend([SuspectRow { row: first, keyset, hash }, SuspectRow { row, keyset, hash }]);
                break;
            }
            at = (at + 1) & (size - 1);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equal_hashes_are_found_across_judges_and_generations() {
        let far = 5_u64 << ROW_BITS;
        let mut stores = vec![vec![KeyStore::new()], vec![KeyStore::new()]];
        let hash = |n: u64| xxhash_rust::xxh3::xxh3_64(&n.to_le_bytes());
        for n in 0..100_000_u64 {
            stores[(n % 2) as usize][0].push(hash(n), 2 + n);
        }
        for n in [7_u64, 99_999] {
            stores[0][0].push(hash(n), far + n);
        }
        let found: Vec<_> = Suspects::find(stores, 2).rows.iter().map(|suspect| suspect.row).collect();
        assert_eq!(found, [9, 100_001, far + 7, far + 99_999]);
    }
}
