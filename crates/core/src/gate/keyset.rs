//! Combinations that must not repeat: the key and the `unique` ones. While rows go by, eight bytes a row
//! are kept: hashes, which only suspect. Suspected rows are read again, and their values decide.

use super::Mode;
use crate::catalogue::{Code, Level};
use crate::schema::RecordSchema;
use crate::{misfire, order};
use std::collections::HashMap;

/// One combination.
#[derive(Debug, Clone)]
pub(crate) struct KeySet {
    /// The columns that hold it.
    pub(crate) columns: Vec<usize>,
    pub(crate) fields: Vec<usize>,
    pub(crate) code: Code,
    pub(crate) level: Level,
    /// Whether only the first row of each record is compared, where several rows make one.
    pub(crate) per_record: bool,
}

impl KeySet {
    /// Whether values are compared with case, spaces and leading zeros aside.
    pub(crate) fn is_folded(&self) -> bool {
        self.code == Code::KeyNearlyRepeated
    }

    /// Whether it must not repeat among records of several rows: the rows of one record may share it.
    pub(crate) fn is_of_records(&self) -> bool {
        self.code == Code::UniqueRepeated && self.per_record
    }

    /// Whether it tells likely duplicates.
    pub(crate) fn is_alike(&self) -> bool {
        self.code == Code::DuplicateLikely
    }

    /// Whether rows with the same key are no repeat of each other.
    pub(crate) fn wants_other_keys(&self) -> bool {
        self.is_of_records() || self.is_alike()
    }

    /// Whether blank parts count like any other value.
    pub(crate) fn takes_blanks(&self) -> bool {
        self.code == Code::RowRepeated
    }
}

/// A value as near ones are compared: in lower case, without spaces and without zeros that lead digits.
pub(crate) fn folded(value: &str) -> String {
    let mut folded = String::with_capacity(value.len());
    for c in value.chars().filter(|c| !c.is_whitespace()).flat_map(char::to_lowercase) {
        folded.push(c);
    }
    let mut near = String::with_capacity(folded.len());
    let mut is_leading = true;
    let mut rest = folded.chars().peekable();
    while let Some(c) = rest.next() {
        let before_digit = rest.peek().is_some_and(char::is_ascii_digit);
        if c == '0' && is_leading && before_digit {
            continue;
        }
        is_leading = !c.is_ascii_digit();
        near.push(c);
    }
    near
}

/// The combinations whose columns are all there. `varies` says whether a column's sound values can differ in case,
/// spaces or leading zeros alone.
pub(super) fn keysets(
    schema: &RecordSchema,
    mode: Mode,
    column_of: &[Option<usize>],
    varies: &dyn Fn(usize) -> bool,
) -> Vec<KeySet> {
    let key_code = if schema.lines.is_some() { Code::LinesApart } else { Code::KeyRepeated };
    let key = Some(&schema.key).filter(|key| !key.is_empty()).map(|key| (key_code, key.clone()));
    let unique = schema.unique.iter().map(|unique| (Code::UniqueRepeated, unique.clone()));
    let lines = schema.lines.as_ref().filter(|lines| !lines.key.is_empty());
    let lines = lines.map(|lines| (Code::LineRepeated, [schema.key.as_slice(), &lines.key].concat()));
    let sets = key.into_iter().chain(unique).chain(lines);
    let is_of_header = |fields: &[usize]| {
        schema.lines.as_ref().is_some_and(|lines| fields.iter().all(|f| lines.header.contains(f)))
    };
    let is_constant = |field: &usize| {
        let has_default = schema.fields.get(*field).is_some_and(|field| field.default.is_some());
        has_default && mode.adds() && column_of.get(*field).copied().flatten().is_none()
    };
    sets.filter_map(|(code, fields)| {
        // What a default fills in every row tells no rows apart.
        let telling = fields.iter().filter(|field| !is_constant(field));
        let columns: Vec<usize> =
            telling.map(|field| column_of.get(*field).copied().flatten()).collect::<Option<_>>()?;
        if columns.is_empty() {
            return None;
        }
        Some(KeySet { columns, per_record: is_of_header(&fields), fields, code, level: Level::Stop })
    })
    .chain(nearly(schema, column_of, varies))
    .chain(super::alike::keyset(schema, mode, column_of))
    .collect()
}

