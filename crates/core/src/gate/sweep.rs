//! Sweeps: a pass over the cells of a column that stops at those that are not plainly sound. What plainly sound is, each
//! kind says beside its plain judge; tests compare the two.
//!
//! Before you change this: `Over` holds the one place that calls `sound`, so that each kind's test is built into a loop of
//! its own; `gate/tests.rs` compares sweeps with plain judges, under quotes, words for blank and marks of sheets, on every
//! kind of lanes.

use super::guard::Guard;
use super::sixteens::{Group, Sixteens, take_bit};
use super::wordset::WordSet;
use crate::rows::Cells;
use crate::scan::{Dialect, Lanes, Numbers, Task, with_lanes};
use std::cell::Cell;

/// A pass over the cells of a column.
pub(super) struct Sweep<'a> {
    pub(super) buffer: &'a [u8],
    pub(super) cells: &'a Cells,
    pub(super) column: usize,
    /// Whether an empty cell is sound.
    pub(super) blank_ok: bool,
    pub(super) dialect: Dialect,
    /// Words that count as blank or empty the field, if there are any.
    pub(super) guard: Option<&'a Guard>,
    /// Of the words of a picklist or of yes and no, those that stand so in the target.
    pub(super) standing: Option<&'a WordSet>,
    /// Called with every row that is not plainly sound.
    pub(super) slow: &'a mut dyn FnMut(usize),
}

/// What was passed over.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Swept {
    /// Empty cells.
    pub(super) blanks: u64,
    /// Numbers whose point can only begin decimals.
    pub(super) points: u64,
    /// Numbers whose point could part thousands as well.
    pub(super) open_points: u64,
    /// Words that stand for a value and are written in another way in the target.
    pub(super) unlike: u64,
}

impl Sweep<'_> {
    /// Passes over nothing: every cell is left to the plain judge.
    pub(super) fn none(self) -> Swept {
        self.over(|_, _| false)
    }

    /// Passes over cells that hold one of these words.
    pub(super) fn over_words(self, words: &WordSet) -> Swept {
        let (buffer, unlike, standing) = (self.buffer, Cell::new(0), self.standing.unwrap_or(words));
        let swept = self.over(Words { buffer, standing, words, unlike: &unlike });
        Swept { unlike: unlike.get(), ..swept }
    }

    /// Passes over the cells that `sound` knows, of which it says whether they stand so in the target.
    #[inline(always)]
    pub(super) fn over_written(self, sound: impl Fn(usize, usize) -> Option<bool>) -> Swept {
        let unlike = Cell::new(0_u64);
        let swept = self.over(|start, end| {
            let stands = sound(start, end);
            unlike.set(unlike.get() + u64::from(stands == Some(false)));
            stands.is_some()
        });
        Swept { unlike: unlike.get(), ..swept }
    }

    /// Passes over the cells that `sound` knows.
    #[inline(always)]
    pub(super) fn over(self, sound: impl Sound) -> Swept {
        with_lanes(self.dialect, Over { sweep: self, sound })
    }
}

/// What is plainly sound; closures are asked by where a cell starts and ends.
pub(super) trait Sound {
    /// Whether `sound` has no branches: it is asked of empty cells, too, and what it says of them does not count. Which cells
    /// are empty is guessed wrong too often.
    const IS_FLAT: bool = false;
    /// Whether `sixteen` knows cells.
    const KNOWS_SIXTEEN: bool = false;

    /// Whether a cell is sound.
    fn sound<L: Lanes>(&self, lanes: &L, start: usize, end: usize) -> bool;

    /// Of sixteen cells those that are surely sound, by where they start and how long they are: as `sound` would say. What it
    /// says of empty cells does not count; nothing where none can be told.
    #[inline(always)]
    fn sixteen<N: Numbers>(&self, _: N, _starts: N::Sixteen, _lengths: N::Sixteen) -> Option<N::Sixteen> {
        None
    }
}

impl<F: Fn(usize, usize) -> bool> Sound for F {
    #[inline(always)]
    fn sound<L: Lanes>(&self, _: &L, start: usize, end: usize) -> bool {
        self(start, end)
    }
}

/// Cells that hold one of these words.
struct Words<'a> {
    buffer: &'a [u8],
    /// The words that stand so in the target.
    standing: &'a WordSet,
    words: &'a WordSet,
    /// Counts the others.
    unlike: &'a Cell<u64>,
}

