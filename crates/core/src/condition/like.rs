//! The patterns of LIKE: `%` stands for any text, `_` for any character (ISO/IEC 9075-2, 8.5).

use memchr::memmem::Finder;
use regex_automata::meta::{BuildError, Regex};

/// A pattern, ready.
#[derive(Debug, Clone)]
pub(crate) enum Pattern {
    /// Texts with anything between each and the next: the first begins what fits, the last ends it.
    Pieces(Vec<Finder<'static>>),
    /// What characters stand for takes a closer look.
    Form(Box<Regex>),
}

/// Why a pattern cannot be read.
#[derive(Debug)]
pub(crate) enum PatternFault {
    /// The escape character is its last.
    EscapesNothing,
    /// It is too large.
    Form(Box<BuildError>),
}

impl Pattern {
    /// Reads a pattern, in which a character may take their meaning from others.
    pub(crate) fn new(text: &str, escape: Option<char>) -> Result<Self, PatternFault> {
        let (mut regex, mut pieces, mut is_plain) = (String::from(r"(?s)\A"), vec![String::new()], true);
        let mut chars = text.chars();
        while let Some(c) = chars.next() {
            let literal = match c {
                c if Some(c) == escape => chars.next().ok_or(PatternFault::EscapesNothing)?,
                '%' => {
                    regex.push_str(".*");
                    pieces.push(String::new());
                    continue;
                }
                '_' => {
                    regex.push('.');
                    is_plain = false;
                    continue;
                }
                c => c,
            };
            regex.push_str(&regex_syntax::escape(&literal.to_string()));
            if let Some(piece) = pieces.last_mut() {
                piece.push(literal);
            }
        }
        if is_plain {
            let finders = pieces.iter().map(|piece| Finder::new(piece.as_bytes()).into_owned());
            return Ok(Self::Pieces(finders.collect()));
        }
        regex.push_str(r"\z");
        let regex = Regex::new(&regex).map_err(|error| PatternFault::Form(Box::new(error)))?;
        Ok(Self::Form(Box::new(regex)))
    }

    /// Whether a text fits: UTF-8.
    pub(crate) fn fits(&self, text: &[u8]) -> bool {
        let pieces = match self {
            Self::Form(regex) => return regex.is_match(text),
            Self::Pieces(pieces) => pieces.as_slice(),
        };
        let [first, between @ .., last] = pieces else {
            return pieces.first().is_some_and(|only| only.needle() == text);
        };
        let inner = text.strip_prefix(first.needle()).and_then(|rest| rest.strip_suffix(last.needle()));
        let Some(mut rest) = inner else { return false };
        for piece in between {
            let Some(at) = piece.find(rest) else { return false };
            rest = rest.get(at + piece.needle().len()..).unwrap_or_default();
        }
        true
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn pieces_fit_what_their_form_fits(pattern in "[ab%é!]{0,7}", text in "[abé]{0,8}") {
            let plain = Pattern::new(&pattern, None).unwrap();
            let form = pattern.chars().map(|c| match c {
                '%' => "(?s).*".to_owned(),
                c => regex_syntax::escape(&c.to_string()),
            });
            let form = Regex::new(&format!(r"\A{}\z", form.collect::<String>())).unwrap();
            prop_assert!(matches!(plain, Pattern::Pieces(_)));
            prop_assert_eq!(plain.fits(text.as_bytes()), form.is_match(text.as_bytes()), "{} {}", pattern, text);
        }
    }

    #[test]
    fn characters_stand_for_what_the_standard_says() {
        for (pattern, escape, text, fits) in [
            ("HT-____", None, "HT-0042", true),
            ("HT-____", None, "HT-éé12", true),
            ("HT-____", None, "HT-12", false),
            ("50!%%", Some('!'), "50% off", true),
            ("50!%%", Some('!'), "501", false),
            ("a!_b", Some('!'), "a_b", true),
            ("a!_b", Some('!'), "axb", false),
            ("a%b", None, "a\nb", true),
            ("ab%ba", None, "aba", false),
            ("", None, "", true),
            ("", None, "x", false),
        ] {
            let pattern_read = Pattern::new(pattern, escape).unwrap();
            assert_eq!(pattern_read.fits(text.as_bytes()), fits, "{pattern} {text}");
        }
        assert!(matches!(Pattern::new("a!", Some('!')), Err(PatternFault::EscapesNothing)));
    }
}
