//! The clues of all findings, sorted by what they may come from. Each finding stands under one heading alone.

use super::series::{Series, Step};
use crate::catalogue::{Code, Level};
use crate::gate::{Clue, Clues, Counted, Hint, RowKind, Shift};
use crate::value::may_be_thousands;
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

/// What findings may come from.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) enum Origin {
    /// Rows that are no records, or do not stand right.
    Rows(RowKind),
    /// Two columns that hold each other's values, by the lesser of their numbers.
    Swapped(usize),
    /// Spaces and invisible characters.
    Stray,
    /// Lost zeros.
    Zeros,
    /// The wrong case.
    Case,
    /// Another separator within cells.
    Separator,
    /// Text that was decoded twice.
    Decoded,
    /// Bytes that are no text.
    Undecodable,
    /// Words off the list of a column: all of a cell's words are like known ones, or not.
    Words(usize, bool),
    /// A unit behind the numbers of a column.
    Unit(usize, String),
    /// Dates of a column that cannot be read, or not surely.
    Dates(usize, bool),
    /// Times of a column that cannot be read.
    Times(usize),
    /// The other decimal mark in a column.
    Mark(usize),
    /// Dates of a column that have moved.
    Moved(usize, Shift),
    /// Needed cells of a column that are blank.
    Blank(usize),
    /// Keys that are there, or are not there.
    Key(Code),
    /// Anything else: by column, code and rule.
    Rest(usize, Code, Option<u16>),
}

/// So many different words of a column are told apart.
const MOST_WORDS: usize = 5_000;
/// So many runs of rows are remembered.
const MOST_RUNS: usize = 10_000;

/// The findings that may come from one thing.
#[derive(Debug, Clone, Default)]
pub(crate) struct Findings {
    pub(crate) count: u64,
    pub(crate) rows: u64,
    /// As they are counted in the report.
    pub(crate) claims: BTreeMap<Counted, u64>,
    /// The columns they stand in, from 0.
    pub(crate) columns: BTreeSet<usize>,
    /// Row, column and text of the first.
    pub(crate) sample: Option<(u64, Option<usize>, String)>,
    pub(crate) words: HashMap<Arc<str>, (u64, Option<Arc<str>>)>,
    /// Numbers whose mark may part thousands as well.
    pub(crate) thousands: u64,
    /// Which forms read the dates or times, with how many of them.
    pub(crate) forms: HashMap<u64, u64>,
    /// Runs of rows behind one another.
    pub(crate) runs: Vec<[u64; 2]>,
    pub(crate) has_all_runs: bool,
}

impl Findings {
    /// Takes up what else comes from the same thing; rows are no longer told apart.
    pub(crate) fn join(&mut self, other: Self) {
        self.count += other.count;
        self.rows += other.rows;
        for (counted, count) in other.claims {
            *self.claims.entry(counted).or_default() += count;
        }
        self.columns.extend(other.columns);
        if other.sample.as_ref().map(|sample| sample.0) < self.sample.as_ref().map(|sample| sample.0) {
            self.sample = other.sample;
        }
        self.runs.extend(other.runs);
        self.runs.sort_unstable();
        self.has_all_runs &= other.has_all_runs;
    }

    /// Takes up so many findings that tell the same; their rows come by [`Self::see`].
    fn take(&mut self, clue: &Clue, count: u64) {
        self.count += count;
        let counted = Counted { column: clue.column, code: clue.code, level: clue.level, rule: clue.rule };
        *self.claims.entry(counted).or_default() += count;
        let column = clue.column.checked_sub(1);
        if let Some(column) = column.filter(|column| !self.columns.contains(column)) {
            self.columns.insert(column);
        }
        if clue.code == Code::DecimalMark && may_be_thousands(clue.text.trim()) {
            self.thousands += count;
        }
        match &clue.hint {
            Hint::Words(words) => {
                for (word, likely) in words.iter() {
                    if let Some(known) = self.words.get_mut(word) {
                        known.0 += count;
                    } else if self.words.len() < MOST_WORDS {
                        self.words.insert(Arc::clone(word), (count, likely.clone()));
                    }
                }
            }
            Hint::Dates(forms) | Hint::Times(forms) => *self.forms.entry(*forms).or_default() += count,
            _ => {}
        }
    }

    /// The row of a finding, in the order of rows.
    #[inline]
    fn see(&mut self, row: u64, clue: &Clue) {
        let count = self.runs.len();
        match self.runs.last_mut() {
            Some(run) if run[1] == row => {}
            Some(run) if run[1] + 1 == row => {
                run[1] = row;
                self.rows += 1;
            }
            Some(last) => {
                self.rows += 1;
                if count < MOST_RUNS {
                    self.runs.push([row, row]);
                } else {
                    // The last run stands for all behind it, so that rows are counted on.
                    self.has_all_runs = false;
                    *last = [row, row];
                }
            }
            None => {
                self.rows += 1;
                self.runs.push([row, row]);
                self.sample = Some((row, clue.column.checked_sub(1), clue.text.to_string()));
                self.has_all_runs = true;
            }
        }
    }
}

