//! Many words to find the nearest of, for lists that are asked again and again: what cannot be near is passed by without
//! comparing its letters. The plain twin is [`super::nearest`], which tests compare with.
//!
//! Before you change this: `Form::bound` must never be below the measure it bounds (`words::near`), and `Slips` keeps the
//! order of the list within a hash, so that the first of equals is found; both properties below hold that.

use super::words::{NAMED, NEAR, bare_name, near, shortened};
use std::collections::HashMap;
use std::sync::{Mutex, OnceLock};
use xxhash_rust::xxh3::{Xxh3Builder, xxh3_64};

/// Lists of more words are searched for slips of one letter alone.
const SEARCHED_WHOLE: usize = 2_000;

/// Of words of so many letters, one slip apart, the edits alone say how alike they are: no other measure gives more than
/// 0.88.
const LONG: u32 = 9;

/// So many answers are remembered.
const REMEMBERED: usize = 20_000;

/// How words of a list are likened.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Likening {
    /// By letters.
    Words,
    /// As names of a standard list, of which one is often like another.
    Names,
}

/// The words of a list, ready to be likened.
#[derive(Debug)]
pub struct Index {
    likening: Likening,
    forms: Vec<Form>,
    slips: OnceLock<Slips>,
    answers: Mutex<HashMap<Box<str>, Option<u32>, Xxh3Builder>>,
}

/// A word as it is compared.
#[derive(Debug)]
struct Form {
    text: Box<str>,
    letters: u32,
    /// One bit for each letter that occurs, several letters sharing one.
    mask: u64,
}

impl Form {
    fn new(text: String) -> Self {
        let mask = text.chars().fold(0, |mask, c| mask | 1 << (u32::from(c) % 61));
        let letters = u32::try_from(text.chars().count()).unwrap_or(u32::MAX);
        Self { text: text.into(), letters, mask }
    }

    /// The most that the likeness to another can be.
    fn bound(&self, other: &Self, likening: Likening) -> f64 {
        let without =
            |one: &Self, other: &Self| one.letters.saturating_sub((one.mask & !other.mask).count_ones());
        let common = f64::from(without(self, other).min(without(other, self)));
        let (one, other) = (f64::from(self.letters.max(1)), f64::from(other.letters.max(1)));
        let edits = common / one.max(other);
        match likening {
            Likening::Names => edits,
            // Jaro's measure with all common letters in order, and four letters of a common beginning.
            Likening::Words => {
                edits.max(1.0 - 0.6 * (1.0 - (common / one + common / other + 1.0) / 3.0) - 0.12)
            }
        }
    }
}

impl Index {
    /// These words, which answers name by their number.
    pub fn new<'a>(likening: Likening, words: impl Iterator<Item = &'a str>) -> Self {
        let form = |word: &str| match likening {
            Likening::Words => word.to_lowercase(),
            Likening::Names => bare_name(word),
        };
        let forms = words.map(|word| Form::new(form(word))).collect();
        Self { likening, forms, slips: OnceLock::new(), answers: Mutex::default() }
    }

    /// The number of the word most like the text, if any is near enough; the first of equals.
    pub fn nearest(&self, text: &str) -> Option<usize> {
        let known = self.answers.lock().ok().and_then(|answers| answers.get(text).copied());
        let found = known.unwrap_or_else(|| {
            let found = self.search(text).and_then(|number| u32::try_from(number).ok());
            if let Ok(mut answers) = self.answers.lock() {
                if answers.len() >= REMEMBERED {
                    answers.clear();
                }
                answers.insert(text.into(), found);
            }
            found
        });
        found.map(|number| number as usize)
    }

    fn search(&self, text: &str) -> Option<usize> {
        let wanted = Form::new(match self.likening {
            Likening::Words => shortened(text),
            Likening::Names => bare_name(text),
        });
        let least = match self.likening {
            Likening::Names if wanted.letters < 4 => return None,
            Likening::Names => NAMED,
            Likening::Words if wanted.letters < 4 => 0.5,
            Likening::Words => NEAR,
        };
        let is_whole = self.forms.len() <= SEARCHED_WHOLE;
        let candidates: Box<dyn Iterator<Item = usize>> = if is_whole {
            Box::new(0..self.forms.len())
        } else {
            let slips = self.slips.get_or_init(|| Slips::of(&self.forms));
            Box::new(slips.of_one_letter(&wanted.text).into_iter())
        };
        let mut best: Option<(f64, usize)> = None;
        for number in candidates {
            let Some(form) = self.forms.get(number) else { continue };
            let bound = form.bound(&wanted, self.likening);
            // The measures are sums of rounded parts, the bound another sum of them.
            if bound + 1e-9 < least || best.is_some_and(|(before, _)| bound + 1e-9 < before) {
                continue;
            }
            if !is_whole && !is_one_slip(&wanted.text, &form.text) {
                continue;
            }
            let alike = match self.likening {
                Likening::Words if !is_whole && wanted.letters.max(form.letters) >= LONG => {
                    let longer = f64::from(wanted.letters.max(form.letters));
                    Some(if wanted.text == form.text { 1.0 } else { 1.0 - 1.0 / longer })
                }
                Likening::Words => near(&wanted.text, &form.text),
                Likening::Names => Some(strsim::normalized_damerau_levenshtein(&wanted.text, &form.text))
                    .filter(|alike| *alike >= NAMED),
            };
            if let Some(alike) = alike
                && best.is_none_or(|(before, _)| alike > before)
            {
                best = Some((alike, number));
            }
        }
        best.map(|(_, number)| number)
    }
}

