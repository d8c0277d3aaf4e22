//! `decimal`: a number, perhaps with a mark of percent or currency; how its column is written decides what a comma is.

use super::from::From;
use super::integer::plain_integer;
use super::judging::{Judging, Nature};
use super::ranges::between;
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::evidence::{self, Vote, Way};
use crate::gate::numbers::{
    Bounds, both_ways, bounds, fits, hundredfold, is_odd_number, judge_marked, judge_number, may_be_nines,
    no_number, stated_mark, with_number,
};
use crate::gate::sweep::{Sound, Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::numerals::group_digits;
use crate::profile::Class;
use crate::scan::{Lanes, Numbers, digits_alone, digits_of, few_digits, short_word};
use crate::schema::{Affixes, Field, Kind, Range};
use crate::value::{Marks, Number, Picklist, suspicion};
use std::cell::Cell;

/// The rules of a number.
#[derive(Debug)]
pub(crate) struct Decimal {
    digits: (Option<usize>, Option<usize>),
    range: Range<Number<'static>>,
    /// The bounds for each number of digits after the point, as whole numbers of the last digit.
    bounds: Box<[Bounds; 9]>,
    pub(crate) marks: Option<Marks>,
    affixes: Affixes,
    /// The way of writing that the column shows, where no marks are stated.
    pub(crate) way: Option<Way>,
}

impl Decimal {
    pub(super) fn of(field: &Field, from: From<'_>) -> Option<Self> {
        let Kind::Decimal { digits, range, affixes } = &field.kind else { return None };
        Some(Self {
            affixes: affixes.clone(),
            way: from.reading.marks.is_none().then_some(Way::First),
            digits: *digits,
            range: range.clone(),
            bounds: Box::new(std::array::from_fn(|after| bounds(range, after))),
            marks: from.reading.marks.filter(|marks| *marks != Marks::default()),
        })
    }

    /// Hands the number that a text gives to `take`; or what to say of it.
    fn with<T>(&self, given: Given<'_>, take: impl FnOnce(Number<'_>) -> T) -> Result<T, Verdict> {
        if given.is_percent && self.affixes.percent {
            let Some(text) = hundredfold(given.text) else { return Err(Verdict::one(Code::DecimalBad)) };
            return self.with_bare(Given { text: &text, is_stored: true, is_percent: false }, take);
        }
        let text = self.affixes.bare(given.text);
        self.with_bare(Given { text: &text, ..given }, take)
    }

    fn with_bare<T>(&self, given: Given<'_>, take: impl FnOnce(Number<'_>) -> T) -> Result<T, Verdict> {
        if let Some(way) = self.way.filter(|way| goes_by_column(*way, given)) {
            return match judge_marked(way, given.text, self.digits, &self.range) {
                Ok(number) => Ok(take(number)),
                Err(code) => Err(Verdict::one(code)),
            };
        }
        with_number(given, false, self.marks, take).ok_or_else(|| no_number(given.text, false, self.marks))
    }

    /// Whether a comma begins the decimals.
    fn has_comma(&self) -> bool {
        match self.marks {
            Some(marks) => marks.decimal == ',',
            None => self.way == Some(Way::Second),
        }
    }
}