/// All findings of the rows, by what they may come from.
#[derive(Debug, Default)]
pub struct Evidence {
    pub(crate) found: BTreeMap<Origin, Findings>,
    /// Those that are still gathered, and their places by what they come from.
    gathered: Vec<Findings>,
    places: hashbrown::HashMap<Origin, usize>,
    /// Values of columns that count on from row to row.
    pub(crate) series: BTreeMap<usize, Series>,
}

impl Evidence {
    /// Takes up the clues of a block, in the order of blocks, but for those from a row on; `swapped` are pairs of columns that
    /// hold each other's values.
    pub(crate) fn take(&mut self, clues: &Clues, from: Option<u64>, swapped: &[(usize, usize)]) {
        let mut told: Vec<Told> = clues.distinct.iter().map(|clue| self.told(clue, swapped)).collect();
        for (row, number) in clues.found() {
            let (Some(clue), Some(told)) = (clues.distinct.get(number), told.get_mut(number)) else {
                continue;
            };
            if from.is_some_and(|from| row >= from) {
                continue;
            }
            told.count += 1;
            if let Some(found) = self.gathered.get_mut(told.place) {
                found.see(row, clue);
            }
            if let Some((column, step)) = told.counts_on {
                self.series.entry(column).or_default().take(row, step);
            }
        }
        for (clue, told) in clues.distinct.iter().zip(told).filter(|(_, told)| told.count > 0) {
            if let Some(found) = self.gathered.get_mut(told.place) {
                found.take(clue, told.count);
            }
        }
    }

    fn told(&mut self, clue: &Clue, swapped: &[(usize, usize)]) -> Told {
        let origin = origin(clue, swapped);
        let column = clue.column.checked_sub(1).filter(|_| counts_on(&origin));
        let counts_on = column.map(|column| (column, Step::of(clue.text.trim())));
        let place = match self.places.get(&origin) {
            Some(place) => *place,
            None => {
                self.places.insert(origin, self.gathered.len());
                self.gathered.push(Findings::default());
                self.gathered.len() - 1
            }
        };
        Told { place, counts_on, count: 0 }
    }

    /// All of them, when the last clue is taken.
    pub(crate) fn settled(mut self) -> Self {
        let mut gathered: Vec<Option<Findings>> = self.gathered.drain(..).map(Some).collect();
        for (origin, place) in self.places.drain() {
            if let Some(found) =
                gathered.get_mut(place).and_then(Option::take).filter(|found| found.count > 0)
            {
                self.found.insert(origin, found);
            }
        }
        self
    }
}

/// Where findings that tell the same are gathered, the column in which they may count on, and how many there are.
struct Told {
    place: usize,
    counts_on: Option<(usize, Option<Step>)>,
    count: u64,
}

/// Whether values with a finding may come from counting on.
fn counts_on(origin: &Origin) -> bool {
    match origin {
        Origin::Words(..) | Origin::Key(Code::KeyNotFound) => true,
        Origin::Rest(_, code, _) => matches!(code, Code::PatternBroken | Code::ReferenceUnknown),
        _ => false,
    }
}

/// What a finding may come from.
pub(crate) fn origin(clue: &Clue, swapped: &[(usize, usize)]) -> Origin {
    let Some(column) = clue.column.checked_sub(1) else {
        return match clue.hint {
            Hint::Row(kind) => Origin::Rows(kind),
            _ => Origin::Rest(0, clue.code, clue.rule),
        };
    };
    if let Some(pair) = swapped.iter().find(|pair| pair.0 == column || pair.1 == column) {
        return Origin::Swapped(pair.0.min(pair.1));
    }
    match (&clue.hint, clue.code) {
        (Hint::Row(kind), _) => Origin::Rows(*kind),
        (_, Code::SpaceStray | Code::CharactersInvisible) => Origin::Stray,
        (_, Code::ZerosLost) => Origin::Zeros,
        (_, Code::CaseWrong) => Origin::Case,
        (_, Code::ListSeparator) => Origin::Separator,
        (_, Code::EncodingDoubt) if clue.level == Level::Stop => Origin::Undecodable,
        (_, Code::EncodingDoubt) => Origin::Decoded,
        (Hint::Words(words), _) => Origin::Words(column, words.iter().all(|word| word.1.is_some())),
        (Hint::Unit(unit), _) => Origin::Unit(column, unit.to_string()),
        (Hint::Times(_), _) => Origin::Times(column),
        (Hint::Dates(_), code) => Origin::Dates(column, code == Code::DateUnclear),
        (_, Code::DecimalMark | Code::NumberUnclear) => Origin::Mark(column),
        (Hint::Moved(shift), _) => Origin::Moved(column, *shift),
        (_, Code::RequiredBlank | Code::KeyBlank) => Origin::Blank(column),
        (_, Code::KeyExists | Code::KeyNotFound) => Origin::Key(clue.code),
        (_, code) => Origin::Rest(column + 1, code, clue.rule),
    }
}
