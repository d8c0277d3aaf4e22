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

/// The names of the months of one language.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MonthNames {
    /// Every word for a month, folded, the longest first.
    words: Vec<(String, u8)>,
}

impl MonthNames {
    /// Those of a language, by its BCP 47 tag; nothing where the CLDR has none.
    #[must_use]
    pub fn of(language: &str) -> Option<Self> {
        let locale: Locale = language.parse().ok()?;
        let mut words: Vec<(String, u8)> = Vec::new();
        for form in FORMS {
            let pattern: DateTimePattern = form.parse().ok()?;
            // It holds one form of the names.
            let mut names =
                FixedCalendarDateTimeNames::<Gregorian, DateFieldSet>::try_new((&locale).into()).ok()?;
            let format = names.include_for_pattern(&pattern).ok()?;
            for month in 1..=12 {
                let date = Date::try_new_gregorian(2024, month, 1).ok()?;
                let word: String = fold(&format.format(&date).try_write_to_string().ok()?).collect();
                words.push((word.trim_end_matches('.').to_owned(), month));
            }
        }
        // Of a language that it does not know, the CLDR gives numbers: M01.
        let is_known = words.iter().all(|(word, month)| *word != format!("m{month:02}"));
        words.retain(|word| !word.0.is_empty());
        words.sort_by(|one, other| other.0.len().cmp(&one.0.len()).then_with(|| one.cmp(other)));
        words.dedup();
        is_known.then_some(Self { words })
    }

    /// The month whose name the text begins with, in any case, with or without accents and full stop; and what
    /// follows.
    #[must_use]
    pub fn at_start<'a>(&self, text: &'a str) -> Option<(u8, &'a str)> {
        self.words.iter().find_map(|(word, month)| {
            let behind = after(text, word)?;
            let behind = behind.strip_prefix('.').unwrap_or(behind);
            (!behind.starts_with(char::is_alphabetic)).then_some((*month, behind))
        })
    }
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
