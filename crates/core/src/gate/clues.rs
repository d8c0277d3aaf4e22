//! What each finding of the rows tells of where it came from: a row that is no record, a word of another list, a number
//! with a unit. A clue alone proves nothing; [`crate::causes`] weighs all of them.

use super::assembly::Gate;
use super::judge::Judge;
use super::kinds::Value;
use super::mark::Mark;
use super::row_kinds::{self, RowKind};
use super::state::RunState;
use super::verdict::Verdict;
use crate::block::Block;
use crate::catalogue::{Code, Level};
use crate::rows::text_of;
use crate::schema::Kind;
use crate::value::{Date, DatePattern, DateReading, Number, truth, truth_words};
use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

/// What one finding tells of its cause.
#[derive(Debug, Clone, PartialEq)]
pub enum Hint {
    /// Nothing of its own.
    None,
    /// Its row is no record, or none that stands right.
    Row(RowKind),
    /// The words of its cell that are off the list, each with what it may be.
    Words(Vec<(Arc<str>, Option<Arc<str>>)>),
    /// A number with this behind it.
    Unit(String),
    /// A date that some of [`date_candidates`] read: one bit each.
    Dates(u64),
    /// A date that would be sound so many days later; or years, where the century is another.
    Moved(Shift),
}

/// By how much dates have moved.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Shift {
    /// So many years.
    Years(i32),
    /// So many days.
    Days(i64),
}

/// A finding, and what it tells of its cause.
#[derive(Debug, Clone)]
pub struct Clue {
    /// The row.
    pub row: u64,
    /// The column, from 1; 0 for the row as a whole.
    pub column: usize,
    /// The code.
    pub code: Code,
    /// The level.
    pub level: Level,
    /// The number of the rule.
    pub rule: Option<u16>,
    /// The cell's text, trimmed; masked where it must not be shown.
    pub text: String,
    /// What it tells.
    pub hint: Hint,
}

/// How many of a column's dates each of [`date_candidates`] reads.
#[derive(Debug, Clone, Default)]
pub struct DateCount {
    /// The dates.
    pub cells: u64,
    /// Those that each candidate reads.
    pub read: Vec<u64>,
}

/// Gives the clues of blocks, in ascending order.
#[derive(Debug)]
pub struct Clues<'g> {
    gate: &'g Gate,
    judge: Judge<'g>,
    candidates: Vec<DatePattern>,
    /// Whether cells may stand one column too far right: not where whole columns have changed places.
    may_shift: bool,
    dates: BTreeMap<usize, DateCount>,
    likely: HashMap<(usize, String), Option<Arc<str>>>,
}

/// So many words are remembered with what they may be.
const REMEMBERED: usize = 20_000;

/// The forms in which dates are written; UTS #35 patterns.
#[must_use]
pub fn date_candidates() -> Vec<DatePattern> {
    let mut sources = Vec::new();
    for mark in ["/", ".", "-", " "] {
        for (one, two, three) in [("d", "M", "yyyy"), ("M", "d", "yyyy"), ("d", "M", "yy"), ("M", "d", "yy")]
        {
            sources.push([one, two, three].join(mark));
        }
        sources.push(["yyyy", "M", "d"].join(mark));
    }
    for pattern in [
        "d MMM yyyy",
        "d MMMM yyyy",
        "MMM d, yyyy",
        "MMMM d, yyyy",
        "d. MMMM yyyy",
        "dd-MMM-yyyy",
        "dd-MMM-yy",
    ] {
        sources.push(pattern.to_owned());
    }
    sources.iter().filter_map(|source| DatePattern::new(source).ok()).collect()
}

impl<'g> Clues<'g> {
    /// For the blocks that this gate has judged. The forms of dates are held against all cells of these columns.
    #[must_use]
    pub fn new(gate: &'g Gate, state: &'g RunState, dates: &[usize], may_shift: bool) -> Self {
        let candidates = date_candidates();
        let none = || DateCount { cells: 0, read: vec![0; candidates.len()] };
        let dates = dates.iter().map(|column| (*column, none())).collect();
        Self {
            gate,
            judge: Judge::new(gate, state, false),
            candidates,
            may_shift,
            dates,
            likely: HashMap::new(),
        }
    }

