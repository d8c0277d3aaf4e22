//! Sums over the letters and digits of texts: equal for texts that differ in case, punctuation, spaces or the order of
//! their letters alone. They only suspect; whoever uses them compares the texts.

use super::dialect::Dialect;
use crate::lanes::{Lanes, Task, with_lanes};
use crate::letter_tables::letter_sum;

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
