//! Sixteen numbers side by side, on processors with AVX2: eight in each of two.
//!
//! `unsafe` stands here for what it stands for in `avx2`, and for reads at sixteen places, all of which are held against
//! the length before. They are read one by one: an instruction that gathers them takes twice as long.
//!
//! Before you change this: what is built for these features is built into functions that name them alone. A closure or a
//! function of the standard library between the two (`map`, `then`, `fold`) stands apart, and every instruction becomes a call.

#![allow(
    unsafe_code,
    reason = "calls into code built for features found at run time, and reads at tested places"
)]

use super::numbers::Numbers;
use std::arch::x86_64::{
    __m256i, _mm256_add_epi32, _mm256_and_si256, _mm256_andnot_si256, _mm256_blendv_epi8,
    _mm256_castps_si256, _mm256_castsi256_ps, _mm256_cmpeq_epi32, _mm256_loadu_si256, _mm256_madd_epi16,
    _mm256_maddubs_epi16, _mm256_max_epu32, _mm256_min_epu32, _mm256_movemask_ps, _mm256_mullo_epi32,
    _mm256_or_si256, _mm256_permute4x64_epi64, _mm256_set_epi32, _mm256_set_epi64x, _mm256_set1_epi32,
    _mm256_shuffle_ps, _mm256_sllv_epi32, _mm256_srlv_epi32, _mm256_storeu_si256, _mm256_sub_epi32,
    _mm256_xor_si256,
};

/// Proof that the features are there: only the lanes of `avx2` make one.
#[derive(Debug, Clone, Copy)]
pub(crate) struct WideNumbers(());

/// Eight numbers and eight more.
#[derive(Clone, Copy)]
pub(crate) struct Pair(__m256i, __m256i);

impl WideNumbers {
    /// # Safety
    /// Only where the features of `avx2` were found.
    pub(super) const unsafe fn proven() -> Self {
        Self(())
    }
}

#[inline]
#[target_feature(enable = "avx2")]
fn set(number: u32) -> __m256i {
    _mm256_set1_epi32(number.cast_signed())
}

/// Whether every place is below `end`.
#[inline]
#[target_feature(enable = "avx2")]
fn are_inside(places: Pair, end: usize) -> bool {
    let Some(last) = end.checked_sub(1) else { return false };
    let greatest = _mm256_max_epu32(places.0, places.1);
    let last = set(u32::try_from(last).unwrap_or(u32::MAX));
    let inside = _mm256_cmpeq_epi32(_mm256_max_epu32(greatest, last), last);
    _mm256_movemask_ps(_mm256_castsi256_ps(inside)) == 0xFF
}

#[inline]
#[target_feature(enable = "avx2")]
fn apart(one: Pair) -> [u32; 16] {
    let mut numbers = [0; 16];
    let to: *mut __m256i = numbers.as_mut_ptr().cast();
    // SAFETY: the pointer comes from sixteen numbers, 64 bytes; the stores ask for no alignment.
    unsafe {
        _mm256_storeu_si256(to, one.0);
        _mm256_storeu_si256(to.add(1), one.1);
    }
    numbers
}

/// What `read` gives for each place.
#[inline(always)]
#[expect(clippy::cast_possible_wrap, reason = "bits alone count")]
fn each_read(places: [u32; 16], read: impl Fn(usize) -> u32) -> Pair {
    let [a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p] = places;
    macro_rules! eight {
        ($($place:ident)*) => { unsafe { _mm256_set_epi32($(read($place as usize) as i32),*) } };
    }
    // SAFETY: called where the features are alone.
    Pair(eight!(h g f e d c b a), eight!(p o n m l k j i))
}

/// The halves of what `read` gives for each place.
#[inline(always)]
#[expect(clippy::cast_possible_wrap, reason = "bits alone count")]
fn each_halved(places: [u32; 16], read: impl Fn(usize) -> u64) -> (Pair, Pair) {
    let [a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p] = places;
    macro_rules! four {
        ($($place:ident)*) => { _mm256_set_epi64x($(read($place as usize) as i64),*) };
    }
    // SAFETY: called where the features are alone.
    let (low, high) = unsafe { halved(four!(d c b a), four!(h g f e)) };
    let (more_low, more_high) = unsafe { halved(four!(l k j i), four!(p o n m)) };
    (Pair(low, more_low), Pair(high, more_high))
}

/// The lower halves of eight long numbers, and the upper ones.
#[inline]
#[target_feature(enable = "avx2")]
fn halved(one: __m256i, other: __m256i) -> (__m256i, __m256i) {
    let (one, other) = (_mm256_castsi256_ps(one), _mm256_castsi256_ps(other));
    // By lanes of 128 bits: two of the one, two of the other, twice.
    let low = _mm256_castps_si256(_mm256_shuffle_ps::<0b10_00_10_00>(one, other));
    let high = _mm256_castps_si256(_mm256_shuffle_ps::<0b11_01_11_01>(one, other));
    (_mm256_permute4x64_epi64::<0b11_01_10_00>(low), _mm256_permute4x64_epi64::<0b11_01_10_00>(high))
}

