//! A pattern in words: a steward reads "HT-, then 7 digits", never a bare regular expression.

use regex_syntax::hir::{Class, ClassUnicode, Hir, HirKind, Repetition};

/// The most parts that are put into words.
const MOST: usize = 8;

/// The pattern in words; nothing where words would be harder to read than an example.
pub(super) fn words(source: &str) -> Option<String> {
    let mut parts = Vec::new();
    collect(&regex_syntax::parse(source).ok()?, &mut parts)?;
    (!parts.is_empty() && parts.len() <= MOST).then(|| join(&parts))
}

/// A part of the pattern: literal text, or a number of characters of a sort.
#[derive(Debug, Clone, PartialEq, Eq)]
enum Part {
    Text(String),
    Some { least: u32, most: Option<u32>, one: &'static str, several: &'static str },
    Either(Vec<String>),
}

fn collect(hir: &Hir, parts: &mut Vec<Part>) -> Option<()> {
    match hir.kind() {
        HirKind::Empty | HirKind::Look(_) => {}
        HirKind::Literal(literal) => push_text(parts, std::str::from_utf8(&literal.0).ok()?),
        HirKind::Class(_) => parts.push(some(hir, 1, Some(1))?),
        HirKind::Repetition(Repetition { min, max, sub, .. }) => parts.push(some(plain(sub), *min, *max)?),
        HirKind::Capture(capture) => collect(&capture.sub, parts)?,
        HirKind::Concat(inner) => inner.iter().try_for_each(|part| collect(part, parts))?,
        HirKind::Alternation(choices) => {
            let worded = choices.iter().map(|choice| {
                let mut inner = Vec::new();
                collect(choice, &mut inner)?;
                (inner.len() == 1).then(|| join(&inner))
            });
            parts.push(Part::Either(worded.collect::<Option<_>>()?));
        }
    }
    (parts.len() <= MOST).then_some(())
}

/// What stands in the brackets of a group.
fn plain(hir: &Hir) -> &Hir {
    match hir.kind() {
        HirKind::Capture(capture) => plain(&capture.sub),
        _ => hir,
    }
}

fn push_text(parts: &mut Vec<Part>, text: &str) {
    match parts.last_mut() {
        Some(Part::Text(before)) => before.push_str(text),
        _ => parts.push(Part::Text(text.to_owned())),
    }
}

fn some(hir: &Hir, least: u32, most: Option<u32>) -> Option<Part> {
    let HirKind::Class(Class::Unicode(class)) = hir.kind() else { return None };
    let (one, several) = sort(class)?;
    Some(Part::Some { least, most, one, several })
}

/// The sorts of characters that have a name.
fn sort(class: &ClassUnicode) -> Option<(&'static str, &'static str)> {
    let mut ascii = String::new();
    for range in class.ranges() {
        ascii.extend((range.start()..=range.end()).take_while(char::is_ascii).take(128));
    }
    let all = |wanted: fn(&char) -> bool| {
        let of_sort: String = (0..128_u8).map(char::from).filter(wanted).collect();
        ascii == of_sort
    };
    if all(char::is_ascii_digit) {
        Some(("digit", "digits"))
    } else if all(char::is_ascii_uppercase) {
        Some(("capital letter", "capital letters"))
    } else if all(char::is_ascii_lowercase) {
        Some(("small letter", "small letters"))
    } else if all(char::is_ascii_alphabetic) {
        Some(("letter", "letters"))
    } else if all(char::is_ascii_alphanumeric) {
        Some(("letter or digit", "letters or digits"))
    } else if all(|c| c.is_ascii_uppercase() || c.is_ascii_digit()) {
        Some(("capital letter or digit", "capital letters or digits"))
    } else if all(|c| c.is_ascii_lowercase() || c.is_ascii_digit()) {
        Some(("small letter or digit", "small letters or digits"))
    } else if ascii.len() >= 126 {
        Some(("character", "characters"))
    } else {
        None
    }
}

fn join(parts: &[Part]) -> String {
    parts.iter().map(ToString::to_string).collect::<Vec<_>>().join(", then ")
}

impl std::fmt::Display for Part {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Text(text) => f.write_str(text),
            Self::Either(choices) => f.write_str(&choices.join(" or ")),
            Self::Some { least, most, one, several } => match (least, most) {
                (1, Some(1)) => write!(f, "1 {one}"),
                (0, Some(1)) => write!(f, "perhaps 1 {one}"),
                (n, Some(m)) if n == m => write!(f, "{n} {several}"),
                (0, Some(m)) => write!(f, "up to {m} {several}"),
                (n, Some(m)) => write!(f, "{n} to {m} {several}"),
                (0, None) => write!(f, "any number of {several}"),
                (n, None) => write!(f, "{n} or more {several}"),
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::words;

    #[test]
    fn common_patterns_have_words_and_others_have_none() {
        for (pattern, wanted) in [
            ("HT-[0-9]{7}", Some("HT-, then 7 digits")),
            (r"[A-Z]{2}\d{4,6}", Some("2 capital letters, then 4 to 6 digits")),
            ("[0-9]+", Some("1 or more digits")),
            ("^[a-z][a-z0-9]*$", Some("1 small letter, then any number of small letters or digits")),
            ("(A|BB|C-)[0-9]?", Some("A or BB or C-, then perhaps 1 digit")),
            ("PO-(UK|FR)", Some("PO-, then UK or FR")),
            (".{3,}", Some("3 or more characters")),
            ("[aeiou]+", None),
            ("([a-z]+ )*[a-z]+", None),
            ("", None),
        ] {
            assert_eq!(words(pattern).as_deref(), wanted, "{pattern}");
        }
    }
}
