//! A set of short words that a cell is looked up in as it stands.

use super::quick_words::QuickWords;
use crate::scan::{Numbers, short_word, sixteen};

/// Words of up to sixteen bytes, in tables at most half full. Words that the plain judge would trim are not
/// taken up.
#[derive(Debug, Default)]
pub(crate) struct WordSet {
    short: Vec<u64>,
    long: Vec<u128>,
    pub(super) quick: Box<QuickWords>,
}

impl WordSet {
    pub(crate) fn new<W: AsRef<str>>(words: impl IntoIterator<Item = W>) -> Self {
        let words: Vec<W> = words.into_iter().collect();
        let is_quick = |word: &&W| {
            let (word, odd) = (word.as_ref(), |byte| byte == 0 || byte == b'"');
            (1..=16).contains(&word.len()) && word.trim() == word && !word.bytes().any(odd)
        };
        let words = words.iter().filter(is_quick).map(|word| word.as_ref().as_bytes());
        let (mut short, mut long) = (Vec::new(), Vec::new());
        for word in words.clone() {
            let mut bytes = [0; 16];
            bytes.iter_mut().zip(word).for_each(|(to, from)| *to = *from);
            match word.len() {
                len @ ..=8 => short.push(short_word(&bytes, 0, len)),
                len => long.push(sixteen(&bytes, 0, len)),
            }
        }
        let quick = Box::new(QuickWords::new(words));
        Self { quick, short: table(short, hash), long: table(long, hash_long) }
    }

    /// Whether it holds no word.
    pub(crate) fn is_empty(&self) -> bool {
        self.short.is_empty() && self.long.is_empty()
    }

    /// Whether these bytes are one of the words.
    pub(crate) fn has(&self, word: &[u8]) -> bool {
        let mut bytes = [0; 16];
        bytes.iter_mut().zip(word).for_each(|(to, from)| *to = *from);
        self.holds(&bytes, 0, word.len())
    }

    /// Of sixteen cells those that surely hold one of the words, a bit each.
    #[inline(always)]
    pub(super) fn held<N: Numbers>(
        &self,
        numbers: N,
        buffer: &[u8],
        starts: N::Sixteen,
        lengths: N::Sixteen,
    ) -> Option<N::Sixteen> {
        self.quick.held(numbers, buffer, starts, lengths)
    }

    /// Whether the `len` bytes at `start` are one of the words.
    #[inline(always)]
    pub(crate) fn holds(&self, buffer: &[u8], start: usize, len: usize) -> bool {
        match len {
            1..=8 => {
                let word = short_word(buffer, start, len);
                probe(&self.short, word, hash(word))
            }
            9..=16 => {
                let word = sixteen(buffer, start, len);
                probe(&self.long, word, hash_long(word))
            }
            _ => false,
        }
    }
}

/// Both halves of a product, so that every byte of the word counts in the low bits too.
#[inline(always)]
#[expect(clippy::cast_possible_truncation, reason = "the two halves")]
fn hash(word: u64) -> u64 {
    let product = u128::from(word) * 0x9E37_79B9_7F4A_7C15;
    (product as u64) ^ (product >> 64) as u64
}

#[inline(always)]
#[expect(clippy::cast_possible_truncation, reason = "the two halves")]
fn hash_long(word: u128) -> u64 {
    hash((word as u64).rotate_left(23) ^ (word >> 64) as u64)
}

#[expect(clippy::cast_possible_truncation, reason = "masked to the table")]
fn slot(hash: u64, len: usize) -> usize {
    hash as usize & (len - 1)
}

fn table<T: Copy + Ord + Default>(mut words: Vec<T>, hash: impl Fn(T) -> u64) -> Vec<T> {
    words.sort_unstable();
    words.dedup();
    let size = if words.is_empty() { 0 } else { (2 * words.len()).next_power_of_two().max(4) };
    let mut table = vec![T::default(); size];
    for word in words {
        insert(&mut table, word, hash(word));
    }
    table
}

fn insert<T: Copy + PartialEq + Default>(table: &mut [T], word: T, hash: u64) {
    let len = table.len();
    let mut at = slot(hash, len);
    while let Some(found) = table.get_mut(at) {
        if *found == T::default() {
            *found = word;
            return;
        }
        at = (at + 1) & (len - 1);
    }
}

#[inline(always)]
fn probe<T: Copy + PartialEq + Default>(table: &[T], word: T, hash: u64) -> bool {
    if table.is_empty() {
        return false;
    }
    let mut at = slot(hash, table.len());
    loop {
        match table.get(at) {
            Some(found) if *found == word => return true,
            Some(found) if *found != T::default() => at = (at + 1) & (table.len() - 1),
            _ => return false,
        }
    }
}