/// Each word, and each word without one of its letters, by hash: two words a slip of one letter apart share one of them.
#[derive(Debug)]
struct Slips {
    /// Hashes with the words that have them, in order.
    entries: Vec<(u32, u32)>,
    /// Where the entries begin whose hashes begin with so many bits: their number is the place.
    starts: Vec<u32>,
    bits: u32,
}

impl Slips {
    fn of(forms: &[Form]) -> Self {
        let mut without = WithoutALetter::default();
        // Parted by their first bits before they are sorted: what is sorted at once is near at hand then.
        let part = |hash: u32| (hash >> 24) as usize;
        let (mut all, mut places) = (Vec::new(), [0_usize; 257]);
        for (form, number) in forms.iter().zip(0_u32..) {
            for hash in without.hashes(&form.text) {
                all.push((*hash, number));
                if let Some(count) = places.get_mut(part(*hash) + 1) {
                    *count += 1;
                }
            }
        }
        let mut before = 0;
        for place in &mut places {
            before += *place;
            *place = before;
        }
        let mut entries = vec![(0, 0); all.len()];
        for entry in all {
            let Some(place) = places.get_mut(part(entry.0)) else { continue };
            if let Some(slot) = entries.get_mut(*place) {
                *slot = entry;
            }
            *place += 1;
        }
        let mut start = 0;
        for end in places {
            entries.get_mut(start..end).unwrap_or_default().sort_unstable();
            start = end;
        }
        let bits = entries.len().max(2).ilog2().min(24);
        let mut starts = vec![0_u32; (1 << bits) + 1];
        for (hash, _) in &entries {
            if let Some(count) = starts.get_mut((hash >> (32 - bits)) as usize + 1) {
                *count += 1;
            }
        }
        let mut before = 0;
        for start in &mut starts {
            before += *start;
            *start = before;
        }
        Self { entries, starts, bits }
    }

    /// The entries that begin with the first bits of a hash.
    fn bucket(&self, hash: u32) -> &[(u32, u32)] {
        let bucket = (hash >> (32 - self.bits)) as usize;
        let start = self.starts.get(bucket).copied().unwrap_or_default() as usize;
        let end = self.starts.get(bucket + 1).copied().unwrap_or_default() as usize;
        self.entries.get(start..end).unwrap_or_default()
    }

    /// The entries of a hash.
    fn of_hash(bucket: &[(u32, u32)], hash: u32) -> impl Iterator<Item = u32> {
        bucket
            .iter()
            .skip_while(move |entry| entry.0 < hash)
            .take_while(move |entry| entry.0 == hash)
            .map(|entry| entry.1)
    }

    /// The words that may be one slip away, in the order of the list.
    fn of_one_letter(&self, text: &str) -> Vec<usize> {
        let mut found: Vec<usize> = Vec::new();
        let mut without = WithoutALetter::default();
        // All places before the first entry: the waits for them overlap.
        let buckets: Vec<_> = without.hashes(text).iter().map(|hash| (*hash, self.bucket(*hash))).collect();
        for (hash, bucket) in buckets {
            // What very many words share tells nothing.
            found.extend(Self::of_hash(bucket, hash).take(64).map(|number| number as usize));
        }
        found.sort_unstable();
        found.dedup();
        found
    }
}

