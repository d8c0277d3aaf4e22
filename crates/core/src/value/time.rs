//! Times of day, and days with a time: read as ISO 8601 writes them or in a pattern of Unicode LDML (UTS #35, part 4).

use super::date::Date;
use super::date_pattern::{DatePattern, DateReading, PatternFault};
use super::month_names::MonthNames;
use std::sync::Arc;

/// A time of day, in nanoseconds from midnight.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct TimeOfDay(pub u64);

const SECOND: u64 = 1_000_000_000;

impl TimeOfDay {
    /// Of hours, minutes, seconds and nanoseconds; nothing when there is no such time.
    #[must_use]
    pub fn new(hour: u64, minute: u64, second: u64, nano: u64) -> Option<Self> {
        (hour < 24 && minute < 60 && second < 60 && nano < SECOND)
            .then_some(Self(((hour * 60 + minute) * 60 + second) * SECOND + nano))
    }

    /// Reads `HH:mm`, `HH:mm:ss` with up to nine decimals.
    ///
    /// ```
    /// use tidy_gate_core::value::TimeOfDay;
    /// assert_eq!(TimeOfDay::iso("06:30"), TimeOfDay::new(6, 30, 0, 0));
    /// ```
    #[must_use]
    pub fn iso(text: &str) -> Option<Self> {
        let (clock, part) =
            text.split_once(['.', ',']).map_or((text, None), |(clock, part)| (clock, Some(part)));
        let mut parts = clock.split(':');
        let mut two = |most: usize| {
            let part = parts.next()?;
            ((1..=most).contains(&part.len()) && part.bytes().all(|b| b.is_ascii_digit()))
                .then(|| part.parse().ok())?
        };
        let (hour, minute) = (two(2)?, two(2)?);
        let second = two(2);
        // Hours may have one digit, nothing else.
        let is_whole = parts.next().is_none() && clock.split(':').skip(1).all(|part| part.len() == 2);
        let nano = match (part, second) {
            (None, _) => Some(0),
            (Some(part), Some(_)) => fraction(part),
            (Some(_), None) => None,
        };
        // A part that is no number is no time.
        let is_plain = second.is_some() == (clock.split(':').count() == 3);
        (is_whole && is_plain).then(|| Self::new(hour, minute, second.unwrap_or(0), nano?))?
    }
}

fn fraction(part: &str) -> Option<u64> {
    let fits = (1..=9).contains(&part.len()) && part.bytes().all(|b| b.is_ascii_digit());
    fits.then(|| format!("{part:0<9}").parse().ok())?
}

/// `HH:mm:ss`, with decimals where there are any; seconds only where they say something is not tried: a time is always
/// written in full.
impl std::fmt::Display for TimeOfDay {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let (all, nano) = (self.0 / SECOND, self.0 % SECOND);
        write!(f, "{:02}:{:02}:{:02}", all / 3600, all / 60 % 60, all % 60)?;
        if nano > 0 {
            let part = format!("{nano:09}");
            write!(f, ".{}", part.trim_end_matches('0'))?;
        }
        Ok(())
    }
}

/// A pattern of times: `HH:mm`, `h:mm a`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TimePattern {
    source: String,
    items: Vec<Item>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum Item {
    Hour { width: usize, of_twelve: bool },
    Minute(usize),
    Second(usize),
    Fraction(usize),
    HalfDay,
    Literal(String),
}

impl Item {
    /// How many digits it has at least; nothing where it is no number.
    fn digits(&self) -> Option<usize> {
        match self {
            Self::Hour { width, .. } => Some(*width),
            Self::Minute(width) | Self::Second(width) => Some((*width).max(2)),
            Self::Fraction(width) => Some(*width),
            Self::HalfDay | Self::Literal(_) => None,
        }
    }
}

impl TimePattern {
    /// Reads a pattern.
    ///
    /// # Errors
    /// When a letter is no part of a time, or hour or minute is missing.
    pub fn new(source: &str) -> Result<Self, String> {
        let mut items: Vec<Item> = Vec::new();
        let mut chars = source.chars().peekable();
        while let Some(c) = chars.next() {
            let mut width = 1;
            if c.is_ascii_alphabetic() {
                while chars.next_if_eq(&c).is_some() {
                    width += 1;
                }
            }
            items.push(match c {
                'H' => Item::Hour { width, of_twelve: false },
                'h' => Item::Hour { width, of_twelve: true },
                'm' => Item::Minute(width),
                's' => Item::Second(width),
                'S' => Item::Fraction(width),
                'a' => Item::HalfDay,
                '\'' => {
                    let text: String = chars.by_ref().take_while(|c| *c != '\'').collect();
                    Item::Literal(text)
                }
                c if c.is_ascii_alphabetic() => {
                    return Err(format!(
                        "`{c}` is not a part of a time; hours are `H` or `h` with `a`, minutes `m`, seconds `s`"
                    ));
                }
                c => Item::Literal(c.to_string()),
            });
        }
        let has = |is: fn(&Item) -> bool| items.iter().filter(|item| is(item)).count() == 1;
        if !has(|item| matches!(item, Item::Hour { .. })) || !has(|item| matches!(item, Item::Minute(_))) {
            return Err("a time pattern needs one hour and one minute, such as HH:mm".to_owned());
        }
        let is_of_twelve = has(|item| matches!(item, Item::Hour { of_twelve: true, .. }));
        if is_of_twelve && !has(|item| matches!(item, Item::HalfDay)) {
            return Err("hours of twelve (`h`) need `a` for the half of the day, such as h:mm a".to_owned());
        }
        Ok(Self { source: source.to_owned(), items })
    }

