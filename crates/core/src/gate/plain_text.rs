//! What a cell begins and ends with, and whether that needs a closer look.
//!
//! Before you change this: what is passed over here must be free of every suspicion of `writing`, and of outer spaces.

use crate::scan::{Dialect, Numbers, is_odd_text};
use crate::value::suspicion::PLACEHOLDERS;

/// The first byte of a cell that is neither blank nor trimmed at its start, whatever follows. Bytes that
/// may begin a white space of more bytes, and the quote, are left to the plain judge.
#[expect(clippy::indexing_slicing, reason = "counted from 0 to the length, when compiled")]
const INK: [bool; 256] = {
    let mut ink = [true; 256];
    let mut byte = 0;
    while byte < 256 {
        ink[byte] = byte > 0x20 && byte != 0x7F && !matches!(byte, 0xC2 | 0xE1 | 0xE2 | 0xE3);
        byte += 1;
    }
    ink
};

/// Whether the cell holds something to be seen: it begins with ink, or with a quote and ink behind it.
#[expect(clippy::indexing_slicing, reason = "a byte indexes 256 places")]
#[inline(always)]
pub(super) fn is_ink_at(buffer: &[u8], start: usize, dialect: Dialect) -> bool {
    let (Some(&first), Some(&second)) = (buffer.get(start), buffer.get(start + 1)) else { return false };
    if first == dialect.quote { second != dialect.quote && INK[second as usize] } else { INK[first as usize] }
}

/// What the first byte of a text says: whether the plain judge must look (blanks, quotes, what may begin a formula
/// or a spreadsheet's error), whether it is a digit, and, from [`PLACE_SHIFT`] on, a bit for each length in which a
/// word that begins so may hold the place of a value.
#[expect(clippy::indexing_slicing, reason = "counted from 0 to the length, when compiled")]
const TEXT_START: [u16; 256] = {
    let mut starts = [0; 256];
    let mut byte = 0;
    while byte < 256 {
        starts[byte] = match byte as u8 {
            b'=' | b'+' | b'-' | b'@' | b'#' | b'"' => LOOK,
            b'0'..=b'9' => DIGIT,
            _ if !INK[byte] => LOOK,
            _ => 0,
        };
        byte += 1;
    }
    let mut number = 0;
    while number < PLACEHOLDERS.len() {
        let word = PLACEHOLDERS[number].as_bytes();
        let length = 1 << (PLACE_SHIFT + word.len());
        starts[word[0] as usize] |= length;
        starts[word[0].to_ascii_uppercase() as usize] |= length;
        number += 1;
    }
    starts
};

const LOOK: u16 = 1;
const DIGIT: u16 = 2;
const PLACE_SHIFT: usize = 2;
/// No word that holds the place of a value is so long.
const NO_PLACE: usize = 9;

/// Whether a text neither begins nor ends in a way that needs a closer look, and where `places` is set is no short
/// word that may hold the place of a value.
#[expect(clippy::indexing_slicing, reason = "a byte indexes 256 places")]
#[inline(always)]
pub(super) fn is_written_plainly(buffer: &[u8], start: usize, end: usize, places: bool) -> bool {
    let (Some(&first), Some(&last)) = (buffer.get(start), buffer.get(end.wrapping_sub(1))) else {
        return false;
    };
    let says = TEXT_START[first as usize];
    let length = end - start;
    let may_be_place = (says >> (PLACE_SHIFT + length.min(NO_PLACE))) & u16::from(places);
    // No branches: what texts begin and end with is guessed wrong too often. But that they end with a digit, most texts
    // of a column do, or few.
    let is_odd = (says & LOOK != 0) | (may_be_place != 0) | (last <= b' ');
    !is_odd && (!last.is_ascii_digit() || is_plain_number(buffer, (start, end), says))
}

