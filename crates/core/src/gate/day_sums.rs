//! Sums of days as they stand in ISO 8601, sixteen at a time: for comparing them with each other.

use super::sixteens::{Group, Sixteens};
use crate::rows::Cells;
use crate::scan::{Lanes, Numbers, Task};

/// The multipliers of the words of a day (its year, what begins with the mark behind it, and its last four bytes), for the
/// lower and the upper half of its sum.
const SPREADS: [[u32; 3]; 2] =
    [[0x9E37_79B1, 0x85EB_CA77, 0xC2B2_AE3D], [0x27D4_EB2F, 0x1656_67B1, 0xD3A2_646D]];

/// The sum of a day of ten bytes.
#[inline(always)]
pub(super) fn day_sum(day: &[u8; 10]) -> u64 {
    let [a, b, c, d, e, f, g, h, i, j] = *day;
    let words = [[a, b, c, d], [e, f, g, h], [g, h, i, j]].map(u32::from_le_bytes);
    let half = |spread: [u32; 3]| {
        words.iter().zip(spread).fold(0_u32, |sum, (word, by)| sum.wrapping_add(word.wrapping_mul(by)))
    };
    let [low, high] = SPREADS.map(half);
    u64::from(high) << 32 | u64::from(low)
}

/// Whether ten bytes are parted as a day is.
#[inline(always)]
fn as_day(raw: &[u8]) -> Option<&[u8; 10]> {
    match raw {
        [_, _, _, _, b'-', _, _, b'-', _, _] => raw.first_chunk(),
        _ => None,
    }
}

/// Hands the sum of each cell of a column to `each`, with its row: nought of a blank one, nothing of what is not parted as a
/// day is.
pub(super) struct DaySums<'a, F> {
    pub(super) buffer: &'a [u8],
    pub(super) cells: &'a Cells,
    pub(super) column: usize,
    pub(super) each: F,
}

impl<F: FnMut(usize, Option<u64>)> Task for DaySums<'_, F> {
    type Output = ();

    #[inline(always)]
    fn run<L: Lanes>(self, lanes: L) {
        let Self { buffer, cells, column, mut each } = self;
        let numbers = lanes.numbers();
        let mut groups = Sixteens::new(numbers, cells, column, true);
        while let Some(Group { first, all, cells: group, empty }) = groups.next() {
            let (mut low, mut high, mut known) = ([0; 16], [0; 16], 0_u16);
            if let Some((start, lengths)) = group
                && let Some((sums, are_days)) = sums(numbers, buffer, start, lengths)
            {
                (low, high) = (numbers.apart(sums[0]), numbers.apart(sums[1]));
                known = numbers.bits(are_days);
            }
            for (at, (low, high)) in low.iter().zip(high).take(all.count_ones() as usize).enumerate() {
                let sum = if known >> at & 1 == 1 {
                    Some(u64::from(high) << 32 | u64::from(*low))
                } else if empty >> at & 1 == 1 {
                    Some(0)
                } else {
                    let (start, end) = cells.cell(first + at, column);
                    let raw = buffer.get(start..end).unwrap_or_default();
                    if raw.is_empty() { Some(0) } else { as_day(raw).map(day_sum) }
                };
                each(first + at, sum);
            }
        }
    }
}

/// The lower and upper halves of the sums, and which of the cells are parted as days are.
#[inline(always)]
fn sums<N: Numbers>(
    numbers: N,
    buffer: &[u8],
    start: N::Sixteen,
    lengths: N::Sixteen,
) -> Option<([N::Sixteen; 2], N::Sixteen)> {
    let of = |number: u32| numbers.all(number);
    let (year, middle) = numbers.eight_bytes(buffer, start)?;
    let last = numbers.four_bytes(buffer, numbers.add(start, of(6)))?;
    let marks = numbers.equal(numbers.and(middle, of(0xFF00_00FF)), of(0x2D00_002D));
    let [low, high] = SPREADS;
    let sums = [half(numbers, [year, middle, last], low), half(numbers, [year, middle, last], high)];
    Some((sums, numbers.and(marks, numbers.equal(lengths, of(10)))))
}

#[inline(always)]
fn half<N: Numbers>(numbers: N, words: [N::Sixteen; 3], spread: [u32; 3]) -> N::Sixteen {
    let ([one, two, three], [by_one, by_two, by_three]) = (words, spread);
    let (one, two) = (numbers.times(one, numbers.all(by_one)), numbers.times(two, numbers.all(by_two)));
    numbers.add(numbers.add(one, two), numbers.times(three, numbers.all(by_three)))
}