/// Whether one letter more, less or other makes one of the other, or two side by side that changed places.
fn is_one_slip(one: &str, other: &str) -> bool {
    let ends = |one: &str, other: &str| {
        one.chars().rev().zip(other.chars().rev()).take_while(|(a, b)| a == b).count()
    };
    let (letters, others) = (one.chars().count(), other.chars().count());
    let begins = one.chars().zip(other.chars()).take_while(|(a, b)| a == b).count();
    let (short, long) = (letters.min(others), letters.max(others));
    let same = begins + ends(one, other).min(short - begins);
    if short == long && same + 2 == long {
        let pair = |text: &str| -> Vec<char> { text.chars().skip(begins).take(2).collect() };
        let mut turned = pair(other);
        turned.reverse();
        return pair(one) == turned;
    }
    long - short <= 1 && same + 1 >= long
}

/// Words of more letters are no slip of one another as far as this index goes.
const LONGEST: usize = 64;

/// The hashes of a word as it is and without each of its letters; what they are made in is kept from word to word.
#[derive(Debug, Default)]
struct WithoutALetter {
    shorter: String,
    hashes: Vec<u32>,
}

impl WithoutALetter {
    /// Each hash once.
    fn hashes(&mut self, text: &str) -> &[u32] {
        #[allow(clippy::cast_possible_truncation, reason = "half of a hash is a hash")]
        let hash = |text: &str| xxh3_64(text.as_bytes()) as u32;
        self.hashes.clear();
        self.hashes.push(hash(text));
        let mut before = None;
        for (at, letter) in text.char_indices().take(LONGEST) {
            // Of a letter that stands twice, either gone leaves the same.
            if before.replace(letter) == Some(letter) {
                continue;
            }
            self.shorter.clear();
            self.shorter.push_str(text.get(..at).unwrap_or_default());
            self.shorter.push_str(text.get(at + letter.len_utf8()..).unwrap_or_default());
            self.hashes.push(hash(&self.shorter));
        }
        &self.hashes
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use std::sync::LazyLock;

    proptest! {
        #[test]
        fn the_index_finds_what_the_plain_search_finds(
            words in prop::collection::vec("[a-eE]{0,9}|[äöA-C ]{3,6}|[0-3]{2,5}", 0..40),
            text in "[a-e]{0,9}|[äöA-C ]{3,6}|[0-3]{2,5}",
        ) {
            let index = Index::new(Likening::Words, words.iter().map(String::as_str));
            let plain = crate::likeness::nearest(&text, words.iter().enumerate().map(|(n, word)| (word.as_str(), n)));
            prop_assert_eq!(index.nearest(&text), plain);
            prop_assert_eq!(index.nearest(&text), plain);
            let names = Index::new(Likening::Names, words.iter().map(String::as_str));
            let plain = crate::likeness::nearest_name(&text, words.iter().map(String::as_str));
            prop_assert_eq!(names.nearest(&text).map(|number| words[number].as_str()), plain);
        }

    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(40))]

        #[test]
        fn long_lists_find_every_slip_of_one_letter(number in 0usize..5_000, at in 0usize..9, kind in 0..4) {
            static LONG: LazyLock<(Vec<String>, Index)> = LazyLock::new(|| {
                let words: Vec<String> = (0..5_000).map(|n| format!("tree {:05}", n * 17 % 99_991)).collect();
                let index = Index::new(Likening::Words, words.iter().map(String::as_str));
                (words, index)
            });
            let (words, index) = &*LONG;
            let mut letters: Vec<char> = words[number].chars().collect();
            match kind {
                0 => { letters.remove(at); }
                1 => letters.insert(at, 'x'),
                2 => letters[at] = 'x',
                _ => letters.swap(at, at + 1),
            }
            let text: String = letters.into_iter().collect();
            let found = index.nearest(&text).map(|found| words[found].as_str());
            let plain = words.iter().filter_map(|word| near(&text, word)).fold(0.0, f64::max);
            prop_assert_eq!(found.and_then(|word| near(&text, word)), Some(plain));
        }
    }
}
