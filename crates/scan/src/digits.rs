//! Short cells as words: loads of eight and sixteen bytes, and decimal digits eight at a time.

use crate::lanes::Numbers;

/// The first `len` (1 to 8) bytes at `start` as a little-endian word, zeros behind them. No branch: lengths are
/// guessed wrong too often.
#[inline(always)]
#[must_use]
pub fn short_word(buffer: &[u8], start: usize, len: usize) -> u64 {
    let Some(bytes) = buffer.get(start..start + 8).and_then(|bytes| bytes.first_chunk::<8>()) else {
        return 0;
    };
    u64::from_le_bytes(*bytes) & (u64::MAX >> (8 * (8 - len.clamp(1, 8))))
}

/// The first `len` (1 to 16) bytes at `start` as a little-endian word, zeros behind them.
#[inline(always)]
#[must_use]
pub fn sixteen(buffer: &[u8], start: usize, len: usize) -> u128 {
    let Some(bytes) = buffer.get(start..start + 16).and_then(|bytes| bytes.first_chunk::<16>()) else {
        return 0;
    };
    u128::from_le_bytes(*bytes) & (u128::MAX >> (8 * (16 - len.clamp(1, 16))))
}

const ONES: u64 = 0x0101_0101_0101_0101;

/// The value of up to eight ASCII digits, the first in the lowest byte of `word`; what stands behind them in
/// it does not matter. Nothing when there are none or a byte is no digit.
#[inline(always)]
#[must_use]
pub fn few_digits(word: u64, len: usize) -> Option<u64> {
    if len == 0 || len > 8 {
        return None;
    }
    // Digits less '0', moved up so that zeros stand before them. `^ 0x30` is the subtraction for bytes 0x30 to
    // 0x3F and leaves a high nibble for any other.
    let digits = (word ^ (ONES * 0x30)) << (64 - 8 * len);
    // A digit stays under 10: adding 0x76 then leaves the high bit clear.
    if (digits | (digits & (ONES * 0x7F)).wrapping_add(ONES * 0x76)) & (ONES * 0x80) != 0 {
        return None;
    }
    let pairs = digits.wrapping_mul(10).wrapping_add(digits >> 8);
    let fours = (pairs & 0x0000_00FF_0000_00FF).wrapping_mul(100 + (1_000_000 << 32));
    let others = ((pairs >> 16) & 0x0000_00FF_0000_00FF).wrapping_mul(1 + (10_000 << 32));
    Some(fours.wrapping_add(others) >> 32)
}

/// The value of up to sixteen ASCII digits at `start`; nothing when there are none, more, or a byte is no
/// digit. The buffer has [`crate::PADDING`] bytes behind its content.
#[inline(always)]
#[must_use]
pub fn digits_at(buffer: &[u8], start: usize, len: usize) -> Option<u64> {
    let load = |at: usize| {
        buffer
            .get(at..)
            .and_then(|bytes| bytes.first_chunk::<8>())
            .map_or(0, |bytes| u64::from_le_bytes(*bytes))
    };
    if len <= 8 {
        return few_digits(load(start), len);
    }
    if len > 16 {
        return None;
    }
    let head = few_digits(load(start), len - 8)?;
    Some(head * 100_000_000 + few_digits(load(start + len - 8), 8)?)
}

/// The values of sixteen cells of up to eight ASCII digits, and which of the cells are that; what is said of others does not
/// count. Nothing where one of them ends among the first bytes of the buffer.
#[inline(always)]
#[must_use]
pub fn eight_digits<N: Numbers>(
    numbers: N,
    buffer: &[u8],
    starts: N::Sixteen,
    lengths: N::Sixteen,
) -> Option<(N::Sixteen, N::Sixteen)> {
    let of = |number: u32| numbers.all(number);
    let last_eight = numbers.add(numbers.add(starts, lengths), of(8_u32.wrapping_neg()));
    let (head, tail) = numbers.eight_bytes(buffer, last_eight)?;
    let (head, tail) = (digits_of(numbers, head, lengths, 8), digits_of(numbers, tail, lengths, 4));
    let are_digits = numbers.and(digits_alone(numbers, head), digits_alone(numbers, tail));
    let is_long = numbers.over(numbers.less(lengths, of(1)), of(7));
    let value = numbers.add(numbers.times(numbers.of_digits(head), of(10_000)), numbers.of_digits(tail));
    Some((value, numbers.without(are_digits, is_long)))
}

