//! Lanes of 32 bytes, on processors with AVX2 and carry-less multiplication.
//!
//! `unsafe` stands here and in `avx2_numbers`, for two things the compiler cannot see: that the features were found on this
//! processor (`with_avx2` is reached only after `is_there`, and an `Avx2` is made nowhere else), and that a load of 32
//! bytes from a reference to 32 bytes stays inside it; so do stores.

#![allow(unsafe_code, reason = "calls into code built for features found at run time, and unaligned loads")]

use super::avx2_numbers::WideNumbers;
use super::step::{Lanes, Task};
use crate::dialect::Dialect;
use crate::email::AddressParts;
use crate::letter_tables::{LOWER, LOWER_CLASSES, UPPER, UPPER_CLASSES};
use crate::oddities::Oddities;
use std::arch::x86_64::{
    __m128i, __m256i, _mm_add_epi64, _mm_clmulepi64_si128, _mm_cvtsi64_si128, _mm_cvtsi128_si64,
    _mm_loadl_epi64, _mm_unpackhi_epi64, _mm256_add_epi32, _mm256_add_epi64, _mm256_and_si256,
    _mm256_andnot_si256, _mm256_castsi256_si128, _mm256_cmpeq_epi8, _mm256_cmpgt_epi8, _mm256_cvtepu8_epi32,
    _mm256_extracti128_si256, _mm256_loadu_si256, _mm256_min_epu8, _mm256_movemask_epi8, _mm256_or_si256,
    _mm256_sad_epu8, _mm256_set1_epi8, _mm256_set1_epi32, _mm256_setr_epi64x, _mm256_setzero_si256,
    _mm256_shuffle_epi8, _mm256_slli_epi64, _mm256_srli_epi16, _mm256_storeu_si256, _mm256_sub_epi8,
    _mm256_xor_si256,
};

/// Whether this processor has what `Avx2` needs.
pub(super) fn is_there() -> bool {
    is_x86_feature_detected!("avx2")
        && is_x86_feature_detected!("pclmulqdq")
        && is_x86_feature_detected!("bmi1")
        && is_x86_feature_detected!("bmi2")
        && is_x86_feature_detected!("lzcnt")
        && is_x86_feature_detected!("popcnt")
}

/// Runs the task with everything in it built for these features.
pub(crate) fn with_avx2<T: Task>(dialect: Dialect, task: T) -> T::Output {
    debug_assert!(is_there());
    // SAFETY: reached only where `is_there` has found every feature named below.
    unsafe { run(dialect, task) }
}

#[target_feature(enable = "avx2,pclmulqdq,bmi1,bmi2,lzcnt,popcnt")]
fn run<T: Task>(dialect: Dialect, task: T) -> T::Output {
    let (upper, lower) = classes(dialect.delimiter);
    task.run(Avx2 {
        delimiter: _mm256_set1_epi8(dialect.delimiter.cast_signed()),
        quote: _mm256_set1_epi8(dialect.quote.cast_signed()),
        upper: table(upper),
        lower: table(lower),
        seen: _mm256_setzero_si256(),
        doubled: 0,
        after_space: 0,
    })
}

pub(crate) struct Avx2 {
    delimiter: __m256i,
    quote: __m256i,
    /// The classes of the halves of a byte.
    upper: __m256i,
    lower: __m256i,
    /// The classes of all bytes seen, joined by OR.
    seen: __m256i,
    /// Spaces behind spaces.
    doubled: u64,
    /// 1 when the byte before the next step is a space.
    after_space: u64,
}

#[inline]
#[target_feature(enable = "avx2")]
fn halves(step: &[u8; 64]) -> (__m256i, __m256i) {
    let Some((low, high)) = step.split_first_chunk::<32>() else { unreachable!("64 bytes hold 32") };
    let Some(high) = high.first_chunk::<32>() else { unreachable!("64 bytes hold twice 32") };
    // SAFETY: both pointers come from references to 32 bytes; the load asks for no alignment.
    unsafe { (_mm256_loadu_si256(low.as_ptr().cast()), _mm256_loadu_si256(high.as_ptr().cast())) }
}

