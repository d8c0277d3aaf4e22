//! How alike a heading and the words of a field are: words before letters. Abbreviations stand for the words they
//! shorten, units in brackets count little, and words that are opposites are never taken for each other.

use super::loose::loose;
use crate::likeness::{likeness, unaccented};
use std::collections::HashMap;

/// From here on a heading is like another.
pub(super) const NEAR: f64 = 0.6;

/// Words in short, as they are usual in headings.
const SHORT: [(&str, &str); 60] = [
    ("no", "number"),
    ("nr", "number"),
    ("num", "number"),
    ("nbr", "number"),
    ("nos", "number"),
    ("spp", "species"),
    ("sp", "species"),
    ("dt", "date"),
    ("nxt", "next"),
    ("prev", "previous"),
    ("lst", "last"),
    ("yr", "year"),
    ("mth", "month"),
    ("mo", "month"),
    ("wk", "week"),
    ("hr", "hour"),
    ("hrs", "hours"),
    ("ht", "height"),
    ("hgt", "height"),
    ("wt", "weight"),
    ("wgt", "weight"),
    ("dia", "diameter"),
    ("diam", "diameter"),
    ("len", "length"),
    ("lgth", "length"),
    ("wd", "width"),
    ("qty", "quantity"),
    ("amt", "amount"),
    ("bal", "balance"),
    ("inv", "invoice"),
    ("acct", "account"),
    ("acc", "account"),
    ("addr", "address"),
    ("tel", "telephone"),
    ("ph", "phone"),
    ("mob", "mobile"),
    ("desc", "description"),
    ("descr", "description"),
    ("cat", "category"),
    ("ref", "reference"),
    ("dept", "department"),
    ("org", "organisation"),
    ("mgr", "manager"),
    ("emp", "employee"),
    ("cust", "customer"),
    ("supp", "supplier"),
    ("prod", "product"),
    ("loc", "location"),
    ("lat", "latitude"),
    ("lon", "longitude"),
    ("lng", "longitude"),
    ("temp", "temperature"),
    ("max", "maximum"),
    ("min", "minimum"),
    ("avg", "average"),
    ("pct", "percent"),
    ("cond", "condition"),
    ("insp", "inspected"),
    ("surv", "surveyor"),
    ("dob", "birth"),
];

/// Words that mean the same in headings.
const SAME: [(&str, &str); 9] = [
    ("telephone", "phone"),
    ("mail", "email"),
    ("identifier", "id"),
    ("comments", "notes"),
    ("remarks", "notes"),
    ("comment", "notes"),
    ("remark", "notes"),
    ("note", "notes"),
    ("code", "id"),
];

/// Words that are opposites.
const OPPOSITES: [[&str; 2]; 18] = [
    ["last", "next"],
    ["previous", "next"],
    ["from", "to"],
    ["start", "end"],
    ["begin", "end"],
    ["start", "finish"],
    ["minimum", "maximum"],
    ["lowest", "highest"],
    ["old", "new"],
    ["first", "second"],
    ["first", "last"],
    ["before", "after"],
    ["left", "right"],
    ["upper", "lower"],
    ["opened", "closed"],
    ["arrival", "departure"],
    ["debit", "credit"],
    ["latitude", "longitude"],
];

/// Words that say little.
const LITTLE: [&str; 12] = ["the", "of", "on", "at", "in", "for", "a", "an", "is", "by", "de", "value"];

/// A word of a heading.
#[derive(Debug, Clone, PartialEq)]
struct Word {
    text: String,
    weight: f64,
    /// Its number in a vocabulary, where it has one.
    number: usize,
}

/// The different words of many headings: what two words have in common is asked once for each.
#[derive(Debug, Default)]
pub(super) struct Vocabulary(HashMap<String, usize>);

impl Vocabulary {
    /// Gives the words of a heading their numbers.
    pub(super) fn take(&mut self, worded: &mut Worded) {
        for word in &mut worded.words {
            let next = self.0.len();
            word.number = *self.0.entry(word.text.clone()).or_insert(next);
        }
    }
}

/// What a heading has in common with the words of a vocabulary, as far as it was asked.
pub(super) struct Known<'a> {
    heading: &'a Worded,
    same: Vec<Vec<f64>>,
}

impl<'a> Known<'a> {
    pub(super) fn new(heading: &'a Worded, vocabulary: &Vocabulary) -> Self {
        // Not asked yet.
        let none = vec![f64::NAN; vocabulary.0.len()];
        Self { heading, same: vec![none; heading.words.len()] }
    }

