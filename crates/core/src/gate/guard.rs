//! Cells that may be one of a few words, told apart without reading them.

/// Tells apart, by first byte and length, cells that may be one of a few words.
#[derive(Debug)]
pub(super) struct Guard {
    starts: [bool; 256],
    longest: usize,
}

impl Guard {
    /// For these words, in lower case; nothing where there are none.
    pub(super) fn new<'a>(words: impl Iterator<Item = &'a str>) -> Option<Self> {
        let mut guard = Self { starts: [false; 256], longest: 0 };
        for word in words {
            let Some(first) = word.chars().next() else { continue };
            // In another case a letter may take more bytes, and begin otherwise.
            guard.longest = guard.longest.max(2 + if word.is_ascii() { word.len() } else { 3 * word.len() });
            for (byte, slot) in (0_u8..=255).zip(&mut guard.starts) {
                let begins = first.is_ascii() && byte.eq_ignore_ascii_case(&(first as u8));
                *slot |= begins || byte == b'"' || byte >= 0x80 && !word.is_ascii();
            }
        }
        (guard.longest > 0).then_some(guard)
    }

    /// For any cell at all.
    pub(super) fn of_all() -> Self {
        Self { starts: [true; 256], longest: usize::MAX }
    }

    /// Whether a cell, which perhaps begins with a space, may be one of the words.
    #[inline(always)]
    pub(super) fn may_hold_in(&self, buffer: &[u8], (start, end): (usize, usize)) -> bool {
        let is_ink = buffer.get(start).is_some_and(|byte| (0x21..0x7F).contains(byte));
        !is_ink || self.may_hold(buffer, start, end)
    }

    #[inline(always)]
    pub(super) fn may_hold(&self, buffer: &[u8], start: usize, end: usize) -> bool {
        let first = buffer.get(start).copied().unwrap_or_default();
        end - start <= self.longest && self.starts.get(usize::from(first)).copied().unwrap_or_default()
    }
}
