//! Boolean words.

use super::words::FoldedWords;

/// The usual words for yes, in lower case.
pub const YES: [&str; 4] = ["true", "yes", "y", "1"];
/// The usual words for no, in lower case.
pub const NO: [&str; 4] = ["false", "no", "n", "0"];

/// The words for yes and no; in any case.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Truth {
    /// The words for yes.
    pub yes: FoldedWords,
    /// The words for no.
    pub no: FoldedWords,
}

impl Default for Truth {
    fn default() -> Self {
        Self { yes: FoldedWords::new(YES), no: FoldedWords::new(NO) }
    }
}

impl Truth {
    /// Reads a word.
    #[must_use]
    pub fn read(&self, text: &str) -> Option<bool> {
        if self.yes.holds(text) {
            Some(true)
        } else if self.no.holds(text) {
            Some(false)
        } else {
            None
        }
    }
}

/// Reads one of the usual words, in any case.
#[must_use]
pub fn read(text: &str) -> Option<bool> {
    let among = |words: &[&str]| words.iter().any(|word| word.eq_ignore_ascii_case(text));
    if among(&YES) {
        Some(true)
    } else if among(&NO) {
        Some(false)
    } else {
        None
    }
}

/// The target's form.
#[must_use]
pub const fn written(value: bool) -> &'static str {
    if value { "true" } else { "false" }
}
