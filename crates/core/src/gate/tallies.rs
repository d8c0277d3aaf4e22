//! How often each finding was made, and where first.

use crate::catalogue::{Code, Level};
use std::collections::BTreeMap;

/// How often a finding was made in a column, and where first.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Tally {
    /// The findings.
    pub count: u64,
    /// The rows they stand in.
    pub rows: u64,
    /// The first row; 0 when there is none.
    pub first: u64,
    /// The row counted last: a row counts once.
    last: u64,
}

impl Tally {
    fn add(&mut self, row: u64) {
        if self.count == 0 || row < self.first {
            self.first = row;
        }
        self.rows += u64::from(self.count == 0 || row != self.last);
        self.count += 1;
        self.last = row;
    }

    fn join(&mut self, other: Self) {
        if other.count == 0 {
            return;
        }
        self.first = if self.count == 0 { other.first } else { self.first.min(other.first) };
        self.count += other.count;
        self.rows += other.rows;
    }
}

/// Tallies by column, code and level; the first column is the row as a whole. What rules, blocks, combinations and keys
/// of several columns find is counted for each of them.
#[derive(Debug, Default)]
pub struct Tallies {
    /// Of each column the few codes that it has, in their order.
    columns: Vec<Vec<(Code, Level, Tally)>>,
    ruled: BTreeMap<Counted, Tally>,
}

/// What is counted: findings of a code at a level in a column (from 1; 0 for the row as a whole), made by the rule,
/// block, combination or key of this number, where one made them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Counted {
    /// The column, from 1; 0 for the row as a whole.
    pub column: usize,
    /// The code.
    pub code: Code,
    /// The level.
    pub level: Level,
    /// The number of the rule.
    pub rule: Option<u16>,
}

impl Tallies {
    pub(crate) fn of_width(width: usize) -> Self {
        Self { columns: vec![Vec::new(); width + 1], ruled: BTreeMap::new() }
    }

    fn slot(&mut self, column: usize, code: Code, level: Level) -> Option<&mut Tally> {
        let tallies = self.columns.get_mut(column)?;
        let at = tallies.partition_point(|tally| (tally.0, tally.1) < (code, level));
        if tallies.get(at).is_none_or(|tally| (tally.0, tally.1) != (code, level)) {
            tallies.insert(at, (code, level, Tally::default()));
        }
        tallies.get_mut(at).map(|tally| &mut tally.2)
    }

    /// Counts a finding (`column` from 1; 0 for the row as a whole); gives how many there are now.
    pub(crate) fn count(&mut self, column: usize, code: Code, level: Level, row: u64) -> u64 {
        self.slot(column, code, level).map_or(0, |tally| {
            tally.add(row);
            tally.count
        })
    }

    /// The same, of a finding that a rule, block, combination or key of this number made.
    pub(crate) fn count_ruled(&mut self, counted: Counted, row: u64) -> u64 {
        if counted.rule.is_none() {
            return self.count(counted.column, counted.code, counted.level, row);
        }
        let tally = self.ruled.entry(counted).or_default();
        tally.add(row);
        tally.count
    }

    /// Counts a finding that speaks of several rows.
    pub(crate) fn count_rows(&mut self, code: Code, level: Level, row: u64, rows: u64) -> u64 {
        self.slot(0, code, level).map_or(0, |tally| {
            tally.add(row);
            tally.rows += rows - 1;
            tally.count
        })
    }

    /// Whether the findings of a code in a column are all of one level.
    pub(super) fn has_one_level(&self, column: usize, code: Code) -> bool {
        let tallies = self.columns.get(column).map(Vec::as_slice).unwrap_or_default();
        tallies.iter().filter(|tally| tally.0 == code).count() == 1
    }

    pub(crate) fn join(&mut self, other: &Self) {
        for (counted, tally) in other.iter() {
            if counted.rule.is_some() {
                self.ruled.entry(counted).or_default().join(tally);
            } else if let Some(slot) = self.slot(counted.column, counted.code, counted.level) {
                slot.join(tally);
            }
        }
    }

    /// All that is not zero, by column (from 1), code and level; what rules found comes last.
    pub fn iter(&self) -> impl Iterator<Item = (Counted, Tally)> {
        let plain = self.columns.iter().enumerate().flat_map(|(column, tallies)| {
            let counted = move |code, level| Counted { column, code, level, rule: None };
            tallies.iter().map(move |(code, level, tally)| (counted(*code, *level), *tally))
        });
        plain.chain(self.ruled.iter().map(|(counted, tally)| (*counted, *tally)))
    }
}
