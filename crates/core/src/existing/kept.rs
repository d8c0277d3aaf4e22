//! Existing records kept in memory: those that a file speaks of, as far as that is known beforehand.

use super::batch::{Batch, short};
use super::former::{Former, Plainly};
use super::keys::Keys;
use super::known::Existing;
use super::line_index::{LineIndex, line_hash};
use super::probe::{Owners, Probe};
use super::row::ExistingRow;
use crate::schema::References;
use hashbrown::HashTable;
use std::sync::Arc;
use xxhash_rust::xxh3::xxh3_64;

/// More keys than this are not searched for the nearest.
const MOST_NEAR: u64 = 20_000;
/// In so many rows of a source keys may be near one that is asked for.
pub(crate) const NEAR_ROWS: u64 = MOST_NEAR * 2;

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
    /// The fields that a record has of its own, where several rows make one.
    pub header: Option<Vec<usize>>,
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
    /// Where several rows make a record; `table` has the first line of each then.
    lines: Option<LineIndex>,
    owners: Owners,
    unmentioned: u64,
    unmentioned_keys: Vec<Vec<u8>>,
    layer: u32,
    count: u64,
    key_sum: u128,
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
            lines: of.header.is_some().then(LineIndex::default),
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
            key_sum: 0,
            keyless: 0,
            repeated: 0,
            near,
        }
    }

    /// Says what reads their cells, where that was not known before all were read.
    pub fn read_by(&mut self, former: Arc<dyn Former>) {
        self.of.former = former;
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
        if self.near.is_some() { NEAR_ROWS } else { 0 }
    }

    /// Takes up a piece of the source. The first of several records with the same key stands.
    pub fn join(&mut self, batch: &Batch) {
        self.key_sum = self.key_sum.wrapping_add(batch.key_sum);
        self.keyless += batch.keyless;
        self.count += match &mut self.lines {
            Some(lines) => batch.records.iter().filter(|record| lines.begin(**record)).count() as u64,
            None => batch.count,
        };
        self.join_unmentioned(batch);
        self.join_near(batch);
        self.join_found(batch);
        for (hash, key, bytes, ends) in batch.records(self.width()) {
            let there = self.find(hash, key);
            if self.lines.is_some() {
                self.join_line((hash, key), (bytes, ends), there);
            } else if there.is_some() {
                self.repeated += 1;
            } else {
                self.push((hash, key), (bytes, ends), false);
            }
        }
    }

    /// Takes up a line of a record; of two with the same key the first stands.
    fn join_line(&mut self, (hash, key): (u64, &[u8]), cells: (&[u8], &[u32]), record: Option<u32>) {
        let line = self.line_key(cells.0, cells.1);
        if self.find_line((hash, key), line).is_some() {
            self.repeated += 1;
            return;
        }
        if record.is_some() && line.is_empty() {
            return;
        }
        self.push_line((hash, key), cells, (record.is_none(), false));
    }

    /// Keeps a line, under its own key and that of its record, where it is to stand for that.
    fn push_line(
        &mut self,
        (hash, key): (u64, &[u8]),
        cells: (&[u8], &[u32]),
        (stands, is_formed): (bool, bool),
    ) {
        let line = self.line_key(cells.0, cells.1);
        let own = line_hash(hash, line);
        let Some(number) = self.store(key, cells, is_formed) else { return };
        if stands {
            self.forget(hash, key);
            self.table.insert_unique(hash, (hash, number), |known| known.0);
        }
        if line.is_empty() {
            return;
        }
        let mut index = self.lines.take().unwrap_or_default();
        index.put(own, number, |number| self.is_line(number, key, line));
        self.lines = Some(index);
    }

    /// How many cells are kept of each record: where it has lines, their keys are one more.
    fn width(&self) -> usize {
        self.of.fields.len() + usize::from(self.lines.is_some())
    }

    /// The key of a line, which stands behind its cells.
    fn line_key<'a>(&self, cells: &'a [u8], ends: &[u32]) -> &'a [u8] {
        let before = self.of.fields.len().checked_sub(1).and_then(|last| ends.get(last));
        cells.get(before.copied().unwrap_or_default() as usize..).unwrap_or_default()
    }

    fn find_line(&self, (hash, key): (u64, &[u8]), line: &[u8]) -> Option<u32> {
        let lines = self.lines.as_ref().filter(|_| !line.is_empty())?;
        lines.find(line_hash(hash, line), |number| self.is_line(number, key, line))
    }

    /// Whether the line of a number has this key, in the record of this one.
    fn is_line(&self, number: u32, key: &[u8], line: &[u8]) -> bool {
        let row = self.numbered(number);
        row.is_some_and(|row| row.key == key && self.line_key(row.bytes, row.ends) == line)
    }

    fn join_unmentioned(&mut self, batch: &Batch) {
        let Some(lines) = &mut self.lines else {
            self.unmentioned += batch.unmentioned;
            self.unmentioned_keys.extend(batch.unmentioned().map(<[u8]>::to_vec));
            return;
        };
        for key in batch.unmentioned().filter(|key| lines.leave(key)) {
            self.unmentioned += 1;
            self.unmentioned_keys.extend(self.of.unmentioned.1.then(|| key.to_vec()));
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
        self.key_sum = self.key_sum.wrapping_add(batch.key_sum);
        self.join_near(batch);
        for (hash, key, bytes, ends) in batch.records(self.width()) {
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
                only: None,
            };
            let line = self.line_key(bytes, ends);
            let there = self.line(key, line).or_else(|| self.row(key));
            for field in &self.of.fields {
                let value = row.value(*field).or_else(|| there?.value(*field));
                merged.extend(value.iter().flat_map(|value| value.bytes()));
                merged_ends.push(short(merged.len()));
            }
            if let Some(lines) = &mut self.lines {
                lines.begin(hash);
                merged.extend(line);
                merged_ends.push(short(merged.len()));
                self.push_line((hash, key), (&merged, &merged_ends), (true, true));
                continue;
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

    fn push(&mut self, (hash, key): (u64, &[u8]), cells: (&[u8], &[u32]), is_formed: bool) {
        if let Some(number) = self.store(key, cells, is_formed) {
            self.table.insert_unique(hash, (hash, number), |known| known.0);
        }
    }

    /// Keeps the cells of a record; gives its number.
    fn store(&mut self, key: &[u8], (cells, ends): (&[u8], &[u32]), is_formed: bool) -> Option<u32> {
        // Nobody holds four thousand million records in memory.
        let number = u32::try_from(self.starts.len()).ok()?;
        self.starts.push((self.bytes.len(), short(key.len()), is_formed));
        self.bytes.extend(key);
        self.bytes.extend(cells);
        self.ends.extend(ends);
        Some(number)
    }

    /// The row as what its record has of its own.
    fn whole<'a>(&'a self, row: ExistingRow<'a>) -> ExistingRow<'a> {
        ExistingRow { only: self.of.header.as_deref(), ..row }
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

/// The key of the record of this number.
fn key_of<'a>(bytes: &'a [u8], starts: &[(usize, u32, bool)], number: u32) -> &'a [u8] {
    let (start, len, _) = starts.get(number as usize).copied().unwrap_or_default();
    bytes.get(start..start + len as usize).unwrap_or_default()
}

impl Existing for Kept {
    fn row(&self, key: &[u8]) -> Option<ExistingRow<'_>> {
        Some(self.whole(self.numbered(self.find(xxh3_64(key), key)?)?))
    }

    fn numbered(&self, number: u32) -> Option<ExistingRow<'_>> {
        let width = self.width();
        let ends = self.ends.get(number as usize * width..(number as usize + 1) * width)?;
        let (start, len, is_formed) = *self.starts.get(number as usize)?;
        let start = start + len as usize;
        let key = key_of(&self.bytes, &self.starts, number);
        let end = start + ends.last().copied().unwrap_or_default() as usize;
        let bytes = self.bytes.get(start..end)?;
        let former: &dyn Former = if is_formed { &self.plainly } else { self.of.former.as_ref() };
        Some(ExistingRow { number, key, fields: &self.of.fields, bytes, ends, former, is_formed, only: None })
    }

    fn rows<'a>(&'a self, keys: &Keys, found: &mut dyn FnMut(Option<ExistingRow<'a>>)) {
        // Which record it may be by its hash, of all of them first: none waits for what another fetches.
        let may_be = |hash: u64| self.table.find(hash, |known| known.0 == hash).map(|known| known.1);
        let numbers: Vec<Option<u32>> = keys.hashes().map(|hash| may_be(hash?)).collect();
        for (key, number) in keys.iter().zip(numbers) {
            let row = key.zip(number).and_then(|((_, key), number)| {
                let row = self.numbered(number).filter(|row| row.key == key);
                row.map_or_else(|| self.row(key), |row| Some(self.whole(row)))
            });
            found(row);
        }
    }

    fn line(&self, key: &[u8], line: &[u8]) -> Option<ExistingRow<'_>> {
        self.numbered(self.find_line((xxh3_64(key), key), line)?)
    }

    fn count(&self) -> u64 {
        self.count
    }

    fn key_sum(&self) -> u128 {
        self.key_sum
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
    use crate::existing::Wanted;
    use std::borrow::Cow;

    #[test]
    fn records_are_found_by_their_key_and_the_first_of_equals_stands() {
        let mut wanted = Wanted::default();
        ["a", "b", "z"].iter().for_each(|key| wanted.add(key.as_bytes()));
        wanted.join(Wanted::default());
        let has = |key: &str| {
            let (mut keys, mut has) = (Keys::default(), Vec::new());
            [None, Some(key.as_bytes())].into_iter().for_each(|key| keys.push(key));
            wanted.has_each(&keys, &mut has);
            has == [false, true]
        };
        let mut kept = Kept::new(KeptOf {
            source: "export.csv".to_owned(),
            fields: vec![4, 2],
            former: Arc::new(Plainly),
            probes: Vec::new(),
            header: None,
            names_keys: true,
            unmentioned: (false, false),
        });
        for (key, two, four) in [("a", "1", ""), ("HT-0042", "2", "x"), ("b", "3", "y"), ("b", "5", "z")] {
            let mut batch = Batch::default();
            let cells = [two, four].into_iter().map(|cell| Cow::Borrowed(cell.as_bytes()));
            batch.take(key.as_bytes(), (true, has(key)), cells);
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