    /// How alike the heading and another one are, whose words are of the vocabulary. Where `by_letters` is false,
    /// words alone count.
    pub(super) fn alike(&mut self, other: &Worded, by_letters: impl FnOnce() -> bool) -> f64 {
        let same_of = &mut self.same;
        self.heading.alike_by(other, by_letters, |at, own, other| {
            match same_of.get_mut(at).and_then(|same| same.get_mut(other.number)) {
                Some(known) => {
                    if known.is_nan() {
                        *known = same(&own.text, &other.text);
                    }
                    *known
                }
                None => same(&own.text, &other.text),
            }
        })
    }
}

/// A heading in words.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Worded {
    words: Vec<Word>,
    loose: String,
    /// How many letters `loose` has, and one bit for each that occurs, several sharing one.
    letters: u32,
    mask: u64,
    /// Which words of the opposites it has: two bits for each pair.
    opposites: u64,
}

impl Worded {
    pub(super) fn of(heading: &str) -> Self {
        // Whoever writes more has written no heading; comparing its letters would take the square of their number.
        const LONGEST: usize = 200;
        let heading = heading.get(..heading.floor_char_boundary(LONGEST)).unwrap_or_default();
        let mut words = Vec::new();
        let mut depth = 0_usize;
        for piece in pieces(heading) {
            match piece.as_str() {
                "(" | "[" => depth += 1,
                ")" | "]" => depth = depth.saturating_sub(1),
                "#" | "№" => words.push(Word { text: "number".to_owned(), weight: 0.6, number: 0 }),
                "%" => words.push(Word { text: "percent".to_owned(), weight: 0.3, number: 0 }),
                text => {
                    let long = SHORT.iter().find(|short| short.0 == text).map_or(text, |short| short.1);
                    let weight = match long {
                        _ if depth > 0 => 0.15,
                        long if LITTLE.contains(&long) => 0.25,
                        // What anything can be called.
                        "number" | "id" | "name" | "date" | "code" | "type" => 0.6,
                        _ => 1.0,
                    };
                    words.push(Word { text: long.to_owned(), weight, number: 0 });
                }
            }
        }
        let loose = loose(heading);
        let mask = loose.chars().fold(0, |mask, c| mask | 1 << (u32::from(c) % 61));
        let letters = u32::try_from(loose.chars().count()).unwrap_or(u32::MAX);
        let has = |word: &str| words.iter().any(|own| own.text == word);
        let opposites = OPPOSITES
            .iter()
            .rev()
            .fold(0, |bits, [one, two]| bits << 2 | u64::from(has(one)) | u64::from(has(two)) << 1);
        Self { words, loose, letters, mask, opposites }
    }

    /// The most that letters can say of two headings.
    fn letters_at_most(&self, other: &Self) -> f64 {
        let without =
            |one: &Self, other: &Self| one.letters.saturating_sub((one.mask & !other.mask).count_ones());
        let common = without(self, other).min(without(other, self));
        f64::from(common) / f64::from(self.letters.max(other.letters).max(1))
    }

    /// Whether one speaks of the opposite of the other.
    fn is_opposite(&self, other: &Self) -> bool {
        const FIRST: u64 = 0x5555_5555_5555_5555;
        let alone = |one: u64, two: u64| one & !two & FIRST;
        let (one, other) = (self.opposites, other.opposites);
        let firsts = (alone(one, one >> 1), alone(other, other >> 1));
        let seconds = (alone(one >> 1, one), alone(other >> 1, other));
        firsts.0 & seconds.1 | seconds.0 & firsts.1 != 0
    }

    /// How alike the two are, between 0 and 1.
    fn alike_by(
        &self,
        other: &Self,
        by_letters: impl FnOnce() -> bool,
        mut same: impl FnMut(usize, &Word, &Word) -> f64,
    ) -> f64 {
        if self.loose.is_empty() || other.loose.is_empty() || self.is_opposite(other) {
            return 0.0;
        }
        let sum = |words: &[Word]| words.iter().map(|word| word.weight).sum::<f64>();
        let all = sum(&self.words) + sum(&other.words);
        let mut left: Vec<&Word> = other.words.iter().collect();
        let mut shared = 0.0;
        for (at, word) in self.words.iter().enumerate() {
            let best = left
                .iter()
                .enumerate()
                .map(|(place, other)| (same(at, word, other), place))
                .max_by(|one, other| one.0.total_cmp(&other.0));
            if let Some((alike, place)) = best.filter(|best| best.0 >= 0.6) {
                let other = left.remove(place);
                shared += alike * (word.weight + other.weight);
            }
        }
        let words = if all == 0.0 { 0.0 } else { shared / all };
        // A beginning that is the same counts whatever follows; what has fewer than half of its letters in common is not
        // alike by letters.
        let at_most = self.letters_at_most(other);
        let may_be =
            at_most >= 0.55 || self.loose.starts_with(&other.loose) || other.loose.starts_with(&self.loose);
        if may_be && words < at_most.max(0.88) && by_letters() {
            return words.max(letters_alike(&self.loose, &other.loose));
        }
        words
    }
}

