//! Lanes of 32 bytes, on processors with AVX2 and carry-less multiplication.
//!
//! The only `unsafe` of the project stands here, for two things the compiler cannot see: that the features
//! were found on this processor (`with_avx2` is reached only after `is_there`, and an `Avx2` is made nowhere
//! else), and that a load of 32 bytes from a reference to 32 bytes stays inside it.

#![allow(unsafe_code, reason = "calls into code built for features found at run time, and unaligned loads")]

use super::{Lanes, Task};
use crate::{Dialect, Oddities};
use std::arch::x86_64::{
    __m128i, __m256i, _mm_clmulepi64_si128, _mm_cvtsi64_si128, _mm_cvtsi128_si64, _mm256_and_si256,
    _mm256_andnot_si256, _mm256_cmpeq_epi8, _mm256_loadu_si256, _mm256_max_epu8, _mm256_min_epu8,
    _mm256_movemask_epi8, _mm256_or_si256, _mm256_set1_epi8, _mm256_setr_epi8, _mm256_setzero_si256,
    _mm256_shuffle_epi8,
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
    task.run(Avx2 {
        delimiter: _mm256_set1_epi8(dialect.delimiter.cast_signed()),
        quote: _mm256_set1_epi8(dialect.quote.cast_signed()),
        seen: _mm256_setzero_si256(),
        least: set(0xFF),
        control: _mm256_setzero_si256(),
        letters: _mm256_setzero_si256(),
        doubled: 0,
        after_space: 0,
    })
}

pub(crate) struct Avx2 {
    delimiter: __m256i,
    quote: __m256i,
    /// All bytes seen, joined by OR: the high bit tells of bytes over 0x7F.
    seen: __m256i,
    /// The least byte seen in each lane: zero where there was a NUL.
    least: __m256i,
    /// All ones where a control character was seen.
    control: __m256i,
    /// All ones where an odd letter began.
    letters: __m256i,
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

/// All ones where a control character stands that is no delimiter, line feed or carriage return.
#[inline]
#[target_feature(enable = "avx2")]
fn controls(bytes: __m256i, delimiter: __m256i) -> __m256i {
    #[rustfmt::skip]
    let low = _mm256_setr_epi8(
        -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 0, -1, -1, 0, -1, -1,
        -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 0, -1, -1, 0, -1, -1,
    );
    let group = _mm256_and_si256(bytes, set(0xF0));
    let first = _mm256_and_si256(_mm256_shuffle_epi8(low, bytes), _mm256_cmpeq_epi8(group, set(0)));
    let second = _mm256_cmpeq_epi8(group, set(0x10));
    let any = _mm256_or_si256(_mm256_or_si256(first, second), _mm256_cmpeq_epi8(bytes, set(0x7F)));
    _mm256_andnot_si256(_mm256_cmpeq_epi8(bytes, delimiter), any)
}

/// All ones where a character begins that may be odd, see [`crate::oddities`].
#[inline]
#[target_feature(enable = "avx2")]
fn odd_letters(bytes: __m256i) -> __m256i {
    let late = _mm256_cmpeq_epi8(_mm256_max_epu8(bytes, set(0xCD)), bytes);
    _mm256_or_si256(late, _mm256_cmpeq_epi8(bytes, set(0xC2)))
}

#[inline]
#[target_feature(enable = "avx2")]
fn set(byte: u8) -> __m256i {
    _mm256_set1_epi8(byte.cast_signed())
}

#[inline]
#[target_feature(enable = "avx2,pclmulqdq")]
fn parity(mask: u64) -> u64 {
    let ones: __m128i = _mm_cvtsi64_si128(-1);
    _mm_cvtsi128_si64(_mm_clmulepi64_si128::<0>(_mm_cvtsi64_si128(mask.cast_signed()), ones)).cast_unsigned()
}

// SAFETY of every call below: an `Avx2` is made only in `run`, behind `is_there`.
impl Lanes for Avx2 {
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
    fn watch(&mut self, step: &[u8; 64]) {
        unsafe {
            let (a, b) = halves(step);
            self.seen = _mm256_or_si256(self.seen, _mm256_or_si256(a, b));
            self.least = _mm256_min_epu8(self.least, _mm256_min_epu8(a, b));
            self.control = _mm256_or_si256(
                self.control,
                _mm256_or_si256(controls(a, self.delimiter), controls(b, self.delimiter)),
            );
            self.letters = _mm256_or_si256(self.letters, _mm256_or_si256(odd_letters(a), odd_letters(b)));
            let spaces = equal(step, set(b' '));
            self.doubled |= spaces & (spaces << 1 | self.after_space);
            self.after_space = spaces >> 63;
        }
    }

    #[inline(always)]
    fn watched(&self) -> Oddities {
        unsafe {
            let any = |lanes: __m256i| _mm256_movemask_epi8(lanes) != 0;
            let nul = _mm256_cmpeq_epi8(self.least, _mm256_setzero_si256());
            Oddities {
                non_ascii: any(self.seen),
                nul: any(nul),
                control: any(self.control),
                odd_letter: any(self.letters),
                doubled_space: self.doubled != 0,
            }
        }
    }
}
