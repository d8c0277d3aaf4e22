//! How alike two words are: the basis of every "did you mean". A likeness proposes; it never decides.

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

#[cfg(test)]
mod tests {
    use super::*;

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