/// The words and marks of a heading, in lower case and without accents; camel case and digits part words.
fn pieces(heading: &str) -> Vec<String> {
    let bare: String = unaccented(heading).collect();
    let mut pieces: Vec<String> = Vec::new();
    let mut before = ' ';
    let mut chars = bare.chars().peekable();
    while let Some(c) = chars.next() {
        if c.is_alphanumeric() {
            let ends_capitals = before.is_uppercase()
                && c.is_uppercase()
                && chars.peek().is_some_and(|next| next.is_lowercase());
            let begins = !before.is_alphanumeric()
                || before.is_lowercase() && c.is_uppercase()
                || before.is_ascii_digit() != c.is_ascii_digit()
                || ends_capitals;
            match pieces.last_mut().filter(|_| !begins) {
                Some(piece) => piece.extend(c.to_lowercase()),
                None => pieces.push(c.to_lowercase().collect()),
            }
        } else if "()[]#№%".contains(c) {
            pieces.push(c.to_string());
        }
        before = c;
    }
    pieces
}

/// How much two words are the same.
fn same(one: &str, other: &str) -> f64 {
    if one == other {
        return 1.0;
    }
    let is_pair =
        |pair: &(&str, &str)| (pair.0 == one && pair.1 == other) || (pair.1 == one && pair.0 == other);
    if SAME.iter().any(is_pair) {
        return 0.9;
    }
    let (short, long) = if one.len() <= other.len() { (one, other) } else { (other, one) };
    let count = short.chars().count();
    if count >= 3 && long.starts_with(short) {
        return 0.9;
    }
    if count >= 3 && is_shortened(short, long) {
        return 0.75;
    }
    // Forms of one word: planted, planting; inspection, inspected.
    let stem = short.chars().zip(long.chars()).take_while(|(a, b)| a == b).count();
    if stem >= 4 && stem + 4 >= long.chars().count() {
        return 0.85;
    }
    // Slips of the pen in words of some length; each edit adds or takes one letter at most.
    if count < 4 || count * 10 < long.chars().count() * 7 {
        return 0.0;
    }
    let alike = strsim::normalized_damerau_levenshtein(one, other);
    if alike >= 0.7 { alike } else { 0.0 }
}

/// Whether a word is another one with letters left out: it begins and ends alike, and keeps their order.
fn is_shortened(short: &str, long: &str) -> bool {
    let mut rest = long.chars();
    let in_order = short.chars().all(|c| rest.any(|other| other == c));
    in_order
        && short.chars().next() == long.chars().next()
        && short.chars().next_back() == long.chars().next_back()
        && short.chars().count() * 3 >= long.chars().count()
}

/// How alike two headings are letter by letter; one that begins the other counts as near.
fn letters_alike(one: &str, other: &str) -> f64 {
    let (short, long) = if one.len() < other.len() { (one, other) } else { (other, one) };
    let count = short.chars().count();
    let begins =
        if count >= 3 && long.starts_with(short) && count * 3 >= long.chars().count() { 0.75 } else { 0.0 };
    if !may_be_alike(short, long) {
        return begins;
    }
    // What merely begins alike is for words to tell.
    let edits = strsim::normalized_damerau_levenshtein(one, other);
    let letters = if count >= 8 && edits >= 0.55 { likeness(one, other) } else { edits };
    begins.max(if letters >= 0.7 { letters } else { 0.0 })
}

/// Whether two words can be alike at all: two that share few letters need not be compared.
fn may_be_alike(short: &str, long: &str) -> bool {
    if !short.is_ascii() || !long.is_ascii() {
        return true;
    }
    let mut letters = [0_i32; 128];
    let count = |letters: &mut [i32; 128], byte: u8, by: i32| {
        if let Some(slot) = letters.get_mut(usize::from(byte)) {
            *slot += by;
        }
    };
    long.bytes().for_each(|byte| count(&mut letters, byte, 1));
    short.bytes().for_each(|byte| count(&mut letters, byte, -1));
    let (missing, surplus) =
        letters.iter().fold(
            (0, 0),
            |(missing, surplus), n| {
                if *n > 0 { (missing + n, surplus) } else { (missing, surplus - n) }
            },
        );
    // Each edit puts right one letter at most.
    let edits = usize::try_from(missing.max(surplus)).unwrap_or(usize::MAX);
    let shared = short.len().saturating_sub(usize::try_from(surplus).unwrap_or(usize::MAX));
    edits * 10 <= long.len() * 4 || shared * 10 >= short.len() * 7
}
