//! Repairs that cannot change what a cell means: what a finding tells of how it is written, written otherwise. A cell
//! without a finding is never touched, and nothing is guessed: a repaired cell is judged again, and what could be read
//! before gives the same value afterwards.

use super::assembly::Gate;
use super::compiled::Column;
use super::judge::Judge;
use super::mark::Mark;
use super::seen::Seen;
use super::state::RunState;
use super::verdict::{Given, Verdict};
use super::writing::{self, Cell};
use crate::block::Block;
use crate::catalogue::{Code, Tag};
use crate::mode::Mode;
use crate::rows::text_of;
use crate::scan::Dialect;
use crate::schema::{Field, Required};
use crate::value::{Date, may_be_thousands, serial, suspicion};
use std::borrow::Cow;
use std::collections::BTreeMap;

/// The codes whose findings may be mended in cells.
pub const MENDABLE: &[Code] = &[
    Code::CaseWrong,
    Code::CharactersInvisible,
    Code::DateAsNumber,
    Code::DateImpossible,
    Code::DecimalBad,
    Code::DecimalMark,
    Code::IntegerBad,
    Code::ListSeparator,
    Code::OffList,
    Code::PatternBroken,
    Code::RequiredBlank,
    Code::SpaceStray,
    Code::ZerosLost,
];

/// One cell that was mended.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Mend {
    /// The row.
    pub row: u64,
    /// The column, from 0.
    pub column: usize,
    /// Where the cell stands in its block.
    pub span: (usize, usize),
    /// What was told of it and is no longer.
    pub codes: Vec<Code>,
    /// What stood there.
    pub before: String,
    /// What stands there now.
    pub after: String,
    /// Whether what stands there now is a number.
    pub is_number: bool,
}

/// By which system the day numbers of a column count.
#[derive(Debug, Clone, Copy, Default)]
struct Systems {
    /// Whether some are no sound dates when counted from 1900, and from 1904.
    unsound: [bool; 2],
}

/// The days between the two systems.
const BETWEEN: i64 = 1462;

/// Mends blocks, in ascending order.
#[derive(Debug)]
pub struct Mender<'g> {
    gate: &'g Gate,
    judge: Judge<'g>,
    only: Vec<Code>,
    systems: BTreeMap<usize, Systems>,
}

impl<'g> Mender<'g> {
    /// For the blocks that this gate has judged, for findings of these codes alone, where some are given.
    #[must_use]
    pub fn new(gate: &'g Gate, state: &'g RunState, only: &[Code]) -> Self {
        let only = if only.is_empty() { MENDABLE } else { only };
        Self { gate, judge: Judge::new(gate, state, false), only: only.to_vec(), systems: BTreeMap::new() }
    }

    /// Looks at the day numbers of a block, of which all of a column tell by which system they count.
    pub fn look_at(&mut self, block: &Block) {
        self.judge.mark(block);
        let marks: Vec<Mark> = self.judge.marks().to_vec();
        for mark in marks.iter().filter(|mark| mark.code == Code::DateAsNumber) {
            let Some(number) = usize::from(mark.column).checked_sub(1) else { continue };
            let Some(column) = self.gate.columns.get(number) else { continue };
            let raw = self.judge.cells().stored(block, mark.row as usize, number);
            let Ok(text) = text_of(raw, self.gate.table().dialect) else { continue };
            let found = [0, BETWEEN].map(|days| self.day(column, text.trim(), days).is_none());
            let systems = self.systems.entry(number).or_default();
            for (unsound, found) in systems.unsound.iter_mut().zip(found) {
                *unsound |= found;
            }
        }
    }

    /// The cells of a block that are mended, in the order of rows and columns.
    pub fn of(&mut self, block: &Block) -> Vec<Mend> {
        self.judge.mark(block);
        let marks: Vec<Mark> = self.judge.marks().to_vec();
        let is_of_cell = |mark: &&Mark| mark.column > 0;
        let cells: Vec<Mark> = marks.iter().filter(is_of_cell).copied().collect();
        let same = |one: &Mark, other: &Mark| (one.place, one.column) == (other.place, other.column);
        let mut mends: Vec<Mend> = cells.chunk_by(same).filter_map(|marks| self.cell(block, marks)).collect();
        let told = mends.len();
        mends.extend(self.defaults(block));
        if mends.len() > told {
            mends.sort_by_key(|mend| (mend.row, mend.column));
        }
        mends
    }