#[inline]
#[target_feature(enable = "avx2")]
fn joined(low: __m256i, high: __m256i) -> u64 {
    u64::from(_mm256_movemask_epi8(low).cast_unsigned())
        | u64::from(_mm256_movemask_epi8(high).cast_unsigned()) << 32
}

#[inline]
#[target_feature(enable = "avx2")]
fn equal(step: &[u8; 64], wanted: __m256i) -> u64 {
    let (a, b) = halves(step);
    joined(_mm256_cmpeq_epi8(a, wanted), _mm256_cmpeq_epi8(b, wanted))
}

#[inline]
#[target_feature(enable = "avx2")]
fn equal_either(step: &[u8; 64], one: __m256i, other: __m256i) -> u64 {
    let (a, b) = halves(step);
    joined(
        _mm256_or_si256(_mm256_cmpeq_epi8(a, one), _mm256_cmpeq_epi8(a, other)),
        _mm256_or_si256(_mm256_cmpeq_epi8(b, one), _mm256_cmpeq_epi8(b, other)),
    )
}

/// The classes of bytes that are watched for, a bit each.
const NON_ASCII: u8 = 1;
const ODD_LETTER: u8 = 2;
const ODD_IN_C: u8 = 4;
const CONTROL_0: u8 = 8;
const CONTROL_1: u8 = 16;
const DELETE: u8 = 32;

/// The classes that a byte may belong to, by its upper half, and by its lower half: it belongs to those that
/// both name. A delimiter is no odd character.
fn classes(delimiter: u8) -> ([u8; 16], [u8; 16]) {
    let (mut upper, mut lower) = ([0; 16], [0; 16]);
    for (half, classes) in (0_u8..).zip(&mut upper) {
        *classes = match half {
            0 => CONTROL_0,
            1 => CONTROL_1,
            7 => DELETE,
            8..=11 => NON_ASCII,
            12 => NON_ASCII | ODD_IN_C,
            13.. => NON_ASCII | ODD_LETTER,
            _ => 0,
        };
    }
    for (half, classes) in (0_u8..).zip(&mut lower) {
        *classes = NON_ASCII | ODD_LETTER | CONTROL_0 | CONTROL_1;
        match half {
            2 | 13..=15 => *classes |= ODD_IN_C,
            _ => {}
        }
        if half == 10 || half == 13 || half == delimiter {
            *classes &= !CONTROL_0;
        }
        if half + 16 == delimiter {
            *classes &= !CONTROL_1;
        }
        if half == 15 && delimiter != 0x7F {
            *classes |= DELETE;
        }
    }
    (upper, lower)
}

/// The table for `classes_of`: the same sixteen bytes in both halves.
#[inline]
#[target_feature(enable = "avx2")]
fn table(bytes: [u8; 16]) -> __m256i {
    let half = u128::from_le_bytes(bytes);
    #[expect(clippy::cast_possible_truncation, reason = "the lower half, and the upper one")]
    let (low, high) = (half as u64, (half >> 64) as u64);
    _mm256_setr_epi64x(low.cast_signed(), high.cast_signed(), low.cast_signed(), high.cast_signed())
}

/// The classes of each byte.
#[inline]
#[target_feature(enable = "avx2")]
fn classes_of(bytes: __m256i, upper: __m256i, lower: __m256i) -> __m256i {
    let half = set(0x0F);
    let by_upper = _mm256_shuffle_epi8(upper, _mm256_and_si256(_mm256_srli_epi16::<4>(bytes), half));
    _mm256_and_si256(by_upper, _mm256_shuffle_epi8(lower, _mm256_and_si256(bytes, half)))
}

#[inline]
#[target_feature(enable = "avx2")]
fn set(byte: u8) -> __m256i {
    _mm256_set1_epi8(byte.cast_signed())
}

