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
/// two letters or more; no longer than 64 bytes. False says nothing: the plain judge decides.
#[expect(clippy::indexing_slicing, reason = "a byte indexes 256 steps; the length is tested")]
#[inline(always)]
#[must_use]
pub(crate) fn is_common_email(raw: &[u8]) -> bool {
    if raw.len() > LONGEST {
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

/// No address of the common shape is longer: a step of the lanes.
pub const LONGEST: usize = 64;

/// Where in 64 bytes the parts of an address stand, a bit each.
pub(crate) struct AddressParts {
    pub(crate) letters: u64,
    pub(crate) digits: u64,
    /// `_` and `+`.
    pub(crate) marks: u64,
    pub(crate) hyphens: u64,
    pub(crate) dots: u64,
    pub(crate) ats: u64,
}

impl AddressParts {
    /// What [`is_common_email`] says of the first `len` bytes.
    #[inline(always)]
    pub(crate) fn are_address(&self, len: usize) -> bool {
        let all = match len {
            1..=63 => (1 << len) - 1,
            64 => u64::MAX,
            _ => return false,
        };
        let (at, dots) = (self.ats & all, self.dots & all);
        let signs = self.letters | self.digits;
        let before = at.wrapping_sub(1) & !at & all;
        let host = all & !before & !at;
        let (outer, inner) = (dots & before, dots & host);
        // Every byte is a part, and there is one `@`; behind the last dot stand two letters at least.
        let label = host & !(u64::MAX.checked_shr(inner.leading_zeros()).unwrap_or(0));
        let are_parts = all & !(signs | self.marks | self.hyphens | self.dots | self.ats) == 0
            && host & self.marks == 0
            && at & at.wrapping_sub(1) == 0;
        let ends = inner != 0 && label & !self.letters == 0 && label & label.wrapping_sub(1) != 0;
        // What stands at the start and behind a dot before the `@`; what stands on either side of a dot behind it.
        let begin = (1 | outer << 1) & !(signs | self.marks);
        let beside = (at << 1 | inner << 1 | inner >> 1) & !signs;
        at != 0 && are_parts && ends && begin == 0 && beside == 0
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lanes::{Lanes, Task, on_each_kind};
    use proptest::prelude::*;

    struct One<'a>(&'a [u8; 64], usize);

    impl Task for One<'_> {
        type Output = bool;

        fn run<L: Lanes>(self, lanes: L) -> bool {
            lanes.is_address(self.0, self.1)
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 4000, failure_persistence: None, ..ProptestConfig::default() })]

        #[test]
        fn masks_tell_the_shape_that_steps_tell(
            text in prop_oneof![
                "[a-c0-9._+@-]{0,12}",
                "[a-c.]{1,4}[-.]?@[a-c0-9]{1,3}[-.]{0,2}[a-c0-9]{0,2}[.-][a-z0-9]{0,3}",
                "[a-z]{1,30}[.][a-z_+-]{1,30}@[a-z]{1,20}[.][a-zA-Z]{1,3}",
                ".{0,20}",
            ],
            behind in "[a-c.@]{0,3}",
        ) {
            let mut bytes = format!("{text}{behind}").into_bytes();
            let len = text.len();
            prop_assume!(len <= 64);
            bytes.resize(64, b',');
            let step = bytes.first_chunk().unwrap();
            let plain = is_common_email(text.as_bytes());
            for found in on_each_kind(crate::Dialect::default(), || One(step, len)) {
                prop_assert_eq!(found, plain, "{}", text);
            }
        }
    }
}