    /// Blank cells that are needed and that a default fills: nothing is told of them, but whoever gets the copy has the
    /// value. A record that is there already has one of its own.
    fn defaults(&self, block: &Block) -> Vec<Mend> {
        let mut mends = Vec::new();
        if !self.only.contains(&Code::RequiredBlank) || self.gate.settings().mode != Mode::Add {
            return mends;
        }
        let (cells, dialect) = (self.judge.cells(), self.gate.table().dialect);
        for (number, column) in self.gate.columns.iter().enumerate() {
            let Some(after) = self.default_of(column) else { continue };
            for row in (0..cells.len()).filter(|row| !cells.takes_over(*row, number)) {
                let raw = cells.stored(block, row, number);
                let span = cells.cell(row, number);
                // A cell that a short row does not have has no place.
                let has_place = dialect.marks
                    || number == 0
                    || span.0.checked_sub(1).and_then(|at| block.buffer.get(at)) == Some(&dialect.delimiter);
                if has_place && matches!(column.see(raw, dialect), Seen::Blank { is_word: false }) {
                    mends.push(Mend {
                        row: block.first_row + u64::from(cells.place(row)),
                        column: number,
                        span,
                        codes: vec![Code::RequiredBlank],
                        before: text_of(raw, dialect).map(Cow::into_owned).unwrap_or_default(),
                        is_number: column.program.is_stored_as_such() && after.parse::<f64>().is_ok(),
                        after: after.clone(),
                    });
                }
            }
        }
        mends
    }

    /// The default of a needed field as the cells of its column write it.
    fn default_of(&self, column: &Column) -> Option<String> {
        let standard = column.default.as_deref()?;
        let field = self.gate.schema().fields.get(column.field?)?;
        if field.required == Required::No {
            return None;
        }
        let lists = &self.gate.schema().picklists;
        let stated = field.default.as_deref().into_iter().chain([standard]);
        let is_read =
            |text: &&str| column.program.standard(Given::from(*text), lists).as_deref() == Some(standard);
        stated.into_iter().find(is_read).map(ToOwned::to_owned)
    }

    fn cell(&self, block: &Block, marks: &[Mark]) -> Option<Mend> {
        let first = marks.first()?;
        let (row, number) = (first.row as usize, usize::from(first.column) - 1);
        let codes: Vec<Code> =
            marks.iter().map(|mark| mark.code).filter(|code| self.only.contains(code)).collect();
        let column = self.gate.columns.get(number)?;
        let field = self.gate.schema().fields.get(column.field?)?;
        if codes.is_empty() || self.judge.cells().takes_over(row, number) {
            return None;
        }
        let cells = self.judge.cells();
        let raw = cells.stored(block, row, number);
        let dialect = self.gate.table().dialect;
        let before = text_of(raw, dialect).ok()?.into_owned();
        // What a plan puts in its place is no matter of how it is written.
        if column.reading.replaced(before.trim()).is_some() {
            return None;
        }
        let mut after = before.clone();
        for code in &codes {
            if let Some(mended) = self.mended(number, column, field, *code, &after) {
                after = mended;
            }
        }
        let codes = match after == before {
            true => Vec::new(),
            false => self.gone(column, (&before, raw), &after, &codes),
        };
        (!codes.is_empty()).then(|| Mend {
            row: block.first_row + u64::from(first.place),
            column: number,
            span: cells.cell(row, number),
            codes,
            is_number: column.program.is_stored_as_such() && after.parse::<f64>().is_ok(),
            before,
            after,
        })
    }

    /// The text without what one finding tells of it.
    fn mended(
        &self,
        number: usize,
        column: &Column,
        field: &Field,
        code: Code,
        text: &str,
    ) -> Option<String> {
        let trimmed = text.trim();
        let lists = &self.gate.schema().picklists;
        match code {
            Code::SpaceStray => Some(spaced(text)),
            Code::CharactersInvisible => Some(suspicion::without_invisible(text)),
            // It may be a thousand and more as well.
            Code::DecimalMark if may_be_thousands(trimmed) => None,
            Code::CaseWrong | Code::ZerosLost | Code::DecimalMark | Code::ListSeparator => {
                column.program.suggestion(code, trimmed, lists)
            }
            Code::DecimalBad | Code::IntegerBad => without_unit(field, trimmed)
                .or_else(|| column.program.suggestion(code, trimmed, lists))
                .or_else(|| Some(cleaned(text))),
            Code::DateImpossible => turned_about(trimmed),
            Code::DateAsNumber => {
                let systems = self.systems.get(&number)?;
                let days = match systems.unsound {
                    [false, true] => 0,
                    [true, false] => BETWEEN,
                    _ => return None,
                };
                let day = self.day(column, trimmed, days)?;
                Some(self.written(column, day))
            }
            // A word of the list in another case, where only the code counts letter by letter.
            Code::OffList => {
                let list = lists.get(column.program.list()?)?;
                let clean = cleaned(text);
                list.exact_but_for_case(&clean).map(ToOwned::to_owned).or(Some(clean))
            }
            Code::PatternBroken => Some(cleaned(text)),
            _ => None,
        }
    }