    /// What the forms of dates read of the columns that were asked for.
    #[must_use]
    pub fn dates(self) -> BTreeMap<usize, DateCount> {
        self.dates
    }

    /// The clues of a block, in the order of rows and columns.
    pub fn of(&mut self, block: &Block) -> Vec<Clue> {
        self.judge.mark(block);
        self.count_dates(block);
        let marks: Vec<Mark> = self.judge.marks().to_vec();
        let mut found = Vec::new();
        for same in marks.chunk_by(|one, other| one.place == other.place) {
            let kind = self.row_kind(block, same);
            found.extend(same.iter().map(|mark| self.clue(block, *mark, kind)));
        }
        found
    }

    fn count_dates(&mut self, block: &Block) {
        let (gate, cells) = (self.gate, self.judge.cells());
        for (column, count) in &mut self.dates {
            for row in 0..cells.len() {
                let raw = cells.stored(block, row, *column);
                let Ok(text) = text_of(raw, gate.table().dialect) else { continue };
                let text = text.trim();
                if text.is_empty() {
                    continue;
                }
                count.cells += 1;
                let mask = reads(&self.candidates, text, gate.settings().today);
                for (at, slot) in count.read.iter_mut().enumerate() {
                    *slot += mask >> at & 1;
                }
            }
        }
    }

    /// What the row of some marks is instead of a record.
    fn row_kind(&self, block: &Block, marks: &[Mark]) -> Option<RowKind> {
        let first = marks.first()?;
        let cells = self.judge.cells();
        if first.column == 0 && first.code == Code::RowWidth {
            let misfit = cells.misfits.get(first.row as usize)?;
            let is_wide = misfit.judged.is_none() && misfit.cells as usize > self.gate.width();
            return is_wide.then_some(RowKind::Wide);
        }
        let is_of_cells = |mark: &&Mark| mark.column > 0;
        let row = marks.iter().find(is_of_cells)?.row as usize;
        let texts: Vec<String> = (0..self.gate.width())
            .map(|column| {
                let text = text_of(cells.stored(block, row, column), self.gate.table().dialect);
                text.map(|text| text.trim().to_owned()).unwrap_or_default()
            })
            .collect();
        let marked: Vec<usize> =
            marks.iter().filter_map(|mark| usize::from(mark.column).checked_sub(1)).collect();
        row_kinds::of(self.gate, &texts, &marked).filter(|kind| self.may_shift || *kind != RowKind::Shifted)
    }

    fn clue(&mut self, block: &Block, mark: Mark, kind: Option<RowKind>) -> Clue {
        let counted = mark.counted();
        let column = counted.column.checked_sub(1);
        let text = match column {
            Some(column) => {
                let raw = self.judge.cells().stored(block, mark.row as usize, column);
                let text = text_of(raw, self.gate.table().dialect);
                text.map_or_else(
                    |bytes| String::from_utf8_lossy(&bytes).into_owned(),
                    std::borrow::Cow::into_owned,
                )
            }
            None => String::new(),
        };
        let hint = match (kind, column) {
            (Some(kind), _) => Hint::Row(kind),
            (None, Some(column)) => self.hint(column, mark.code, text.trim()),
            (None, None) => Hint::None,
        };
        Clue {
            row: block.first_row + u64::from(mark.place),
            column: counted.column,
            code: mark.code,
            level: mark.level,
            rule: counted.rule,
            text,
            hint,
        }
    }

    fn hint(&mut self, column: usize, code: Code, text: &str) -> Hint {
        match code {
            Code::OffList | Code::BooleanBad | Code::ReferenceUnknown => self.words(column, code, text),
            Code::DecimalBad | Code::IntegerBad => match unit(text) {
                Some(unit) => Hint::Unit(unit.to_owned()),
                None => Hint::None,
            },
            Code::DateBad | Code::DateImpossible | Code::DateUnclear => {
                Hint::Dates(reads(&self.candidates, text, self.gate.settings().today))
            }
            Code::OutOfRange => self.moved(column, text).map_or(Hint::None, Hint::Moved),
            _ => Hint::None,
        }
    }

