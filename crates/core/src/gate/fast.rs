//! The fast ways: whether a raw cell is plainly sound. Each answers yes, or nothing: then the plain judge
//! of `program` decides. Tests compare the two.

use super::cells::Cells;
use super::dates::FixedDate;
use super::evidence::Way;
use super::numbers::Bounds;
use super::program::Program;
use super::wordset::WordSet;
use super::writing::PLACEHOLDER_DAYS;
use crate::scan::{Dialect, digits_at, few_digits, is_common_email, is_odd_text, is_plain, short_word};
use crate::schema::{Range, TextRules};
use crate::value::suspicion::PLACEHOLDERS;
use crate::value::{Case, Date, Moment, TimeOfDay, date::days_in_month};
use std::cell::Cell;

/// The first byte of a cell that is neither blank nor trimmed at its start, whatever follows. Bytes that
/// may begin a white space of more bytes, and the quote, are left to the plain judge.
#[expect(clippy::indexing_slicing, reason = "counted from 0 to the length, when compiled")]
const INK: [bool; 256] = {
    let mut ink = [true; 256];
    let mut byte = 0;
    while byte < 256 {
        ink[byte] = byte > 0x20 && byte != 0x7F && !matches!(byte, 0xC2 | 0xE1 | 0xE2 | 0xE3);
        byte += 1;
    }
    ink
};

/// Tells apart, by first byte and length, cells that may be one of a few words.
#[derive(Debug)]
pub(super) struct Guard {
    starts: [bool; 256],
    longest: usize,
}

impl Guard {
    /// For these words, in lower case; nothing where there are none.
    pub(super) fn new<'a>(words: impl Iterator<Item = &'a str>) -> Option<Self> {
        let mut guard = Self { starts: [false; 256], longest: 0 };
        for word in words {
            let Some(first) = word.chars().next() else { continue };
            // In another case a letter may take more bytes, and begin otherwise.
            guard.longest = guard.longest.max(2 + if word.is_ascii() { word.len() } else { 3 * word.len() });
            for (byte, slot) in (0_u8..=255).zip(&mut guard.starts) {
                let begins = first.is_ascii() && byte.eq_ignore_ascii_case(&(first as u8));
                *slot |= begins || byte == b'"' || byte >= 0x80 && !word.is_ascii();
            }
        }
        (guard.longest > 0).then_some(guard)
    }

    /// Whether a cell, which perhaps begins with a space, may be one of the words.
    #[inline(always)]
    pub(super) fn may_hold_in(&self, buffer: &[u8], (start, end): (usize, usize)) -> bool {
        let is_ink = buffer.get(start).is_some_and(|byte| (0x21..0x7F).contains(byte));
        !is_ink || self.may_hold(buffer, start, end)
    }

    #[inline(always)]
    fn may_hold(&self, buffer: &[u8], start: usize, end: usize) -> bool {
        let first = buffer.get(start).copied().unwrap_or_default();
        end - start <= self.longest && self.starts.get(usize::from(first)).copied().unwrap_or_default()
    }
}

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

/// What the point of a number can be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Point {
    None,
    Decimal,
    Either,
}

