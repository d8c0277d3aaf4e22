//! What each finding of the rows tells of where it came from: a row that is no record, a word of another list, a number
//! with a unit. A clue alone proves nothing; [`crate::causes`] weighs all of them.

use super::assembly::Gate;
use super::compiled::Compiled;
use super::kinds::Value;
use super::mark::Mark;
use super::row_kinds::{self, RowKind, RowSigns};
use super::tallies::Counted;
use super::verdict::Verdict;
use crate::block::Block;
use crate::catalogue::{Code, Level};
use crate::profile::day_and_time;
use crate::rows::{Cells, text_of};
use crate::schema::Kind;
use crate::straight::BuildStraight;
use crate::value::{Date, DatePattern, DateReading, TimeOfDay, TimePattern, truth, truth_words, unit_behind};
use std::collections::HashMap;
use std::sync::Arc;
use xxhash_rust::xxh3::xxh3_64_with_seed;

/// What one finding tells of its cause.
#[derive(Debug, Clone, PartialEq)]
pub enum Hint {
    /// Nothing of its own.
    None,
    /// Its row is no record, or none that stands right.
    Row(RowKind),
    /// The words of its cell that are off the list, each with what it may be.
    Words(Arc<[WordHint]>),
    /// A number with this behind it.
    Unit(Arc<str>),
    /// A date that some of [`date_candidates`] read: one bit each.
    Dates(u64),
    /// A time that some of [`time_candidates`] read: one bit each.
    Times(u64),
    /// A date that would be sound so many days later; or years, where the century is another.
    Moved(Shift),
}

/// A word that is off a list, and what it may be.
pub type WordHint = (Arc<str>, Option<Arc<str>>);

/// By how much dates have moved.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Shift {
    /// So many years.
    Years(i32),
    /// So many days.
    Days(i64),
}

/// The clues of a block.
#[derive(Debug, Default)]
pub struct Clues {
    first_row: u64,
    /// What its findings tell; one may stand for all that tell the same.
    pub distinct: Vec<Clue>,
    /// The findings, in the order of rows and columns: the place of the row in the block, and what it tells.
    found: Vec<(u32, u32)>,
}

impl Clues {
    /// The findings, in the order of rows and columns: the row, and the number of what it tells.
    pub fn found(&self) -> impl Iterator<Item = (u64, usize)> {
        self.found.iter().map(|(place, number)| (self.first_row + u64::from(*place), *number as usize))
    }
}

/// What a finding tells of its cause.
#[derive(Debug, Clone)]
pub struct Clue {
    /// The column, from 1; 0 for the row as a whole.
    pub column: usize,
    /// The code.
    pub code: Code,
    /// The level.
    pub level: Level,
    /// The number of the rule.
    pub rule: Option<u16>,
    /// The cell's text as it stands, whoever may see it.
    pub text: Arc<str>,
    /// What it tells.
    pub hint: Hint,
}

/// Makes clues of marks, in ascending order.
#[derive(Debug)]
pub(super) struct ClueMaker<'g> {
    gate: &'g Gate,
    candidates: Vec<DatePattern>,
    times: Vec<TimePattern>,
    /// Whether cells may stand one column too far right: not where whole columns have changed places.
    may_shift: bool,
    likely: HashMap<(usize, String), Option<Arc<str>>>,
    /// Cells with what a finding told of them, by the hash of both: faults tend to come again.
    known: HashMap<u64, Known, BuildStraight>,
    /// The number of the block.
    block: u64,
    row_signs: RowSigns,
    /// The texts of a row.
    texts: Vec<String>,
}

/// What a finding told of a cell.
#[derive(Debug)]
struct Known {
    raw: Box<[u8]>,
    clue: Clue,
    /// The block in which it was told last, and its number there.
    told: (u64, u32),
}

/// So many words are remembered with what they may be, and so many cells with what was told of them.
const REMEMBERED: usize = 20_000;
/// No longer cells.
const LONGEST: usize = 100;

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
        "d. M. yyyy",
        "d. M. yyyy.",
        "d.M.yyyy.",
        "yyyy. M. d.",
        "yyyy.M.d.",
        "yyyy年M月d日",
        "yyyy년 M월 d일",
        "yyyyMMdd",
        "ddMMyyyy",
        "MMddyyyy",
    ] {
        sources.push(pattern.to_owned());
    }
    sources.iter().filter_map(|source| DatePattern::new(source).ok()).collect()
}

