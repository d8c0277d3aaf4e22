//! How alike two words are.

use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;

/// From here on a word is near enough to be proposed.
pub(super) const NEAR: f64 = 0.72;

/// How alike two words are, case aside: 1 for the same, 0 for nothing in common. Slips of one or two letters
/// and a shared beginning count most.
#[must_use]
pub fn likeness(one: &str, other: &str) -> f64 {
    let (one, other) = (shortened(one), shortened(other));
    likeness_of_small(&one, &other, one.chars().count().min(other.chars().count()))
}

fn likeness_of_small(one: &str, other: &str, letters_of_shorter: usize) -> f64 {
    let edits = strsim::normalized_damerau_levenshtein(one, other);
    // Short codes share letters by chance: there only slips count.
    if letters_of_shorter < 4 {
        return edits;
    }
    edits.max(strsim::jaro_winkler(one, other) - 0.12)
}

/// The thing whose word is most like the text, if any is near enough; the first of equals.
///
/// ```
/// use tidy_gate_core::likeness::nearest;
/// assert_eq!(nearest("grith", [("girth", 0), ("site", 1)]), Some(0));
/// ```
pub fn nearest<'a, T>(text: &str, words: impl IntoIterator<Item = (&'a str, T)>) -> Option<T> {
    let mut best: Option<(f64, T)> = None;
    let wanted = shortened(text);
    for (word, thing) in words {
        if let Some(found) = near(&wanted, &word.to_lowercase())
            && best.as_ref().is_none_or(|(before, _)| found > *before)
        {
            best = Some((found, thing));
        }
    }
    best.map(|(_, thing)| thing)
}

/// As much of a text as is likened, without regard to case.
pub(super) fn shortened(text: &str) -> String {
    text.chars().take(64).collect::<String>().to_lowercase()
}

/// How alike two words in small letters are, if that is near enough to propose one for the other.
pub(super) fn near(one: &str, other: &str) -> Option<f64> {
    let (letters, others) = (one.chars().count(), other.chars().count());
    let alike = likeness_of_small(one, other, letters.min(others));
    // In a code another letter makes another code: there one may be missing, or two have changed places.
    if letters.min(others) < 4 {
        let is_near = if letters == others {
            letters > 0 && (is_slip(one, other) || one == other)
        } else {
            letters.min(others) > 0 && letters.max(others) > 2
        };
        // One slip of the longer word's letters is as far as it goes.
        #[allow(clippy::cast_precision_loss, reason = "lengths of words")]
        let least = 1.0 - 1.01 / letters.max(others).max(1) as f64;
        return Some(alike).filter(|alike| is_near && *alike >= least);
    }
    Some(alike).filter(|alike| *alike >= NEAR)
}

/// Whether two keys may be the same but for a slip that cannot make another key of one: case, spaces, leading zeros, or
/// two letters side by side the wrong way round.
#[must_use]
pub fn is_slip(one: &str, other: &str) -> bool {
    if one == other {
        return false;
    }
    let form = slip_form(one);
    slip_forms(other).any(|other| other == form)
}

/// A key without what slips of case, spaces and leading zeros change.
pub(crate) fn slip_form(text: &str) -> String {
    let letters = text.chars().filter(|c| !c.is_whitespace()).flat_map(char::to_lowercase);
    let mut form = String::with_capacity(text.len());
    let mut letters = letters.peekable();
    while let Some(c) = letters.next() {
        let is_leading = form.chars().next_back().is_none_or(|before| !before.is_ascii_digit());
        let before_digit = letters.peek().is_some_and(char::is_ascii_digit);
        if !(c == '0' && is_leading && before_digit) {
            form.push(c);
        }
    }
    form
}

/// The forms of all keys from which a text may differ by a slip: its own, and those with two letters side by side
/// exchanged. Beyond 64 letters nothing is exchanged.
pub(crate) fn slip_forms(text: &str) -> impl Iterator<Item = String> {
    let form = slip_form(text);
    let letters: Vec<char> = form.chars().collect();
    let pairs = letters.len().saturating_sub(1).min(63);
    let exchanged = (0..pairs).map(move |at| {
        let mut letters = letters.clone();
        letters.swap(at, at + 1);
        letters.into_iter().collect()
    });
    std::iter::once(form).chain(exchanged)
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
pub(super) const NAMED: f64 = 0.84;

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