    /// The words of a cell that are open, each with what it may be.
    fn words(&mut self, column: usize, code: Code, text: &str) -> Hint {
        let gate = self.gate;
        let Some(column_of) = gate.columns.get(column) else { return Hint::None };
        let lists = &gate.schema().picklists;
        let parts: Vec<&str> = match gate.separator(column) {
            Some(separator) => text.split(separator).map(str::trim).filter(|part| !part.is_empty()).collect(),
            None => vec![text],
        };
        let is_open = |part: &&str| column_of.program.judge(*part, lists) != Verdict::SOUND;
        let open: Vec<&str> = match parts.as_slice() {
            [one] => vec![one],
            parts => parts.iter().copied().filter(is_open).collect(),
        };
        let word = |part: &str| (Arc::from(part), self.likely(column, code, part));
        Hint::Words(open.into_iter().map(word).collect())
    }

    fn likely(&mut self, column: usize, code: Code, text: &str) -> Option<Arc<str>> {
        let key = (column, text.to_owned());
        if let Some(known) = self.likely.get(&key) {
            return known.clone();
        }
        let likely = self.likely_of(column, code, text);
        if self.likely.len() < REMEMBERED {
            self.likely.insert(key, likely.clone());
        }
        likely
    }

    fn likely_of(&self, column: usize, code: Code, text: &str) -> Option<Arc<str>> {
        let column_of = self.gate.columns.get(column)?;
        let field = self.gate.schema().fields.get(column_of.field?)?;
        if matches!(field.kind, Kind::Boolean) {
            return truth_words::likely(text).map(|yes| truth::written(yes).into());
        }
        self.gate.likely_values(column_of, field, code, text).into_iter().next().map(Into::into)
    }

    /// By how much a date has moved that is out of its range.
    fn moved(&self, column: usize, text: &str) -> Option<Shift> {
        let column = self.gate.columns.get(column)?;
        let lists = &self.gate.schema().picklists;
        let iso = column.program.standard(text, lists)?;
        let date = Date::iso(&iso)?;
        let is_sound = |date: Option<Date>| {
            date.is_some_and(|date| column.program.check(&Value::Day(date), text) == Verdict::SOUND)
        };
        let (year, month, day) = (i32::from(date.year()), date.month(), date.day());
        for years in [100, -100] {
            if is_sound(u16::try_from(year + years).ok().and_then(|year| Date::new(year, month, day))) {
                return Some(Shift::Years(years));
            }
        }
        // The days between the two systems of day numbers in workbooks: 1900 and 1904.
        for days in [1462, -1462, 1, -1] {
            if is_sound(Date::from_number(date.number() + days)) {
                return Some(Shift::Days(days));
            }
        }
        None
    }
}

/// Which of the forms read a text: one bit each.
fn reads(candidates: &[DatePattern], text: &str, today: Date) -> u64 {
    let is_read = |pattern: &DatePattern| matches!(pattern.read(text, today), DateReading::Day { .. });
    candidates
        .iter()
        .enumerate()
        .filter(|(_, pattern)| is_read(pattern))
        .fold(0, |mask, (at, _)| mask | 1 << at)
}

/// What stands behind a number, if that is no longer than a unit.
fn unit(text: &str) -> Option<&str> {
    let end = text.rfind(|c: char| c.is_ascii_digit())? + 1;
    let (number, unit) = text.split_at(end);
    let unit = unit.trim();
    let is_unit = (1..=8).contains(&unit.chars().count())
        && !unit.chars().any(|c| c.is_ascii_digit() || c.is_control());
    let is_number = || {
        Number::decimal(number.trim()).is_some()
            || Number::decimal(&number.trim().replace(',', ".")).is_some()
    };
    (is_unit && is_number()).then_some(unit)
}
