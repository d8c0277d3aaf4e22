//! Date patterns in the notation of Unicode LDML (UTS #35, part 4, "Date Field Symbols"): `dd/MM/yyyy`.

use super::date::Date;
use super::date::days_in_month;
use super::month_names::MonthNames;
use std::sync::Arc;
use thiserror::Error;

/// A pattern that a date can be read and written by.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DatePattern {
    source: String,
    items: Vec<Item>,
    /// The names of months that are read; English ones, when left out.
    months: Option<Arc<MonthNames>>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum Item {
    /// `yyyy`, or `yy` where `two_digits`.
    Year { two_digits: bool },
    /// `M` or `MM`, or `d` or `dd`.
    Number { unit: Unit, width: usize },
    /// `MMM` or, where `full`, `MMMM`.
    MonthName { full: bool },
    /// `EEE` or, where `full`, `EEEE`.
    Weekday { full: bool },
    /// Text between the fields.
    Literal(String),
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Unit {
    Month,
    Day,
}

/// Why a text is no date pattern.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum PatternFault {
    /// A letter that is no field of a date, with a likely one.
    #[error(
        "`{letter}` is not a part of a date; days are `d`, months `M`, years `y`, other letters stand in '…'"
    )]
    Letter {
        /// The letter.
        letter: char,
    },
    /// A field of a width that is not known.
    #[error("`{field}` is not a known width; write {known}")]
    Width {
        /// The field as written.
        field: String,
        /// The widths there are.
        known: &'static str,
    },
    /// A day, month or year is missing, or stands twice.
    #[error("a date pattern needs one day, one month and one year, such as dd/MM/yyyy")]
    Incomplete,
    /// A quote that does not close.
    #[error("a ' opens and does not close")]
    Quote,
}

/// The range of bytes at each place of a date of fixed width, and where year, month and day begin.
pub type FixedPlaces = (Vec<(u8, u8)>, [usize; 3]);

/// What reading a text by a pattern gave.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DateReading {
    /// A day.
    Day {
        /// The day.
        date: Date,
        /// Whether the century was chosen by rule.
        two_digit_year: bool,
    },
    /// The form is right, but there is no such day; `swapped` is the day that it would be with day and
    /// month the other way round.
    NoSuchDay {
        /// The other reading, if there is one.
        swapped: Option<Date>,
    },
    /// There is such a day, but it falls on another weekday than it says.
    OtherWeekday {
        /// The day.
        date: Date,
        /// The weekday that it falls on, in English.
        weekday: &'static str,
    },
    /// Not of this form.
    Other,
}

const MONTHS: [(&str, &str); 12] = [
    ("January", "Jan"),
    ("February", "Feb"),
    ("March", "Mar"),
    ("April", "Apr"),
    ("May", "May"),
    ("June", "Jun"),
    ("July", "Jul"),
    ("August", "Aug"),
    ("September", "Sep"),
    ("October", "Oct"),
    ("November", "Nov"),
    ("December", "Dec"),
];

/// The days of the week from Monday on.
const WEEKDAYS: [&str; 7] = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/// How the names of the months begin.
const MONTH_HEADS: [[u8; 3]; 12] = [
    *b"jan", *b"feb", *b"mar", *b"apr", *b"may", *b"jun", *b"jul", *b"aug", *b"sep", *b"oct", *b"nov",
    *b"dec",
];

impl DatePattern {
    /// The pattern of ISO 8601, `yyyy-MM-dd`.
    #[must_use]
    pub fn iso() -> Self {
        let number = |unit| Item::Number { unit, width: 2 };
        let dash = || Item::Literal("-".to_owned());
        let items =
            vec![Item::Year { two_digits: false }, dash(), number(Unit::Month), dash(), number(Unit::Day)];
        Self { source: "yyyy-MM-dd".to_owned(), items, months: None }
    }

