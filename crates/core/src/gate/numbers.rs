//! What is asked of numbers: how they are read under marks, their digits, and their bounds for the fast way.

use super::evidence::{self, Way};
use super::program::{Given, Verdict};
use crate::catalogue::Code;
use crate::schema::Range;
use crate::value::{Group, Marks, Number};

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
            let parted = [evidence::POINT, evidence::COMMA].into_iter().find_map(|marks| {
                let has = |mark| given.text.contains(mark);
                (!has(marks.decimal)).then(|| marks.plain(given.text)).flatten()
            });
            return parted.and_then(|plain| Number::integer(&plain).map(take));
        }
        return read(given.text).map(take);
    };
    if given.is_stored
        && let Some(number) = read(given.text)
    {
        return Some(take(number));
    }
    let plain = marks.plain(given.text)?;
    read(&plain).map(take)
}

/// The number of a text with a mark in it, by the way in which its column is written; or what to say of it.
pub(super) fn judge_marked(
    way: Way,
    text: &str,
    digits: (Option<usize>, Option<usize>),
    range: &Range<Number<'static>>,
) -> Result<Number<'static>, Code> {
    match (way, evidence::numbers(text, digits, range)) {
        (_, (None, None)) => Err(Code::DecimalBad),
        (_, (Some(one), Some(other))) if one == other => Ok(one),
        (Way::First, (Some(number), _)) | (Way::Second, (_, Some(number))) => Ok(number),
        (Way::First, (None, Some(_))) | (Way::Second, (Some(_), None)) => Err(Code::DecimalMark),
        (Way::Undecided, (Some(_), Some(_))) => Err(Code::NumberUnclear),
        (Way::Undecided, (Some(number), None) | (None, Some(number))) => Ok(number),
    }
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
    number: Number<'_>,
    digits: (Option<usize>, Option<usize>),
    range: &Range<Number<'static>>,
) -> Verdict {
    let mut verdict = Verdict::SOUND;
    let (before, after) = number.digits();
    if digits.0.is_some_and(|most| before > most) || digits.1.is_some_and(|most| after > most) {
        verdict.add(Code::DigitsTooMany);
    }
    if range.min.as_ref().is_some_and(|min| number < *min)
        || range.max.as_ref().is_some_and(|max| number > *max)
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
    let min = range.min.as_ref().map(|min| scaled(min, after));
    let max = range.max.as_ref().map(|max| scaled(max, after));
    let side = |low: Option<Scaled>, high: Option<Scaled>| {
        // `low` and `high` bound the magnitude from the side of this sign.
        let least = match low {
            Some(low) if low.negative => 0,
            Some(low) => low.up,
            None => 0,
        };
        match high {
            Some(high) if high.negative => NOTHING,
            Some(high) => (least, high.down),
            None => (least, u64::MAX),
        }
    };
    Bounds { plus: side(min, max), minus: side(max.map(Scaled::mirrored), min.map(Scaled::mirrored)) }
}

/// A number as whole numbers of the last digit: its magnitude rounded down and up.
#[derive(Clone, Copy)]
struct Scaled {
    negative: bool,
    down: u64,
    up: u64,
}

impl Scaled {
    fn mirrored(self) -> Self {
        Self { negative: !self.negative && self.up > 0, ..self }
    }
}

fn scaled(number: &Number<'_>, after: usize) -> Scaled {
    let text = number.to_string();
    let (negative, text) = text.strip_prefix('-').map_or((false, text.as_str()), |rest| (true, rest));
    let (whole, part) = text.split_once('.').unwrap_or((text, ""));
    let kept: String = part.chars().chain(std::iter::repeat('0')).take(after).collect();
    let down = format!("{whole}{kept}").parse().unwrap_or(u64::MAX);
    Scaled { negative, down, up: if part.len() > after { down.saturating_add(1) } else { down } }
}