impl Judging for Decimal {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        self.with(given, |number| number.into_owned()).map(Value::Number)
    }

    // As `read`, without a number of its own.
    fn judge(&self, given: Given<'_>, _: &[Picklist]) -> Verdict {
        let judge = |number: Number<'_>| judge_number(&number, self.digits, &self.range);
        self.with(given, judge).unwrap_or_else(|verdict| verdict)
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let (buffer, bounds) = (sweep.buffer, self.bounds.as_ref());
        // A point may part thousands: what holds one is left to the plain judge.
        if self.marks.is_some() || matches!(self.way, Some(Way::Second | Way::Undecided)) {
            let most = self.digits.0.unwrap_or(16);
            let [whole, ..] = bounds;
            return sweep.over(|start, end| end - start <= most && plain_integer(buffer, start, end, whole));
        }
        let most = (self.digits.0.unwrap_or(16), self.digits.1.unwrap_or(16));
        // What a point says of the mark before decimals is counted as it goes by.
        let (points, open) = (Cell::new(0_u64), Cell::new(0_u64));
        let swept = sweep.over(Plain::new(buffer, most, bounds, [&points, &open]));
        Swept { points: points.get(), open_points: open.get(), ..swept }
    }

    fn stands(&self, sound: &[u8]) -> bool {
        self.marks.is_none() && matches!(self.way, None | Some(Way::First)) && Number::is_standard(sound)
    }

    fn is_stored_as_such(&self) -> bool {
        true
    }

    fn nature(&self) -> Nature {
        Nature::Number
    }

    fn holds_the_place(&self, given: Given<'_>) -> bool {
        suspicion::is_nines(given.text.strip_prefix('-').unwrap_or(given.text))
    }

    fn has_vote(&self) -> bool {
        self.way.is_some()
    }

    fn vote(&self, given: Given<'_>) -> Vote {
        if self.way.is_none() || given.is_stored {
            return Vote::NONE;
        }
        let text = self.affixes.bare(given.text);
        if !text.contains([',', '.']) {
            return Vote::NONE;
        }
        let (point, comma) = both_ways(&text, self.digits, &self.range);
        let is_sound = |number: &Number<'_>| fits(number, self.digits, &self.range);
        let form = if text.contains(',') { evidence::WITH_COMMA } else { evidence::WITH_POINT };
        let says = evidence::vote(point.as_ref(), comma.as_ref(), is_sound);
        Vote { form: u8::try_from(form).unwrap_or_default(), says }
    }

    fn is_of_class(&self, class: Class, text: &str) -> bool {
        class.is_number(text)
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        Some(match code {
            Code::DecimalBad => {
                format!("a number such as {}", if self.has_comma() { "12,5" } else { "12.5" })
            }
            Code::DigitsTooMany => match self.digits {
                (Some(before), Some(after)) => {
                    format!("at most {before} digits before and {after} after the point")
                }
                (Some(before), None) => format!("at most {before} digits before the point"),
                (None, after) => format!("at most {} digits after the point", after.unwrap_or(0)),
            },
            Code::OutOfRange => return between(&self.range, |number| group_digits(&number.to_string())),
            Code::NumberUnclear => {
                "a number without marks between thousands, or a stated decimal mark".to_owned()
            }
            Code::DecimalMark => match self.way {
                Some(Way::Second) => "a comma before the decimals, as in the column".to_owned(),
                Some(_) => "a point before the decimals, as in the column".to_owned(),
                None => stated_mark(self.marks),
            },
            _ => return None,
        })
    }

    fn detail(&self, code: Code, text: &str, _: bool) -> Option<String> {
        let number = Number::decimal(text).filter(|_| code == Code::DigitsTooMany)?;
        let (before, after) = number.digits();
        let is_before = self.digits.0.is_some_and(|most| before > most);
        let (count, side) = if is_before { (before, "before") } else { (after, "after") };
        Some(format!("{count} {side} the point"))
    }

    fn suggestion(&self, code: Code, text: &str, _: &[Picklist]) -> Option<String> {
        if code != Code::DecimalMark {
            return None;
        }
        // The number as the column would write it.
        let text = self.affixes.bare(text);
        let (point, comma) = both_ways(&text, self.digits, &self.range);
        let is_comma = match (self.way, self.marks) {
            (Some(way), _) => way == Way::Second,
            (None, marks) => marks.is_some_and(|marks| marks.decimal == ','),
        };
        let number = if is_comma { point.or(comma) } else { comma.or(point) };
        number.map(|number| number.to_string().replace('.', if is_comma { "," } else { "." }))
    }
}

