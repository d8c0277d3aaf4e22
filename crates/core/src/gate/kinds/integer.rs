//! `integer`: a whole number.

use super::from::From;
use super::judging::{Judging, Nature};
use super::ranges::between;
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::numbers::{
    Bounds, bounds, is_odd_number, judge_number, may_be_nines, no_number, stated_mark, with_number, within,
};
use crate::gate::sweep::{Sound, Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::numerals::group_digits;
use crate::profile::Class;
use crate::scan::{Lanes, Numbers, digits_at, eight_digits};
use crate::schema::{Field, Kind, Range};
use crate::value::{Marks, Number, Picklist, suspicion};

/// The rules of a whole number.
#[derive(Debug)]
pub(crate) struct Integer {
    range: Range<Number<'static>>,
    bounds: Bounds,
    marks: Option<Marks>,
}

impl Integer {
    pub(super) fn of(field: &Field, from: From<'_>) -> Option<Self> {
        let Kind::Integer(range) = &field.kind else { return None };
        let marks = from.reading.marks.filter(|marks| *marks != Marks::default());
        Some(Self { range: range.clone(), bounds: bounds(range, 0), marks })
    }
}

impl Judging for Integer {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        let number = with_number(given, true, self.marks, |number| number.into_owned());
        number.map(Value::Number).ok_or_else(|| no_number(given.text, true, self.marks))
    }

    // As `read`, without a number of its own.
    fn judge(&self, given: Given<'_>, _: &[Picklist]) -> Verdict {
        let judge = |number: Number<'_>| judge_number(&number, (None, None), &self.range);
        with_number(given, true, self.marks, judge).unwrap_or_else(|| no_number(given.text, true, self.marks))
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let buffer = sweep.buffer;
        sweep.over(Plain { buffer, bounds: &self.bounds })
    }

    fn sweeps_broken_text(&self) -> bool {
        true
    }

    fn stands(&self, sound: &[u8]) -> bool {
        // Under stated marks a point may part thousands.
        self.marks.is_none() && Number::is_standard(sound) && !sound.contains(&b'.')
    }

    fn is_stored_as_such(&self) -> bool {
        true
    }

    fn nature(&self) -> Nature {
        Nature::Whole
    }

    fn holds_the_place(&self, given: Given<'_>) -> bool {
        suspicion::is_nines(given.text.strip_prefix('-').unwrap_or(given.text))
    }

    fn is_of_class(&self, class: Class, text: &str) -> bool {
        class.is_number(text)
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        match code {
            Code::IntegerBad => Some("a whole number".to_owned()),
            Code::OutOfRange => between(&self.range, |number| group_digits(&number.to_string())),
            Code::DecimalMark => Some(stated_mark(self.marks)),
            _ => None,
        }
    }

    fn suggestion(&self, code: Code, text: &str, _: &[Picklist]) -> Option<String> {
        // A number that is whole but for zeros behind its point.
        let number = Number::decimal(text).filter(|number| number.digits().1 == 0);
        number.filter(|_| code == Code::IntegerBad).map(|number| number.to_string())
    }
}

/// The cell without a leading minus, and the bounds for its sign.
#[inline(always)]
fn signed<'a>(buffer: &[u8], start: usize, bounds: &'a Bounds) -> (usize, &'a (u64, u64)) {
    match buffer.get(start) {
        Some(b'-') => (start + 1, &bounds.minus),
        _ => (start, &bounds.plus),
    }
}

/// Whether a cell is plainly a whole number within these bounds.
#[inline(always)]
pub(super) fn plain_integer(buffer: &[u8], start: usize, end: usize, bounds: &Bounds) -> bool {
    let (start, bounds) = signed(buffer, start, bounds);
    match digits_at(buffer, start, end - start) {
        Some(value) => bounds.0 <= value && value <= bounds.1 && !is_odd_number(value),
        None => false,
    }
}

/// Plain whole numbers within bounds.
struct Plain<'a> {
    buffer: &'a [u8],
    bounds: &'a Bounds,
}

impl Sound for Plain<'_> {
    const KNOWS_SIXTEEN: bool = true;

    #[inline(always)]
    fn sound<L: Lanes>(&self, _: &L, start: usize, end: usize) -> bool {
        plain_integer(self.buffer, start, end, self.bounds)
    }

    #[inline(always)]
    fn sixteen<N: Numbers>(&self, numbers: N, starts: N::Sixteen, lengths: N::Sixteen) -> Option<N::Sixteen> {
        let (values, are_digits) = eight_digits(numbers, self.buffer, starts, lengths)?;
        let is_within = within(numbers, values, self.bounds.plus)?;
        Some(numbers.without(numbers.and(are_digits, is_within), may_be_nines(numbers, values)))
    }
}
