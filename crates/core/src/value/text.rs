//! Texts: pattern, case and length.

use regex_automata::meta::Regex;
use regex_automata::{Anchored, Input};
use regex_syntax::hir::{Class, Hir, HirKind};
use thiserror::Error;

/// A pattern that the whole value must match, in the syntax of Rust's regular expressions.
#[derive(Debug, Clone)]
pub struct Pattern {
    source: String,
    regex: Regex,
}

/// A pattern that does not compile.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[error("the pattern is not a regular expression: {reason}")]
pub struct PatternError {
    reason: String,
}

/// The largest compiled pattern, in bytes.
const LARGEST: usize = 4 << 20;

impl Pattern {
    /// As it was written.
    #[must_use]
    pub fn source(&self) -> &str {
        &self.source
    }

    /// Compiles the pattern.
    ///
    /// # Errors
    /// When it is no regular expression, or compiles to more than 4 MiB.
    pub fn new(source: &str) -> Result<Self, PatternError> {
        // The bare pattern first: its fault must not speak of brackets that nobody wrote.
        regex_syntax::parse(source).map_err(|error| PatternError { reason: reason(&error) })?;
        let config = Regex::config().nfa_size_limit(Some(LARGEST)).onepass_size_limit(Some(LARGEST));
        let regex = Regex::builder()
            .configure(config)
            .build(&format!(r"\A(?:{source})\z"))
            .map_err(|_| PatternError { reason: "it is too large".to_owned() })?;
        Ok(Self { source: source.to_owned(), regex })
    }

    /// How many bytes it takes in memory.
    #[must_use]
    pub fn memory(&self) -> usize {
        self.regex.memory_usage()
    }

    /// Whether the whole text matches.
    #[must_use]
    pub fn fits(&self, text: &str) -> bool {
        self.regex.is_match(Input::new(text).anchored(Anchored::Yes).earliest(true))
    }

    /// The pattern in words, where it is plain enough for them.
    #[must_use]
    pub fn words(&self) -> Option<String> {
        super::pattern_words::words(&self.source)
    }

    /// The range of bytes at each place, where the pattern is of fixed length and one ASCII range a place.
    #[must_use]
    pub fn byte_ranges(&self) -> Option<Vec<(u8, u8)>> {
        let mut ranges = Vec::new();
        places(&regex_syntax::parse(&self.source).ok()?, &mut ranges)?;
        Some(ranges)
    }
}

fn reason(error: &regex_syntax::Error) -> String {
    match error {
        regex_syntax::Error::Parse(error) => error.kind().to_string(),
        regex_syntax::Error::Translate(error) => error.kind().to_string(),
        _ => "it cannot be read".to_owned(),
    }
}

fn places(hir: &Hir, ranges: &mut Vec<(u8, u8)>) -> Option<()> {
    if ranges.len() > 64 {
        return None;
    }
    match hir.kind() {
        HirKind::Empty => Some(()),
        HirKind::Literal(literal) => {
            ranges.extend(literal.0.iter().map(|&byte| (byte, byte)));
            literal.0.is_ascii().then_some(())
        }
        HirKind::Class(Class::Unicode(class)) => match class.ranges() {
            [range] => {
                ranges.push((u8::try_from(range.start()).ok()?, u8::try_from(range.end()).ok()?));
                range.end().is_ascii().then_some(())
            }
            _ => None,
        },
        HirKind::Repetition(repetition) if Some(repetition.min) == repetition.max => {
            (0..repetition.min).try_for_each(|_| places(&repetition.sub, ranges))
        }
        HirKind::Capture(capture) => places(&capture.sub, ranges),
        HirKind::Concat(parts) => parts.iter().try_for_each(|part| places(part, ranges)),
        _ => None,
    }
}

/// The case a text must have.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Case {
    /// Upper case.
    Upper,
    /// Lower case.
    Lower,
}

impl Case {
    /// The text in this case.
    #[must_use]
    pub fn of(self, text: &str) -> String {
        match self {
            Self::Upper => text.to_uppercase(),
            Self::Lower => text.to_lowercase(),
        }
    }

    /// The word for it.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Upper => "upper case",
            Self::Lower => "lower case",
        }
    }
}

/// What a length counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum LengthUnit {
    /// Unicode code points, as databases count.
    #[default]
    Character,
    /// Bytes of UTF-8.
    Byte,
    /// Code units of UTF-16.
    Utf16,
}

/// The permitted length of a text, ends included.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Length {
    /// The least.
    pub min: Option<usize>,
    /// The most.
    pub max: Option<usize>,
    /// What is counted.
    pub unit: LengthUnit,
}

impl Length {
    /// The length of a text in this unit.
    #[must_use]
    pub fn of(self, text: &str) -> usize {
        match self.unit {
            LengthUnit::Character => text.chars().count(),
            LengthUnit::Byte => text.len(),
            LengthUnit::Utf16 => text.encode_utf16().count(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_whole_value_must_match_and_simple_patterns_become_places() {
        let tag = Pattern::new("HT-[0-9]{7}").unwrap();
        assert!(tag.fits("HT-0004213") && !tag.fits("HT-00042130") && !tag.fits("xHT-0004213"));
        assert_eq!(tag.byte_ranges().map(|ranges| ranges.len()), Some(10));
        let either = Pattern::new("a|ab").unwrap();
        assert!(either.fits("ab") && !either.fits("abc"));
        assert_eq!(either.byte_ranges(), None);
        assert_eq!(Pattern::new(r"[A-Z]\d{2}").unwrap().byte_ranges(), None, "digits of all scripts");
        assert_eq!(
            Pattern::new("[a-").unwrap_err().to_string(),
            "the pattern is not a regular expression: unclosed character class"
        );
        assert!(Pattern::new("(a{1000}){1000}{1000}").is_err());
    }
}