/// Keys that are nearly the same; or, in a record without a key, whole rows that are.
fn nearly(
    schema: &RecordSchema,
    column_of: &[Option<usize>],
    varies: &dyn Fn(usize) -> bool,
) -> Option<KeySet> {
    let column = |field: &usize| column_of.get(*field).copied().flatten();
    if schema.key.is_empty() {
        let fields: Vec<usize> = (0..schema.fields.len()).filter(|field| column(field).is_some()).collect();
        let columns: Vec<usize> = fields.iter().filter_map(column).collect();
        return (columns.len() > 1).then_some(KeySet {
            columns,
            fields,
            code: Code::RowRepeated,
            level: Level::Warn,
            per_record: false,
        });
    }
    let columns: Vec<usize> = schema.key.iter().map(column).collect::<Option<_>>()?;
    let (code, fields) = (Code::KeyNearlyRepeated, schema.key.clone());
    columns.iter().any(|column| varies(*column)).then_some(KeySet {
        columns,
        fields,
        code,
        level: Level::Warn,
        per_record: schema.lines.is_some(),
    })
}

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

/// Rows that have the same values in a combination.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RepeatGroup {
    /// The number of the combination.
    pub keyset: usize,
    /// The first rows.
    pub rows: Vec<u64>,
    /// How many rows there are.
    pub count: u64,
    /// Whether the rows are equal throughout.
    pub equal: bool,
}

/// What reading the suspected rows again has confirmed.
#[derive(Debug, Default)]
pub struct Repeats {
    groups: Vec<RepeatGroup>,
    /// Row, combination and group, in this order.
    rows: Vec<(u64, usize, usize)>,
    /// The first row of each record with too few or too many lines, and how many it has; ascending.
    pub(crate) miscounted: Vec<(u64, u64)>,
}

impl Repeats {
    /// The lines of the record that begins in this row, if they are too few or too many.
    pub(crate) fn miscounted_at(&self, row: u64) -> Option<u64> {
        let at = self.miscounted.binary_search_by_key(&row, |found| found.0).ok()?;
        self.miscounted.get(at).map(|found| found.1)
    }

    /// The rows of some combinations that repeat one above them, ascending.
    pub(crate) fn again(&self, is_meant: impl Fn(usize) -> bool) -> Vec<u64> {
        let meant = self.rows.iter().filter(|found| is_meant(found.1));
        meant.filter(|found| !self.is_first(found.0, found.2)).map(|found| found.0).collect()
    }

    fn is_first(&self, row: u64, group: usize) -> bool {
        self.groups.get(group).is_some_and(|group| group.rows.first() == Some(&row))
    }

    /// The groups that a row belongs to.
    pub fn of_row(&self, row: u64) -> impl Iterator<Item = &RepeatGroup> {
        let from = self.rows.partition_point(|found| found.0 < row);
        let rows = self.rows.get(from..).unwrap_or_default().iter().take_while(move |found| found.0 == row);
        rows.filter_map(|found| self.groups.get(found.2))
    }

    /// The repeats of some combinations, without the row of each that stands: its first or its last.
    pub(crate) fn without_standing(&self, is_meant: impl Fn(&RepeatGroup) -> bool, first: bool) -> Self {
        let mut standing: HashMap<usize, u64> = HashMap::new();
        for &(row, _, group) in &self.rows {
            let slot = standing.entry(group).or_insert(row);
            if !first {
                *slot = row;
            }
        }
        let falls = |found: &&(u64, usize, usize)| {
            self.groups.get(found.2).is_some_and(&is_meant) && standing.get(&found.2) != Some(&found.0)
        };
        let rows = self.rows.iter().filter(falls).copied().collect();
        Self { groups: self.groups.clone(), rows, ..Self::default() }
    }