/// The sum of the letters among the first bytes, and whether these are ASCII.
#[inline]
#[target_feature(enable = "avx2")]
fn letters(step: &[u8; 64], len: usize) -> (u64, bool) {
    let (low, high) = halves(step);
    let (sums, is_ascii) = half_letters(low, len.min(32));
    let (sums, is_ascii) = if len > 32 {
        let (more, all_ascii) = half_letters(high, len - 32);
        (_mm256_add_epi64(sums, more), is_ascii && all_ascii)
    } else {
        (sums, is_ascii)
    };
    let pair = _mm_add_epi64(_mm256_castsi256_si128(sums), _mm256_extracti128_si256::<1>(sums));
    let sum = _mm_cvtsi128_si64(pair).wrapping_add(_mm_cvtsi128_si64(_mm_unpackhi_epi64(pair, pair)));
    (sum.cast_unsigned(), is_ascii)
}

/// Four sums over up to 32 bytes, of two tables each: the second one's stands 32 bits higher.
#[inline]
#[target_feature(enable = "avx2")]
fn half_letters(bytes: __m256i, len: usize) -> (__m256i, bool) {
    #[expect(clippy::cast_possible_truncation, reason = "at most 32")]
    let inside = _mm256_cmpgt_epi8(set(len as u8), in_order());
    let bytes = _mm256_and_si256(bytes, inside);
    let none = _mm256_cmpeq_epi8(
        classes_of(bytes, table(UPPER_CLASSES), table(LOWER_CLASSES)),
        _mm256_setzero_si256(),
    );
    let half = set(0x0F);
    let (upper, lower) =
        (_mm256_and_si256(_mm256_srli_epi16::<4>(bytes), half), _mm256_and_si256(bytes, half));
    let sum = |by_upper: __m256i, by_lower: __m256i| {
        let value =
            _mm256_xor_si256(_mm256_shuffle_epi8(by_upper, upper), _mm256_shuffle_epi8(by_lower, lower));
        _mm256_sad_epu8(_mm256_andnot_si256(none, value), _mm256_setzero_si256())
    };
    let one = sum(table(UPPER[0]), table(LOWER[0]));
    let other = sum(table(UPPER[1]), table(LOWER[1]));
    let sums = _mm256_or_si256(one, _mm256_slli_epi64::<32>(other));
    (sums, _mm256_movemask_epi8(bytes) == 0)
}

/// The numbers from 0 to 31.
#[inline]
#[target_feature(enable = "avx2")]
fn in_order() -> __m256i {
    _mm256_setr_epi64x(
        0x0706_0504_0302_0100,
        0x0F0E_0D0C_0B0A_0908,
        0x1716_1514_1312_1110,
        0x1F1E_1D1C_1B1A_1918,
    )
}

#[inline]
#[target_feature(enable = "avx2,pclmulqdq")]
fn parity(mask: u64) -> u64 {
    let ones: __m128i = _mm_cvtsi64_si128(-1);
    _mm_cvtsi128_si64(_mm_clmulepi64_si128::<0>(_mm_cvtsi64_si128(mask.cast_signed()), ones)).cast_unsigned()
}

#[inline]
#[target_feature(enable = "avx2")]
fn parts(step: &[u8; 64]) -> AddressParts {
    let (a, b) = halves(step);
    // What is least of a byte and the last one meant is that byte, where it is meant.
    let within = |first: u8, count: u8, fold: u8| {
        let half = |half: __m256i| {
            let moved = _mm256_sub_epi8(_mm256_or_si256(half, set(fold)), set(first));
            _mm256_cmpeq_epi8(_mm256_min_epu8(moved, set(count - 1)), moved)
        };
        joined(half(a), half(b))
    };
    AddressParts {
        letters: within(b'a', 26, 0x20),
        digits: within(b'0', 10, 0),
        marks: equal_either(step, set(b'_'), set(b'+')),
        hyphens: equal(step, set(b'-')),
        dots: equal(step, set(b'.')),
        ats: equal(step, set(b'@')),
    }
}

