//! Which cells of a column stand in the file as ready rows carry them: told one at a time, and where their kind permits,
//! sixteen at a time.
//!
//! Before you change this: what `sixteen` knows, `is_own` must say, too; a test holds ready rows that are copied against those
//! that are written.

use super::compiled::Column;
use super::kinds::Program;
use super::sixteens::{Group, Sixteens, take_bit};
use super::wordset::WordSet;
use crate::block::Block;
use crate::rows::Cells;
use crate::scan::{Dialect, Lanes, Numbers, Task, eight_digits, is_plain};

/// A column of a block that is laid out.
pub(super) struct OwnColumn<'a> {
    pub(super) column: &'a Column,
    pub(super) block: &'a Block,
    pub(super) cells: &'a Cells,
    pub(super) number: usize,
    pub(super) dialect: Dialect,
    /// Whether an empty cell stays one.
    pub(super) blank_stands: bool,
    /// Whether cells of any content may stand.
    pub(super) is_told: bool,
    /// Whether the block holds carriage returns.
    pub(super) has_returns: bool,
}

/// Calls `open` with each row whose cell does not plainly stand as it is handed on.
pub(super) struct OpenCells<'a, F> {
    pub(super) seen: OwnColumn<'a>,
    pub(super) open: F,
}

/// By what sixteen cells are known at once.
#[derive(Clone, Copy)]
enum Sign<'a> {
    Words(&'a WordSet),
    /// Ten bytes with two dashes between digits.
    Day,
    /// Digits without a nought in front.
    Whole,
    /// Ink at either end.
    Text,
    None,
}

impl<F: FnMut(usize)> Task for OpenCells<'_, F> {
    type Output = ();

    #[inline(always)]
    fn run<L: Lanes>(self, lanes: L) {
        let Self { seen, mut open } = self;
        let (numbers, buffer, sign) = (lanes.numbers(), seen.block.buffer.as_slice(), seen.sign());
        let mut groups = Sixteens::new(numbers, seen.cells, seen.number, !matches!(sign, Sign::None));
        while let Some(Group { first, all, cells, empty }) = groups.next() {
            let mut left = all;
            if let Some(cells) = cells {
                let known = match sixteen(numbers, buffer, cells, sign, seen.dialect) {
                    Some(known) => numbers.bits(known),
                    None => 0,
                };
                let blank = if seen.blank_stands { empty } else { 0 };
                left = !(known & !empty | blank);
            }
            while let Some(at) = take_bit(&mut left) {
                if !seen.is_own(first + at) {
                    open(first + at);
                }
            }
        }
    }
}

impl<'a> OwnColumn<'a> {
    fn sign(&self) -> Sign<'a> {
        let column = self.column;
        if !self.is_told || self.has_returns || column.guard.is_some() {
            return Sign::None;
        }
        if let Some(words) = column.standing.as_ref().or_else(|| column.program.known_words()) {
            return Sign::Words(words);
        }
        match &column.program {
            program if program.is_iso_date() => Sign::Day,
            // A sound number without a point in it: whatever marks are stated, nothing is parted.
            Program::Integer(_) | Program::Decimal(_) if column.program.stands(b"7") => Sign::Whole,
            program if program.is_verbatim() => Sign::Text,
            _ => Sign::None,
        }
    }

    /// Whether the cell of a row plainly stands as it is handed on. False says nothing.
    fn is_own(&self, row: usize) -> bool {
        let (start, end) = self.cells.cell(row, self.number);
        if start == end {
            return self.blank_stands;
        }
        let (buffer, column, dialect) = (self.block.buffer.as_slice(), self.column, self.dialect);
        let raw = buffer.get(start..end).unwrap_or_default();
        let may_be_word =
            || column.guard.as_ref().is_some_and(|guard| guard.may_hold_in(buffer, (start, end)));
        if !self.is_told || self.has_returns && raw.contains(&b'\r') || may_be_word() {
            return false;
        }
        if is_plain(raw, dialect) {
            return match &column.standing {
                Some(words) => words.holds(buffer, start, end - start),
                None => column.program.stands(raw),
            };
        }
        // In quotes that must be.
        let [first, inner @ .., last] = raw else { return false };
        *first == dialect.quote
            && *last == dialect.quote
            && column.program.is_verbatim()
            && inner.first().is_some_and(|first| first.is_ascii_graphic())
            && inner.last().is_some_and(|last| last.is_ascii_graphic())
            && memchr::memchr3(dialect.delimiter, dialect.quote, b'\n', inner).is_some()
    }
}

/// Of sixteen cells, of which the sound ones alone count, those that surely stand as they are handed on.
#[inline(always)]
fn sixteen<N: Numbers>(
    numbers: N,
    buffer: &[u8],
    (starts, lengths): (N::Sixteen, N::Sixteen),
    sign: Sign<'_>,
    dialect: Dialect,
) -> Option<N::Sixteen> {
    let of = |number: u32| numbers.all(number);
    match sign {
        Sign::Words(words) => words.held(numbers, buffer, starts, lengths),
        Sign::Whole => {
            let (values, are_digits) = eight_digits(numbers, buffer, starts, lengths)?;
            // As many digits as the number has: the first is a nought in nought alone.
            let first = numbers.and(numbers.four_bytes(buffer, starts)?, of(0xFF));
            let has_nought = numbers.equal(first, of(b'0'.into()));
            let is_nought = numbers.and(numbers.equal(values, of(0)), numbers.equal(lengths, of(1)));
            Some(numbers.without(are_digits, numbers.without(has_nought, is_nought)))
        }
        Sign::Day => {
            let (year, middle) = numbers.eight_bytes(buffer, starts)?;
            let last = numbers.four_bytes(buffer, numbers.add(starts, of(6)))?;
            let marks = numbers.equal(numbers.and(middle, of(0xFF00_00FF)), of(0x2D00_002D));
            let (first, last) = (numbers.and(year, of(0xFF)), numbers.down(last, of(24)));
            let begins = numbers.over(of(10), numbers.less(first, of(b'0'.into())));
            let ends = numbers.over(of(10), numbers.less(last, of(b'0'.into())));
            Some(numbers.and(numbers.equal(lengths, of(10)), numbers.and(marks, numbers.and(begins, ends))))
        }
        Sign::Text => {
            let last = numbers.add(numbers.add(starts, lengths), of(4_u32.wrapping_neg()));
            let last = numbers.down(numbers.four_bytes(buffer, last)?, of(24));
            let first = numbers.and(numbers.four_bytes(buffer, starts)?, of(0xFF));
            // Ink is from 0x21 to 0x7E; what begins with a quote is looked at.
            let ink = of(0x7F - 0x21);
            let begins = numbers.over(ink, numbers.less(first, of(0x21)));
            let is_ink = numbers.and(begins, numbers.over(ink, numbers.less(last, of(0x21))));
            Some(numbers.without(is_ink, numbers.equal(first, of(dialect.quote.into()))))
        }
        Sign::None => None,
    }
}