    /// The rows of some combinations, once, ascending.
    pub(crate) fn rows_of<'a>(
        &'a self,
        is_meant: impl Fn(usize) -> bool + 'a,
    ) -> impl Iterator<Item = u64> + 'a {
        let same = self.rows.chunk_by(|a, b| a.0 == b.0);
        same.filter(move |found| found.iter().any(|found| is_meant(found.1)))
            .filter_map(|same| same.first())
            .map(|found| found.0)
    }

    /// Every row that repeats or is repeated, and those that begin a record with too few or too many lines.
    pub fn rows(&self) -> impl Iterator<Item = u64> + '_ {
        let miscounted = self.miscounted.iter().map(|found| found.0);
        miscounted.chain(self.repeated())
    }

    fn repeated(&self) -> impl Iterator<Item = u64> + '_ {
        self.rows.chunk_by(|a, b| a.0 == b.0).filter_map(|same| same.first()).map(|found| found.0)
    }

    /// The findings that the repeats are: combination and row. Of records that stand apart, the first row is not told.
    pub(crate) fn told<'a>(
        &'a self,
        is_apart: impl Fn(usize) -> bool + 'a,
    ) -> impl Iterator<Item = (usize, u64)> + 'a {
        let told =
            self.rows.iter().filter(move |found| !(is_apart(found.1) && self.is_first(found.0, found.2)));
        told.map(|&(row, keyset, _)| (keyset, row))
    }

    /// How many findings the repeats are, by combination, each with the first row.
    pub(crate) fn by_keyset(&self) -> impl Iterator<Item = (usize, u64)> + '_ {
        self.rows.iter().map(|&(row, keyset, _)| (keyset, row))
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty() && self.miscounted.is_empty()
    }
}

/// Confirms suspected rows by their values, in the order of rows.
#[derive(Debug, Default)]
pub(crate) struct Confirm {
    groups: Vec<(RepeatGroup, Vec<u8>, u128)>,
    by_hash: HashMap<(usize, u64), Vec<usize>>,
    rows: Vec<(u64, usize, usize)>,
}

impl Confirm {
    /// Takes a row with its values; `whole` stands for everything in the row.
    pub(crate) fn see(&mut self, suspect: SuspectRow, values: &[u8], whole: u128) {
        let SuspectRow { row, keyset, hash } = suspect;
        let alike = self.by_hash.entry((keyset, hash)).or_default();
        let same = alike
            .iter()
            .copied()
            .find(|&group| self.groups.get(group).is_some_and(|group| group.1 == values));
        let group = same.unwrap_or_else(|| {
            alike.push(self.groups.len());
            let group = RepeatGroup { keyset, rows: Vec::new(), count: 0, equal: true };
            self.groups.push((group, values.to_vec(), whole));
            self.groups.len() - 1
        });
        let Some((found, _, first_whole)) = self.groups.get_mut(group) else { return };
        found.count += 1;
        found.equal &= *first_whole == whole;
        if found.rows.len() < crate::finding::Finding::MOST_PLACES {
            found.rows.push(row);
        }
        self.rows.push((row, keyset, group));
    }

    /// The confirmed repeats; of the combinations that `is_near` tells of, those whose values are not all the same.
    pub(crate) fn finish(self, is_near: impl Fn(usize) -> bool) -> Repeats {
        let groups: Vec<_> = self.groups.into_iter().map(|group| group.0).collect();
        let is_meant = |group: &RepeatGroup| group.count > 1 && !(group.equal && is_near(group.keyset));
        let repeated = |group: usize| groups.get(group).is_some_and(is_meant);
        let mut rows: Vec<_> = self.rows.into_iter().filter(|row| repeated(row.2)).collect();
        rows.sort_unstable();
        Repeats { groups, rows, ..Repeats::default() }
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

    #[test]
    fn values_decide_where_hashes_agree() {
        let mut confirm = Confirm::default();
        for (row, value) in [(2, "a"), (3, "b"), (9, "a"), (12, "a")] {
            confirm.see(SuspectRow { row, keyset: 0, hash: 1 }, value.as_bytes(), u128::from(row == 12));
        }
        let repeats = confirm.finish(|_| false);
        assert_eq!(repeats.rows().collect::<Vec<_>>(), [2, 9, 12]);
        let group = repeats.of_row(9).next().unwrap();
        assert_eq!((group.rows.as_slice(), group.count, group.equal), (&[2, 9, 12][..], 3, false));
        assert_eq!(repeats.of_row(3).count(), 0);
    }
}
