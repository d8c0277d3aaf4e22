//! What is asked of numbers: how they are read under marks, their digits, and their bounds for the fast way.

use super::evidence::Way;
use super::verdict::{Given, Verdict};
use crate::catalogue::Code;
use crate::scan::Numbers;
use crate::schema::Range;
use crate::value::{Fixed, Group, Marks, Number};

/// What magnitudes are in range, without and with a minus.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Bounds {
    pub(crate) plus: (u64, u64),
    pub(crate) minus: (u64, u64),
}

/// Hands the number that a text gives to `take`; nothing when it gives none.
pub(super) fn with_number<T>(
    given: Given<'_>,
    is_whole: bool,
    marks: Option<Marks>,
    take: impl FnOnce(Number<'_>) -> T,
) -> Option<T> {
    let read = |text| if is_whole { Number::integer(text) } else { Number::decimal(text) };
    let Some(marks) = marks else {
        // In a whole number a mark can only part thousands.
        if is_whole && given.text.contains([',', '.']) {
            let parted = [Marks::POINT, Marks::COMMA].into_iter().find_map(|marks| {
                let has = |mark| given.text.contains(mark);
                (!has(marks.decimal)).then(|| marks.plain(given.text)).flatten()
            });
            return parted.and_then(|plain| Number::integer(&plain).map(take));
        }
        if let Some(number) = read(given.text) {
            return Some(take(number));
        }
        let plain = Marks::POINT.plain_apart(given.text)?;
        return read(&plain).map(take);
    };
    if given.is_stored
        && let Some(number) = read(given.text)
    {
        return Some(take(number));
    }
    let plain = marks.plain_by_any(given.text)?;
    read(&plain).map(take)
}

/// The number of a text with a mark in it, by the way in which its column is written; or what to say of it.
pub(super) fn judge_marked(
    way: Way,
    text: &str,
    digits: (Option<usize>, Option<usize>),
    range: &Range<Number<'static>>,
) -> Result<Number<'static>, Code> {
    match (way, both_ways(text, digits, range)) {
        (_, (None, None)) => Err(Code::DecimalBad),
        (_, (Some(one), Some(other))) if one == other => Ok(one),
        (Way::First, (Some(number), _)) | (Way::Second, (_, Some(number))) => Ok(number),
        (Way::First, (None, Some(_))) | (Way::Second, (Some(_), None)) => Err(Code::DecimalMark),
        (Way::Undecided, (Some(_), Some(_))) => Err(Code::NumberUnclear),
        (Way::Undecided, (Some(number), None) | (None, Some(number))) => Ok(number),
    }
}

/// The two readings of a number that holds a mark: with a point and with a comma before its decimals. What the digits
/// and the range of the field exclude is no reading, unless both are.
pub(crate) fn both_ways(
    text: &str,
    digits: (Option<usize>, Option<usize>),
    range: &Range<Number<'static>>,
) -> (Option<Number<'static>>, Option<Number<'static>>) {
    let read = |marks: Marks| {
        let plain = marks.plain_by_any(text)?;
        Number::decimal(&plain).map(Number::into_owned)
    };
    match (read(Marks::POINT), read(Marks::COMMA)) {
        (Some(point), Some(comma)) if point != comma => {
            match (fits(&point, digits, range), fits(&comma, digits, range)) {
                (true, false) => (Some(point), None),
                (false, true) => (None, Some(comma)),
                _ => (Some(point), Some(comma)),
            }
        }
        both => both,
    }
}

/// What is expected where the mark before decimals is another than is stated.
pub(super) fn stated_mark(marks: Option<Marks>) -> String {
    let mark = marks.map_or('.', |marks| marks.decimal);
    format!("{:?} before the decimals, as the plan states", mark.to_string())
}

/// What to say of a text that gives no number.
pub(super) fn no_number(text: &str, is_whole: bool, marks: Option<Marks>) -> Verdict {
    let given = Given::from(text);
    if turned_number(given, is_whole, marks).is_some() {
        return Verdict::one(Code::DecimalMark);
    }
    Verdict::one(if is_whole { Code::IntegerBad } else { Code::DecimalBad })
}

/// The number of a text with the marks the other way round than they are stated; a point alone is stated by `None`.
pub(super) fn turned_number(
    given: Given<'_>,
    is_whole: bool,
    marks: Option<Marks>,
) -> Option<Number<'static>> {
    if is_whole && marks.is_none() {
        return None;
    }
    let turned = match marks.unwrap_or_default().turned() {
        Marks { decimal, group: Group::None } => {
            Marks { decimal, group: Group::Mark(if decimal == ',' { '.' } else { ',' }) }
        }
        turned => turned,
    };
    with_number(given, is_whole, Some(turned), |number| number.into_owned())
}

/// Whether a number keeps to digits and range.
pub(super) fn fits(
    number: &Number<'_>,
    digits: (Option<usize>, Option<usize>),
    range: &Range<Number<'static>>,
) -> bool {
    let (before, after) = number.digits();
    digits.0.is_none_or(|most| before <= most)
        && digits.1.is_none_or(|most| after <= most)
        && range.min.as_ref().is_none_or(|min| number >= min)
        && range.max.as_ref().is_none_or(|max| number <= max)
}