    /// The day of a number, if the field may have it.
    fn day(&self, column: &Column, text: &str, later: i64) -> Option<Date> {
        let day = Date::from_number(serial::read(text)?.number() + later)?;
        let written = self.written(column, day);
        let verdict = column.program.judge(written.as_str(), &self.gate.schema().picklists);
        (!verdict.codes().any(|code| code.is(Tag::NoValue) || code == Code::OutOfRange)).then_some(day)
    }

    /// A day as the field's cells may hold it.
    fn written(&self, column: &Column, day: Date) -> String {
        let iso = day.to_string();
        let value = column.program.written(Given::from(iso.as_str()), &self.gate.schema().picklists);
        value.map_or_else(|| iso.clone(), std::borrow::Cow::into_owned)
    }

    /// Which of the findings are gone; none where anything else is told instead, or what was read before is another value.
    fn gone(&self, column: &Column, (before, raw): (&str, &[u8]), after: &str, codes: &[Code]) -> Vec<Code> {
        if after.trim().is_empty() {
            return Vec::new();
        }
        let (lists, dialect) = (&self.gate.schema().picklists, self.gate.table().dialect);
        let value = |text: &str, raw: &[u8], dialect: Dialect| {
            let given = Given::of(text.trim(), raw, dialect);
            column.program.standard(given, lists).map(std::borrow::Cow::into_owned)
        };
        let plain = Dialect { marks: false, ..dialect };
        let was = writing::judge(&column.program, lists, Cell::of(before, raw, dialect));
        let is = writing::judge(&column.program, lists, Cell::of(after, b"", plain));
        let told = |verdict: Verdict, code: Code| verdict.codes().any(|known| known == code);
        let is_new = |code: &Code| !told(was, *code);
        // Zeros and case that are put right are what the value was meant to be.
        let is_meant = told(was, Code::ZerosLost) || told(was, Code::CaseWrong);
        let is_same = match value(before, raw, dialect) {
            Some(value_before) if !is_meant => {
                value(after, b"", plain).is_some_and(|value| cleaned(&value) == cleaned(&value_before))
            }
            _ => true,
        };
        if !is_same || is.codes().any(|code| is_new(&code)) {
            return Vec::new();
        }
        codes.iter().copied().filter(|code| !told(is, *code)).collect()
    }
}

/// The text without outer spaces, with one plain space where several or uncommon ones stand. Line breaks stay.
fn spaced(text: &str) -> String {
    let mut spaced = String::with_capacity(text.len());
    for c in text.trim().chars() {
        let c = if suspicion::is_uncommon_space(c) { ' ' } else { c };
        if c != ' ' || !spaced.ends_with(' ') {
            spaced.push(c);
        }
    }
    spaced
}

/// The text without anything that nobody meant.
fn cleaned(text: &str) -> String {
    spaced(&suspicion::without_invisible(text))
}

/// A number without the unit of its field behind it.
fn without_unit(field: &Field, text: &str) -> Option<String> {
    let own = field.stated.unit.as_deref()?.trim();
    let at = text.len().checked_sub(own.len())?;
    let (number, unit) = text.split_at_checked(at)?;
    let number = number.trim_end();
    let is_own = unit.eq_ignore_ascii_case(own) && number.ends_with(|c: char| c.is_ascii_digit());
    is_own.then(|| number.to_owned())
}

/// A date in numbers with day and month the other way round.
fn turned_about(text: &str) -> Option<String> {
    let mark = text.chars().find(|c| !c.is_ascii_digit())?;
    let mut parts: Vec<&str> = text.split(mark).collect();
    let is_number =
        |part: &&str| (1..=4).contains(&part.len()) && part.bytes().all(|byte| byte.is_ascii_digit());
    if parts.len() != 3 || !parts.iter().all(is_number) {
        return None;
    }
    let (one, other) = if parts.first()?.len() == 4 { (1, 2) } else { (0, 1) };
    parts.swap(one, other);
    Some(parts.join(&mark.to_string()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_nobody_meant_goes_and_line_breaks_stay() {
        for (text, wanted) in [
            (" a\u{a0}\u{a0}b  c ", "a b c"),
            ("a\u{200b}b\nc", "ab\nc"),
            ("\u{feff}x", "x"),
            ("plain", "plain"),
        ] {
            assert_eq!(cleaned(text), wanted);
        }
        assert_eq!(turned_about("12/31/2025").as_deref(), Some("31/12/2025"));
        assert_eq!(turned_about("2025-31-12").as_deref(), Some("2025-12-31"));
        assert_eq!(turned_about("12 May 2025"), None);
    }
}
