//! Sweeps: a pass over the cells of a column that stops at those that are not plainly sound. What plainly sound is, each
//! kind says beside its plain judge; tests compare the two.
//!
//! Before you change this: `over` holds the one place that calls `sound`, so that each kind's test is built into a loop of
//! its own; `gate/tests.rs` compares sweeps with plain judges, under quotes, words for blank and marks of sheets.

use super::guard::Guard;
use super::wordset::WordSet;
use crate::rows::Cells;
use crate::scan::Dialect;
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
        let (buffer, standing) = (self.buffer, self.standing.unwrap_or(words));
        self.over_written(|start, end| match standing.holds(buffer, start, end - start) {
            true => Some(true),
            false => words.holds(buffer, start, end - start).then_some(false),
        })
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

    /// Passes over the cells that `sound` knows by where they start and end.
    #[inline(always)]
    pub(super) fn over(self, sound: impl Fn(usize, usize) -> bool) -> Swept {
        self.over_by::<false>(sound)
    }

    /// The same for a `sound` without branches: it is asked of empty cells, too, and what it says of them does not count.
    /// Which cells are empty is guessed wrong too often.
    #[inline(always)]
    pub(super) fn over_flat(self, sound: impl Fn(usize, usize) -> bool) -> Swept {
        self.over_by::<true>(sound)
    }

    #[inline(always)]
    fn over_by<const FLAT: bool>(self, sound: impl Fn(usize, usize) -> bool) -> Swept {
        let mut blanks = 0;
        let Self { buffer, cells, column, blank_ok, dialect, guard, slow, .. } = self;
        // Some writers put every cell in quotes: there the content is tried first.
        let (first, end) = cells.cell(0, column);
        let quoted = is_quoted(buffer, first, end, dialect.quote);
        cells.each_in_column(column, |row, mut start, mut end| {
            let is_blank = start == end && blank_ok;
            blanks += u64::from(is_blank);
            if !FLAT && is_blank {
                return;
            }
            if let Some(guard) = guard
                && guard.may_hold(buffer, start, end)
            {
                if !is_blank {
                    slow(row);
                }
                return;
            }
            // The quotes around a cell come off once.
            let mut bare = quoted && is_quoted(buffer, start, end, dialect.quote);
            if bare {
                (start, end) = (start + 1, end - 1);
            }
            // A loop, so that `sound` stands in one place and is built into it.
            while FLAT || start < end {
                if is_blank | (sound(start, end) & (!FLAT | (start < end))) {
                    return;
                }
                if bare || !is_quoted(buffer, start, end, dialect.quote) {
                    break;
                }
                (start, end, bare) = (start + 1, end - 1, true);
            }
            slow(row);
        });
        Swept { blanks, ..Swept::default() }
    }
}

/// Whether the cell stands in quotes with something between them. What is plainly sound holds no quote, so
/// the content can be tried as it stands.
#[inline(always)]
fn is_quoted(buffer: &[u8], start: usize, end: usize, quote: u8) -> bool {
    end > start + 2 && buffer.get(start) == Some(&quote) && buffer.get(end - 1) == Some(&quote)
}
