//! What kind of value a text seems to be.

use crate::value::{Date, DatePattern, DateReading, Group, Number, TimePattern, email, truth};
use std::borrow::Cow;
use std::sync::LazyLock;

/// What a text can be taken for, the plainest first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Class {
    /// Digits, perhaps with a sign.
    Integer,
    /// Digits that begin with a zero: more a code than a number.
    Code,
    /// A number with a decimal point.
    Decimal,
    /// A number with a decimal comma.
    CommaDecimal,
    /// A number with marks between its thousands: which, and whether it is whole.
    Thousands(Mark, bool),
    /// A day in one of the common forms, by its number among them.
    Date(u8),
    /// A day in such a form with a time of day behind it.
    Datetime(u8),
    /// A time of day.
    Time,
    /// A time of twelve hours, with the half of the day; or with an `h` behind its hours.
    FormedTime,
    /// A word for yes or no.
    Boolean,
    /// An e-mail address.
    Email,
    /// A telephone number with marks between its digits, or a plus before them.
    Phone,
    /// A web address.
    Url,
    /// A UUID.
    Uuid,
    /// Anything else.
    Text,
}

impl Class {
    /// Whether a text of this class is a number and nothing else.
    pub(crate) const fn is_plain_number(self) -> bool {
        matches!(self, Self::Integer | Self::Decimal | Self::CommaDecimal | Self::Thousands(..))
    }

    /// Whether a text of this class is a number, perhaps in another notation or with a unit.
    pub(crate) fn is_number(self, text: &str) -> bool {
        matches!(self, Self::Integer | Self::Code | Self::Decimal | Self::CommaDecimal | Self::Thousands(..))
            || text.bytes().any(|byte| byte.is_ascii_digit()) && !text.contains(['-', '/', ':'])
    }
}

/// What stands between thousands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Mark {
    /// A comma, so that decimals follow a point.
    Comma,
    /// A comma, or it is a decimal one: `1,234`.
    Unsure,
    /// A point, so that decimals follow a comma.
    Point,
    /// A space or an apostrophe.
    Other,
}

/// The common forms of days. Where two read a cell alike, the first counts, and its twin is told of.
const FORMS: [&str; 23] = [
    "yyyy-MM-dd",
    "dd/MM/yyyy",
    "MM/dd/yyyy",
    "dd.MM.yyyy",
    "dd-MM-yyyy",
    "MM-dd-yyyy",
    "yyyy/MM/dd",
    "yyyy.MM.dd",
    "d MMM yyyy",
    "d MMMM yyyy",
    "dd/MM/yy",
    "MM/dd/yy",
    "dd.MM.yy",
    "d-MMM-yy",
    "d-MMM-yyyy",
    "d. M. yyyy",
    "d. M. yyyy.",
    "d.M.yyyy.",
    "yyyy. M. d.",
    "yyyy.MM.dd.",
    "yyyy年M月d日",
    "yyyy년 M월 d일",
    "yyyyMMdd",
];

/// The number of the form of days without marks, which are whole numbers, too.
pub(crate) const COMPACT: u8 = 22;
/// From so many different ones on, numbers that may all be days without marks are.
pub(crate) const ENOUGH_COMPACT: usize = 3;

/// Whether digits are a day without marks, of a year that is near, or of the last one.
pub(crate) fn is_compact_day(text: &[u8]) -> bool {
    let digits = <[u8; 8]>::try_from(text).ok().filter(|digits| digits.iter().all(u8::is_ascii_digit));
    digits.is_some_and(|digits| {
        let number = digits.iter().fold(0_u32, |sum, digit| sum * 10 + u32::from(digit - b'0'));
        let (year, month, day) = (number / 10_000, number / 100 % 100, number % 100);
        let date = Date::new(year as u16, month as u8, day as u8);
        (year == 9999 || (1900..=2100).contains(&year)) && date.is_some()
    })
}

/// The class of days without marks, where all whole numbers of a column may be such days: of so many cells so many.
pub(crate) fn compact_class(class: Class, count: u64, compact: u64) -> Class {
    let is_compact = class == Class::Integer && count > 0 && count == compact;
    if is_compact { Class::Date(COMPACT) } else { class }
}

/// The readers of the kinds.
#[derive(Debug)]
pub(crate) struct Kinds {
    forms: Vec<DatePattern>,
    today: Date,
}

impl Kinds {
    pub(crate) fn new(today: Date) -> Self {
        Self { forms: FORMS.iter().filter_map(|form| DatePattern::new(form).ok()).collect(), today }
    }

