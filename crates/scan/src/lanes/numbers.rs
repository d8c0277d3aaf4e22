//! Sixteen numbers side by side: for what is asked of many short cells at once.

/// Arithmetic on sixteen numbers of 32 bits; all of it wraps. What is asked of them is answered by numbers too: all bits are
/// set for yes, none for no.
pub trait Numbers: Copy {
    /// Sixteen numbers.
    type Sixteen: Copy;

    /// Whether sixteen at once are quicker than one after the other.
    const QUICK: bool;

    /// These numbers.
    fn of(self, numbers: [u32; 16]) -> Self::Sixteen;

    /// The numbers, apart.
    fn apart(self, one: Self::Sixteen) -> [u32; 16];

    /// The same number sixteen times.
    #[must_use]
    fn all(self, number: u32) -> Self::Sixteen;

    /// Every so many numbers one, and the next to it; nothing where there are not so many.
    fn strided(self, from: &[u32], stride: usize) -> Option<(Self::Sixteen, Self::Sixteen)>;

    /// The numbers that stand at these places; nothing where one of them is outside.
    fn take(self, from: &[u32], places: Self::Sixteen) -> Option<Self::Sixteen>;

    /// The same of longer numbers, as their lower and upper halves.
    fn take_halves(self, from: &[u64], places: Self::Sixteen) -> Option<(Self::Sixteen, Self::Sixteen)>;

    /// The four bytes from each of these places on, the first of them lowest; nothing where one of them is outside.
    fn four_bytes(self, from: &[u8], places: Self::Sixteen) -> Option<Self::Sixteen>;

    /// The eight bytes from each of these places on: the first four, and the others.
    fn eight_bytes(self, from: &[u8], places: Self::Sixteen) -> Option<(Self::Sixteen, Self::Sixteen)>;

    /// Sums.
    fn add(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// Differences.
    fn less(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// Products, their lower halves.
    fn times(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// The lesser of the two.
    fn least(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// The greater of the two.
    fn most(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// The bits set in both.
    fn and(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// The bits set in the one and not in the other.
    fn without(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// The bits set in either.
    fn or(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// The bits set in one alone.
    fn xor(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// Shifted up by so many bits; nought from 32 on.
    fn up(self, one: Self::Sixteen, bits: Self::Sixteen) -> Self::Sixteen;

    /// Shifted down by so many bits; nought from 32 on.
    fn down(self, one: Self::Sixteen, bits: Self::Sixteen) -> Self::Sixteen;

    /// Which are greater than the others.
    fn over(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// Which are equal.
    fn equal(self, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// The one where the answer is yes, the other elsewhere.
    fn pick(self, answer: Self::Sixteen, one: Self::Sixteen, other: Self::Sixteen) -> Self::Sixteen;

    /// The value of four decimal digits, each a byte of 0 to 9, the first of them lowest. Of other bytes it says nothing.
    fn of_digits(self, digits: Self::Sixteen) -> Self::Sixteen;

    /// The answers, a bit each.
    fn bits(self, answers: Self::Sixteen) -> u16;
}

/// The twin that runs everywhere.
#[derive(Debug, Clone, Copy)]
pub(crate) struct PlainNumbers;

fn each(one: [u32; 16], other: [u32; 16], mut made: impl FnMut(u32, u32) -> u32) -> [u32; 16] {
    let mut pairs = one.into_iter().zip(other);
    std::array::from_fn(|_| pairs.next().map_or(0, |(one, other)| made(one, other)))
}

fn yes(is_so: bool) -> u32 {
    if is_so { u32::MAX } else { 0 }
}

fn found(places: [u32; 16], find: impl Fn(usize) -> Option<u64>) -> Option<([u32; 16], [u32; 16])> {
    let (mut low, mut high) = ([0; 16], [0; 16]);
    for ((low, high), place) in low.iter_mut().zip(&mut high).zip(places) {
        let number = find(place as usize)?;
        (*low, *high) = (number as u32, (number >> 32) as u32);
    }
    Some((low, high))
}

impl Numbers for PlainNumbers {
    type Sixteen = [u32; 16];

    const QUICK: bool = false;

    fn of(self, numbers: [u32; 16]) -> [u32; 16] {
        numbers
    }

    fn apart(self, one: [u32; 16]) -> [u32; 16] {
        one
    }

    fn all(self, number: u32) -> [u32; 16] {
        [number; 16]
    }

    fn strided(self, from: &[u32], stride: usize) -> Option<([u32; 16], [u32; 16])> {
        let places = std::array::from_fn(|at| u32::try_from(at * stride).unwrap_or(u32::MAX));
        Some((self.take(from, places)?, self.take(from, places.map(|place| place.wrapping_add(1)))?))
    }

    fn take(self, from: &[u32], places: [u32; 16]) -> Option<[u32; 16]> {
        found(places, |at| from.get(at).copied().map(u64::from)).map(|found| found.0)
    }

    fn take_halves(self, from: &[u64], places: [u32; 16]) -> Option<([u32; 16], [u32; 16])> {
        found(places, |at| from.get(at).copied())
    }

    fn four_bytes(self, from: &[u8], places: [u32; 16]) -> Option<[u32; 16]> {
        let four = |at| Some(u32::from_le_bytes(*from.get(at..)?.first_chunk()?));
        found(places, |at| four(at).map(u64::from)).map(|found| found.0)
    }

    fn eight_bytes(self, from: &[u8], places: [u32; 16]) -> Option<([u32; 16], [u32; 16])> {
        found(places, |at| Some(u64::from_le_bytes(*from.get(at..)?.first_chunk()?)))
    }

    fn add(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, u32::wrapping_add)
    }

    fn less(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, u32::wrapping_sub)
    }

    fn times(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, u32::wrapping_mul)
    }

    fn least(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, u32::min)
    }

    fn most(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, u32::max)
    }

    fn and(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, |one, other| one & other)
    }

    fn without(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, |one, other| one & !other)
    }

    fn or(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, |one, other| one | other)
    }

    fn xor(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, |one, other| one ^ other)
    }

    fn up(self, one: [u32; 16], bits: [u32; 16]) -> [u32; 16] {
        each(one, bits, |one, bits| one.checked_shl(bits).unwrap_or(0))
    }

    fn down(self, one: [u32; 16], bits: [u32; 16]) -> [u32; 16] {
        each(one, bits, |one, bits| one.checked_shr(bits).unwrap_or(0))
    }

    fn over(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, |one, other| yes(one > other))
    }

    fn equal(self, one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        each(one, other, |one, other| yes(one == other))
    }

    fn pick(self, answer: [u32; 16], one: [u32; 16], other: [u32; 16]) -> [u32; 16] {
        self.or(self.and(one, answer), self.without(other, answer))
    }

    fn of_digits(self, digits: [u32; 16]) -> [u32; 16] {
        digits.map(|four| four.to_le_bytes().iter().fold(0, |all, digit| 10 * all + u32::from(*digit)))
    }

    fn bits(self, answers: [u32; 16]) -> u16 {
        answers.iter().rev().fold(0, |bits, answer| bits << 1 | (answer & 1) as u16)
    }
}
