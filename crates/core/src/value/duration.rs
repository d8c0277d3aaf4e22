//! Lengths of time: as a clock counts them, as ISO 8601 writes them, or as numbers with a unit.

use super::fixed::Fixed;
use super::number::Number;
use std::cmp::Ordering;

/// A length of time: months, whose length nobody can tell in days, and nanoseconds. A day has 24 hours, a year 12 months
/// (W3C XML Schema 1.1 part 2, 3.3.6).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Duration {
    months: u64,
    nanos: u128,
}

const SECOND: u128 = 1_000_000_000;
const MINUTE: u128 = 60 * SECOND;
const HOUR: u128 = 60 * MINUTE;
const DAY: u128 = 24 * HOUR;
/// A month of the Gregorian calendar on average: 146,097 days are 4,800 months.
const MONTH: u128 = DAY * 146_097 / 4_800;
/// No length of time is longer, in any of its parts.
const MOST: u128 = 1_000_000_000;

/// What a number without a unit counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DurationUnit {
    /// Seconds.
    Second,
    /// Minutes.
    Minute,
    /// Hours.
    Hour,
    /// Days of 24 hours.
    Day,
    /// Weeks of seven days.
    Week,
    /// Months.
    Month,
    /// Years of twelve months.
    Year,
}

/// The words for each unit, in English, beside their plurals in `s`; the first is its name in a record schema.
const UNITS: [(DurationUnit, &[&str]); 7] = [
    (DurationUnit::Second, &["s", "sec", "second"]),
    (DurationUnit::Minute, &["min", "minute", "m"]),
    (DurationUnit::Hour, &["h", "hour", "hr"]),
    (DurationUnit::Day, &["d", "day"]),
    (DurationUnit::Week, &["w", "week", "wk"]),
    (DurationUnit::Month, &["month", "mo"]),
    (DurationUnit::Year, &["y", "year", "yr"]),
];

impl DurationUnit {
    /// The names of all units, as a record schema states them.
    pub fn names() -> impl Iterator<Item = &'static str> {
        UNITS.iter().filter_map(|(_, words)| words.first().copied())
    }

    /// The unit of this name.
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        UNITS.iter().find(|(_, words)| words.first() == Some(&name)).map(|unit| unit.0)
    }

    /// The unit that a word of a cell means.
    fn of_word(word: &str) -> Option<Self> {
        let word = word.trim().trim_end_matches('.').to_lowercase();
        let is_it = |known: &str| word == known || known.len() > 1 && word.strip_suffix('s') == Some(known);
        UNITS.iter().find(|(_, words)| words.iter().any(|known| is_it(known))).map(|unit| unit.0)
    }

    /// One of it.
    const fn one(self) -> Duration {
        let (months, nanos) = match self {
            Self::Second => (0, SECOND),
            Self::Minute => (0, MINUTE),
            Self::Hour => (0, HOUR),
            Self::Day => (0, DAY),
            Self::Week => (0, 7 * DAY),
            Self::Month => (1, 0),
            Self::Year => (12, 0),
        };
        Duration { months, nanos }
    }
}

impl Duration {
    /// Reads what is the same everywhere: `2:30` and `2:30:00` as hours, minutes and seconds, and ISO 8601 (4.4.3.2,
    /// the format with designators; also weeks).
    ///
    /// ```
    /// use tidy_gate_core::value::Duration;
    /// assert_eq!(Duration::read("PT2H30M"), Duration::read("2:30"));
    /// assert_eq!(Duration::read("soon"), None);
    /// ```
    #[must_use]
    pub fn read(text: &str) -> Option<Self> {
        if text.starts_with(['P', 'p']) { Self::iso(text) } else { Self::clock(text) }
    }

    /// Reads numbers with units, such as `90 min` or `1 h 30 min`; a number alone counts in `unit`.
    #[must_use]
    pub fn in_unit(text: &str, unit: DurationUnit) -> Option<Self> {
        if Number::decimal(text).is_some() {
            return unit.one().times(text);
        }
        let mut rest = text;
        let mut sum = Self { months: 0, nanos: 0 };
        while !rest.is_empty() {
            let end = rest.find(|c: char| !c.is_ascii_digit() && c != '.')?;
            let (number, behind) = rest.split_at(end);
            let behind = behind.trim_start();
            let end = behind.find(|c: char| c.is_ascii_digit()).unwrap_or(behind.len());
            let (word, next) = behind.split_at(end);
            let one = DurationUnit::of_word(word)?.one().times(number)?;
            sum = Self { months: sum.months + one.months, nanos: sum.nanos + one.nanos };
            rest = next;
        }
        (!text.is_empty()).then_some(sum)
    }