    /// Reads a pattern.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn new(source: &str) -> Result<Self, PatternFault> {
        let mut items = Vec::new();
        let mut rest = source;
        while let Some(letter) = rest.chars().next() {
            if letter == '\'' {
                let (text, behind) = quoted(rest).ok_or(PatternFault::Quote)?;
                push_literal(&mut items, &text);
                rest = behind;
            } else if letter.is_ascii_alphabetic() {
                let end = rest.find(|c| c != letter).unwrap_or(rest.len());
                let (field, behind) = rest.split_at(end);
                items.push(item(letter, field)?);
                rest = behind;
            } else {
                let (text, behind) = rest.split_at(letter.len_utf8());
                push_literal(&mut items, text);
                rest = behind;
            }
        }
        let count = |wanted: fn(&Item) -> bool| items.iter().filter(|item| wanted(item)).count();
        let years = count(|item| matches!(item, Item::Year { .. }));
        let days = count(|item| matches!(item, Item::Number { unit: Unit::Day, .. }));
        let months =
            count(|item| matches!(item, Item::Number { unit: Unit::Month, .. } | Item::MonthName { .. }));
        if (years, months, days) != (1, 1, 1) {
            return Err(PatternFault::Incomplete);
        }
        Ok(Self { source: source.to_owned(), items, months: None })
    }

    /// The same pattern, with months read by their names in another language. What is written stays English.
    #[must_use]
    pub fn in_language(self, months: Option<&Arc<MonthNames>>) -> Self {
        let is_named =
            self.items.iter().any(|item| matches!(item, Item::MonthName { .. } | Item::Weekday { .. }));
        Self { months: months.filter(|_| is_named).cloned(), ..self }
    }

    /// The pattern as it was written.
    #[must_use]
    pub fn source(&self) -> &str {
        &self.source
    }

    /// Whether the other is the same pattern with day and month changed about.
    #[must_use]
    pub fn is_twin_of(&self, other: &Self) -> bool {
        let numeric = self.items.iter().filter(|item| matches!(item, Item::Number { .. })).count() == 2;
        numeric
            && self != other
            && self.items.len() == other.items.len()
            && self.items.iter().zip(&other.items).all(|pair| match pair {
                (Item::Number { unit, .. }, Item::Number { unit: twin, .. }) => unit != twin,
                (mine, theirs) => mine == theirs,
            })
    }

    /// Whether its year has two digits.
    #[must_use]
    pub fn has_short_year(&self) -> bool {
        self.items.iter().any(|item| matches!(item, Item::Year { two_digits: true }))
    }

    /// Whether the day stands before the month.
    #[must_use]
    pub fn is_day_first(&self) -> bool {
        let first = self.items.iter().find_map(|item| match item {
            Item::Number { unit, .. } => Some(*unit),
            Item::MonthName { .. } => Some(Unit::Month),
            _ => None,
        });
        first == Some(Unit::Day)
    }

    /// Reads a text. Days and months take one or two digits where a separator stands beside them, years as
    /// many as the pattern shows, month names their full and their short form in any case; `today` chooses
    /// the century of a two-digit year: within 80 years before and 20 after.
    #[must_use]
    pub fn read(&self, text: &str, today: Date) -> DateReading {
        let Some((year, month, day, two_digit_year, weekday)) = self.fields(text, today) else {
            return DateReading::Other;
        };
        match Date::new(year, month, day) {
            Some(date) if weekday.is_some_and(|weekday| weekday != date.weekday()) => {
                let weekday = WEEKDAYS.get(usize::from(date.weekday())).copied().unwrap_or_default();
                DateReading::OtherWeekday { date, weekday }
            }
            Some(date) => DateReading::Day { date, two_digit_year },
            None if days_in_month(year, month) == 0 => {
                DateReading::NoSuchDay { swapped: Date::new(year, day, month) }
            }
            None => DateReading::NoSuchDay { swapped: None },
        }
    }

    fn fields(&self, text: &str, today: Date) -> Option<(u16, u8, u8, bool, Option<u8>)> {
        let (mut year, mut month, mut day, mut two_digit_year, mut weekday) = (0, 0, 0, false, None);
        let mut rest = text;
        for (i, item) in self.items.iter().enumerate() {
            rest = match item {
                Item::Year { two_digits } => {
                    let (value, behind) = digits(rest, if *two_digits { 2..=2 } else { 4..=4 })?;
                    two_digit_year = *two_digits;
                    year = if *two_digits { century(value, today) } else { value };
                    behind
                }
                Item::Number { unit, .. } => {
                    let (value, behind) = digits(rest, if self.is_apart(i) { 1..=2 } else { 2..=2 })?;
                    let value = u8::try_from(value).ok()?;
                    match unit {
                        Unit::Month => month = value,
                        Unit::Day => day = value,
                    }
                    behind
                }
                Item::MonthName { .. } => {
                    let (value, behind) = match &self.months {
                        Some(months) => months.at_start(rest)?,
                        None => month_name(rest)?,
                    };
                    month = value;
                    behind
                }
                Item::Weekday { .. } => {
                    let (value, behind) = match &self.months {
                        Some(names) => names.weekday_at_start(rest)?,
                        None => weekday_name(rest)?,
                    };
                    weekday = Some(value);
                    behind
                }
                Item::Literal(literal) => after_literal(rest, literal)?,
            };
        }
        rest.is_empty().then_some((year, month, day, two_digit_year, weekday))
    }

    /// Whether no digits of another field touch those of the field at `i`.
    fn is_apart(&self, i: usize) -> bool {
        let digits_at = |i: Option<usize>| {
            matches!(i.and_then(|i| self.items.get(i)), Some(Item::Year { .. } | Item::Number { .. }))
        };
        !digits_at(i.checked_sub(1)) && !digits_at(Some(i + 1))
    }

    /// Writes a date.
    #[must_use]
    pub fn write(&self, date: Date) -> String {
        let name = usize::from(date.month()).checked_sub(1).and_then(|i| MONTHS.get(i)).unwrap_or(&("", ""));
        let mut text = String::new();
        for item in &self.items {
            match item {
                Item::Year { two_digits: true } => text.push_str(&format!("{:02}", date.year() % 100)),
                Item::Year { two_digits: false } => text.push_str(&format!("{:04}", date.year())),
                Item::Number { unit, width } => {
                    let value = if *unit == Unit::Month { date.month() } else { date.day() };
                    text.push_str(&format!("{value:0width$}"));
                }
                Item::MonthName { full } => text.push_str(if *full { name.0 } else { name.1 }),
                Item::Weekday { full } => {
                    let name = WEEKDAYS.get(usize::from(date.weekday())).copied().unwrap_or_default();
                    text.push_str(if *full { name } else { name.get(..3).unwrap_or(name) });
                }
                Item::Literal(literal) => text.push_str(literal),
            }
        }
        text
    }

    /// The form, where it is a day, a short month name in English and a year, with one byte between each.
    #[must_use]
    pub fn named(&self) -> Option<NamedForm> {
        let [
            Item::Number { unit: Unit::Day, width },
            Item::Literal(first),
            Item::MonthName { full: false },
            Item::Literal(second),
            Item::Year { two_digits: false },
        ] = self.items.as_slice()
        else {
            return None;
        };
        let ([first], [second]) = (first.as_bytes(), second.as_bytes()) else { return None };
        self.months.is_none().then_some(NamedForm { day_has_two: *width == 2, between: [*first, *second] })
    }

    /// Where the pattern is of fixed width in ASCII: the range of bytes at each place, and the places where
    /// year, month and day begin. Texts with one-digit days or months are not covered.
    #[must_use]
    pub fn fixed(&self) -> Option<FixedPlaces> {
        let (mut ranges, [mut year, mut month, mut day]) = (Vec::new(), [0; 3]);
        for item in &self.items {
            let width = match item {
                Item::Year { two_digits: false } => {
                    year = ranges.len();
                    4
                }
                Item::Number { unit, .. } => {
                    match unit {
                        Unit::Month => month = ranges.len(),
                        Unit::Day => day = ranges.len(),
                    }
                    2
                }
                Item::Literal(literal) if literal.is_ascii() => {
                    ranges.extend(literal.bytes().map(|byte| (byte, byte)));
                    0
                }
                _ => return None,
            };
            ranges.extend(std::iter::repeat_n((b'0', b'9'), width));
        }
        Some((ranges, [year, month, day]))
    }
}