    /// As it was written.
    #[must_use]
    pub fn source(&self) -> &str {
        &self.source
    }

    /// Reads a text. One digit will do for hours where a mark stands behind them; minutes and seconds have two, or one
    /// where the pattern has one letter and a mark stands behind.
    #[must_use]
    pub fn read(&self, text: &str) -> Option<TimeOfDay> {
        let (mut hour, mut minute, mut second, mut nano) = (0, 0, 0, 0);
        let (mut of_twelve, mut afternoon) = (false, None);
        let mut rest = text;
        for (at, item) in self.items.iter().enumerate() {
            // Where digits follow without a mark, those that are left are of what follows.
            let behind: usize = self.items.iter().skip(at + 1).map_while(Item::digits).sum();
            let mut number = |least: usize| {
                let all = rest.bytes().take_while(u8::is_ascii_digit).count();
                let count = if behind > 0 { all.checked_sub(behind)? } else { all.min(2) };
                let (digits, tail) = rest.split_at_checked(count).filter(|_| (least..=2).contains(&count))?;
                rest = tail;
                digits.parse::<u64>().ok()
            };
            match item {
                Item::Hour { width, of_twelve: half } => {
                    hour = number(if behind > 0 { *width } else { 1 })?;
                    of_twelve = *half;
                }
                Item::Minute(width) => minute = number(*width)?,
                Item::Second(width) => second = number(*width)?,
                Item::Fraction(width) => {
                    let count = rest.bytes().take(*width).take_while(u8::is_ascii_digit).count();
                    let (digits, tail) = rest.split_at_checked(count)?;
                    nano = fraction(digits)?;
                    rest = tail;
                }
                Item::HalfDay => {
                    let word: String =
                        rest.chars().take_while(|c| c.is_ascii_alphabetic() || *c == '.').collect();
                    rest = rest.get(word.len()..)?;
                    afternoon = Some(match word.replace('.', "").to_ascii_lowercase().as_str() {
                        "am" | "a" => false,
                        "pm" | "p" => true,
                        _ => return None,
                    });
                }
                Item::Literal(literal) => {
                    // Spaces before am and pm are a matter of taste.
                    rest = match (literal.as_str(), rest.strip_prefix(literal.as_str())) {
                        (_, Some(tail)) => tail,
                        (" ", None) => rest,
                        _ => return None,
                    };
                }
            }
        }
        if of_twelve {
            if !(1..=12).contains(&hour) {
                return None;
            }
            hour = hour % 12 + if afternoon? { 12 } else { 0 };
        }
        rest.is_empty().then(|| TimeOfDay::new(hour, minute, second, nano))?
    }

    /// Writes a time.
    #[must_use]
    pub fn write(&self, time: TimeOfDay) -> String {
        let (all, nano) = (time.0 / SECOND, time.0 % SECOND);
        let (hour, minute, second) = (all / 3600, all / 60 % 60, all % 60);
        let padded = |number: u64, width: usize| format!("{number:0width$}");
        self.items
            .iter()
            .map(|item| match item {
                Item::Hour { width, of_twelve: true } => padded((hour + 11) % 12 + 1, *width),
                Item::Hour { width, .. } => padded(hour, *width),
                Item::Minute(width) => padded(minute, *width),
                Item::Second(width) => padded(second, *width),
                Item::Fraction(width) => format!("{nano:09}").chars().take(*width).collect(),
                Item::HalfDay => if hour < 12 { "AM" } else { "PM" }.to_owned(),
                Item::Literal(literal) => literal.clone(),
            })
            .collect()
    }
}

/// A day with a time, perhaps with its distance from UTC in minutes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Moment {
    /// The day.
    pub date: Date,
    /// The time of day.
    pub time: TimeOfDay,
    /// Minutes east of UTC.
    pub offset: Option<i32>,
}

