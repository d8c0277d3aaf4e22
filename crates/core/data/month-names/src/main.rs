//! Prints the names of months and weekdays in every language, folded, a line each: the tag, the months, the weekdays.

use icu_calendar::{Date, Gregorian};
use icu_datetime::fieldsets::enums::DateFieldSet;
use icu_datetime::pattern::{DateTimePattern, FixedCalendarDateTimeNames};
use icu_locale_core::Locale;
use std::collections::BTreeMap;
use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;
use writeable::TryWriteable;

/// The forms in which CLDR has the names: within a date and alone, full and short.
const FORMS: [&str; 4] = ["MMMM", "LLLL", "MMM", "LLL"];
/// Likewise of the days of the week.
const WEEKDAY_FORMS: [&str; 4] = ["EEEE", "cccc", "EEE", "ccc"];

fn fold(text: &str) -> String {
    text.nfd().filter(|c| !is_combining_mark(*c)).flat_map(char::to_lowercase).collect()
}

fn words(locale: &Locale, forms: [&str; 4], days: &[(u8, u8, u8)]) -> Option<Vec<(String, u8)>> {
    let mut words: Vec<(String, u8)> = Vec::new();
    for form in forms {
        let pattern: DateTimePattern = form.parse().ok()?;
        // It holds one form of the names.
        let mut names = FixedCalendarDateTimeNames::<Gregorian, DateFieldSet>::try_new(locale.into()).ok()?;
        let format = names.include_for_pattern(&pattern).ok()?;
        for (month, day, number) in days {
            let date = Date::try_new_gregorian(2024, *month, *day).ok()?;
            let word = fold(&format.format(&date).try_write_to_string().ok()?);
            words.push((word.trim_end_matches('.').to_owned(), *number));
        }
    }
    words.retain(|word| !word.0.is_empty());
    words.sort_by(|one, other| other.0.len().cmp(&one.0.len()).then_with(|| one.cmp(other)));
    words.dedup();
    Some(words)
}

fn line(tag: &str) -> Option<String> {
    let locale: Locale = tag.parse().ok()?;
    let months: Vec<_> = (1..=12).map(|month| (month, 1, month)).collect();
    // January 2024 began on a Monday.
    let days: Vec<_> = (1..=7).map(|day| (1, day, day - 1)).collect();
    let months = words(&locale, FORMS, &months)?;
    // Of a language that it does not know, the CLDR gives numbers: M01.
    if months.iter().any(|(word, month)| *word == format!("m{month:02}")) {
        return None;
    }
    let days = words(&locale, WEEKDAY_FORMS, &days).unwrap_or_default();
    let joined = |words: Vec<(String, u8)>| {
        words.iter().map(|(word, number)| format!("{word}={number}")).collect::<Vec<_>>().join("|")
    };
    Some(format!("{}\t{}", joined(months), joined(days)))
}

fn main() {
    let mut lines: BTreeMap<String, String> = BTreeMap::new();
    for tag in std::io::stdin().lines().map_while(Result::ok) {
        if let Some(line) = line(&tag) {
            lines.insert(tag.to_lowercase(), line);
        }
    }
    println!("# Names of months and weekdays of the Unicode CLDR 49, folded. Made by `month-names`; do not edit.");
    for (tag, line) in &lines {
        // What a shorter tag gives already is not said again.
        let shorter = (0..tag.len()).rev().filter(|at| tag[*at..].starts_with('-')).find_map(|at| lines.get(&tag[..at]));
        if shorter != Some(line) {
            println!("{tag}\t{line}");
        }
    }
}
