//! Many keys in little memory: their texts one behind the other, and a table of their numbers.

use crate::straight::SPREAD;
use hashbrown::HashTable;
use xxhash_rust::xxh3::xxh3_64;

/// Different keys, in the order in which they came.
#[derive(Debug, Default)]
pub(super) struct Keys {
    text: String,
    /// Where each key ends.
    ends: Vec<usize>,
    /// Of each key half of its hash and its number: a table that grows, or is searched, hardly needs the texts.
    table: HashTable<(u32, u32)>,
}

impl Keys {
    /// Takes up a key that is not among them.
    pub(super) fn insert(&mut self, key: &str) {
        // Nobody holds four thousand million keys in memory.
        let Ok(number) = u32::try_from(self.ends.len()) else { return };
        let (text, ends) = (&self.text, &self.ends);
        let half = half_hash(key);
        let is_it = |known: &(u32, u32)| known.0 == half && at(text, ends, known.1) == key;
        if let hashbrown::hash_table::Entry::Vacant(free) =
            self.table.entry(spread(half), is_it, |known| spread(known.0))
        {
            free.insert((half, number));
            self.text.push_str(key);
            self.ends.push(self.text.len());
        }
    }

    /// Whether it is one of them.
    pub(super) fn has(&self, key: &str) -> bool {
        let half = half_hash(key);
        let is_it = |known: &(u32, u32)| known.0 == half && at(&self.text, &self.ends, known.1) == key;
        self.table.find(spread(half), is_it).is_some()
    }

    /// How many there are.
    pub(super) fn len(&self) -> usize {
        self.ends.len()
    }

    /// All of them.
    pub(super) fn iter(&self) -> impl Iterator<Item = &str> {
        (0_u32..).zip(&self.ends).map(|(number, _)| at(&self.text, &self.ends, number))
    }
}

#[expect(clippy::cast_possible_truncation, reason = "half of it is meant")]
fn half_hash(key: &str) -> u32 {
    xxh3_64(key.as_bytes()) as u32
}

/// Half a hash as a whole one: a table looks at the bits of both ends.
fn spread(half: u32) -> u64 {
    u64::from(half).wrapping_mul(SPREAD)
}

/// The key of a number.
fn at<'a>(text: &'a str, ends: &[usize], number: u32) -> &'a str {
    let number = number as usize;
    let start = number.checked_sub(1).and_then(|before| ends.get(before)).copied().unwrap_or_default();
    let end = ends.get(number).copied().unwrap_or_default();
    text.get(start..end).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use std::collections::BTreeSet;

    proptest! {
        #[test]
        fn keys_are_what_a_set_holds(words in prop::collection::vec("[a-cé]{0,4}", 0..200), asked in "[a-cé]{0,4}") {
            let mut keys = Keys::default();
            words.iter().for_each(|word| keys.insert(word));
            let plain: BTreeSet<&str> = words.iter().map(String::as_str).collect();
            prop_assert_eq!(keys.iter().collect::<BTreeSet<_>>(), plain.clone());
            prop_assert_eq!((keys.len(), keys.has(&asked)), (plain.len(), plain.contains(asked.as_str())));
        }
    }
}