impl Sound for Words<'_> {
    const KNOWS_SIXTEEN: bool = true;

    #[inline(always)]
    fn sound<L: Lanes>(&self, _: &L, start: usize, end: usize) -> bool {
        if self.standing.holds(self.buffer, start, end - start) {
            return true;
        }
        let is_known = self.words.holds(self.buffer, start, end - start);
        self.unlike.set(self.unlike.get() + u64::from(is_known));
        is_known
    }

    #[inline(always)]
    fn sixteen<N: Numbers>(&self, numbers: N, starts: N::Sixteen, lengths: N::Sixteen) -> Option<N::Sixteen> {
        self.standing.held(numbers, self.buffer, starts, lengths)
    }
}

/// A sweep, built for the lanes there are.
struct Over<'a, S> {
    sweep: Sweep<'a>,
    sound: S,
}

impl<S: Sound> Task for Over<'_, S> {
    type Output = Swept;

    #[inline(always)]
    fn run<L: Lanes>(self, lanes: L) -> Swept {
        let Self { sweep: Sweep { buffer, cells, column, blank_ok, dialect, guard, slow, .. }, sound } = self;
        // Some writers put every cell in quotes: there the content is tried first.
        let (first, end) = cells.cell(0, column);
        let quoted = is_quoted(buffer, first, end, dialect.quote);
        let cell = OneCell { buffer, blank_ok, dialect, guard, quoted, sound: &sound };
        let mut blanks = 0;
        if !S::KNOWS_SIXTEEN || !L::Numbers::QUICK {
            cells.each_in_column(column, |row, start, end| {
                let (is_blank, is_known) = cell.told(&lanes, start, end);
                blanks += u64::from(is_blank);
                if !is_known {
                    slow(row);
                }
            });
            return Swept { blanks, ..Swept::default() };
        }
        // Of each sixteen cells those that are not known at once.
        let numbers = lanes.numbers();
        let mut groups = Sixteens::new(numbers, cells, column, guard.is_none() && !quoted);
        while let Some(Group { first, all, cells: group, empty }) = groups.next() {
            let mut left = all;
            if let Some((starts, lengths)) = group {
                let known = match sound.sixteen(numbers, starts, lengths) {
                    Some(known) => numbers.bits(known),
                    None => 0,
                };
                let blank = if blank_ok { empty } else { 0 };
                blanks += u64::from(blank.count_ones());
                left = !(known & !empty | blank);
            }
            while let Some(at) = take_bit(&mut left) {
                let (start, end) = cells.cell(first + at, column);
                let (is_blank, is_known) = cell.told(&lanes, start, end);
                blanks += u64::from(is_blank);
                if !is_known {
                    slow(first + at);
                }
            }
        }
        Swept { blanks, ..Swept::default() }
    }
}

/// What is asked of a cell by itself.
struct OneCell<'a, S> {
    buffer: &'a [u8],
    blank_ok: bool,
    dialect: Dialect,
    guard: Option<&'a Guard>,
    /// Whether the column's first cell is in quotes.
    quoted: bool,
    sound: &'a S,
}

impl<S: Sound> OneCell<'_, S> {
    /// Whether it is blank and may be, and whether it needs no closer look.
    #[inline(always)]
    fn told<L: Lanes>(&self, lanes: &L, mut start: usize, mut end: usize) -> (bool, bool) {
        let Self { buffer, dialect, .. } = *self;
        let is_blank = start == end && self.blank_ok;
        if !S::IS_FLAT && is_blank {
            return (true, true);
        }
        if let Some(guard) = self.guard
            && guard.may_hold(buffer, start, end)
        {
            return (is_blank, is_blank);
        }
        // The quotes around a cell come off once.
        let mut bare = self.quoted && is_quoted(buffer, start, end, dialect.quote);
        if bare {
            (start, end) = (start + 1, end - 1);
        }
        // A loop, so that `sound` stands in one place and is built into it.
        while S::IS_FLAT || start < end {
            if is_blank | (self.sound.sound(lanes, start, end) & (!S::IS_FLAT | (start < end))) {
                return (is_blank, true);
            }
            if bare || !is_quoted(buffer, start, end, dialect.quote) {
                break;
            }
            (start, end, bare) = (start + 1, end - 1, true);
        }
        (is_blank, false)
    }
}

/// Whether the cell stands in quotes with something between them. What is plainly sound holds no quote, so
/// the content can be tried as it stands.
#[inline(always)]
fn is_quoted(buffer: &[u8], start: usize, end: usize, quote: u8) -> bool {
    end > start + 2 && buffer.get(start) == Some(&quote) && buffer.get(end - 1) == Some(&quote)
}
