//! The clues of all findings, sorted by what they may come from. Each finding stands under one heading alone.

use super::series::Series;
use crate::catalogue::{Code, Level};
use crate::gate::{Clue, Counted, Hint, RowKind, Shift};
use crate::value::may_be_thousands;
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

/// What findings may come from.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
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
    /// Which forms read the dates, with how many of them.
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

    fn take(&mut self, clue: &Clue) {
        self.count += 1;
        let counted = Counted { column: clue.column, code: clue.code, level: clue.level, rule: clue.rule };
        *self.claims.entry(counted).or_default() += 1;
        let column = clue.column.checked_sub(1);
        self.columns.extend(column);
        if self.sample.is_none() {
            self.sample = Some((clue.row, column, clue.text.clone()));
            self.has_all_runs = true;
        }
        match self.runs.last_mut() {
            Some(run) if run[1] == clue.row => {}
            Some(run) if run[1] + 1 == clue.row => {
                run[1] = clue.row;
                self.rows += 1;
            }
            _ => {
                self.rows += 1;
                if self.runs.len() < MOST_RUNS {
                    self.runs.push([clue.row, clue.row]);
                } else {
                    // The last run stands for all behind it, so that rows are counted on.
                    self.has_all_runs = false;
                    self.runs.pop();
                    self.runs.push([clue.row, clue.row]);
                }
            }
        }
        self.thousands += u64::from(clue.code == Code::DecimalMark && may_be_thousands(clue.text.trim()));
        match &clue.hint {
            Hint::Words(words) => {
                for (word, likely) in words {
                    if let Some(known) = self.words.get_mut(word) {
                        known.0 += 1;
                    } else if self.words.len() < MOST_WORDS {
                        self.words.insert(Arc::clone(word), (1, likely.clone()));
                    }
                }
            }
            Hint::Dates(forms) => *self.forms.entry(*forms).or_default() += 1,
            _ => {}
        }
    }
}

/// All findings of the rows, by what they may come from.
#[derive(Debug, Default)]
pub(crate) struct Evidence {
    pub(crate) found: BTreeMap<Origin, Findings>,
    /// Values of columns that count on from row to row.
    pub(crate) series: BTreeMap<usize, Series>,
}

impl Evidence {
    /// Takes up a clue; `swapped` are pairs of columns that hold each other's values.
    pub(crate) fn take(&mut self, clue: &Clue, swapped: &[(usize, usize)]) {
        let origin = origin(clue, swapped);
        if let (Some(column), true) = (clue.column.checked_sub(1), counts_on(&origin)) {
            self.series.entry(column).or_default().take(clue);
        }
        self.found.entry(origin).or_default().take(clue);
    }
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
        (Hint::Unit(unit), _) => Origin::Unit(column, unit.clone()),
        (Hint::Dates(_), code) => Origin::Dates(column, code == Code::DateUnclear),
        (_, Code::DecimalMark | Code::NumberUnclear) => Origin::Mark(column),
        (Hint::Moved(shift), _) => Origin::Moved(column, *shift),
        (_, Code::RequiredBlank | Code::KeyBlank) => Origin::Blank(column),
        (_, Code::KeyExists | Code::KeyNotFound) => Origin::Key(clue.code),
        (_, code) => Origin::Rest(column + 1, code, clue.rule),
    }
}