/// A form of a day, the short English name of its month and a year of four digits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct NamedForm {
    /// Whether days below ten have a nought before them.
    day_has_two: bool,
    /// What stands behind the day and behind the month.
    between: [u8; 2],
}

impl NamedForm {
    /// The day of a text that stands as the form writes it, as year, month and day; nothing where a closer look is needed.
    #[inline]
    #[must_use]
    pub fn read(self, raw: &[u8]) -> Option<(u16, u8, u8)> {
        let digit = |byte: u8| byte.is_ascii_digit().then(|| byte - b'0');
        let (day, rest) = match raw {
            [one, behind, rest @ ..] if *behind == self.between[0] && !self.day_has_two => {
                (digit(*one)?, rest)
            }
            [ten, one, behind, rest @ ..] if *behind == self.between[0] => {
                let ten = digit(*ten).filter(|ten| self.day_has_two || *ten > 0)?;
                (ten * 10 + digit(*one)?, rest)
            }
            _ => return None,
        };
        let (name, rest) = rest.split_first_chunk::<3>()?;
        let [behind, year @ ..] = rest else { return None };
        let year = <&[u8; 4]>::try_from(year).ok().filter(|_| *behind == self.between[1])?;
        let mut number = 0;
        for byte in year {
            number = number * 10 + u16::from(digit(*byte)?);
        }
        let month = (1_u8..).zip(&MONTHS).find(|(_, month)| month.1.as_bytes() == name)?.0;
        Some((number, month, day))
    }
}