/// The places of the bits that are set in each byte, a byte each, one behind the other.
#[expect(clippy::indexing_slicing, reason = "counted from 0 to the length, when compiled")]
static PLACES: [[u8; 8]; 256] = {
    let mut places = [[0; 8]; 256];
    let mut byte = 0;
    while byte < 256 {
        let (mut bit, mut count) = (0, 0);
        while bit < 8 {
            if byte >> bit & 1 == 1 {
                places[byte][count] = bit as u8;
                count += 1;
            }
            bit += 1;
        }
        byte += 1;
    }
    places
};

/// Eight bits at a time by a table, without a branch: how many are set is guessed wrong too often.
#[inline]
#[target_feature(enable = "avx2,popcnt")]
fn positions(base: u32, mask: u64, slots: &mut [u32; 64]) {
    let eight = _mm256_set1_epi32(8);
    let mut base = _mm256_set1_epi32(base.cast_signed());
    let (mut done, to) = (0_usize, slots.as_mut_ptr());
    for byte in mask.to_le_bytes() {
        // SAFETY: at most eight slots were filled for each byte before, so that eight are left; the load is of eight bytes,
        // and the store asks for no alignment.
        unsafe {
            let places = _mm_loadl_epi64(PLACES.as_ptr().add(byte as usize).cast());
            let places = _mm256_add_epi32(_mm256_cvtepu8_epi32(places), base);
            _mm256_storeu_si256(to.add(done).cast(), places);
        }
        done += byte.count_ones() as usize;
        base = _mm256_add_epi32(base, eight);
    }
}

// SAFETY of every call below: an `Avx2` is made only in `run`, behind `is_there`.
impl Lanes for Avx2 {
    type Numbers = WideNumbers;

    #[inline(always)]
    fn numbers(&self) -> WideNumbers {
        unsafe { WideNumbers::proven() }
    }

    #[inline(always)]
    fn quotes(&self, step: &[u8; 64]) -> u64 {
        unsafe { equal(step, self.quote) }
    }

    #[inline(always)]
    fn separators(&self, step: &[u8; 64]) -> u64 {
        unsafe { equal_either(step, self.delimiter, set(b'\n')) }
    }

    #[inline(always)]
    fn line_feeds(&self, step: &[u8; 64]) -> u64 {
        unsafe { equal(step, set(b'\n')) }
    }

    #[inline(always)]
    fn carriage_returns(&self, step: &[u8; 64]) -> u64 {
        unsafe { equal(step, set(b'\r')) }
    }

    #[inline(always)]
    fn prefix_parity(&self, mask: u64) -> u64 {
        unsafe { parity(mask) }
    }

    #[inline(always)]
    fn is_address(&self, step: &[u8; 64], len: usize) -> bool {
        unsafe { parts(step) }.are_address(len)
    }

    #[inline(always)]
    fn positions(&self, base: u32, mask: u64, slots: &mut [u32; 64]) {
        unsafe { positions(base, mask, slots) }
    }

    #[inline(always)]
    fn letters(&self, step: &[u8; 64], len: usize) -> (u64, bool) {
        unsafe { letters(step, len) }
    }

    #[inline(always)]
    fn watch(&mut self, step: &[u8; 64]) {
        unsafe {
            let (a, b) = halves(step);
            let found =
                _mm256_or_si256(classes_of(a, self.upper, self.lower), classes_of(b, self.upper, self.lower));
            self.seen = _mm256_or_si256(self.seen, found);
            let spaces = equal(step, set(b' '));
            self.doubled |= spaces & (spaces << 1 | self.after_space);
            self.after_space = spaces >> 63;
        }
    }

    #[inline(always)]
    fn watched(&self) -> Oddities {
        unsafe {
            let any = |classes: u8| {
                let without = _mm256_cmpeq_epi8(_mm256_and_si256(self.seen, set(classes)), set(0));
                _mm256_movemask_epi8(without) != -1
            };
            Oddities {
                non_ascii: any(NON_ASCII),
                control: any(CONTROL_0 | CONTROL_1 | DELETE),
                odd_letter: any(ODD_LETTER | ODD_IN_C),
                doubled_space: self.doubled != 0,
            }
        }
    }
}
