//! The names of months in the languages of the Unicode CLDR: full and short, as they stand in a date and alone.

use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;

/// A line for each language: its tag, its months, its weekdays. `crates/core/data/month-names` makes it.
const TABLE: &str = include_str!("../../data/month-names.tsv");

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
        let mut tag = language.replace('_', "-").to_ascii_lowercase();
        let is_subtag = |part: &str| {
            (1..=8).contains(&part.len()) && part.bytes().all(|byte| byte.is_ascii_alphanumeric())
        };
        if !tag.split('-').all(is_subtag) {
            return None;
        }
        // What the CLDR does not have apart is that of the shorter tag (RFC 4647, 3.4).
        loop {
            if let Some(found) = Self::listed(&tag) {
                return Some(found);
            }
            tag.truncate(tag.rfind('-')?);
        }
    }

    /// The languages, without regions, in which each of these words is the name of a month, by their tags.
    #[must_use]
    pub fn languages_of(words: &[&str]) -> Vec<&'static str> {
        let tags = TABLE.lines().filter_map(|line| line.split_once('\t')).map(|(tag, _)| tag);
        let has_all = |tag: &&str| {
            let names = Self::listed(tag);
            names.is_some_and(|names| {
                words.iter().all(|word| names.at_start(word).is_some_and(|(_, rest)| rest.is_empty()))
            })
        };
        tags.filter(|tag| !tag.contains('-')).filter(has_all).collect()
    }

    /// The names that stand in the table under just this tag.
    fn listed(tag: &str) -> Option<Self> {
        let of_tag = |line: &'static str| line.strip_prefix(tag)?.strip_prefix('\t');
        let (months, weekdays) = TABLE.lines().find_map(of_tag)?.split_once('\t')?;
        let words = |list: &str| {
            let word = |word: &str| {
                let (word, number) = word.split_once('=')?;
                Some((word.to_owned(), number.parse().ok()?))
            };
            list.split('|').filter_map(word).collect()
        };
        Some(Self { words: words(months), weekdays: words(weekdays) })
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
