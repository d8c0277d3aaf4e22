//! The names of months in the languages of the Unicode CLDR: full and short, as they stand in a date and alone.

use icu_calendar::{Date, Gregorian};
use icu_datetime::fieldsets::enums::DateFieldSet;
use icu_datetime::pattern::{DateTimePattern, FixedCalendarDateTimeNames};
use icu_locale_core::Locale;
use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;
use writeable::TryWriteable;

/// The forms in which CLDR has the names: within a date and alone, full and short.
const FORMS: [&str; 4] = ["MMMM", "LLLL", "MMM", "LLL"];

/// Likewise of the days of the week.
const WEEKDAY_FORMS: [&str; 4] = ["EEEE", "cccc", "EEE", "ccc"];

/// The names of the months of one language, and those of its weekdays.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MonthNames {
    /// Every word for a month, folded, the longest first.
    words: Vec<(String, u8)>,
    /// Likewise for a day of the week, Monday being 0.
    weekdays: Vec<(String, u8)>,
}

impl MonthNames {
    /// Those of a language, by its BCP 47 tag; nothing where the CLDR has none.
    #[must_use]
    pub fn of(language: &str) -> Option<Self> {
        let locale: Locale = language.parse().ok()?;
        let words = |forms: [&str; 4], days: Vec<(u8, u8, u8)>| {
            let mut words: Vec<(String, u8)> = Vec::new();
            for form in forms {
                let pattern: DateTimePattern = form.parse().ok()?;
                // It holds one form of the names.
                let mut names =
                    FixedCalendarDateTimeNames::<Gregorian, DateFieldSet>::try_new((&locale).into()).ok()?;
                let format = names.include_for_pattern(&pattern).ok()?;
                for (month, day, number) in &days {
                    let date = Date::try_new_gregorian(2024, *month, *day).ok()?;
                    let word: String = fold(&format.format(&date).try_write_to_string().ok()?).collect();
                    words.push((word.trim_end_matches('.').to_owned(), *number));
                }
            }
            words.retain(|word| !word.0.is_empty());
            words.sort_by(|one, other| other.0.len().cmp(&one.0.len()).then_with(|| one.cmp(other)));
            words.dedup();
            Some(words)
        };
        let months = words(FORMS, (1..=12).map(|month| (month, 1, month)).collect())?;
        // Of a language that it does not know, the CLDR gives numbers: M01.
        let is_known = months.iter().all(|(word, month)| *word != format!("m{month:02}"));
        // January 2024 began on a Monday.
        let weekdays =
            words(WEEKDAY_FORMS, (1..=7).map(|day| (1, day, day - 1)).collect()).unwrap_or_default();
        is_known.then_some(Self { words: months, weekdays })
    }

    /// The month whose name the text begins with, in any case, with or without accents and full stop; and what
    /// follows.
    #[must_use]
    pub fn at_start<'a>(&self, text: &'a str) -> Option<(u8, &'a str)> {
        at_start(&self.words, text)
    }

    /// The weekday, Monday being 0, whose name the text begins with, and what follows.
    #[must_use]
    pub fn weekday_at_start<'a>(&self, text: &'a str) -> Option<(u8, &'a str)> {
        at_start(&self.weekdays, text)
    }
}

fn at_start<'a>(words: &[(String, u8)], text: &'a str) -> Option<(u8, &'a str)> {
    words.iter().find_map(|(word, number)| {
        let behind = after(text, word)?;
        let behind = behind.strip_prefix('.').unwrap_or(behind);
        (!behind.starts_with(char::is_alphabetic)).then_some((*number, behind))
    })
}

/// In lower case and without accents.
fn fold(text: &str) -> impl Iterator<Item = char> + '_ {
    text.nfd().filter(|c| !is_combining_mark(*c)).flat_map(char::to_lowercase)
}

/// What follows a folded word, if the text begins with it.
fn after<'a>(text: &'a str, word: &str) -> Option<&'a str> {
    let mut wanted = word.chars();
    let mut rest = text;
    while !wanted.as_str().is_empty() {
        let c = rest.chars().next()?;
        let letter = rest.split_at_checked(c.len_utf8())?;
        for folded in fold(letter.0) {
            if wanted.next() != Some(folded) {
                return None;
            }
        }
        rest = letter.1;
    }
    // Accents that stand behind their letter belong to it.
    Some(rest.trim_start_matches(is_combining_mark))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn weekdays_are_known_too() {
        for (language, text, day) in [
            ("de", "Montag", 0),
            ("de", "Mo.", 0),
            ("fr", "dimanche", 6),
            ("es", "miercoles", 2),
            ("pl", "piątek", 4),
        ] {
            let found = MonthNames::of(language).unwrap().weekday_at_start(text).map(|found| found.0);
            assert_eq!(found, Some(day), "{language} {text}");
        }
    }

    #[test]
    fn months_are_known_in_many_languages() {
        for (language, text, month) in [
            ("de", "März 2024", 3),
            ("de", "MARZ 2024", 3),
            ("de", "Dez. 2024", 12),
            ("fr", "février", 2),
            ("fr", "fevr. 2024", 2),
            ("fr", "fe\u{301}vrier", 2),
            ("fr", "juil.", 7),
            ("pl", "marca", 3),
            ("pl", "marzec", 3),
            ("es", "septiembre", 9),
            ("it", "gennaio", 1),
            ("pt", "março", 3),
            ("nl", "mei", 5),
            ("sv", "oktober", 10),
            ("ru", "июля 2020", 7),
            ("ru", "июль", 7),
            ("el", "Μαΐου", 5),
            ("tr", "Ağustos", 8),
            ("cs", "září", 9),
            ("ja", "12月", 12),
            ("en-GB", "Sept 2020", 9),
        ] {
            let names = MonthNames::of(language).unwrap_or_else(|| panic!("{language}"));
            assert_eq!(names.at_start(text).map(|found| found.0), Some(month), "{language} {text}");
        }
        let german = MonthNames::of("de").unwrap();
        for text in ["Marzipan", "march", "", "12", "Ma"] {
            assert_eq!(german.at_start(text), None, "{text}");
        }
        assert!(["xx", "", "no language", "zz-ZZ"].iter().all(|language| MonthNames::of(language).is_none()));
    }
}