fn item(letter: char, field: &str) -> Result<Item, PatternFault> {
    let width = |known| PatternFault::Width { field: field.to_owned(), known };
    match (letter, field.len()) {
        ('y' | 'u', 1 | 4) => Ok(Item::Year { two_digits: false }),
        ('y', 2) => Ok(Item::Year { two_digits: true }),
        ('y' | 'u', _) => Err(width("yyyy or yy")),
        ('M' | 'L', n @ 1..=2) => Ok(Item::Number { unit: Unit::Month, width: n }),
        ('M' | 'L', n @ 3..=4) => Ok(Item::MonthName { full: n == 4 }),
        ('E', n @ 1..=4) => Ok(Item::Weekday { full: n == 4 }),
        ('E', _) => Err(width("EEE or EEEE")),
        ('M' | 'L', _) => Err(width("M, MM, MMM or MMMM")),
        ('d', n @ 1..=2) => Ok(Item::Number { unit: Unit::Day, width: n }),
        ('d', _) => Err(width("d or dd")),
        _ => Err(PatternFault::Letter { letter }),
    }
}

fn push_literal(items: &mut Vec<Item>, text: &str) {
    if let Some(Item::Literal(before)) = items.last_mut() {
        before.push_str(text);
    } else {
        items.push(Item::Literal(text.to_owned()));
    }
}

/// The text between quotes, a doubled quote being one, and what follows.
fn quoted(rest: &str) -> Option<(String, &str)> {
    if let Some(behind) = rest.strip_prefix("''") {
        return Some(("'".to_owned(), behind));
    }
    let mut text = String::new();
    let mut chars = rest.char_indices().skip(1).peekable();
    while let Some((at, c)) = chars.next() {
        if c != '\'' {
            text.push(c);
        } else if chars.next_if(|next| next.1 == '\'').is_some() {
            text.push('\'');
        } else {
            return Some((text, rest.get(at + 1..).unwrap_or_default()));
        }
    }
    None
}

