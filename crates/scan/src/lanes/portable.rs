//! The twin that runs everywhere: eight bytes a word, no instruction beyond the baseline.

use super::step::Lanes;
use crate::dialect::Dialect;
use crate::letter_tables::letter_sum;
use crate::oddities::Oddities;

const ONES: u64 = 0x0101_0101_0101_0101;
const HIGH: u64 = 0x8080_8080_8080_8080;

/// Lanes of eight bytes in a plain word.
pub(crate) struct Portable {
    delimiter: u64,
    quote: u64,
    odd: Oddities,
    /// Whether the byte before the next step is a space.
    after_space: bool,
}

impl Portable {
    pub(crate) fn new(dialect: Dialect) -> Self {
        Self {
            delimiter: ONES * u64::from(dialect.delimiter),
            quote: ONES * u64::from(dialect.quote),
            odd: Oddities::default(),
            after_space: false,
        }
    }
}

fn words(step: &[u8; 64]) -> [u64; 8] {
    let mut words = [0; 8];
    for (word, bytes) in words.iter_mut().zip(step.as_chunks::<8>().0) {
        *word = u64::from_le_bytes(*bytes);
    }
    words
}

/// The high bit of each byte that is zero, exactly (no carry crosses a byte).
fn zero_bytes(word: u64) -> u64 {
    !(((word & !HIGH) + !HIGH) | word | !HIGH)
}

/// The high bits of eight bytes, side by side.
fn gather(high_bits: u64) -> u64 {
    ((high_bits >> 7).wrapping_mul(0x0102_0408_1020_4080)) >> 56
}

fn mask(step: &[u8; 64], found: impl Fn(u64) -> u64) -> u64 {
    words(step).iter().enumerate().fold(0, |all, (i, &word)| all | gather(found(word)) << (8 * i))
}

impl Lanes for Portable {
    fn quotes(&self, step: &[u8; 64]) -> u64 {
        mask(step, |word| zero_bytes(word ^ self.quote))
    }

    fn separators(&self, step: &[u8; 64]) -> u64 {
        mask(step, |word| zero_bytes(word ^ self.delimiter) | zero_bytes(word ^ (ONES * 10)))
    }

    fn line_feeds(&self, step: &[u8; 64]) -> u64 {
        mask(step, |word| zero_bytes(word ^ (ONES * 10)))
    }

    fn carriage_returns(&self, step: &[u8; 64]) -> u64 {
        mask(step, |word| zero_bytes(word ^ (ONES * 13)))
    }

    fn prefix_parity(&self, mut mask: u64) -> u64 {
        for shift in [1, 2, 4, 8, 16, 32] {
            mask ^= mask << shift;
        }
        mask
    }

    fn letters(&self, step: &[u8; 64], len: usize) -> (u64, bool) {
        let text = step.get(..len).unwrap_or(step);
        (letter_sum(text), text.is_ascii())
    }

    fn watch(&mut self, step: &[u8; 64]) {
        self.odd.note(step, self.delimiter.to_le_bytes()[0]);
        self.odd.doubled_space |= self.after_space && step.first() == Some(&b' ');
        self.after_space = step.last() == Some(&b' ');
    }

    fn watched(&self) -> Oddities {
        self.odd
    }
}
