//! The twin that runs everywhere: no instruction beyond the baseline.

use super::numbers::PlainNumbers;
use super::step::Lanes;
use crate::dialect::Dialect;
use crate::letter_tables::letter_sum;
use crate::oddities::Oddities;

/// Lanes of bytes in a row.
pub(crate) struct Portable {
    delimiter: u8,
    quote: u8,
    odd: Oddities,
    /// Whether the byte before the next step is a space.
    after_space: bool,
}

impl Portable {
    pub(crate) fn new(dialect: Dialect) -> Self {
        Self {
            delimiter: dialect.delimiter,
            quote: dialect.quote,
            odd: Oddities::default(),
            after_space: false,
        }
    }
}

/// The low bits of eight bytes, side by side.
#[inline(always)]
fn gather(bytes: [u8; 8]) -> u64 {
    u64::from_le_bytes(bytes).wrapping_mul(0x0102_0408_1020_4080) >> 56
}

/// Which bytes are meant, byte by byte first: a compiler does that to many of them at once, on any processor.
#[inline(always)]
fn mask(step: &[u8; 64], is_meant: impl Fn(u8) -> bool) -> u64 {
    let meant = step.map(|byte| u8::from(is_meant(byte)));
    meant.as_chunks().0.iter().enumerate().fold(0, |all, (at, bytes)| all | gather(*bytes) << (8 * at))
}

impl Lanes for Portable {
    type Numbers = PlainNumbers;

    fn numbers(&self) -> PlainNumbers {
        PlainNumbers
    }

    #[inline(always)]
    fn quotes(&self, step: &[u8; 64]) -> u64 {
        mask(step, |byte| byte == self.quote)
    }

    #[inline(always)]
    fn separators(&self, step: &[u8; 64]) -> u64 {
        mask(step, |byte| (byte == self.delimiter) | (byte == b'\n'))
    }

    #[inline(always)]
    fn line_feeds(&self, step: &[u8; 64]) -> u64 {
        mask(step, |byte| byte == b'\n')
    }

    fn carriage_returns(&self, step: &[u8; 64]) -> u64 {
        mask(step, |byte| byte == b'\r')
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

    #[inline(always)]
    fn watch(&mut self, step: &[u8; 64]) {
        self.odd.note(step, self.delimiter);
        self.odd.doubled_space |= self.after_space && step.first() == Some(&b' ');
        self.after_space = step.last() == Some(&b' ');
    }

    fn watched(&self) -> Oddities {
        self.odd
    }
}