fn digits(text: &str, counts: std::ops::RangeInclusive<usize>) -> Option<(u16, &str)> {
    let found = text.bytes().take(*counts.end()).take_while(u8::is_ascii_digit).count();
    if found < *counts.start() {
        return None;
    }
    let (digits, behind) = text.split_at(found);
    Some((digits.parse().ok()?, behind))
}

/// The month whose English name the text begins with, and what follows.
fn month_name(text: &str) -> Option<(u8, &str)> {
    // The first three letters tell the months apart.
    let head = text.as_bytes().first_chunk::<3>()?.map(|byte| byte.to_ascii_lowercase());
    let at = MONTH_HEADS.iter().position(|known| *known == head)?;
    let ((full, short), number) = (MONTHS.get(at)?, u8::try_from(at + 1).ok()?);
    if let Some(behind) = after_word(text, full) {
        return Some((number, behind));
    }
    // September is also cut to four letters.
    let shorts = [if *short == "Sep" { "Sept" } else { short }, short];
    let behind = shorts.iter().find_map(|short| after_word(text, short))?;
    Some((number, behind.strip_prefix('.').unwrap_or(behind)))
}

/// The weekday, from Monday as nought, whose English name the text begins with, and what follows.
fn weekday_name(text: &str) -> Option<(u8, &str)> {
    let found = (0_u8..).zip(WEEKDAYS).find_map(|(number, full)| {
        // They are cut to three letters; two of them also to four or five.
        let behind =
            [full.len(), 5, 4, 3].iter().find_map(|length| after_word(text, full.get(..*length)?))?;
        Some((number, behind))
    });
    found.map(|(number, behind)| (number, behind.strip_prefix('.').unwrap_or(behind)))
}

/// What follows the word, if the text begins with it and no further letter does.
fn after_word<'a>(text: &'a str, word: &str) -> Option<&'a str> {
    let (head, behind) = text.split_at_checked(word.len())?;
    (head.eq_ignore_ascii_case(word) && !behind.starts_with(char::is_alphabetic)).then_some(behind)
}

/// What follows the literal; a space in it stands for any run of white space.
fn after_literal<'a>(text: &'a str, literal: &str) -> Option<&'a str> {
    let mut rest = text;
    for c in literal.chars() {
        rest = if c == ' ' {
            let behind = rest.trim_start();
            if behind.len() == rest.len() {
                return None;
            }
            behind
        } else {
            rest.strip_prefix(c)?
        };
    }
    Some(rest)
}