impl Moment {
    /// Where it stands in time: nanoseconds from the first day; without a distance, as if it were UTC.
    #[must_use]
    pub fn instant(&self) -> i128 {
        let local = i128::from(self.date.number()) * 86_400 * i128::from(SECOND) + i128::from(self.time.0);
        local - i128::from(self.offset.unwrap_or(0)) * 60 * i128::from(SECOND)
    }

    /// Reads ISO 8601: a day, `T` or a space, a time, perhaps `Z` or a distance from UTC. A day alone is midnight.
    #[must_use]
    pub fn iso(text: &str) -> Option<Self> {
        let Some(at) = text.find(['T', 't', ' ']) else {
            return Some(Self { date: Date::iso(text)?, time: TimeOfDay(0), offset: None });
        };
        let date = Date::iso(text.get(..at)?)?;
        let (clock, offset) = split_offset(text.get(at + 1..)?)?;
        Some(Self { date, time: TimeOfDay::iso(clock.trim_end())?, offset })
    }
}

/// A time and what stands behind it: nothing, `Z`, `+01:00`, `+0100`, `+01`; nothing at all when that is no distance.
pub(crate) fn split_offset(text: &str) -> Option<(&str, Option<i32>)> {
    if let Some(clock) = text.strip_suffix(['Z', 'z']) {
        return Some((clock, Some(0)));
    }
    let Some(at) = text.rfind(['+', '-', '\u{2212}']) else { return Some((text, None)) };
    let (clock, distance) = text.split_at_checked(at)?;
    let sign = if distance.starts_with('+') { 1 } else { -1 };
    let digits: String = distance.chars().skip(1).filter(|c| *c != ':').collect();
    if !digits.bytes().all(|b| b.is_ascii_digit()) {
        return None;
    }
    let (hours, minutes): (i32, i32) = match digits.len() {
        2 => (digits.parse().ok()?, 0),
        4 => (digits.get(..2)?.parse().ok()?, digits.get(2..)?.parse().ok()?),
        _ => return None,
    };
    (hours <= 18 && minutes < 60).then_some((clock, Some(sign * (hours * 60 + minutes))))
}

impl std::fmt::Display for Moment {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}T{}{}", self.date, self.time, distance(self.offset))
    }
}

/// A distance from UTC as ISO 8601 writes it.
fn distance(offset: Option<i32>) -> String {
    match offset {
        None => String::new(),
        Some(0) => "Z".to_owned(),
        Some(minutes) => {
            let sign = if minutes < 0 { '-' } else { '+' };
            format!("{sign}{:02}:{:02}", minutes.abs() / 60, minutes.abs() % 60)
        }
    }
}

/// A pattern of days with times: one of a day, then one of a time.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MomentPattern {
    source: String,
    date: DatePattern,
    between: String,
    time: Option<TimePattern>,
}

impl MomentPattern {
    /// Reads a pattern; one without a time reads days alone, at midnight.
    ///
    /// # Errors
    /// When either part is none.
    pub fn new(source: &str) -> Result<Self, String> {
        let mut quoted = false;
        let at = source.char_indices().find(|(_, c)| {
            quoted ^= *c == '\'';
            !quoted && matches!(c, 'H' | 'h' | 'm' | 's' | 'a')
        });
        let told = |fault: PatternFault| fault.to_string();
        let Some((at, _)) = at else {
            let date = DatePattern::new(source).map_err(told)?;
            return Ok(Self { source: source.to_owned(), date, between: String::new(), time: None });
        };
        let (before, time) = source.split_at_checked(at).unwrap_or((source, ""));
        let day = before.trim_end_matches(|c: char| c.is_whitespace() || ",T'".contains(c));
        let between = before.get(day.len()..).unwrap_or_default().replace('\'', "");
        Ok(Self {
            source: source.to_owned(),
            date: DatePattern::new(day).map_err(told)?,
            between,
            time: Some(TimePattern::new(time)?),
        })
    }

    /// The same pattern, with months read by their names in another language.
    #[must_use]
    pub fn in_language(self, months: Option<&Arc<MonthNames>>) -> Self {
        Self { date: self.date.in_language(months), ..self }
    }

    /// As it was written.
    #[must_use]
    pub fn source(&self) -> &str {
        &self.source
    }

    /// Reads a text.
    #[must_use]
    pub fn read(&self, text: &str, today: Date) -> Option<Moment> {
        let day = |text: &str| match self.date.read(text, today) {
            DateReading::Day { date, .. } => Some(date),
            _ => None,
        };
        let Some(pattern) = &self.time else {
            return Some(Moment { date: day(text)?, time: TimeOfDay(0), offset: None });
        };
        // The day ends where the text between stands; it may stand within the day too.
        let ends = text
            .match_indices(self.between.as_str())
            .map(|(at, _)| at)
            .filter(|at| text.is_char_boundary(*at));
        ends.filter_map(|at| {
            let clock = text.get(at + self.between.len()..)?.trim_start();
            let date = day(text.get(..at)?.trim_end())?;
            let whole = pattern.read(clock).map(|time| Moment { date, time, offset: None });
            whole.or_else(|| {
                let (clock, offset) = split_offset(clock)?;
                Some(Moment { date, time: pattern.read(clock.trim_end())?, offset })
            })
        })
        .next()
    }