/// Forms of times that are tried on those that are in none of the permitted ones.
#[must_use]
pub fn time_candidates() -> Vec<TimePattern> {
    let of_twelve = ["h:mm a", "h:mm:ss a", "h.mm a"];
    let others = ["HH:mm", "HH:mm:ss", "HH.mm", "H'h'mm", "HHmm", "HH:mm 'Uhr'", "H:m", "H:m:s"];
    of_twelve.iter().chain(&others).filter_map(|form| TimePattern::new(form).ok()).collect()
}

/// Beside the bits of forms: a time that is no decimal number of hours, as those of quarters are.
pub(crate) const IS_NO_DECIMAL: u64 = 1 << 63;

/// Which forms read a time, one bit each.
fn times_read(candidates: &[TimePattern], text: &str) -> u64 {
    // Parts of a day are decimals, too.
    if text.starts_with("0.") {
        return 0;
    }
    let of_quarters = text.rsplit_once('.').is_some_and(|(_, behind)| matches!(behind, "00" | "25" | "50"));
    let read = candidates.iter().enumerate().filter(|(_, pattern)| pattern.read(text).is_some());
    read.fold(if of_quarters { 0 } else { IS_NO_DECIMAL }, |mask, (at, _)| mask | 1 << at)
}

impl<'g> ClueMaker<'g> {
    pub(super) fn new(gate: &'g Gate, may_shift: bool) -> Self {
        Self {
            gate,
            may_shift,
            candidates: date_candidates(),
            times: time_candidates(),
            likely: HashMap::new(),
            known: HashMap::default(),
            block: 0,
            row_signs: RowSigns::of(gate),
            texts: Vec::new(),
        }
    }