    /// Hours, minutes and perhaps seconds with decimals; hours may be more than a day has.
    fn clock(text: &str) -> Option<Self> {
        let mut parts = text.split(':');
        let (hours, minutes, seconds) = (parts.next()?, parts.next()?, parts.next());
        let whole = |part: &str, most: usize| {
            let fits = (1..=most).contains(&part.len()) && part.bytes().all(|byte| byte.is_ascii_digit());
            fits.then(|| part.parse::<u128>().ok())?
        };
        let sixty = |part: &str| whole(part, 2).filter(|count| part.len() == 2 && *count < 60);
        let nanos = match seconds {
            None => 0,
            Some(text) => {
                sixty(text.split_once('.').map_or(text, |parts| parts.0))?;
                DurationUnit::Second.one().times(text)?.nanos
            }
        };
        let all = whole(hours, 9)? * HOUR + sixty(minutes)? * MINUTE + nanos;
        parts.next().is_none().then_some(Self { months: 0, nanos: all })
    }

    /// `PnYnMnDTnHnMnS` or `PnW`; the last part may have decimals, if it is of days or less.
    fn iso(text: &str) -> Option<Self> {
        let upper = text.to_ascii_uppercase();
        let (day, time) = match upper.strip_prefix('P')?.split_once('T') {
            Some((_, "")) => return None,
            Some((day, time)) => (day, time),
            None => (upper.strip_prefix('P')?, ""),
        };
        let mut sum = Self { months: 0, nanos: 0 };
        let (mut seen, mut is_last) = (false, false);
        for (part, units) in [
            (
                day,
                &[
                    ('Y', DurationUnit::Year),
                    ('M', DurationUnit::Month),
                    ('W', DurationUnit::Week),
                    ('D', DurationUnit::Day),
                ][..],
            ),
            (time, &[('H', DurationUnit::Hour), ('M', DurationUnit::Minute), ('S', DurationUnit::Second)]),
        ] {
            let mut rest = part;
            for (letter, unit) in units {
                let Some((number, next)) = rest.split_once(*letter) else { continue };
                let is_number = !number.is_empty()
                    && number.bytes().all(|byte| byte.is_ascii_digit() || b".,".contains(&byte));
                if !is_number || is_last {
                    return None;
                }
                is_last = number.contains(['.', ',']);
                let one = unit.one().times(&number.replace(',', "."))?;
                sum = Self { months: sum.months + one.months, nanos: sum.nanos + one.nanos };
                (rest, seen) = (next, true);
            }
            if !rest.is_empty() {
                return None;
            }
        }
        seen.then_some(sum)
    }

    /// So many times as long; of months only whole ones, and of a number at most nine digits behind its point.
    fn times(self, number: &str) -> Option<Self> {
        let number =
            Number::decimal(number).as_ref().and_then(Fixed::of).filter(|number| !number.is_negative())?;
        let tens = 10_u128.checked_pow(number.after()).filter(|_| number.after() <= 9)?;
        let count = number.digits().unsigned_abs();
        if count / tens > MOST {
            return None;
        }
        // Half a year is six months; half a month is no length.
        let months = count * u128::from(self.months);
        let months = u64::try_from(months / tens).ok().filter(|_| months % tens == 0)?;
        // By parts: the whole of them has more digits than can be held.
        let nanos = self.nanos * (count / tens) + self.nanos * (count % tens) / tens;
        Some(Self { months, nanos })
    }

    /// How long it is: nanoseconds, with months of average length.
    fn length(self) -> u128 {
        u128::from(self.months) * MONTH + self.nanos
    }

    /// The length in seconds, as conditions see it: whole ones and billionths.
    #[must_use]
    pub fn seconds(self) -> String {
        let nanos = self.length();
        let text = format!("{}.{:09}", nanos / SECOND, nanos % SECOND);
        text.trim_end_matches('0').trim_end_matches('.').to_owned()
    }
}

/// By length; months have their average one, so that equal ones compare as equal however they are written.
impl Ord for Duration {
    fn cmp(&self, other: &Self) -> Ordering {
        self.length().cmp(&other.length()).then(self.months.cmp(&other.months))
    }
}

