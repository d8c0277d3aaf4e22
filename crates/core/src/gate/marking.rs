//! The cells of a column, marked: a sweep passes over what is plainly sound, all else is looked at and judged.

use super::compiled::{Column, Compiled};
use super::evidence::{Says, Vote, Votes};
use super::mark::Mark;
use super::memo::{Memo, Told};
use super::seen::Seen;
use super::standing::There;
use super::sweep::Sweep;
use super::translated::Translated;
use super::verdict::{Given, Verdict};
use super::writing::Cell;
use crate::block::Block;
use crate::catalogue::{Code, Level, Tag};
use crate::rows::{Cells, text_of};
use crate::scan::Dialect;
use std::collections::BTreeMap;

/// What the cells of a column came to, beside their marks.
#[derive(Debug, Default)]
pub(super) struct Marked {
    /// Cells that hold nothing.
    pub(super) blanks: u64,
    /// Cells that are written in another way than the target's.
    pub(super) unlike: u64,
    /// Blank cells that a default fills.
    pub(super) defaulted: u64,
    /// What cells say of how the column is written.
    pub(super) votes: Votes,
}

/// Marks the cells of the column of this number.
pub(super) fn mark_column(
    gate: &Compiled,
    number: usize,
    (block, cells, there): (&Block, &Cells, &[There<'_>]),
    (memo, translated): (&mut Memo, &mut BTreeMap<usize, Translated>),
    marks: &mut Vec<Mark>,
) -> Marked {
    let Some(column) = gate.columns.get(number) else { return Marked::default() };
    let dialect = gate.table.dialect;
    let mut marker = Marker { gate, column, number, there, cells, marks, found: Marked::default() };
    let mut looked_at = 0;
    let mut slow = |row: usize| {
        looked_at += 1;
        let raw = cells.stored(block, row, number);
        if column.reading.put.is_some() {
            translated.entry(number).or_default().count(raw, column, dialect);
        }
        let told = memo.of(raw, || tell(gate, column, raw));
        marker.mark(row, raw, told);
    };
    let sweep = Sweep {
        buffer: &block.buffer,
        cells,
        column: number,
        blank_ok: column.blank.is_none() && column.default.is_none(),
        dialect,
        guard: column.guard.as_ref(),
        standing: column.standing.as_ref(),
        slow: &mut slow,
    };
    let is_sure = !cells.broken_text || column.program.sweeps_broken_text();
    let swept = if is_sure { column.program.sweep(sweep) } else { sweep.none() };
    let mut found = marker.found;
    found.blanks += swept.blanks;
    found.unlike += swept.unlike;
    if column.fast_is_unlike {
        found.unlike += (cells.len() as u64).saturating_sub(swept.blanks + looked_at);
    }
    let point = |says| Vote { form: 0, says };
    found.votes.add_many(point(Says::First), swept.points);
    found.votes.add_many(point(Says::Open), swept.open_points);
    found
}

/// What the plain judge says of a raw cell.
fn tell(gate: &Compiled, column: &Column, raw: &[u8]) -> Told {
    let dialect = gate.table.dialect;
    match column.see(raw, dialect) {
        Seen::Broken => Told::Broken,
        Seen::Stale => Told::Stale,
        Seen::Blank { is_word } => Told::Blank { is_word },
        Seen::Clear(_) => Told::Clear,
        Seen::Value(text) => {
            let given = Given::of(text.trim(), raw, dialect);
            let verdict = gate.judge_cell(column, Cell::of(&text, raw, dialect));
            let is_put = || column.reading.put.is_some() && column.is_replaced(raw, dialect);
            let is_unlike = !verdict.codes().any(|code| code.is(Tag::NoValue))
                && (gate.is_unlike(column, &text, given) || is_put());
            // What a sheet stores has no mark and no order of its own.
            let vote = if given.is_stored { Vote::NONE } else { column.program.vote(given) };
            Told::Verdict(verdict, vote, is_unlike)
        }
    }
}

/// Takes what was told of the cells of a column.
struct Marker<'a> {
    gate: &'a Compiled,
    column: &'a Column,
    number: usize,
    there: &'a [There<'a>],
    cells: &'a Cells,
    marks: &'a mut Vec<Mark>,
    found: Marked,
}

impl Marker<'_> {
    fn push(&mut self, row: usize, code: Code, level: Level) {
        self.marks.push(Mark::at(self.cells, row, self.number + 1, code, level));
    }

    fn mark(&mut self, row: usize, raw: &[u8], told: Told) {
        match told {
            Told::Broken => {
                self.push(row, Code::EncodingDoubt, self.gate.level(Code::EncodingDoubt, self.number));
            }
            Told::Blank { is_word } => {
                self.found.unlike += u64::from(is_word);
                self.mark_blank(row);
            }
            Told::Stale => {
                if self.column.field.is_some() {
                    let level = self.gate.level(Code::FormulaStale, self.number);
                    self.push(row, Code::FormulaStale, level);
                }
                self.mark_blank(row);
            }
            Told::Clear => {
                if !self.column.may_clear {
                    self.push(row, Code::ClearNotAllowed, Level::Stop);
                }
            }
            Told::Verdict(verdict, vote, is_unlike) => {
                self.found.votes.add(vote);
                self.found.unlike += u64::from(is_unlike);
                self.mark_value(row, raw, verdict);
            }
        }
    }

    fn mark_blank(&mut self, row: usize) {
        self.found.blanks += 1;
        if self.cells.takes_over(row, self.number) {
            return;
        }
        let is_there = |field: usize| self.there.get(row).is_some_and(|there| there.holds(field));
        let fills = self.column.default.is_some() && !self.column.field.is_some_and(is_there);
        self.found.defaulted += u64::from(fills);
        if let Some((code, level)) = self.column.blank {
            self.push(row, code, level);
        }
    }

    fn mark_value(&mut self, row: usize, raw: &[u8], verdict: Verdict) {
        let column = self.column;
        for code in verdict.codes().filter(|code| !column.ignore.contains(code)) {
            let level = match code {
                // Text that was encoded twice can be read.
                Code::EncodingDoubt => self.gate.told_level(code, Level::Warn),
                Code::SpaceStray if !column.reading.trim && has_outer_space(raw, self.gate.table.dialect) => {
                    self.gate.told_level(code, Level::Warn)
                }
                _ => self.gate.level(code, self.number),
            };
            self.push(row, code, level);
        }
    }
}

/// Whether spaces stand around the value of a raw cell.
fn has_outer_space(raw: &[u8], dialect: Dialect) -> bool {
    text_of(raw, dialect).is_ok_and(|text| text.trim().len() < text.len())
}