/// Whether the column's way of writing decides what a text with a mark in it gives: a plain number with a point needs
/// no asking in a column of points.
fn goes_by_column(way: Way, given: Given<'_>) -> bool {
    let is_marked = !given.is_stored && given.text.contains([',', '.']);
    is_marked && (way != Way::First || given.text.contains(',') || given.text.matches('.').count() > 1)
}

/// What the point of a number can be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Point {
    None,
    Decimal,
    Either,
}

/// Up to eight bytes with their point; longer ones are left to the plain judge.
#[inline(always)]
fn plain_decimal(
    buffer: &[u8],
    start: usize,
    end: usize,
    most: (usize, usize),
    bounds: &[Bounds; 9],
) -> Option<Point> {
    let minus = buffer.get(start) == Some(&b'-');
    let start = start + usize::from(minus);
    let len = end - start;
    if len > 8 {
        return None;
    }
    let word = short_word(buffer, start, len);
    let point = first_point(word);
    let (digits, count, after) = if point < len {
        let below = (1_u64 << (8 * point)) - 1;
        (word & below | (word >> 8) & !below, len - 1, len - 1 - point)
    } else {
        (word, len, 0)
    };
    if count - after > most.0 || after > most.1 {
        return None;
    }
    let signed = |bounds: &Bounds| if minus { bounds.minus } else { bounds.plus };
    let within = bounds.get(after).map(signed)?;
    let value = few_digits(digits, count)?;
    if value < within.0 || value > within.1 || after == 0 && is_odd_number(value) {
        return None;
    }
    if after == 0 {
        return Some(if point < len { Point::Decimal } else { Point::None });
    }
    // Three digits behind one to three others, of which the first is no nought.
    let thousands = bounds.first().map(signed)?;
    let may_part = after == 3
        && (1..=3).contains(&(count - after))
        && buffer.get(start) != Some(&b'0')
        && count <= most.0
        && thousands.0 <= value
        && value <= thousands.1;
    Some(if may_part { Point::Either } else { Point::Decimal })
}

/// The place of the first `.` in the word; 8 when there is none.
#[inline(always)]
fn first_point(word: u64) -> usize {
    const ONES: u64 = u64::from_le_bytes([1; 8]);
    let differs = word ^ (ONES * 0x2E);
    // The lowest set bit is exact: borrows only reach upwards.
    let zeros = differs.wrapping_sub(ONES) & !differs & (ONES * 0x80);
    zeros.trailing_zeros() as usize / 8
}

/// Plain numbers with a point or without.
struct Plain<'a> {
    buffer: &'a [u8],
    /// So many digits at most before the point and behind it.
    most: (usize, usize),
    bounds: &'a [Bounds; 9],
    /// The least and the greatest magnitude without a minus, for none, one and two digits behind the point.
    plus: [[u32; 3]; 2],
    /// How many have a point that can only begin decimals, and how many one that could part thousands as well.
    points: [&'a Cell<u64>; 2],
}

impl<'a> Plain<'a> {
    fn new(
        buffer: &'a [u8],
        most: (usize, usize),
        bounds: &'a [Bounds; 9],
        points: [&'a Cell<u64>; 2],
    ) -> Self {
        let mut plus = [[1; 3], [0; 3]];
        let [least, greatest] = &mut plus;
        for ((bounds, least), greatest) in bounds.iter().zip(least).zip(greatest) {
            if let Ok(low) = u32::try_from(bounds.plus.0) {
                (*least, *greatest) = (low, u32::try_from(bounds.plus.1).unwrap_or(u32::MAX));
            }
        }
        Self { buffer, most, bounds, plus, points }
    }
}

impl Sound for Plain<'_> {
    const KNOWS_SIXTEEN: bool = true;