impl PartialOrd for Duration {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

/// As ISO 8601 writes it, in the canonical form of XML Schema: `P1Y6M`, `P1DT2H30M`, `PT0S`.
impl std::fmt::Display for Duration {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("P")?;
        let counts = [
            (u128::from(self.months / 12), 'Y'),
            (u128::from(self.months % 12), 'M'),
            (self.nanos / DAY, 'D'),
        ];
        for (count, letter) in counts.into_iter().filter(|count| count.0 > 0) {
            write!(f, "{count}{letter}")?;
        }
        let rest = self.nanos % DAY;
        if rest > 0 {
            f.write_str("T")?;
            for (count, letter) in [(rest / HOUR, 'H'), (rest / MINUTE % 60, 'M')] {
                if count > 0 {
                    write!(f, "{count}{letter}")?;
                }
            }
            let (seconds, nanos) = (rest / SECOND % 60, rest % SECOND);
            if nanos > 0 {
                write!(f, "{seconds}.{}S", format!("{nanos:09}").trim_end_matches('0'))?;
            } else if seconds > 0 {
                write!(f, "{seconds}S")?;
            }
        } else if self.months == 0 && self.nanos == 0 {
            f.write_str("T0S")?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn lengths_of_time_are_read_as_they_are_written() {
        for (text, wanted) in [
            ("2:30", Some("PT2H30M")),
            ("02:30:00", Some("PT2H30M")),
            ("26:30", Some("P1DT2H30M")),
            ("0:00:01.5", Some("PT1.5S")),
            ("PT150M", Some("PT2H30M")),
            ("pt2h30m", Some("PT2H30M")),
            ("P1Y6M", Some("P1Y6M")),
            ("P18M", Some("P1Y6M")),
            ("P2W", Some("P14D")),
            ("P0.5Y", Some("P6M")),
            ("PT0,5H", Some("PT30M")),
            ("PT0S", Some("PT0S")),
            ("P0D", Some("PT0S")),
            ("2:60", None),
            ("2:3", None),
            ("2", None),
            ("-2:30", None),
            ("-PT2H", None),
            ("P", None),
            ("PT", None),
            ("P1DT", None),
            ("PT2M1H", None),
            ("P0.5M", None),
            ("P0.3Y", None),
            ("PT1.5H30M", None),
            ("2:30:00:00", None),
            ("P99999999999Y", None),
        ] {
            assert_eq!(Duration::read(text).map(|length| length.to_string()).as_deref(), wanted, "{text}");
        }
    }

    #[test]
    fn numbers_count_in_a_unit() {
        for (text, wanted) in [
            ("90", Some("PT1H30M")),
            ("90 min", Some("PT1H30M")),
            ("1.5 h", Some("PT1H30M")),
            ("1 h 30 min", Some("PT1H30M")),
            ("1h30m", Some("PT1H30M")),
            ("2 hours", Some("PT2H")),
            ("45 Sec.", Some("PT45S")),
            ("10 years", Some("P10Y")),
            ("1.5 years", Some("P1Y6M")),
            ("0", Some("PT0S")),
            ("-90", None),
            ("1.5 months", None),
            ("90 apples", None),
            ("min", None),
            ("90 min x", None),
            ("", None),
        ] {
            let read = Duration::in_unit(text, DurationUnit::Minute).map(|length| length.to_string());
            assert_eq!(read.as_deref(), wanted, "{text}");
        }
    }

    proptest! {
        #[test]
        fn what_is_written_is_read_back_and_ordered_by_length(
            one in (0_u64..5_000, 0_u128..10_u128.pow(18)),
            other in (0_u64..5_000, 0_u128..10_u128.pow(18)),
        ) {
            let of = |(months, nanos): (u64, u128)| Duration { months, nanos };
            prop_assert_eq!(Duration::read(&of(one).to_string()), Some(of(one)));
            prop_assert_eq!(of(one).cmp(&of(other)) == Ordering::Equal, one == other);
            prop_assert!(of(one).max(of(other)).length() >= of(one).length());
        }

        #[test]
        fn any_text_is_read_or_not(text in "[PTYMWDHS0-9.:, a-z-]{0,16}") {
            let _ = (Duration::read(&text), Duration::in_unit(&text, DurationUnit::Hour));
        }
    }
}