/// The digits among four bytes, of which the first stands `before` the end of a cell of so many bytes; noughts where they
/// are none of its bytes. What is no digit is over nine.
#[inline(always)]
#[must_use]
pub fn digits_of<N: Numbers>(numbers: N, four: N::Sixteen, lengths: N::Sixteen, before: u32) -> N::Sixteen {
    let of = |number: u32| numbers.all(number);
    let inside = numbers.most(numbers.least(lengths, of(before)), of(before - 4));
    let others = numbers.times(numbers.less(of(before), inside), of(8));
    numbers.up(numbers.down(numbers.xor(four, of(0x3030_3030)), others), others)
}

/// Which of sixteen numbers hold bytes of 0 to 9 alone.
#[inline(always)]
#[must_use]
pub fn digits_alone<N: Numbers>(numbers: N, four: N::Sixteen) -> N::Sixteen {
    let over = numbers.or(four, numbers.add(four, numbers.all(0x0606_0606)));
    numbers.equal(numbers.and(over, numbers.all(0xF0F0_F0F0)), numbers.all(0))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lanes::{Lanes, Task, on_each_kind};
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn digits_read_as_the_standard_library_reads_them(text in "[0-9]{1,16}|[0-9/:a-f]{0,16}|.{0,4}") {
            let mut buffer = text.clone().into_bytes();
            let len = buffer.len();
            prop_assume!(len <= 16);
            buffer.resize(len + crate::PADDING, b'7');
            let plain = text.bytes().all(|b| b.is_ascii_digit()).then(|| text.parse::<u64>().ok()).flatten();
            prop_assert_eq!(digits_at(&buffer, 0, len), plain);
            if (1..=8).contains(&len) {
                prop_assert_eq!(u128::from(short_word(&buffer, 0, len)), sixteen(&buffer, 0, len));
            }
        }

        #[test]
        fn sixteen_cells_of_digits_read_as_one_does(
            cells in proptest::collection::vec("[0-9]{0,9}|[0-9]{1,7}[/:;a .-][0-9]{0,3}|.{0,2}", 17)
        ) {
            let mut buffer = b"12345678".to_vec();
            let (mut starts, mut lengths) = ([0; 16], [0; 16]);
            for (at, cell) in cells.iter().take(16).enumerate() {
                (starts[at], lengths[at]) = (buffer.len() as u32, cell.len() as u32);
                buffer.extend(cell.as_bytes());
                buffer.extend(cells[16].as_bytes());
            }
            buffer.resize(buffer.len() + crate::PADDING, b'7');
            for (values, are_digits) in on_each_kind(crate::Dialect::default(), || Cells(&buffer, starts, lengths)) {
                for at in 0..16 {
                    let (start, len) = (starts[at] as usize, lengths[at] as usize);
                    let plain = digits_at(&buffer, start, len).filter(|_| len <= 8);
                    let found = (are_digits >> at & 1 == 1).then(|| u64::from(values[at]));
                    prop_assert_eq!(found, plain, "{:?}", cells[at]);
                }
            }
        }
    }

    struct Cells<'a>(&'a [u8], [u32; 16], [u32; 16]);

    impl Task for Cells<'_> {
        type Output = ([u32; 16], u16);

        fn run<L: Lanes>(self, lanes: L) -> Self::Output {
            let numbers = lanes.numbers();
            let (starts, lengths) = (numbers.of(self.1), numbers.of(self.2));
            let (values, are_digits) = eight_digits(numbers, self.0, starts, lengths).unwrap();
            (numbers.apart(values), numbers.bits(are_digits))
        }
    }
}