    /// What a trimmed text seems to be, and every date form that reads it: of a whole number the one without marks.
    pub(crate) fn class(&self, text: &str) -> (Class, Vec<u8>) {
        let first = text.chars().next().unwrap_or(' ');
        if first.is_ascii_digit() || "+-(\u{2212}.".contains(first) {
            if Number::integer(text).is_some() {
                let is_code = text.len() > 1 && text.starts_with('0');
                let compact = is_compact_day(text.as_bytes()).then_some(COMPACT);
                return (if is_code { Class::Code } else { Class::Integer }, compact.into_iter().collect());
            }
            if Number::decimal(text).is_some() {
                return (Class::Decimal, Vec::new());
            }
            if let Some((mark, is_whole)) = thousands(text) {
                return (Class::Thousands(mark, is_whole), Vec::new());
            }
            if text.matches(',').count() == 1 && Number::decimal(&text.replace(',', ".")).is_some() {
                return (Class::CommaDecimal, Vec::new());
            }
        }
        if first.is_ascii_digit() && text.len() <= 40 {
            if let Some(class) = time_class(text) {
                return (class, Vec::new());
            }
            let parts = day_and_time(text);
            let forms = self.forms_of(parts.map_or(text, |parts| parts.0));
            if let Some(&form) = forms.first() {
                return (if parts.is_some() { Class::Datetime(form) } else { Class::Date(form) }, forms);
            }
        }
        let class = if truth::read(text).is_some() {
            Class::Boolean
        } else if text.contains('@') && email::judge(text).is_ok() {
            Class::Email
        } else if is_phone(text) {
            Class::Phone
        } else if text.starts_with("http://") || text.starts_with("https://") {
            Class::Url
        } else if is_uuid(text) {
            Class::Uuid
        } else {
            Class::Text
        };
        (class, Vec::new())
    }

    /// Whether one text of a class comes before another.
    pub(crate) fn is_lower(&self, class: Class, one: &str, other: &str) -> bool {
        match class {
            Class::Integer | Class::Decimal | Class::CommaDecimal | Class::Thousands(..) => {
                match (Number::decimal(&plainly(class, one)), Number::decimal(&plainly(class, other))) {
                    (Some(one), Some(other)) => one < other,
                    _ => one < other,
                }
            }
            Class::Date(form) | Class::Datetime(form) => {
                self.day(one, form).map(Date::packed) < self.day(other, form).map(Date::packed)
            }
            Class::Time | Class::FormedTime => seconds(one) < seconds(other),
            _ => one < other,
        }
    }

    fn forms_of(&self, text: &str) -> Vec<u8> {
        let reads = |form: &DatePattern| matches!(form.read(text, self.today), DateReading::Day { .. });
        (0..).zip(&self.forms).filter(|(_, form)| reads(form)).map(|(number, _)| number).collect()
    }

    /// The day that a text gives in a form.
    pub(super) fn day(&self, text: &str, form: u8) -> Option<Date> {
        let day = day_and_time(text).map_or(text, |parts| parts.0);
        match self.forms.get(usize::from(form))?.read(day, self.today) {
            DateReading::Day { date, .. } => Some(date),
            _ => None,
        }
    }
}

/// The number of a class as it is written with a decimal point and no marks.
pub(crate) fn plainly(class: Class, text: &str) -> Cow<'_, str> {
    // Ledgers write the minus behind, accountants brackets.
    let is_number =
        matches!(class, Class::Integer | Class::Decimal | Class::CommaDecimal | Class::Thousands(..));
    let bracketed = || text.strip_prefix('(')?.strip_suffix(')');
    if is_number && let Some(body) = text.strip_suffix(['-', '\u{2212}']).or_else(bracketed) {
        return Cow::Owned(format!("-{}", plainly(class, body)));
    }
    match class {
        Class::CommaDecimal => Cow::Owned(text.replace(',', ".")),
        Class::Thousands(Mark::Comma | Mark::Unsure, _) => Cow::Owned(text.replace(',', "")),
        Class::Thousands(Mark::Point, _) => Cow::Owned(text.replace('.', "").replace(',', ".")),
        Class::Thousands(Mark::Other, _) => Cow::Owned(text.replace(is_group_mark, "").replace(',', ".")),
        _ => Cow::Borrowed(text),
    }
}

/// Whether a character stands between thousands and is no point and no comma.
fn is_group_mark(c: char) -> bool {
    Group::UNMISTAKABLE.into_iter().any(|group| group.takes(c))
}

/// The mark between the thousands of a number, and whether it is whole: groups of three, the first of one to three.
fn thousands(text: &str) -> Option<(Mark, bool)> {
    if is_international(text) {
        return None;
    }
    let body = text.trim_start_matches(['+', '-', '\u{2212}']);
    let mark = body.chars().find(|c| !c.is_ascii_digit())?;
    let point = match mark {
        ',' => '.',
        '.' => ',',
        other if is_group_mark(other) => body.chars().find(|c| matches!(c, '.' | ',')).unwrap_or('.'),
        _ => return None,
    };
    let (whole, decimals) = body.split_once(point).unwrap_or((body, ""));
    let mut groups = whole.split(mark);
    let first = groups.next()?;
    let is_group = |group: &str| group.bytes().all(|byte| byte.is_ascii_digit());
    let is_sound = (1..=3).contains(&first.len())
        && !first.starts_with('0')
        && is_group(first)
        && groups.clone().count() > 0
        && groups.all(|group| group.len() == 3 && is_group(group))
        && is_group(decimals);
    let is_whole = !body.contains(point);
    match mark {
        _ if !is_sound => None,
        ',' if is_whole && whole.matches(',').count() == 1 => Some((Mark::Unsure, true)),
        ',' => Some((Mark::Comma, is_whole)),
        // `1.234` is a decimal number.
        '.' if is_whole && whole.matches('.').count() == 1 => None,
        '.' => Some((Mark::Point, is_whole)),
        _ => Some((Mark::Other, is_whole)),
    }
}

