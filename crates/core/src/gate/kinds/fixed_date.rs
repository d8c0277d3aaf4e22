//! Days of fixed width, told from their bytes: one at a time, and sixteen at a time where the year stands first.

use crate::gate::sweep::Sound;
use crate::scan::{Lanes, Numbers, Places, digits_alone};
use crate::schema::Range;
use crate::value::Date;
use crate::value::date::days_in_month;
use crate::value::suspicion::PLACEHOLDER_DAYS;

/// A date of fixed width: its places, and where year, month and day begin.
#[derive(Debug)]
pub(crate) struct FixedDate {
    places: Places,
    starts: [usize; 3],
    /// What stands before month and day, where the year stands first and all is ten bytes long.
    pub(super) year_first: Option<[u8; 2]>,
}

impl FixedDate {
    pub(super) fn new(ranges: &[(u8, u8)], starts: [usize; 3]) -> Option<Self> {
        let year_first = match ranges {
            [_, _, _, _, (before_month, _), _, _, (before_day, _), _, _] if starts == [0, 5, 8] => {
                Some([*before_month, *before_day])
            }
            _ => None,
        };
        Some(Self { places: Places::new(ranges)?, starts, year_first })
    }

    /// Whether the cell is plainly such a day, within packed bounds.
    #[expect(clippy::indexing_slicing, reason = "masked to the 16 bytes")]
    #[inline(always)]
    pub(super) fn fits(&self, buffer: &[u8], start: usize, end: usize, (min, max): (u32, u32)) -> bool {
        let Some(bytes) = self.places.fitting(buffer, start, end - start) else { return false };
        let digit = |at: usize| u32::from(bytes[at & 15] - b'0');
        let two = |at: usize| digit(at) * 10 + digit(at + 1);
        let [year_at, month_at, day_at] = self.starts;
        let year = two(year_at) * 100 + two(year_at + 2);
        is_plain_day([year, two(month_at), two(day_at)], (min, max))
    }
}

/// Whether there is such a day, in the range (packed) and no placeholder.
#[inline(always)]
pub(super) fn is_plain_day([year, month, day]: [u32; 3], (min, max): (u32, u32)) -> bool {
    let packed = year << 9 | month << 5 | day;
    if packed < min || packed > max || month.wrapping_sub(1) >= 12 || day == 0 || packed == FIRST_PLACEHOLDER
    {
        return false;
    }
    #[expect(clippy::cast_possible_truncation, reason = "four and two digits")]
    let last = || u32::from(days_in_month(year as u16, month as u8));
    day <= 28 || day <= last()
}

/// The days of `writing` that hold the place of one: the first and the last.
const FIRST_PLACEHOLDER: u32 = packed_day(PLACEHOLDER_DAYS[0]);
const LAST_PLACEHOLDER: u32 = packed_day(PLACEHOLDER_DAYS[1]);

const fn packed_day(day: (u16, u8, u8)) -> u32 {
    (day.0 as u32) << 9 | (day.1 as u32) << 5 | day.2 as u32
}

/// The range as packed days, without the last placeholder; the first day is that of the year 1.
pub(super) fn packed(range: &Range<Date>) -> (u32, u32) {
    let max = range.max.map_or(u32::MAX, Date::packed).min(LAST_PLACEHOLDER - 1);
    (range.min.map_or(1 << 9, Date::packed), max)
}

/// Days of which the year stands first, within packed bounds.
pub(super) struct YearFirst<'a> {
    pub(super) buffer: &'a [u8],
    pub(super) fixed: &'a FixedDate,
    pub(super) between: [u8; 2],
    pub(super) bounds: (u32, u32),
}

/// The months of 31 days, a bit each.
const LONG_MONTHS: u32 = 1 << 1 | 1 << 3 | 1 << 5 | 1 << 7 | 1 << 8 | 1 << 10 | 1 << 12;

impl Sound for YearFirst<'_> {
    const KNOWS_SIXTEEN: bool = true;

    #[inline(always)]
    fn sound<L: Lanes>(&self, _: &L, start: usize, end: usize) -> bool {
        self.fixed.fits(self.buffer, start, end, self.bounds)
    }

    // Leap days are left to the one above.
    #[inline(always)]
    fn sixteen<N: Numbers>(&self, numbers: N, starts: N::Sixteen, lengths: N::Sixteen) -> Option<N::Sixteen> {
        let of = |number: u32| numbers.all(number);
        let (year, middle) = numbers.eight_bytes(self.buffer, starts)?;
        let end = numbers.four_bytes(self.buffer, numbers.add(starts, of(6)))?;
        let [before_month, before_day] = self.between;
        let marks = of(u32::from_le_bytes([before_month, 0, 0, before_day]));
        let are_marks = numbers.equal(numbers.and(middle, of(0xFF00_00FF)), marks);
        // The two digits of the month, and those of the day, above noughts.
        let year = numbers.xor(year, of(0x3030_3030));
        let above = |two| numbers.xor(numbers.and(two, of(0xFFFF_0000)), of(0x3030_0000));
        let (month, day) = (above(numbers.up(middle, of(8))), above(end));
        let are_digits = numbers.and(
            digits_alone(numbers, year),
            numbers.and(digits_alone(numbers, month), digits_alone(numbers, day)),
        );
        let (year, month, day) = (numbers.of_digits(year), numbers.of_digits(month), numbers.of_digits(day));
        let is_long = numbers.and(numbers.down(of(LONG_MONTHS), month), of(1));
        let last = numbers.pick(numbers.equal(month, of(2)), of(28), numbers.add(is_long, of(30)));
        let packed = numbers.or(numbers.or(numbers.up(year, of(9)), numbers.up(month, of(5))), day);
        let (min, max) = self.bounds;
        let is_outside = numbers.or(numbers.over(of(min), packed), numbers.over(packed, of(max)));
        let is_no_month = numbers.over(numbers.less(month, of(1)), of(11));
        let is_no_day = numbers.over(numbers.less(day, of(1)), numbers.less(last, of(1)));
        let is_first = numbers.equal(packed, of(FIRST_PLACEHOLDER));
        let odd = numbers.or(numbers.or(is_outside, is_no_month), numbers.or(is_no_day, is_first));
        let is_formed = numbers.and(numbers.equal(lengths, of(10)), numbers.and(are_marks, are_digits));
        Some(numbers.without(is_formed, odd))
    }
}