#[inline]
#[target_feature(enable = "avx2")]
fn strided(from: &[u32], stride: usize) -> Option<(Pair, Pair)> {
    let behind = stride.checked_mul(15)?.checked_add(2)?;
    if from.len() < behind {
        return None;
    }
    const IN_ORDER: [u32; 16] = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15];
    // SAFETY: fifteen strides and two numbers are there.
    Some(each_halved(IN_ORDER, |at| unsafe { from.as_ptr().add(at * stride).cast::<u64>().read_unaligned() }))
}

#[inline]
#[target_feature(enable = "avx2")]
fn take(from: &[u32], places: Pair) -> Option<Pair> {
    if !are_inside(places, from.len()) {
        return None;
    }
    // SAFETY: every place is below the length.
    Some(each_read(apart(places), |at| unsafe { *from.get_unchecked(at) }))
}

#[inline]
#[target_feature(enable = "avx2")]
fn take_halves(from: &[u64], places: Pair) -> Option<(Pair, Pair)> {
    if !are_inside(places, from.len()) {
        return None;
    }
    // SAFETY: every place is below the length.
    Some(each_halved(apart(places), |at| unsafe { *from.get_unchecked(at) }))
}

#[inline]
#[target_feature(enable = "avx2")]
fn four_bytes(from: &[u8], places: Pair) -> Option<Pair> {
    if !are_inside(places, from.len().saturating_sub(3)) {
        return None;
    }
    // SAFETY: four bytes are there at every place.
    Some(each_read(apart(places), |at| unsafe { from.as_ptr().add(at).cast::<u32>().read_unaligned() }))
}

#[inline]
#[target_feature(enable = "avx2")]
fn eight_bytes(from: &[u8], places: Pair) -> Option<(Pair, Pair)> {
    if !are_inside(places, from.len().saturating_sub(7)) {
        return None;
    }
    // SAFETY: eight bytes are there at every place.
    Some(each_halved(apart(places), |at| unsafe { from.as_ptr().add(at).cast::<u64>().read_unaligned() }))
}

#[inline]
#[target_feature(enable = "avx2")]
fn digits(four: __m256i) -> __m256i {
    // Ten times the one and once the next; a hundred times the one pair and once the next.
    _mm256_madd_epi16(_mm256_maddubs_epi16(four, set(0x010A_010A)), set(0x0001_0064))
}

#[inline]
#[target_feature(enable = "avx2")]
fn over(one: __m256i, other: __m256i) -> __m256i {
    let least = _mm256_cmpeq_epi32(_mm256_min_epu32(one, other), one);
    _mm256_xor_si256(least, set(u32::MAX))
}

#[inline]
#[target_feature(enable = "avx2")]
#[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "eight bits each")]
fn bits(answers: Pair) -> u16 {
    let low = _mm256_movemask_ps(_mm256_castsi256_ps(answers.0));
    let high = _mm256_movemask_ps(_mm256_castsi256_ps(answers.1));
    (low | high << 8) as u16
}

/// The same for both eights.
macro_rules! both {
    ($call:path, $one:ident, $other:ident) => {
        unsafe { Pair($call($one.0, $other.0), $call($one.1, $other.1)) }
    };
}

// SAFETY of every call below: see `WideNumbers`.
impl Numbers for WideNumbers {
    type Sixteen = Pair;

    const QUICK: bool = true;

    #[inline(always)]
    fn of(self, numbers: [u32; 16]) -> Pair {
        let from: *const __m256i = numbers.as_ptr().cast();
        // SAFETY: besides, the pointer comes from sixteen numbers, 64 bytes; the loads ask for no alignment.
        unsafe { Pair(_mm256_loadu_si256(from), _mm256_loadu_si256(from.add(1))) }
    }

    #[inline(always)]
    fn apart(self, one: Pair) -> [u32; 16] {
        unsafe { apart(one) }
    }

    #[inline(always)]
    fn all(self, number: u32) -> Pair {
        let all = unsafe { set(number) };
        Pair(all, all)
    }

    #[inline(always)]
    fn strided(self, from: &[u32], stride: usize) -> Option<(Pair, Pair)> {
        unsafe { strided(from, stride) }
    }

    #[inline(always)]
    fn take(self, from: &[u32], places: Pair) -> Option<Pair> {
        unsafe { take(from, places) }
    }

    #[inline(always)]
    fn take_halves(self, from: &[u64], places: Pair) -> Option<(Pair, Pair)> {
        unsafe { take_halves(from, places) }
    }

    #[inline(always)]
    fn four_bytes(self, from: &[u8], places: Pair) -> Option<Pair> {
        unsafe { four_bytes(from, places) }
    }

    #[inline(always)]
    fn eight_bytes(self, from: &[u8], places: Pair) -> Option<(Pair, Pair)> {
        unsafe { eight_bytes(from, places) }
    }

    #[inline(always)]
    fn add(self, one: Pair, other: Pair) -> Pair {
        both!(_mm256_add_epi32, one, other)
    }

