//! What a cell begins and ends with, and whether that needs a closer look.
//!
//! Before you change this: what is passed over here must be free of every suspicion of `writing`, and of outer spaces.

use crate::scan::{Dialect, is_odd_text};
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

#[cold]
#[inline(never)]
pub(super) fn is_odd_at(buffer: &[u8], start: usize, end: usize) -> bool {
    buffer.get(start..end).is_none_or(is_odd_text)
}