impl Sweep<'_> {
    /// Runs a program over the column.
    pub(super) fn run(self, program: &Program) -> Swept {
        let (buffer, dialect) = (self.buffer, self.dialect);
        let blanks = match program {
            _ if self.cells.broken_text && !matches!(program, Program::Integer { .. } | Program::Date(_)) => {
                self.over(|_, _| false)
            }
            Program::Free => self.over(|start, _| is_ink_at(buffer, start, dialect)),
            Program::Text { places: Some(places), .. } => {
                self.over(|start, end| places.fit(buffer, start, end - start))
            }
            // No unit counts more for a text than its bytes.
            Program::Text { rules, .. }
                if rules.pattern.is_none() && rules.case.is_none() && rules.length.min.is_none() =>
            {
                let longest = rules.length.max.unwrap_or(usize::MAX);
                let looks = self.cells.oddities.any_in_text();
                self.over(|start, end| {
                    end - start <= longest
                        && is_written_plainly(buffer, start, end, true)
                        && !(looks && is_odd_at(buffer, start, end))
                })
            }
            Program::Text { rules, .. } if !self.cells.oddities.non_ascii => {
                let looks = self.cells.oddities.any_in_text();
                self.over(|start, end| {
                    ascii_text(buffer, start, end, rules, dialect)
                        && !(looks && is_odd_at(buffer, start, end))
                })
            }
            Program::Text { .. } => self.over(|_, _| false),
            Program::Integer { bounds, .. } => self.over(|start, end| integer(buffer, start, end, bounds)),
            // A point may part thousands: what holds one is left to the plain judge.
            Program::Decimal { bounds, digits, marks: Some(_), .. }
            | Program::Decimal { bounds, digits, way: Some(Way::Second | Way::Undecided), .. } => {
                let most = digits.0.unwrap_or(16);
                let [whole, ..] = bounds.as_ref();
                self.over(|start, end| end - start <= most && integer(buffer, start, end, whole))
            }
            Program::Decimal { bounds, digits, .. } => {
                let most = (digits.0.unwrap_or(16), digits.1.unwrap_or(16));
                // What a point says of the mark before decimals is counted as it goes by.
                let (points, open) = (Cell::new(0_u64), Cell::new(0_u64));
                let blanks = self.over(|start, end| match decimal(buffer, start, end, most, bounds) {
                    Some(Point::None) => true,
                    Some(Point::Decimal) => {
                        points.set(points.get() + 1);
                        true
                    }
                    Some(Point::Either) => {
                        open.set(open.get() + 1);
                        true
                    }
                    None => false,
                });
                let (points, open_points) = (points.get(), open.get());
                return Swept { blanks, points, open_points, ..Swept::default() };
            }
            Program::Boolean { words, .. } | Program::Picklist { words, .. } => {
                let (standing, unlike) = (self.standing.unwrap_or(words), Cell::new(0_u64));
                let blanks = self.over(|start, end| {
                    standing.holds(buffer, start, end - start)
                        || words.holds(buffer, start, end - start) && {
                            unlike.set(unlike.get() + 1);
                            true
                        }
                });
                return Swept { blanks, unlike: unlike.get(), ..Swept::default() };
            }
            Program::Date(dates) => match &dates.fixed {
                Some(fixed) => {
                    let (min, max) = packed(&dates.range);
                    self.over(|start, end| date(buffer, start, end, fixed, min, max))
                }
                None => self.over(|_, _| false),
            },
            // A key stands as it is.
            Program::Reference { keys: Some(_), words } if !words.is_empty() => {
                self.over(|start, end| words.holds(buffer, start, end - start))
            }
            Program::Reference { keys: Some(keys), .. } => self.over(|start, end| {
                let raw = buffer.get(start..end).unwrap_or_default();
                std::str::from_utf8(raw).is_ok_and(|text| keys.has(text))
            }),
            Program::Reference { keys: None, .. } => {
                self.over(|start, end| is_written_plainly(buffer, start, end, false))
            }
            Program::Many { max, codes, separator, .. } if !codes.is_empty() => match separator.as_bytes() {
                [separator] => {
                    let (separator, max) = (*separator, max.unwrap_or(usize::MAX));
                    self.over(|start, end| several(buffer, (start, end), separator, max, codes))
                }
                _ => self.over(|_, _| false),
            },
            Program::Time { times, own, range } if times.is_empty() && own.is_empty() => {
                self.over(|start, end| clock(buffer, start, end).is_some_and(|time| range.holds(&time)))
            }
            Program::Datetime { forms, own, zone: None, range, .. } if forms.is_empty() && own.is_empty() => {
                self.over(|start, end| {
                    moment(buffer, start, end).is_some_and(|moment| {
                        range.min.is_none() && range.max.is_none() || range.holds(&moment.instant())
                    })
                })
            }
            Program::Uuid { length } if length.min.is_none() && length.max.is_none() => {
                self.over(|start, end| uuid(buffer, start, end))
            }
            Program::Time { .. }
            | Program::Datetime { .. }
            | Program::Phone { .. }
            | Program::Url { .. }
            | Program::Uuid { .. }
            | Program::Many { .. } => self.over(|_, _| false),
            Program::Email { longest, .. } => self
                .over(|start, end| buffer.get(start..end).is_some_and(|raw| is_common_email(raw, *longest))),
        };
        Swept { blanks, ..Swept::default() }
    }

    #[inline(always)]
    fn over(self, sound: impl Fn(usize, usize) -> bool) -> u64 {
        let mut blanks = 0;
        let Self { buffer, cells, column, blank_ok, dialect, guard, slow, .. } = self;
        // Some writers put every cell in quotes: there the content is tried first.
        let (first, end) = cells.cell(0, column);
        let quoted = is_quoted(buffer, first, end, dialect.quote);
        cells.each_in_column(column, |row, mut start, mut end| {
            if start == end && blank_ok {
                blanks += 1;
                return;
            }
            if let Some(guard) = guard
                && guard.may_hold(buffer, start, end)
            {
                slow(row);
                return;
            }
            // The quotes around a cell come off once.
            let mut bare = quoted && is_quoted(buffer, start, end, dialect.quote);
            if bare {
                (start, end) = (start + 1, end - 1);
            }
            // A loop, so that `sound` stands in one place and is built into it.
            while start < end {
                if sound(start, end) {
                    return;
                }
                if bare || !is_quoted(buffer, start, end, dialect.quote) {
                    break;
                }
                (start, end, bare) = (start + 1, end - 1, true);
            }
            slow(row);
        });
        blanks
    }
}

