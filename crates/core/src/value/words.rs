//! A few words that match in any case.

use std::collections::HashSet;
use std::sync::Arc;

/// Words, compared in lower case.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct FoldedWords {
    words: Arc<[String]>,
    /// The same, where looking at one after the other would take long.
    many: Option<Arc<HashSet<String>>>,
    longest: usize,
}

/// Fewer words are looked at one after the other.
const MANY: usize = 32;

impl FoldedWords {
    /// These words.
    pub fn new<W: AsRef<str>>(words: impl IntoIterator<Item = W>) -> Self {
        let words: Vec<String> = words.into_iter().map(|word| word.as_ref().trim().to_lowercase()).collect();
        let longest = words.iter().map(String::len).max().unwrap_or(0);
        let many = (words.len() >= MANY).then(|| Arc::new(words.iter().cloned().collect()));
        Self { words: words.into(), many, longest }
    }

    /// Takes up the words of another.
    pub fn join(&mut self, other: &Self) {
        let more: Vec<&String> = other.words.iter().filter(|word| !self.holds(word)).collect();
        if !more.is_empty() {
            *self = Self::new(self.words.iter().chain(more));
        }
    }

    /// Whether the text, trimmed, is one of them.
    #[must_use]
    pub fn holds(&self, text: &str) -> bool {
        // In lower case a text may take a third of its bytes, or some more.
        if text.len() > 3 * self.longest {
            return false;
        }
        if let Some(many) = &self.many {
            return many.contains(&text.to_lowercase());
        }
        if text.is_ascii() {
            return self.words.iter().any(|word| word.eq_ignore_ascii_case(text));
        }
        let folded = text.to_lowercase();
        self.words.contains(&folded)
    }

    /// The words, in lower case.
    pub fn iter(&self) -> impl Iterator<Item = &str> {
        self.words.iter().map(String::as_str)
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.words.is_empty()
    }
}