pub(super) fn judge_number(
    number: &Number<'_>,
    digits: (Option<usize>, Option<usize>),
    range: &Range<Number<'static>>,
) -> Verdict {
    let mut verdict = Verdict::SOUND;
    let (before, after) = number.digits();
    if digits.0.is_some_and(|most| before > most) || digits.1.is_some_and(|most| after > most) {
        verdict.add(Code::DigitsTooMany);
    }
    if range.min.as_ref().is_some_and(|min| number < min)
        || range.max.as_ref().is_some_and(|max| number > max)
    {
        verdict.add(Code::OutOfRange);
    }
    verdict
}

/// A hundred times a number, digit by digit.
pub(super) fn hundredfold(text: &str) -> Option<String> {
    let number = Number::decimal(text)?.to_string();
    let (sign, digits) = number.strip_prefix('-').map_or(("", number.as_str()), |digits| ("-", digits));
    let (whole, part) = digits.split_once('.').unwrap_or((digits, ""));
    let (moved, rest) = part.split_at_checked(2).unwrap_or((part, ""));
    Number::decimal(&format!("{sign}{whole}{moved:0<2}.{rest}0")).map(|number| number.to_string())
}

/// A range of magnitudes that holds no number.
const NOTHING: (u64, u64) = (1, 0);

/// The bounds of whole numbers of 10^-`after`.
pub(super) fn bounds(range: &Range<Number<'static>>, after: usize) -> Bounds {
    // What cannot be held is larger than any bound of the fast way.
    let end = |end: &Option<Number<'static>>| end.as_ref().map(|end| End::of(end, after));
    let (min, max) = (end(&range.min), end(&range.max));
    let side = |low: Option<End>, high: Option<End>| {
        // `low` and `high` bound the magnitude from the side of this sign.
        let least = low.filter(|low| !low.negative).map_or(0, |low| low.up);
        match high {
            Some(high) if high.negative => NOTHING,
            Some(high) => (least, high.down),
            None => (least, u64::MAX),
        }
    };
    Bounds { plus: side(min, max), minus: side(max.map(End::mirrored), min.map(End::mirrored)) }
}

/// An end of a range: its magnitude rounded down and up.
#[derive(Clone, Copy)]
struct End {
    negative: bool,
    down: u64,
    up: u64,
}

impl End {
    fn of(number: &Number<'_>, after: usize) -> Self {
        let held = Fixed::of(number);
        let (down, up) = match (held, u32::try_from(after)) {
            (Some(number), Ok(after)) => number.magnitude(after),
            _ => (u64::MAX, u64::MAX),
        };
        Self { negative: number.is_negative(), down, up }
    }

    fn mirrored(self) -> Self {
        Self { negative: !self.negative && self.up > 0, ..self }
    }
}

/// Whether a whole number holds the place of one (nines alone), or is so long that digits may be lost.
#[inline(always)]
pub(super) fn is_odd_number(value: u64) -> bool {
    // A power of ten from 100,000 on ends in five zero bits.
    value >= 99_999 && (value >= 1_000_000_000_000_000 || (value + 1) & 31 == 0 && is_nines(value))
}

/// Of sixteen whole numbers of up to eight digits those that may be odd as [`is_odd_number`] says, and some others.
#[inline(always)]
pub(super) fn may_be_nines<N: Numbers>(numbers: N, values: N::Sixteen) -> N::Sixteen {
    let next = numbers.add(values, numbers.all(1));
    let ends = numbers.equal(numbers.and(next, numbers.all(31)), numbers.all(0));
    numbers.and(ends, numbers.over(values, numbers.all(99_998)))
}

/// Which of sixteen magnitudes lie within these bounds; nothing where all are too small for them.
#[inline(always)]
pub(super) fn within<N: Numbers>(numbers: N, values: N::Sixteen, bounds: (u64, u64)) -> Option<N::Sixteen> {
    let least = numbers.all(u32::try_from(bounds.0).ok()?);
    let most = numbers.all(u32::try_from(bounds.1).unwrap_or(u32::MAX));
    let is_least = numbers.equal(numbers.most(values, least), values);
    Some(numbers.without(is_least, numbers.over(values, most)))
}

#[cold]
fn is_nines(value: u64) -> bool {
    matches!(
        value,
        99_999
            | 999_999
            | 9_999_999
            | 99_999_999
            | 999_999_999
            | 9_999_999_999
            | 99_999_999_999
            | 999_999_999_999
            | 9_999_999_999_999
            | 99_999_999_999_999
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::gate::evidence::{Says, vote};

    #[test]
    fn a_number_votes_by_what_its_field_permits() {
        let open = Range::default();
        let votes = |text: &str| {
            let (point, comma) = both_ways(text, (None, Some(2)), &open);
            vote(point.as_ref(), comma.as_ref(), |_| true)
        };
        for (text, wanted) in [
            ("12,5", Says::Second),
            ("12.5", Says::First),
            ("1.234,5", Says::Second),
            ("1,234.5", Says::First),
            // Three decimals are excluded, so that it is a thousand.
            ("1,234", Says::First),
            ("1.234", Says::Second),
            ("1,234,567", Says::First),
        ] {
            assert_eq!(votes(text), wanted, "{text}");
        }
        let of = |text: &str| {
            let (point, comma) = both_ways(text, (None, None), &open);
            vote(point.as_ref(), comma.as_ref(), |_| true)
        };
        assert_eq!((of("1,234"), of("0,234"), of("0.234")), (Says::Open, Says::Second, Says::First));
    }
}