    /// Whether the text is a day in the form of this pattern.
    #[must_use]
    pub fn reads_day(&self, text: &str, today: Date) -> bool {
        matches!(self.date.read(text, today), DateReading::Day { .. })
    }

    /// Writes a moment, with its distance from UTC behind it where it has one.
    #[must_use]
    pub fn write(&self, moment: &Moment) -> String {
        let time = self.time.as_ref().map(|time| time.write(moment.time)).unwrap_or_default();
        format!("{}{}{time}{}", self.date.write(moment.date), self.between, distance(moment.offset))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn times_and_moments_are_read_as_people_write_them() {
        for (text, wanted) in [
            ("09:30", Some("09:30:00")),
            ("9:30", Some("09:30:00")),
            ("23:59:59.5", Some("23:59:59.5")),
            ("24:00", None),
            ("9:5", None),
            ("9:30:5", None),
            ("9", None),
            ("9:30:", None),
            ("9:30:x", None),
        ] {
            assert_eq!(TimeOfDay::iso(text).map(|time| time.to_string()).as_deref(), wanted, "{text}");
        }
        for (pattern, text, wanted) in [
            ("h:mm a", "9:05 pm", Some("21:05:00")),
            ("h:mm a", "12:05 AM", Some("00:05:00")),
            ("h:mm a", "9:05p.m.", Some("21:05:00")),
            ("h:mm a", "13:05 pm", None),
            ("HH'h'mm", "09h30", Some("09:30:00")),
            ("HHmm", "0930", Some("09:30:00")),
            // No mark says where the hours end.
            ("HHmm", "130", None),
            ("Hmm", "130", Some("01:30:00")),
            ("Hmm", "1430", Some("14:30:00")),
            ("HHmmss", "093005", Some("09:30:05")),
            ("HHmmss", "93005", None),
            ("HHmmssS", "0930057", Some("09:30:05.7")),
            ("hmma", "905pm", Some("21:05:00")),
            ("HH:mm", "9:5", None),
            ("H:m", "9:5", Some("09:05:00")),
        ] {
            let read = TimePattern::new(pattern).unwrap().read(text);
            assert_eq!(read.map(|time| time.to_string()).as_deref(), wanted, "{pattern} {text}");
        }
        for (text, wanted) in [
            ("2024-03-09T09:30:00+01:00", Some("2024-03-09T09:30:00+01:00")),
            ("2024-03-09 09:30Z", Some("2024-03-09T09:30:00Z")),
            ("2024-03-09 09:30 -0530", Some("2024-03-09T09:30:00-05:30")),
            ("2024-03-09", Some("2024-03-09T00:00:00")),
            ("2024-03-09 25:00", None),
            ("2024-03-09T09:30+25:00", None),
        ] {
            assert_eq!(Moment::iso(text).map(|moment| moment.to_string()).as_deref(), wanted, "{text}");
        }
        let today = Date::new(2026, 1, 1).unwrap();
        let pattern = MomentPattern::new("dd/MM/yyyy HH:mm").unwrap();
        let read = |text| pattern.read(text, today).map(|moment| moment.to_string());
        assert_eq!(read("09/03/2024 7:05").as_deref(), Some("2024-03-09T07:05:00"));
        assert_eq!(read("09/03/2024"), None);
        let same = |a: &str, b: &str| Moment::iso(a).unwrap().instant() == Moment::iso(b).unwrap().instant();
        assert!(same("2024-03-09T10:00:00+01:00", "2024-03-09T09:00:00Z"));
    }

    proptest! {
        #[test]
        fn what_is_written_is_read_back(n in 0_u64..86_400, text in "\\PC{0,16}") {
            let time = TimeOfDay(n * SECOND);
            prop_assert_eq!(TimeOfDay::iso(&time.to_string()), Some(time));
            for pattern in ["HH:mm:ss", "h:mm:ss a", "H.m.s"] {
                let pattern = TimePattern::new(pattern).unwrap();
                prop_assert_eq!(pattern.read(&pattern.write(time)), Some(time));
                let _ = pattern.read(&text);
            }
            let moment = Moment { date: Date::new(2024, 2, 29).unwrap(), time, offset: Some(-330) };
            prop_assert_eq!(Moment::iso(&moment.to_string()), Some(moment));
            let _ = (Moment::iso(&text), MomentPattern::new(&text), TimePattern::new(&text), TimeOfDay::iso(&text));
        }
    }
}