    #[inline(always)]
    fn sound<L: Lanes>(&self, _: &L, start: usize, end: usize) -> bool {
        let [points, open] = self.points;
        let count = |counted: &Cell<u64>| counted.set(counted.get() + 1);
        let found = plain_decimal(self.buffer, start, end, self.most, self.bounds);
        match found {
            Some(Point::Decimal) => count(points),
            Some(Point::Either) => count(open),
            Some(Point::None) | None => {}
        }
        found.is_some()
    }

    // A minus, and three digits or more behind the point, are left to the one above.
    #[inline(always)]
    fn sixteen<N: Numbers>(&self, numbers: N, starts: N::Sixteen, lengths: N::Sixteen) -> Option<N::Sixteen> {
        let of = |number: u32| numbers.all(number);
        let last_eight = numbers.add(numbers.add(starts, lengths), of(8_u32.wrapping_neg()));
        let (head, tail) = numbers.eight_bytes(self.buffer, last_eight)?;
        let one = numbers.equal(numbers.and(tail, of(0x00FF_0000)), of(0x002E_0000));
        let two = numbers.equal(numbers.and(tail, of(0x0000_FF00)), of(0x0000_2E00));
        let (one, two) =
            (numbers.and(one, numbers.over(lengths, of(1))), numbers.and(two, numbers.over(lengths, of(2))));
        let point = numbers.or(one, two);
        // The bytes before the point move up to its place.
        let (below, above) = (
            by_point(numbers, [one, two], [0xFFFF, 0xFF, 0]),
            by_point(numbers, [one, two], [0xFF00_0000, 0xFFFF_0000, u32::MAX]),
        );
        let closed = numbers.or(numbers.up(numbers.and(tail, below), of(8)), numbers.and(tail, above));
        // Of the last four bytes then one less is of the number.
        let without_point = numbers.add(numbers.least(lengths, of(4)), point);
        let tail = digits_of(numbers, closed, without_point, 4);
        let head = digits_of(numbers, head, lengths, 8);
        let are_digits = numbers.and(digits_alone(numbers, head), digits_alone(numbers, tail));
        let scale = by_point(numbers, [one, two], [1_000, 1_000, 10_000]);
        let value = numbers.add(numbers.times(numbers.of_digits(head), scale), numbers.of_digits(tail));
        let after = by_point(numbers, [one, two], [1, 2, 0]);
        let whole = numbers.add(numbers.less(lengths, after), point);
        let [most_whole, most_after] =
            [self.most.0, self.most.1].map(|most| u32::try_from(most).unwrap_or(u32::MAX));
        let [[least, least_one, least_two], [most, most_one, most_two]] = self.plus;
        let (least, most) = (
            by_point(numbers, [one, two], [least_one, least_two, least]),
            by_point(numbers, [one, two], [most_one, most_two, most]),
        );
        let is_outside = numbers.or(numbers.over(least, value), numbers.over(value, most));
        let is_long = numbers.over(numbers.less(lengths, of(1)), of(7));
        let has_too_many =
            numbers.or(numbers.over(whole, of(most_whole)), numbers.over(after, of(most_after)));
        let is_nines = numbers.without(may_be_nines(numbers, value), point);
        let odd = numbers.or(numbers.or(is_outside, is_long), numbers.or(has_too_many, is_nines));
        let known = numbers.without(are_digits, odd);
        let [points, _] = self.points;
        let pointed = numbers.bits(numbers.and(known, point));
        points.set(points.get() + u64::from(pointed.count_ones()));
        Some(known)
    }
}

/// The first number where one digit stands behind a point, the second where two do, and else the third.
#[inline(always)]
fn by_point<N: Numbers>(numbers: N, point: [N::Sixteen; 2], of: [u32; 3]) -> N::Sixteen {
    let ([one, two], [for_one, for_two, for_none]) = (point, of);
    let others = numbers.pick(two, numbers.all(for_two), numbers.all(for_none));
    numbers.pick(one, numbers.all(for_one), others)
}
