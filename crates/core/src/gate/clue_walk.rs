//! What is asked of rows once more where all their clues together leave something open.

use super::assembly::Gate;
use super::clues::{Clues, date_candidates, day_of, reads};
use super::judge::Judge;
use super::state::RunState;
use crate::block::Block;
use crate::profile::time_form;
use crate::rows::{Cells, text_of};
use crate::value::DatePattern;

/// How many of a column's dates each of [`date_candidates`] reads, of those that were asked for.
#[derive(Debug, Clone, Default)]
pub struct DateCount {
    /// The dates.
    pub cells: u64,
    /// Those that each candidate reads.
    pub read: Vec<u64>,
    /// The forms of the times of day behind them, where they are moments; a few.
    pub times: Vec<String>,
}

/// No column writes times of day in more forms.
const MOST_TIMES: usize = 4;

impl DateCount {
    /// Takes up what was counted elsewhere.
    pub fn join(&mut self, other: &Self) {
        self.cells += other.cells;
        other.times.iter().for_each(|form| self.add_time(form));
        self.read.resize(self.read.len().max(other.read.len()), 0);
        self.read.iter_mut().zip(&other.read).for_each(|(sum, one)| *sum += one);
    }

    fn add_time(&mut self, form: &str) {
        if self.times.len() < MOST_TIMES && !self.times.iter().any(|known| known == form) {
            self.times.push(form.to_owned());
            self.times.sort();
        }
    }
}

/// Gives the clues of blocks once more.
#[derive(Debug)]
pub struct ClueWalk<'g> {
    judge: Judge<'g>,
}

impl<'g> ClueWalk<'g> {
    /// For the blocks that this gate has judged; whether cells may stand one column too far right.
    #[must_use]
    pub fn new(gate: &'g Gate, state: &'g RunState, may_shift: bool) -> Self {
        Self { judge: Judge::new(gate, state, false).with_clues(may_shift) }
    }

    /// The clues of a block, in the order of rows and columns.
    pub fn of(&mut self, block: &Block) -> Clues {
        self.judge.mark(block);
        self.judge.clues(block)
    }
}

/// The cells of blocks as they stand, for counting what they hold.
#[derive(Debug)]
pub struct Texts<'g> {
    gate: &'g Gate,
    cells: Cells,
    candidates: Vec<DatePattern>,
}

impl<'g> Texts<'g> {
    /// Of the table that this gate judges.
    #[must_use]
    pub fn new(gate: &'g Gate) -> Self {
        Self { gate, cells: Cells::default(), candidates: date_candidates() }
    }

    /// Lays out a block. Every row that has the right width is seen, those that are passed over, too.
    pub fn lay_out(&mut self, block: &Block) {
        let table = self.gate.table();
        self.cells.short_rows_are_blank = table.short_rows_are_blank;
        self.cells.lay_out(block, table.dialect, self.gate.width(), 0);
    }

    /// How many rows there are.
    #[must_use]
    pub fn rows(&self) -> usize {
        self.cells.len()
    }

    /// The number of a row.
    #[must_use]
    pub fn number(&self, block: &Block, row: usize) -> u64 {
        block.first_row + u64::from(self.cells.place(row))
    }

    /// Which row has this number; nothing where it is not laid out.
    #[must_use]
    pub fn find(&self, block: &Block, number: u64) -> Option<usize> {
        let place = u32::try_from(number.checked_sub(block.first_row)?).ok()?;
        let (mut from, mut to) = (0, self.cells.len());
        while from < to {
            let middle = from.midpoint(to);
            match self.cells.place(middle).cmp(&place) {
                std::cmp::Ordering::Equal => return Some(middle),
                std::cmp::Ordering::Less => from = middle + 1,
                std::cmp::Ordering::Greater => to = middle,
            }
        }
        None
    }

    /// The text of a cell, trimmed; nothing where it is no text.
    #[must_use]
    pub fn text(&self, block: &Block, row: usize, column: usize) -> Option<String> {
        let text = text_of(self.cells.stored(block, row, column), self.gate.table().dialect);
        text.ok().map(|text| text.trim().to_owned())
    }

    /// Gives the text of each cell of a column, trimmed, until told to stop; cells that are no text are passed over.
    pub fn each(&self, block: &Block, column: usize, mut take: impl FnMut(usize, &str) -> bool) {
        for row in 0..self.cells.len() {
            let raw = self.cells.stored(block, row, column);
            if let Ok(text) = text_of(raw, self.gate.table().dialect)
                && !take(row, text.trim())
            {
                return;
            }
        }
    }

    /// Counts what these forms (one bit each) read of a column's dates.
    #[must_use]
    pub fn dates(&self, block: &Block, column: usize, forms: u64) -> DateCount {
        let mut count = DateCount { read: vec![0; self.candidates.len()], ..DateCount::default() };
        let today = self.gate.settings().today;
        self.each(block, column, |_, text| {
            if !text.is_empty() {
                count.cells += 1;
                let (day, time) = day_of(self.gate, column, text).unwrap_or(("", None));
                let mask = reads(&self.candidates, day, today, forms);
                if let Some(time) = time.filter(|_| mask != 0) {
                    count.add_time(&time_form(time));
                }
                for (at, slot) in count.read.iter_mut().enumerate() {
                    *slot += mask >> at & 1;
                }
            }
            true
        });
        count
    }
}
