//! Short cells as words: loads of eight and sixteen bytes, and decimal digits eight at a time.

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

#[cfg(test)]
mod tests {
    use super::*;
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
    }
}
