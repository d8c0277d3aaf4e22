//! The common shape of an e-mail address, told in one pass over its bytes.

/// A state is the place of its six bits in a transition word, so that a step is one shift.
const START: u64 = 0;
const LOCAL: u64 = 6;
const HOST: u64 = 12;
const LABEL: u64 = 18;
const HYPHEN: u64 = 24;
const LATER: u64 = 30;
const LETTERS: u64 = 36;
const MIXED: u64 = 42;
const LATER_HYPHEN: u64 = 48;
const NO: u64 = 54;

/// For each byte the state that follows each state. Marks that RFC 5322 permits before the `@` but hardly
/// anybody uses are left to the plain judge.
#[expect(clippy::indexing_slicing, reason = "counted from 0 to the length, when compiled")]
const STEPS: [u64; 256] = {
    let mut steps = [0; 256];
    let mut byte = 0;
    while byte < 256 {
        let b = byte as u8;
        let (letter, digit) = (b.is_ascii_alphabetic(), b.is_ascii_digit());
        let local = letter || digit || b == b'_' || b == b'+';
        let host = letter || digit;
        let next = [
            if local { LOCAL } else { NO },
            match b {
                _ if local || b == b'-' => LOCAL,
                b'.' => START,
                b'@' => HOST,
                _ => NO,
            },
            if host { LABEL } else { NO },
            match b {
                _ if host => LABEL,
                b'-' => HYPHEN,
                b'.' => LATER,
                _ => NO,
            },
            match b {
                _ if host => LABEL,
                b'-' => HYPHEN,
                _ => NO,
            },
            match b {
                _ if letter => LETTERS,
                _ if digit => MIXED,
                _ => NO,
            },
            match b {
                _ if letter => LETTERS,
                _ if digit => MIXED,
                b'-' => LATER_HYPHEN,
                b'.' => LATER,
                _ => NO,
            },
            match b {
                _ if host => MIXED,
                b'-' => LATER_HYPHEN,
                b'.' => LATER,
                _ => NO,
            },
            match b {
                _ if host => MIXED,
                b'-' => LATER_HYPHEN,
                _ => NO,
            },
            NO,
        ];
        let mut word = 0;
        let mut state = 0;
        while state < next.len() {
            word |= next[state] << (6 * state);
            state += 1;
        }
        steps[byte] = word;
        byte += 1;
    }
    steps
};

/// Whether the raw cell is an address of the common shape: letters, digits, `_`, `+`, inner `-` and single
/// inner dots before one `@`; behind it at least two labels of letters, digits and inner hyphens, the last of
/// two letters or more; no longer than `longest`, nor than 64 bytes. False says nothing: the plain judge
/// decides.
#[expect(clippy::indexing_slicing, reason = "a byte indexes 256 steps; the length is tested")]
#[inline(always)]
#[must_use]
pub fn is_common_email(raw: &[u8], longest: usize) -> bool {
    if raw.len() > longest.min(64) {
        return false;
    }
    let mut state = START;
    for &byte in raw {
        #[expect(clippy::cast_possible_truncation, reason = "six bits count, as the shift takes them")]
        let place = state as u32;
        state = STEPS[byte as usize].wrapping_shr(place);
    }
    // One letter alone is no top label.
    state & 63 == LETTERS && raw.len() > 2 && raw[raw.len() - 2] != b'.'
}
