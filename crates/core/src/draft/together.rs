//! What columns show together: those that tell rows apart, and those that stay the same while others change.

use super::sample::Column;
use std::collections::HashSet;
use xxhash_rust::xxh3::xxh3_64;

/// With fewer rows, that columns differ is chance.
const ENOUGH: usize = 20;
/// So many columns are tried together.
const MOST_TRIED: usize = 12;

/// Columns that stay the same in runs of rows.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Runs {
    /// The column that tells the runs apart, and those that go with it.
    pub(super) header: Vec<usize>,
    /// Filled columns that differ within each run.
    pub(super) key: Vec<usize>,
    /// Whether the cells of a record's own columns are blank below its first row.
    pub(super) has_blanks: bool,
    pub(super) runs: usize,
    pub(super) rows: usize,
}

/// The values of the first rows, column by column, in the order of rows: noughts are blank.
pub(super) struct Rows(Vec<Vec<u64>>);

impl Rows {
    pub(super) fn of(columns: &[Column]) -> Self {
        let sorted = columns.iter().map(|column| {
            let mut head = column.head.clone();
            head.sort_by_key(|cell| cell.0);
            head.into_iter().map(|cell| cell.1).collect()
        });
        Self(sorted.collect())
    }

    /// How many rows there are.
    pub(super) fn len(&self) -> usize {
        self.0.first().map_or(0, Vec::len)
    }

    fn column(&self, number: usize) -> &[u64] {
        self.0.get(number).map_or(&[], Vec::as_slice)
    }

    fn are_different(&self, columns: &[usize]) -> bool {
        let mut seen = HashSet::new();
        (0..self.len()).all(|row| {
            let bytes: Vec<u8> = columns
                .iter()
                .flat_map(|column| self.column(*column).get(row).copied().unwrap_or_default().to_le_bytes())
                .collect();
            seen.insert(xxh3_64(&bytes))
        })
    }

    /// Two or three of these columns that are different together in every row, the first in their order.
    pub(super) fn key_of_several(&self, columns: &[usize]) -> Option<Vec<usize>> {
        let is_filled = |column: &usize| self.column(*column).iter().all(|value| *value != 0);
        let tried: Vec<usize> = columns.iter().copied().filter(is_filled).take(MOST_TRIED).collect();
        if self.len() < ENOUGH {
            return None;
        }
        let after = |at: usize| tried.iter().copied().enumerate().skip(at + 1);
        for (at, one) in tried.iter().copied().enumerate() {
            if let Some((_, two)) = after(at).find(|(_, two)| self.are_different(&[one, *two])) {
                return Some(vec![one, two]);
            }
        }
        for (at, one) in tried.iter().copied().enumerate() {
            for (next, two) in after(at) {
                if let Some((_, three)) =
                    after(next).find(|(_, three)| self.are_different(&[one, two, *three]))
                {
                    return Some(vec![one, two, three]);
                }
            }
        }
        None
    }

    /// The runs that one of these columns makes, where others stay the same in them and others do not.
    pub(super) fn runs(&self, columns: &[usize]) -> Option<Runs> {
        if self.len() < ENOUGH {
            return None;
        }
        columns.iter().find_map(|column| self.runs_of(*column))
    }

    fn runs_of(&self, by: usize) -> Option<Runs> {
        let values = self.column(by);
        // Below the first row of a record its cells may be blank: as above.
        let (mut starts, mut seen, mut before) = (Vec::new(), HashSet::new(), 0);
        for (row, value) in values.iter().enumerate() {
            if *value == 0 || *value == before {
                continue;
            }
            if !seen.insert(*value) {
                return None;
            }
            starts.push(row);
            before = *value;
        }
        let (runs, rows) = (starts.len(), values.len());
        if starts.first() != Some(&0) || runs < 3 || rows * 2 < runs * 3 {
            return None;
        }
        let ends = starts.iter().copied().skip(1).chain([rows]);
        let spans: Vec<(usize, usize)> = starts.iter().copied().zip(ends).collect();
        let each = |column: usize, test: &dyn Fn(&[u64]) -> bool| {
            spans.iter().all(|(start, end)| self.column(column).get(*start..*end).is_some_and(test))
        };
        let stays = |column: &usize| {
            let varies = self.column(*column).iter().collect::<HashSet<_>>().len() > 1;
            varies
                && each(*column, &|cells| {
                    cells.iter().skip(1).all(|value| *value == 0 || Some(value) == cells.first())
                })
        };
        let differs = |column: &usize| {
            each(*column, &|cells| {
                !cells.contains(&0) && cells.iter().collect::<HashSet<_>>().len() == cells.len()
            })
        };
        let others: Vec<usize> = (0..self.0.len()).filter(|column| *column != by).collect();
        let mut header = vec![by];
        header.extend(others.iter().copied().filter(stays));
        let key: Vec<usize> = others.iter().copied().filter(differs).take(1).collect();
        // One column that comes in runs is but sorted; where nothing tells the lines apart, they are not lines.
        (header.len() > 1 && !key.is_empty()).then_some(Runs {
            header,
            key,
            has_blanks: values.contains(&0),
            runs,
            rows,
        })
    }
}