    #[inline(always)]
    fn less(self, one: Pair, other: Pair) -> Pair {
        both!(_mm256_sub_epi32, one, other)
    }

    #[inline(always)]
    fn times(self, one: Pair, other: Pair) -> Pair {
        both!(_mm256_mullo_epi32, one, other)
    }

    #[inline(always)]
    fn least(self, one: Pair, other: Pair) -> Pair {
        both!(_mm256_min_epu32, one, other)
    }

    #[inline(always)]
    fn most(self, one: Pair, other: Pair) -> Pair {
        both!(_mm256_max_epu32, one, other)
    }

    #[inline(always)]
    fn and(self, one: Pair, other: Pair) -> Pair {
        both!(_mm256_and_si256, one, other)
    }

    #[inline(always)]
    fn without(self, one: Pair, other: Pair) -> Pair {
        both!(_mm256_andnot_si256, other, one)
    }

    #[inline(always)]
    fn or(self, one: Pair, other: Pair) -> Pair {
        both!(_mm256_or_si256, one, other)
    }

    #[inline(always)]
    fn xor(self, one: Pair, other: Pair) -> Pair {
        both!(_mm256_xor_si256, one, other)
    }

    #[inline(always)]
    fn up(self, one: Pair, bits: Pair) -> Pair {
        both!(_mm256_sllv_epi32, one, bits)
    }

    #[inline(always)]
    fn down(self, one: Pair, bits: Pair) -> Pair {
        both!(_mm256_srlv_epi32, one, bits)
    }

    #[inline(always)]
    fn over(self, one: Pair, other: Pair) -> Pair {
        both!(over, one, other)
    }

    #[inline(always)]
    fn equal(self, one: Pair, other: Pair) -> Pair {
        both!(_mm256_cmpeq_epi32, one, other)
    }

    #[inline(always)]
    fn pick(self, answer: Pair, one: Pair, other: Pair) -> Pair {
        unsafe {
            Pair(_mm256_blendv_epi8(other.0, one.0, answer.0), _mm256_blendv_epi8(other.1, one.1, answer.1))
        }
    }

    #[inline(always)]
    fn of_digits(self, four: Pair) -> Pair {
        unsafe { Pair(digits(four.0), digits(four.1)) }
    }

    #[inline(always)]
    fn bits(self, answers: Pair) -> u16 {
        unsafe { bits(answers) }
    }
}

#[cfg(test)]
mod tests {
    use super::super::avx2;
    use super::super::numbers::PlainNumbers;
    use super::*;
    use proptest::prelude::*;

    /// What every operation gives, apart.
    fn made<N: Numbers>(numbers: N, one: [u32; 16], other: [u32; 16]) -> (Vec<Option<[u32; 16]>>, u16) {
        let (a, b) = (numbers.of(one), numbers.of(other));
        let from: Vec<u32> = (0..900).map(|number| number * 7).collect();
        let long: Vec<u64> = (0..900).map(|number| number * 0x1_2345_6789_ABCD).collect();
        let bytes: Vec<u8> = (0..900_u32).map(|number| (number * 31 % 251) as u8).collect();
        let digits = one.map(|number| u32::from_le_bytes(number.to_le_bytes().map(|byte| byte % 10)));
        let answers = numbers.over(a, b);
        let pairs = [
            numbers.strided(&from, one[0] as usize % 70),
            numbers.take_halves(&long, a),
            numbers.eight_bytes(&bytes, a),
        ];
        let results = [
            numbers.take(&from, a),
            numbers.four_bytes(&bytes, a),
            Some(numbers.add(a, b)),
            Some(numbers.less(a, b)),
            Some(numbers.times(a, b)),
            Some(numbers.least(a, b)),
            Some(numbers.most(a, b)),
            Some(numbers.and(a, b)),
            Some(numbers.without(a, b)),
            Some(numbers.or(a, b)),
            Some(numbers.xor(a, b)),
            Some(numbers.up(a, b)),
            Some(numbers.down(a, b)),
            Some(answers),
            Some(numbers.equal(a, b)),
            Some(numbers.pick(answers, a, b)),
            Some(numbers.of_digits(numbers.of(digits))),
            Some(numbers.all(one[3])),
        ];
        let halves = pairs.into_iter().flat_map(|pair| [pair.map(|pair| pair.0), pair.map(|pair| pair.1)]);
        let apart = halves.chain(results).map(|made| made.map(|made| numbers.apart(made))).collect();
        (apart, numbers.bits(answers))
    }

    proptest! {
        #[test]
        fn sixteen_at_once_are_what_they_are_one_by_one(
            one in prop_oneof![proptest::array::uniform16(0_u32..902), proptest::array::uniform16(0_u32..890),
                               proptest::array::uniform16(any::<u32>())],
            other in prop_oneof![proptest::array::uniform16(0_u32..40), proptest::array::uniform16(any::<u32>())],
        ) {
            if avx2::is_there() {
                // SAFETY: they are there.
                let wide = unsafe { WideNumbers::proven() };
                prop_assert_eq!(made(wide, one, other), made(PlainNumbers, one, other));
            }
        }
    }
}
