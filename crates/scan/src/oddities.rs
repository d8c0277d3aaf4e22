//! Unusual bytes: a block without them needs no closer look at its texts.

/// What unusual bytes a stretch of UTF-8 holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Oddities {
    /// A byte over 0x7F.
    pub non_ascii: bool,
    /// A control character that is no delimiter, line feed or carriage return; of C1 only as an odd letter.
    pub control: bool,
    /// A byte that begins a character worth a closer look: U+0080 to U+00BF, or U+0340 and beyond. What lies
    /// between are the letters of Latin scripts.
    pub odd_letter: bool,
    /// A space behind a space.
    pub doubled_space: bool,
}

impl Oddities {
    /// Adds what the bytes hold.
    pub fn note(&mut self, bytes: &[u8], delimiter: u8) {
        self.non_ascii |= !bytes.is_ascii();
        // Without an end before the last byte, so that a compiler can look at several bytes at once.
        let (mut control, mut odd_letter, mut doubled) = (0_u8, 0_u8, 0_u8);
        for &byte in bytes {
            control |= u8::from(is_control(byte) & (byte != delimiter));
            odd_letter |= u8::from(begins_odd_letter(byte));
        }
        for (one, next) in bytes.iter().zip(bytes.get(1..).unwrap_or_default()) {
            doubled |= u8::from((*one == b' ') & (*next == b' '));
        }
        self.control |= control != 0;
        self.odd_letter |= odd_letter != 0;
        self.doubled_space |= doubled != 0;
    }

    /// What either holds.
    #[must_use]
    pub fn join(self, other: Self) -> Self {
        Self {
            non_ascii: self.non_ascii | other.non_ascii,
            control: self.control | other.control,
            odd_letter: self.odd_letter | other.odd_letter,
            doubled_space: self.doubled_space | other.doubled_space,
        }
    }

    /// Whether the texts among the bytes need a closer look.
    #[must_use]
    pub fn any_in_text(self) -> bool {
        self.control | self.odd_letter | self.doubled_space
    }
}

/// Whether a text needs a closer look for what [`Oddities`] names.
#[must_use]
pub fn is_odd_text(bytes: &[u8]) -> bool {
    let mut before = 0;
    bytes.iter().any(|&byte| {
        let doubled = byte == b' ' && before == b' ';
        before = byte;
        doubled || is_control(byte) || begins_odd_letter(byte)
    })
}

const fn is_control(byte: u8) -> bool {
    (byte < 0x20) & (byte != b'\n') & (byte != b'\r') | (byte == 0x7F)
}

const fn begins_odd_letter(byte: u8) -> bool {
    (byte == 0xC2) | (byte >= 0xCD)
}