/// Whether the cell stands in quotes with something between them. What is plainly sound holds no quote, so
/// the content can be tried as it stands.
#[inline(always)]
fn is_quoted(buffer: &[u8], start: usize, end: usize, quote: u8) -> bool {
    end > start + 2 && buffer.get(start) == Some(&quote) && buffer.get(end - 1) == Some(&quote)
}

/// Whether the cell holds something to be seen: it begins with ink, or with a quote and ink behind it.
#[expect(clippy::indexing_slicing, reason = "a byte indexes 256 places")]
#[inline(always)]
fn is_ink_at(buffer: &[u8], start: usize, dialect: Dialect) -> bool {
    let (Some(&first), Some(&second)) = (buffer.get(start), buffer.get(start + 1)) else { return false };
    if first == dialect.quote { second != dialect.quote && INK[second as usize] } else { INK[first as usize] }
}

/// What the first byte of a text says: whether the plain judge must look (blanks, quotes, what may begin a formula
/// or a spreadsheet's error), whether it is a digit, and, from [`PLACE_SHIFT`] on, a bit for each length in which a
/// word that begins so may hold the place of a value.
#[expect(clippy::indexing_slicing, reason = "counted from 0 to the length, when compiled")]
const TEXT_START: [u16; 256] = {
    let mut starts = [0; 256];
    let mut byte = 0;
    while byte < 256 {
        starts[byte] = match byte as u8 {
            b'=' | b'+' | b'-' | b'@' | b'#' | b'"' => LOOK,
            b'0'..=b'9' => DIGIT,
            _ if !INK[byte] => LOOK,
            _ => 0,
        };
        byte += 1;
    }
    let mut number = 0;
    while number < PLACEHOLDERS.len() {
        let word = PLACEHOLDERS[number].as_bytes();
        let length = 1 << (PLACE_SHIFT + word.len());
        starts[word[0] as usize] |= length;
        starts[word[0].to_ascii_uppercase() as usize] |= length;
        number += 1;
    }
    starts
};

const LOOK: u16 = 1;
const DIGIT: u16 = 2;
const PLACE_SHIFT: usize = 2;
/// No word that holds the place of a value is so long.
const NO_PLACE: usize = 9;