fn century(value: u16, today: Date) -> u16 {
    let this = today.year() / 100 * 100 + value;
    if this > today.year() + 20 {
        this - 100
    } else if this + 80 <= today.year() {
        this + 100
    } else {
        this
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn read(pattern: &str, text: &str) -> String {
        match DatePattern::new(pattern).unwrap().read(text, Date::new(2026, 11, 25).unwrap()) {
            DateReading::Day { date, two_digit_year } => {
                format!("{date}{}", if two_digit_year { " *" } else { "" })
            }
            DateReading::NoSuchDay { swapped: Some(date) } => format!("swapped {date}"),
            DateReading::NoSuchDay { swapped: None } => "none".to_owned(),
            DateReading::OtherWeekday { weekday, .. } => weekday.to_owned(),
            DateReading::Other => "-".to_owned(),
        }
    }

    #[test]
    fn texts_are_read_by_the_pattern_and_by_nothing_else() {
        for (pattern, text, wanted) in [
            ("yyyy-MM-dd", "2019-12-31", "2019-12-31"),
            ("yyyy-MM-dd", "2019-2-3", "2019-02-03"),
            ("yyyy-MM-dd", "19-12-31", "-"),
            ("yyyy-MM-dd", "2019-12-31x", "-"),
            ("yyyy-MM-dd", "2021-06-31", "none"),
            ("yyyy-MM-dd", "2021-13-01", "swapped 2021-01-13"),
            ("yyyy-MM-dd", "0000-01-01", "none"),
            ("dd/MM/yyyy", "29/02/2023", "none"),
            ("dd/MM/yyyy", "29/02/2024", "2024-02-29"),
            ("dd/MM/yyyy", "03/25/2021", "swapped 2021-03-25"),
            ("dd/MM/yyyy", "3/4/2021", "2021-04-03"),
            ("dd/MM/yyyy", "03.04.2021", "-"),
            ("ddMMyyyy", "03042021", "2021-04-03"),
            ("ddMMyyyy", "3042021", "-"),
            ("d MMM yyyy", "3 sept. 2021", "2021-09-03"),
            ("d MMMM yyyy", "3  September 2021", "2021-09-03"),
            ("EEEE d MMMM yyyy", "friday 3 September 2021", "2021-09-03"),
            ("EEEE d MMMM yyyy", "Monday 3 September 2021", "Friday"),
            ("EEE, dd.MM.yyyy", "Fri., 03.09.2021", "2021-09-03"),
            ("EEE dd.MM.yyyy", "Fri. 03.09.2021", "2021-09-03"),
            ("EEE dd.MM.yyyy", "Thurs 29.02.2024", "2024-02-29"),
            ("EEE dd.MM.yyyy", "Someday 29.02.2024", "-"),
            ("d MMM yyyy", "3 Marchish 2021", "-"),
            ("d. MMMM yyyy", "3. May 2021", "2021-05-03"),
            ("dd/MM/yy", "31/12/46", "2046-12-31 *"),
            ("dd/MM/yy", "31/12/47", "1947-12-31 *"),
            ("d 'of' MMMM, yyyy", "3 of May, 2021", "2021-05-03"),
            ("yyyy'''y'", "2021", "incomplete"),
        ] {
            if wanted == "incomplete" {
                assert_eq!(DatePattern::new(pattern), Err(PatternFault::Incomplete));
            } else {
                assert_eq!(read(pattern, text), wanted, "{pattern} {text}");
            }
        }
        for (pattern, fault) in [
            ("DD/MM/YYYY", PatternFault::Letter { letter: 'D' }),
            ("dd/mm/yyyy", PatternFault::Letter { letter: 'm' }),
            ("ddd/MM/yyyy", PatternFault::Width { field: "ddd".to_owned(), known: "d or dd" }),
            ("MM/yyyy", PatternFault::Incomplete),
            ("d 'of MMMM yyyy", PatternFault::Quote),
        ] {
            assert_eq!(DatePattern::new(pattern), Err(fault), "{pattern}");
        }
        let twin = |a, b| DatePattern::new(a).unwrap().is_twin_of(&DatePattern::new(b).unwrap());
        assert!(
            twin("dd/MM/yyyy", "M/d/yyyy")
                && !twin("dd/MM/yyyy", "MM.dd.yyyy")
                && !twin("d MMM yyyy", "d MMM yyyy")
        );
    }

    proptest! {
        #[test]
        fn what_is_written_is_read_back(
            packed in (1_u16..=9999, 1_u8..=12, 1_u8..=31),
            pattern in prop::sample::select(vec![
                "yyyy-MM-dd", "d/M/yyyy", "MM/dd/yyyy", "ddMMyyyy", "d MMM yyyy", "MMMM d, yyyy", "yyyyMMdd", "dd.MM.yyyy",
            ]),
        ) {
            let Some(date) = Date::new(packed.0, packed.1, packed.2) else { return Ok(()) };
            let pattern = DatePattern::new(pattern).unwrap();
            let text = pattern.write(date);
            let read = pattern.read(&text, Date::new(2026, 1, 1).unwrap());
            prop_assert_eq!(read, DateReading::Day { date, two_digit_year: false });
        }

        #[test]
        fn no_text_makes_the_reader_panic(pattern in "[dMyE/' .]{0,12}|\\PC{0,8}", text in "\\PC{0,14}|[0-9/. ]{0,12}") {
            if let Ok(pattern) = DatePattern::new(&pattern) {
                let _ = pattern.read(&text, Date::new(2026, 1, 1).unwrap());
            }
        }
    }
}