/// The same for what ends with a digit: `E+12`, `E+123` and `Err:502` end so, and sixteen digits of which the last is
/// zero.
#[inline(always)]
fn is_plain_number(buffer: &[u8], (start, end): (usize, usize), says: u16) -> bool {
    let tail = end.checked_sub(4).and_then(|at| buffer.get(at..)).and_then(|tail| tail.first_chunk::<4>());
    let (Some(&[one, two, ..]), Some(&sixteenth)) = (tail, buffer.get(start + 15)) else { return false };
    let is_cut = (says & DIGIT != 0) & (sixteenth == b'0') & (end - start >= 16);
    !((one == b':') | (one == b'+') | (two == b'+') | is_cut)
}

/// [`TEXT_START`], a number each.
#[expect(clippy::indexing_slicing, reason = "counted from 0 to the length, when compiled")]
static TEXT_STARTS: [u32; 256] = {
    let mut starts = [0; 256];
    let mut byte = 0;
    while byte < 256 {
        starts[byte] = TEXT_START[byte] as u32;
        byte += 1;
    }
    starts
};

/// Of sixteen cells those of which [`is_ink_at`] is surely true.
#[inline(always)]
pub(super) fn are_ink_at<N: Numbers>(
    numbers: N,
    buffer: &[u8],
    starts: N::Sixteen,
    dialect: Dialect,
) -> Option<N::Sixteen> {
    let first = numbers.and(numbers.four_bytes(buffer, starts)?, numbers.all(0xFF));
    let says = numbers.take(&TEXT_STARTS, first)?;
    let may_be = numbers.equal(numbers.and(says, numbers.all(LOOK.into())), numbers.all(0));
    Some(numbers.without(may_be, numbers.equal(first, numbers.all(dialect.quote.into()))))
}

/// Of sixteen texts those of which [`is_written_plainly`] is surely true, short words that may hold a place left out. Long
/// texts from digit to digit, and those that end as numbers with an exponent do, are left to it.
#[inline(always)]
pub(super) fn are_written_plainly<N: Numbers>(
    numbers: N,
    buffer: &[u8],
    starts: N::Sixteen,
    lengths: N::Sixteen,
) -> Option<N::Sixteen> {
    let of = |number: u32| numbers.all(number);
    let byte = |four, at: u32| numbers.and(numbers.down(four, of(8 * at)), of(0xFF));
    let is = |byte, wanted: u8| numbers.equal(byte, of(wanted.into()));
    // Before the first four bytes of the buffer there is nothing: the places are outside.
    let last_four = numbers.add(numbers.add(starts, lengths), of(4_u32.wrapping_neg()));
    let (heads, tails) = (numbers.four_bytes(buffer, starts)?, numbers.four_bytes(buffer, last_four)?);
    let says = numbers.take(&TEXT_STARTS, byte(heads, 0))?;
    let shift = numbers.add(numbers.least(lengths, of(NO_PLACE as u32)), of(PLACE_SHIFT as u32));
    let looks = numbers.or(numbers.and(says, of(LOOK.into())), numbers.and(numbers.down(says, shift), of(1)));
    let (one, two, last) = (byte(tails, 0), byte(tails, 1), byte(tails, 3));
    let is_sound = numbers.and(numbers.equal(looks, of(0)), numbers.over(last, of(0x20)));
    let has_mark = numbers.or(is(one, b':'), numbers.or(is(one, b'+'), is(two, b'+')));
    let begins_with_digit = numbers.over(numbers.and(says, of(DIGIT.into())), of(0));
    let is_long = numbers.and(numbers.over(lengths, of(15)), begins_with_digit);
    let not_digit = numbers.over(numbers.less(last, of(b'0'.into())), of(9));
    let may_be_number = numbers.without(numbers.or(has_mark, is_long), not_digit);
    Some(numbers.without(is_sound, may_be_number))
}

#[cold]
#[inline(never)]
pub(super) fn is_odd_at(buffer: &[u8], start: usize, end: usize) -> bool {
    buffer.get(start..end).is_none_or(is_odd_text)
}