/// Whether a text neither begins nor ends in a way that needs a closer look, and where `places` is set is no short
/// word that may hold the place of a value.
#[expect(clippy::indexing_slicing, reason = "a byte indexes 256 places")]
#[inline(always)]
fn is_written_plainly(buffer: &[u8], start: usize, end: usize, places: bool) -> bool {
    let Some(&first) = buffer.get(start) else { return false };
    let tail = end.checked_sub(4).and_then(|at| buffer.get(at..)).and_then(|tail| tail.first_chunk::<4>());
    let (Some(&[one, two, _, last]), Some(&sixteenth)) = (tail, buffer.get(start + 15)) else { return false };
    let says = TEXT_START[first as usize];
    let length = end - start;
    let may_be_place = (says >> (PLACE_SHIFT + length.min(NO_PLACE))) & u16::from(places);
    // No branches: what texts begin and end with is guessed wrong too often. `E+12`, `E+123` and `Err:502` end
    // so; or there are sixteen digits of which the last is zero.
    let is_odd = (says & LOOK != 0)
        | (may_be_place != 0)
        | (last <= b' ')
        | (one == b':')
        | (one == b'+')
        | (two == b'+')
        | ((says & DIGIT != 0) & (sixteenth == b'0') & (length >= 16));
    !is_odd
}

#[cold]
#[inline(never)]
fn is_odd_at(buffer: &[u8], start: usize, end: usize) -> bool {
    buffer.get(start..end).is_none_or(is_odd_text)
}

