//! Sums over the letters and digits of texts: equal for texts that differ in case, punctuation, spaces or the order of
//! their letters alone. They only suspect; whoever uses them compares the texts.

use crate::Dialect;
use crate::lanes::{Lanes, Task, with_lanes};

/// What a byte adds, from two tables by its upper and two by its lower half.
pub(crate) const UPPER: [[u8; 16]; 2] = [
    [0, 0, 0, 0x5B, 0x33, 0xC6, 0x33, 0xC6, 0x1D, 0x72, 0xA9, 0xE4, 0x4F, 0x98, 0x27, 0xD1],
    [0, 0, 0, 0xA7, 0x0E, 0x91, 0x0E, 0x91, 0xEC, 0x35, 0x58, 0x16, 0xBB, 0x6D, 0xD2, 0x43],
];
pub(crate) const LOWER: [[u8; 16]; 2] = [
    [0x81, 0x2E, 0xF7, 0x14, 0xB2, 0x69, 0xDC, 0x47, 0x9A, 0x05, 0xEB, 0x70, 0x3D, 0xC8, 0x56, 0xA3],
    [0x62, 0xD9, 0x1F, 0x84, 0x4B, 0xF0, 0x37, 0xAD, 0xE6, 0x5C, 0x93, 0x08, 0xC1, 0x7A, 0x2F, 0xB4],
];
/// The classes of which a byte must have one by both halves to add anything: a to o, p to z, digits, beyond ASCII.
pub(crate) const UPPER_CLASSES: [u8; 16] = [0, 0, 0, 4, 1, 2, 1, 2, 8, 8, 8, 8, 8, 8, 8, 8];
pub(crate) const LOWER_CLASSES: [u8; 16] = [14, 15, 15, 15, 15, 15, 15, 15, 15, 15, 11, 9, 9, 9, 9, 9];

const TWO_SUMS: [u64; 256] = {
    let mut sums = [0; 256];
    let mut byte = 0;
    while byte < 256 {
        let (upper, lower) = (byte >> 4, byte & 15);
        #[expect(clippy::indexing_slicing, reason = "halves of a byte index 16 places, a byte 256")]
        if UPPER_CLASSES[upper] & LOWER_CLASSES[lower] != 0 {
            let one = (UPPER[0][upper] ^ LOWER[0][lower]) as u64;
            let other = (UPPER[1][upper] ^ LOWER[1][lower]) as u64;
            sums[byte] = one | other << 32;
        }
        byte += 1;
    }
    sums
};

/// The sum of a text: two sums of 32 bits each.
#[must_use]
pub fn letter_sum(text: &[u8]) -> u64 {
    #[expect(clippy::indexing_slicing, reason = "a byte indexes 256 places")]
    text.iter().fold(0, |sum, byte| sum + TWO_SUMS[usize::from(*byte)])
}

/// Hands the sums of the cells of a column to `each`: the number of the cell, its sum, and whether it is ASCII.
/// `bounds` holds, every `stride` numbers, the place before a cell and its end (as places wrap, the place before the
/// first byte is the greatest number).
pub fn letter_sums(
    buffer: &[u8],
    bounds: &[u32],
    stride: usize,
    dialect: Dialect,
    each: impl FnMut(usize, u64, bool),
) {
    with_lanes(dialect, SumTask { buffer, bounds, stride, each });
}

struct SumTask<'a, F> {
    buffer: &'a [u8],
    bounds: &'a [u32],
    stride: usize,
    each: F,
}

impl<F: FnMut(usize, u64, bool)> Task for SumTask<'_, F> {
    type Output = ();

    #[inline(always)]
    fn run<L: Lanes>(mut self, lanes: L) {
        for (number, pair) in self.bounds.chunks_exact(self.stride.max(2)).enumerate() {
            let [before, end, ..] = pair else { continue };
            let (at, end) = (before.wrapping_add(1) as usize, *end as usize);
            let step = self.buffer.get(at..).and_then(|rest| rest.first_chunk::<64>());
            let (sum, is_ascii) = match step {
                Some(step) if end.wrapping_sub(at) <= 64 => lanes.letters(step, end - at),
                _ => long(self.buffer.get(at..end).unwrap_or_default()),
            };
            (self.each)(number, sum, is_ascii);
        }
    }
}

#[cold]
#[inline(never)]
fn long(text: &[u8]) -> (u64, bool) {
    (letter_sum(text), text.is_ascii())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::PADDING;

    #[test]
    fn letters_and_digits_count_in_either_case_and_nothing_else_does() {
        for byte in 0..=u8::MAX {
            let counts = byte.is_ascii_alphanumeric() || byte >= 0x80;
            let sum = letter_sum(&[byte]);
            assert_eq!(counts, sum & 0xFFFF_FFFF != 0 && sum >> 32 != 0, "{byte}");
            assert_eq!(sum, letter_sum(&[byte.to_ascii_lowercase()]), "{byte}");
        }
        let all: std::collections::HashSet<_> =
            (b'a'..=b'z').chain(b'0'..=b'9').map(|byte| letter_sum(&[byte])).collect();
        assert_eq!(all.len(), 36, "each has a sum of its own");
    }

    #[test]
    fn lanes_and_the_plain_sum_agree() {
        // Cells of every length up to 200, of every byte, side by side and apart.
        let mut buffer: Vec<u8> =
            (0..40_000_u32).map(|n| (n.wrapping_mul(2_654_435_761) >> 13) as u8).collect();
        let len = buffer.len();
        buffer.resize(len + PADDING, 0);
        let mut bounds = Vec::new();
        let mut at = 0_u32;
        for n in 0..1000_u32 {
            let end = at + n % 201;
            if end as usize > len {
                break;
            }
            bounds.extend([at.wrapping_sub(1), end, 7]);
            at = end + n % 3;
        }
        let mut seen = 0;
        letter_sums(&buffer, &bounds, 3, Dialect::default(), |number, sum, is_ascii| {
            let text = &buffer[bounds[3 * number].wrapping_add(1) as usize..bounds[3 * number + 1] as usize];
            assert_eq!((sum, is_ascii), (letter_sum(text), text.is_ascii()), "{text:?}");
            seen += 1;
        });
        assert_eq!(seen, bounds.len() / 3);
    }
}