    /// The clues of a block's marks, in the order of rows and columns; `cells` gives the cells that a mark is of.
    pub(super) fn of<'c>(
        &mut self,
        block: &Block,
        marks: &[Mark],
        cells: impl Fn(&Mark) -> &'c Cells,
    ) -> Clues {
        self.block += 1;
        let found = Vec::with_capacity(marks.len());
        let mut clues = Clues { first_row: block.first_row, distinct: Vec::new(), found };
        for same in marks.chunk_by(|one, other| one.place == other.place) {
            let Some(first) = same.first() else { continue };
            let kind = self.row_kind(block, same, cells(first));
            for mark in same {
                let number = match kind {
                    Some(kind) => self.of_row((block, cells(mark)), *mark, kind, &mut clues.distinct),
                    None => self.of_cell((block, cells(mark)), *mark, &mut clues.distinct),
                };
                clues.found.push((mark.place, number));
            }
        }
        clues
    }

    /// What the row of some marks is instead of a record.
    fn row_kind(&mut self, block: &Block, marks: &[Mark], cells: &Cells) -> Option<RowKind> {
        let first = marks.first()?;
        if first.column == 0 && first.code == Code::RowWidth {
            let misfit = cells.misfits.get(first.row as usize)?;
            let is_wide = misfit.judged.is_none() && misfit.cells as usize > self.gate.width();
            return is_wide.then_some(RowKind::Wide);
        }
        let is_of_cells = |mark: &&Mark| mark.column > 0;
        let row = marks.iter().find(is_of_cells)?.row as usize;
        let raw = |column: usize| cells.stored(block, row, column);
        let first_marked = marks.iter().find(is_of_cells).map(|mark| usize::from(mark.column) - 1);
        let others = marks.iter().filter(is_of_cells).count() - 1;
        if !self.row_signs.may_be_one(self.gate, raw, first_marked.filter(|_| others > 0)) {
            return None;
        }
        self.texts.resize_with(self.gate.width(), String::new);
        for (column, into) in self.texts.iter_mut().enumerate() {
            into.clear();
            if let Ok(text) = text_of(cells.stored(block, row, column), self.gate.table().dialect) {
                into.push_str(text.trim());
            }
        }
        let marked: Vec<usize> =
            marks.iter().filter_map(|mark| usize::from(mark.column).checked_sub(1)).collect();
        row_kinds::of(self.gate, &self.texts, &marked)
            .filter(|kind| self.may_shift || *kind != RowKind::Shifted)
    }

    /// The clue of a mark in a row that is no record.
    fn of_row(
        &mut self,
        (block, cells): (&Block, &Cells),
        mark: Mark,
        kind: RowKind,
        distinct: &mut Vec<Clue>,
    ) -> u32 {
        let raw = raw_of(block, cells, mark);
        distinct.push(clue(mark, self.text(raw), Hint::Row(kind)));
        last_of(distinct)
    }

    /// The clue of a mark, by its cell.
    fn of_cell(&mut self, (block, cells): (&Block, &Cells), mark: Mark, distinct: &mut Vec<Clue>) -> u32 {
        let raw = raw_of(block, cells, mark);
        let made_by = u64::from(mark.column) << 32 | u64::from(mark.rule) << 16;
        let key = xxh3_64_with_seed(raw, made_by | (mark.code as u64) << 4 | mark.level as u64);
        if let Some(known) = self.known.get_mut(&key)
            && known.clue.is_of(mark)
            && *known.raw == *raw
        {
            if known.told.0 != self.block {
                distinct.push(known.clue.clone());
                known.told = (self.block, last_of(distinct));
            }
            return known.told.1;
        }
        let text = self.text(raw);
        let hint = match usize::from(mark.column).checked_sub(1) {
            Some(column) => self.hint(column, mark.code, text.trim()),
            None => Hint::None,
        };
        distinct.push(clue(mark, text, hint));
        let number = last_of(distinct);
        if self.known.len() < REMEMBERED
            && raw.len() <= LONGEST
            && let Some(clue) = distinct.last().cloned()
        {
            self.known.insert(key, Known { raw: raw.into(), clue, told: (self.block, number) });
        }
        number
    }

    fn text(&self, raw: &[u8]) -> Arc<str> {
        match text_of(raw, self.gate.table().dialect) {
            Ok(text) => Arc::from(text),
            Err(bytes) => Arc::from(String::from_utf8_lossy(&bytes)),
        }
    }

    fn hint(&mut self, column: usize, code: Code, text: &str) -> Hint {
        match code {
            Code::OffList | Code::BooleanBad | Code::ReferenceUnknown => self.words(column, code, text),
            Code::DecimalBad | Code::IntegerBad => match unit_behind(text) {
                Some(unit) => Hint::Unit(unit.into()),
                None => Hint::None,
            },
            Code::DateBad | Code::DateImpossible | Code::DateUnclear => {
                let day = day_of(self.gate, column, text).map_or("", |parts| parts.0);
                Hint::Dates(reads(&self.candidates, day, self.gate.settings().today, u64::MAX))
            }
            Code::TimeBad => match self.gate.field(column).map(|field| &field.kind) {
                Some(Kind::Datetime { .. }) => self.day_of_time(text).map_or(Hint::None, Hint::Dates),
                Some(Kind::Time { .. }) => Hint::Times(times_read(&self.times, text)),
                // Lengths of time have no forms to state.
                _ => Hint::None,
            },
            Code::OutOfRange => self.moved(column, text).map_or(Hint::None, Hint::Moved),
            _ => Hint::None,
        }
    }

    /// The forms of the day before a time that is no time of ISO 8601.
    fn day_of_time(&self, text: &str) -> Option<u64> {
        let (day, time) = day_and_time(text).filter(|(_, time)| TimeOfDay::iso(time).is_none())?;
        let forms = reads(&self.candidates, day, self.gate.settings().today, u64::MAX);
        (forms != 0 && time.chars().any(char::is_alphabetic)).then_some(forms)
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

fn clue(mark: Mark, text: Arc<str>, hint: Hint) -> Clue {
    let Counted { column, code, level, rule } = mark.counted();
    Clue { column, code, level, rule, text, hint }
}

/// The cell of a mark; none where it is at the row as a whole.
fn raw_of<'a>(block: &'a Block, cells: &'a Cells, mark: Mark) -> &'a [u8] {
    let column = usize::from(mark.column).checked_sub(1);
    column.map(|column| cells.stored(block, mark.row as usize, column)).unwrap_or_default()
}

fn last_of(distinct: &[Clue]) -> u32 {
    u32::try_from(distinct.len() - 1).unwrap_or(u32::MAX)
}

impl Clue {
    fn is_of(&self, mark: Mark) -> bool {
        let counted = mark.counted();
        (self.column, self.code, self.level, self.rule)
            == (counted.column, counted.code, counted.level, counted.rule)
    }
}

/// The day that a cell of dates should hold; where the column holds moments, with the time of day behind it.
pub(super) fn day_of<'t>(
    gate: &Compiled,
    column: usize,
    text: &'t str,
) -> Option<(&'t str, Option<&'t str>)> {
    match gate.field(column).map(|field| &field.kind) {
        Some(Kind::Datetime { .. }) => day_and_time(text).map(|(day, time)| (day, Some(time))),
        _ => Some((text, None)),
    }
}

/// Which of the forms that are asked for (one bit each) read a text.
pub(super) fn reads(candidates: &[DatePattern], text: &str, today: Date, forms: u64) -> u64 {
    let is_read = |pattern: &DatePattern| matches!(pattern.read(text, today), DateReading::Day { .. });
    candidates
        .iter()
        .enumerate()
        .filter(|(at, pattern)| forms >> at & 1 == 1 && is_read(pattern))
        .fold(0, |mask, (at, _)| mask | 1 << at)
}