/// Whether a text of ASCII alone keeps all rules: its bytes are its characters in every unit.
#[inline(always)]
fn ascii_text(buffer: &[u8], start: usize, end: usize, rules: &TextRules, dialect: Dialect) -> bool {
    let Some(raw) = buffer.get(start..end) else { return false };
    let length = rules.length;
    is_plain(raw, dialect)
        && is_written_plainly(buffer, start, end, rules.pattern.is_none())
        && memchr::memchr(dialect.quote, raw).is_none()
        && length.max.is_none_or(|max| raw.len() <= max)
        && length.min.is_none_or(|min| raw.len() >= min)
        && match rules.case {
            Some(Case::Upper) => !raw.iter().any(u8::is_ascii_lowercase),
            Some(Case::Lower) => !raw.iter().any(u8::is_ascii_uppercase),
            None => true,
        }
        && match &rules.pattern {
            Some(pattern) => std::str::from_utf8(raw).is_ok_and(|text| pattern.fits(text)),
            None => true,
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

#[inline(always)]
fn integer(buffer: &[u8], start: usize, end: usize, bounds: &Bounds) -> bool {
    let (start, bounds) = signed(buffer, start, bounds);
    match digits_at(buffer, start, end - start) {
        Some(value) => bounds.0 <= value && value <= bounds.1 && !is_odd_number(value),
        None => false,
    }
}

/// Whether a whole number holds the place of one (nines alone), or is so long that digits may be lost.
#[inline(always)]
fn is_odd_number(value: u64) -> bool {
    // A power of ten from 100,000 on ends in five zero bits.
    value >= 99_999 && (value >= 1_000_000_000_000_000 || (value + 1) & 31 == 0 && is_nines(value))
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

/// Up to eight bytes with their point; longer ones are left to the plain judge.
#[inline(always)]
fn decimal(
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

#[expect(clippy::indexing_slicing, reason = "masked to the 16 bytes")]
#[inline(always)]
fn date(buffer: &[u8], start: usize, end: usize, fixed: &FixedDate, min: u32, max: u32) -> bool {
    let Some(bytes) = fixed.places.fitting(buffer, start, end - start) else { return false };
    let digit = |at: usize| u32::from(bytes[at & 15] - b'0');
    let two = |at: usize| digit(at) * 10 + digit(at + 1);
    let [year_at, month_at, day_at] = fixed.starts;
    let year = two(year_at) * 100 + two(year_at + 2);
    let (month, day) = (two(month_at), two(day_at));
    let packed = year << 9 | month << 5 | day;
    if packed < min || packed > max || month.wrapping_sub(1) >= 12 || day == 0 || packed == FIRST_PLACEHOLDER
    {
        return false;
    }
    #[expect(clippy::cast_possible_truncation, reason = "four and two digits")]
    let last = || u32::from(days_in_month(year as u16, month as u8));
    day <= 28 || day <= last()
}

/// Whether the cell is a list of codes, none of which stands twice; a space may stand behind a separator.
#[inline(always)]
fn several(buffer: &[u8], (start, end): (usize, usize), separator: u8, max: usize, codes: &WordSet) -> bool {
    const MOST: usize = 8;
    let mut seen = [(0, 0); MOST];
    let (mut count, mut at) = (0, start);
    loop {
        let rest = buffer.get(at..end).unwrap_or_default();
        let part_end = memchr::memchr(separator, rest).map_or(end, |found| at + found);
        if count > 0 && buffer.get(at) == Some(&b' ') {
            at += 1;
        }
        if part_end <= at || count >= MOST.min(max) || !codes.holds(buffer, at, part_end - at) {
            return false;
        }
        let part = buffer.get(at..part_end);
        if seen.iter().take(count).any(|&(start, end)| buffer.get(start..end) == part) {
            return false;
        }
        if let Some(slot) = seen.get_mut(count) {
            *slot = (at, part_end);
        }
        count += 1;
        if part_end == end {
            return true;
        }
        at = part_end + 1;
    }
}

/// A time as `HH:mm` or `HH:mm:ss`.
#[inline(always)]
fn clock(buffer: &[u8], start: usize, end: usize) -> Option<TimeOfDay> {
    let two = |at: usize| few_digits(short_word(buffer, at, 2), 2);
    let mark = |at: usize| buffer.get(at) == Some(&b':');
    let (hour, minute) = (two(start)?, two(start + 3)?);
    let second = match end - start {
        5 => 0,
        8 if mark(start + 5) => two(start + 6)?,
        _ => return None,
    };
    mark(start + 2).then(|| TimeOfDay::new(hour, minute, second, 0))?
}

/// A moment as ISO 8601 writes it, without decimals, in UTC or without a distance from it.
#[inline(always)]
fn moment(buffer: &[u8], start: usize, end: usize) -> Option<Moment> {
    let (between, last) = (buffer.get(start + 10)?, buffer.get(end.checked_sub(1)?)?);
    if end - start < 16 || *between != b'T' && *between != b' ' {
        return None;
    }
    let day: &[u8; 10] = buffer.get(start..)?.first_chunk()?;
    let [_, _, _, _, b'-', _, _, b'-', _, _] = day else { return None };
    let number = |at: usize, len: usize| few_digits(short_word(buffer, start + at, len), len);
    let (year, month, day) = (number(0, 4)?, number(5, 2)?, number(8, 2)?);
    let date = Date::new(u16::try_from(year).ok()?, u8::try_from(month).ok()?, u8::try_from(day).ok()?)?;
    let is_utc = *last == b'Z';
    let time = clock(buffer, start + 11, end - usize::from(is_utc))?;
    Some(Moment { date, time, offset: is_utc.then_some(0) })
}

#[inline(always)]
fn uuid(buffer: &[u8], start: usize, end: usize) -> bool {
    let Some(text) = buffer.get(start..end).and_then(|raw| <&[u8; 36]>::try_from(raw).ok()) else {
        return false;
    };
    let hyphens = [8, 13, 18, 23];
    (0..).zip(text).all(|(at, byte)| match hyphens.contains(&at) {
        true => *byte == b'-',
        false => byte.is_ascii_hexdigit(),
    })
}

/// The days of `writing` that hold the place of one: the first and the last.
const FIRST_PLACEHOLDER: u32 = packed_day(PLACEHOLDER_DAYS[0]);
const LAST_PLACEHOLDER: u32 = packed_day(PLACEHOLDER_DAYS[1]);

const fn packed_day(day: (u16, u8, u8)) -> u32 {
    (day.0 as u32) << 9 | (day.1 as u32) << 5 | day.2 as u32
}

/// The range as packed days, without the last placeholder; the first day is that of the year 1.
fn packed(range: &Range<Date>) -> (u32, u32) {
    let max = range.max.map_or(u32::MAX, Date::packed).min(LAST_PLACEHOLDER - 1);
    (range.min.map_or(1 << 9, Date::packed), max)
}
