//! The cells of a column, sixteen at a time.
//!
//! Before you change this: what is made of these numbers is built for the lanes there are only where it is built into the task
//! that has them, so that nothing here is a closure, and nothing goes through a function of the standard library.

use crate::rows::Cells;
use crate::scan::Numbers;

/// A walk over the cells of a column.
pub(super) struct Sixteens<'a, N> {
    numbers: N,
    bounds: &'a [u32],
    stride: usize,
    /// The next row.
    first: usize,
    /// Whether cells are told by sixteen at all.
    tells: bool,
}

/// Up to sixteen cells.
pub(super) struct Group<N: Numbers> {
    /// The row of the first.
    pub(super) first: usize,
    /// A bit for each.
    pub(super) all: u16,
    /// Where they start and how long they are, of sixteen that are told together.
    pub(super) cells: Option<(N::Sixteen, N::Sixteen)>,
    /// Those of them that are empty.
    pub(super) empty: u16,
}

impl<'a, N: Numbers> Sixteens<'a, N> {
    /// Of a column; without `tells` no cells are told together.
    #[inline(always)]
    pub(super) fn new(numbers: N, cells: &'a Cells, column: usize, tells: bool) -> Self {
        let (bounds, stride) = cells.column_bounds(column);
        Self { numbers, bounds, stride, first: 0, tells: tells && N::QUICK }
    }

    /// The next cells.
    #[inline(always)]
    pub(super) fn next(&mut self) -> Option<Group<N>> {
        if self.bounds.is_empty() {
            return None;
        }
        let (numbers, count) = (self.numbers, (self.bounds.len() / self.stride).min(16));
        let (group, rest) = self.bounds.split_at(count * self.stride);
        let mut found = Group { first: self.first, all: u16::MAX >> (16 - count), cells: None, empty: 0 };
        if self.tells
            && count == 16
            && let Some((before, end)) = numbers.strided(group, self.stride)
        {
            let starts = numbers.add(before, numbers.all(1));
            let lengths = numbers.less(end, starts);
            found.empty = numbers.bits(numbers.equal(lengths, numbers.all(0)));
            found.cells = Some((starts, lengths));
        }
        (self.bounds, self.first) = (rest, self.first + count);
        Some(found)
    }
}

/// The places of the bits that are set, from the lowest.
#[inline(always)]
pub(super) fn take_bit(bits: &mut u16) -> Option<usize> {
    let at = bits.trailing_zeros() as usize;
    *bits &= bits.wrapping_sub(1);
    if at < 16 { Some(at) } else { None }
}
