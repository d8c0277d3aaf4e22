//! Words that a plan puts in the place of those that a sender uses.

use super::picklist::folded;
use std::collections::HashMap;

/// The words of one field, and what stands in their place. A word is replaced once, never in a chain.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct PutWords {
    /// By word: as it stands where only that counts, else with case and doubled spaces aside.
    words: HashMap<String, String>,
    is_exact: bool,
    /// What stands between several values of a cell.
    separator: Option<String>,
}

impl PutWords {
    /// None yet. `is_exact`: whether words are told apart letter by letter.
    #[must_use]
    pub fn new(is_exact: bool, separator: Option<String>) -> Self {
        Self { words: HashMap::new(), is_exact, separator }
    }

    /// Puts a value in the place of a word; gives the other value that was to stand there, if there is one.
    pub fn put(&mut self, word: &str, value: &str) -> Option<String> {
        let before = self.words.insert(self.known_by(word), value.to_owned());
        before.filter(|before| before != value)
    }

    fn known_by(&self, word: &str) -> String {
        if self.is_exact { word.trim().to_owned() } else { folded(word) }
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.words.is_empty()
    }

    fn one(&self, trimmed: &str) -> Option<&str> {
        self.words.get(&self.known_by(trimmed)).map(String::as_str)
    }

    /// What stands in the place of a trimmed text: of all of it, or of its parts where it holds several values; nothing
    /// where it stays as it is.
    #[must_use]
    pub fn of(&self, trimmed: &str) -> Option<String> {
        if let Some(value) = self.one(trimmed) {
            return Some(value.to_owned());
        }
        let separator = self.separator.as_deref().filter(|separator| trimmed.contains(separator))?;
        let mut is_changed = false;
        let mut parts = Vec::new();
        for part in trimmed.split(separator).map(str::trim) {
            let put = self.one(part);
            is_changed |= put.is_some();
            parts.extend(Some(put.unwrap_or(part)).filter(|part| !part.is_empty()));
        }
        is_changed.then(|| parts.join(separator))
    }

    /// The words of a trimmed text that are replaced, each with its value.
    #[must_use]
    pub fn replaced<'a>(&'a self, trimmed: &'a str) -> Vec<(&'a str, &'a str)> {
        if let Some(value) = self.one(trimmed) {
            return vec![(trimmed, value)];
        }
        let parts = self.separator.iter().flat_map(|separator| trimmed.split(separator.as_str()));
        parts.map(str::trim).filter_map(|part| Some((part, self.one(part)?))).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_word_is_replaced_once_whole_or_as_one_of_several() {
        let mut words = PutWords::new(false, Some(";".to_owned()));
        for (word, value) in [("Silver  Brich", "BET"), ("bet", "OAK"), ("-", "")] {
            assert_eq!(words.put(word, value), None);
        }
        assert_eq!(words.put("SILVER BRICH", "ELM"), Some("BET".to_owned()));
        assert_eq!(words.put("silver brich", "BET"), Some("ELM".to_owned()));
        let exact = PutWords { is_exact: true, ..words.clone() };
        for (text, loose, exactly) in [
            ("silver  BRICH", Some("BET"), None),
            ("bet", Some("OAK"), Some("OAK")),
            ("BET; Lime", Some("OAK;Lime"), None),
            ("Lime;-; silver brich", Some("Lime;BET"), Some("Lime;BET")),
            ("-", Some(""), Some("")),
            ("Lime", None, None),
        ] {
            assert_eq!((words.of(text).as_deref(), exact.of(text).as_deref()), (loose, exactly), "{text}");
        }
        assert_eq!(words.replaced("Lime;-;bet"), [("-", ""), ("bet", "OAK")]);
    }
}
