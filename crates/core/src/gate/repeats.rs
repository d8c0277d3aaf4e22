//! Repeats: what reading the suspected rows again has confirmed.

use super::keystore::SuspectRow;
use std::collections::HashMap;

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
    /// Rows that share something with another record that is there: row, and the number of the probe; ascending.
    pub(crate) shared: Vec<(u64, usize)>,
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

    /// The probes of what a row shares with another record that is there.
    pub(crate) fn shared_at(&self, row: u64) -> impl Iterator<Item = usize> + '_ {
        let from = self.shared.partition_point(|shared| shared.0 < row);
        let shared = self.shared.get(from..).unwrap_or_default();
        shared.iter().take_while(move |shared| shared.0 == row).map(|shared| shared.1)
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

    /// Every row that repeats or is repeated, here or there, and those that begin a record with too few or too many lines.
    pub fn rows(&self) -> impl Iterator<Item = u64> + '_ {
        let miscounted = self.miscounted.iter().map(|found| found.0);
        let shared = self.shared.iter().map(|found| found.0);
        miscounted.chain(shared).chain(self.repeated())
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

    /// Each row that repeats another in a combination, or is repeated, with its group: by row and combination.
    pub(crate) fn each(&self) -> impl Iterator<Item = (u64, usize, &RepeatGroup)> {
        self.rows.iter().filter_map(|found| Some((found.0, found.1, self.groups.get(found.2)?)))
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty() && self.miscounted.is_empty() && self.shared.is_empty()
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