/// A plus before so many digits in several groups: a telephone number, though its groups may be of three.
fn is_international(text: &str) -> bool {
    text.starts_with('+') && text.matches([' ', '\u{A0}']).count() > 1 && is_phone(text)
}

/// Digits with marks between them, or a plus before: as people write telephone numbers, and no plain numbers.
fn is_phone(text: &str) -> bool {
    let digits = text.bytes().filter(u8::is_ascii_digit).count();
    let is_mark = |c: char| matches!(c, ' ' | '-' | '.' | '/' | '(' | ')' | '\u{A0}');
    (7..=15).contains(&digits)
        && text.starts_with(['+', '(', '0'])
        && text.chars().skip(1).all(|c| c.is_ascii_digit() || is_mark(c))
        && (text.starts_with('+') || text.chars().any(is_mark))
}

/// A form as it is written.
pub(crate) fn form(number: u8) -> &'static str {
    FORMS.get(usize::from(number)).copied().unwrap_or_default()
}

/// The forms that read some days as this one does, with day and month the other way round.
pub(crate) fn twins_of(number: u8) -> Vec<u8> {
    let Some(this) = FORMS.get(usize::from(number)) else { return Vec::new() };
    let turned = this.replace('d', "?").replace('M', "d").replace('?', "M");
    (0_u8..).zip(FORMS).filter(|(_, form)| *form == turned && form != this).map(|found| found.0).collect()
}

/// How many forms there are.
pub(crate) const COUNT: usize = FORMS.len();

/// A day and the time of day behind it; the day may hold spaces.
pub(crate) fn day_and_time(text: &str) -> Option<(&str, &str)> {
    let parts = text.match_indices(['T', ' ']).filter_map(|(at, mark)| {
        text.split_at_checked(at).and_then(|(day, rest)| Some((day, rest.strip_prefix(mark)?)))
    });
    parts.into_iter().find(|(_, time)| is_clock(time))
}

/// Whether a text is a time of day, perhaps with a fraction or its distance from UTC.
fn is_clock(text: &str) -> bool {
    is_time(text.split(['+', 'Z', '-', '.']).next().unwrap_or_default()) || time_class(text).is_some()
}

fn time_class(text: &str) -> Option<Class> {
    if is_time(text) {
        return Some(Class::Time);
    }
    own_form(text).map(|_| Class::FormedTime)
}

/// The form of a time of day.
pub(crate) fn time_form(time: &str) -> String {
    if let Some(form) = own_form(time) {
        return form.to_owned();
    }
    let hours = if time.find(':') == Some(1) { "H" } else { "HH" };
    let seconds = if time.matches(':').count() > 1 { ":ss" } else { "" };
    format!("{hours}:mm{seconds}")
}

/// The form of a time of twelve hours, or of one with an `h` behind its hours.
fn own_form(text: &str) -> Option<&'static str> {
    if !text.ends_with(['m', 'M', '.']) && !text.contains('h') {
        return None;
    }
    FORMED.iter().find(|form| form.1.read(text).is_some()).map(|form| form.0)
}

/// The forms of times that are written so, and of others.
static FORMED: LazyLock<Vec<(&str, TimePattern)>> =
    LazyLock::new(|| patterns(&["h:mm a", "h:mm:ss a", "H'h'mm"]));
static WHOLE_DAY: LazyLock<Vec<(&str, TimePattern)>> = LazyLock::new(|| patterns(&["H:mm", "H:mm:ss"]));

fn patterns(forms: &[&'static str]) -> Vec<(&'static str, TimePattern)> {
    forms.iter().filter_map(|form| Some((*form, TimePattern::new(form).ok()?))).collect()
}

/// The seconds since midnight of a time of day.
fn seconds(text: &str) -> Option<u64> {
    let time = WHOLE_DAY.iter().chain(FORMED.iter()).find_map(|form| form.1.read(text))?;
    Some(time.0)
}

fn is_time(text: &str) -> bool {
    let parts: Vec<_> = text.split(':').collect();
    let fits = |part: &str, most: u8| {
        (1..=2).contains(&part.len())
            && part.bytes().all(|b| b.is_ascii_digit())
            && part.parse().is_ok_and(|n: u8| n < most)
    };
    match parts.as_slice() {
        [hour, minute] => fits(hour, 24) && minute.len() == 2 && fits(minute, 60),
        [hour, minute, second] => fits(hour, 24) && fits(minute, 60) && fits(second, 61),
        _ => false,
    }
}

fn is_uuid(text: &str) -> bool {
    text.len() == 36
        && text.bytes().enumerate().all(|(at, byte)| match at {
            8 | 13 | 18 | 23 => byte == b'-',
            _ => byte.is_ascii_hexdigit(),
        })
}
