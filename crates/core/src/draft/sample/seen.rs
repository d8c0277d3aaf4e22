//! What is seen of the values of one class: their extremes, and what is plain from their bytes.
//!
//! Before you change this: what `Quick` says of a text must be what `Kinds` says of it; a test compares the two.

use crate::profile::{COMPACT, Class, Kinds, is_compact_day, plainly};
use crate::value::{Fixed, Number};

/// Values of one class.
#[derive(Debug, Clone)]
pub(in crate::draft) struct Seen {
    pub(in crate::draft) count: u64,
    pub(in crate::draft) first: (u64, String),
    pub(in crate::draft) lowest: String,
    pub(in crate::draft) highest: String,
    /// Most digits before and after the point.
    pub(in crate::draft) digits: (u32, u32),
    /// The extremes of numbers.
    pub(super) numbers: Option<(f64, f64)>,
}

/// What is plain from the bytes of a value: its class and, of numbers, what they come to.
#[derive(Debug, Clone, Copy)]
pub(super) struct Quick {
    pub(super) class: Class,
    pub(super) forms: u32,
    pub(super) number: f64,
    pub(super) digits: (u32, u32),
}

impl Quick {
    /// Nothing where a closer look is needed.
    #[inline]
    pub(super) fn of(text: &[u8]) -> Option<Self> {
        let first = *text.first()?;
        if first.is_ascii_digit() || first == b'-' {
            return Self::iso_day(text).or_else(|| Self::number(text));
        }
        // Words for yes and no are short; addresses begin with an h, or hold an @; a UUID has 36 letters.
        let is_text = first.is_ascii_alphabetic()
            && text.len() > 5
            && text.len() != 36
            && first != b'h'
            && text.is_ascii()
            && memchr::memchr(b'@', text).is_none();
        is_text.then_some(Self { class: Class::Text, forms: 0, number: 0.0, digits: (0, 0) })
    }

    #[inline]
    pub(super) fn iso_day(text: &[u8]) -> Option<Self> {
        let &[y1, y2, y3, y4, b'-', m1, m2, b'-', d1, d2] = text else { return None };
        let digits = [y1, y2, y3, y4, m1, m2, d1, d2];
        if !digits.iter().all(u8::is_ascii_digit) {
            return None;
        }
        let two = |one: u8, other: u8| (one - b'0') * 10 + (other - b'0');
        let (month, day) = (two(m1, m2), two(d1, d2));
        // The last days of months need a calendar.
        let is_plain = (1..=12).contains(&month)
            && (1..=28).contains(&day)
            && (y1, y2, y3, y4) != (b'0', b'0', b'0', b'0');
        is_plain.then_some(Self { class: Class::Date(0), forms: 1, number: 0.0, digits: (0, 0) })
    }

    #[inline]
    pub(super) fn number(text: &[u8]) -> Option<Self> {
        let body = text.strip_prefix(b"-").unwrap_or(text);
        let read = Fixed::plain(text).filter(|_| body.len() <= 15)?;
        let after = read.after() as usize;
        let before = body.len() - after - usize::from(after > 0);
        // A nought before others is looked at more closely.
        if text.len() > 1 && text.first() == Some(&b'0') && after == 0 {
            return None;
        }
        // Noughts in front carry nothing; those after the point say how exact it is.
        let leading = body.iter().take(before).take_while(|byte| **byte == b'0').count();
        #[expect(clippy::cast_precision_loss, reason = "at most fifteen digits")]
        let number = read.digits() as f64 / POWERS.get(after).copied().unwrap_or(1.0);
        let count = |digits: usize| u32::try_from(digits).unwrap_or(u32::MAX);
        let forms = if is_compact_day(text) { 1 << COMPACT } else { 0 };
        Some(Self {
            class: if after > 0 { Class::Decimal } else { Class::Integer },
            forms,
            number,
            digits: (count(before - leading), count(after)),
        })
    }
}

const POWERS: [f64; 15] = [1e0, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14];

impl Seen {
    /// Takes a value whose class is plain; the first of a class is always looked at more closely.
    #[inline]
    pub(super) fn see_quick(&mut self, quick: &Quick, text: &[u8]) {
        match quick.class {
            Class::Integer | Class::Decimal => {
                self.digits = (self.digits.0.max(quick.digits.0), self.digits.1.max(quick.digits.1));
                let number = |text: &String| text.parse().unwrap_or(0.0);
                let (low, high) =
                    *self.numbers.get_or_insert_with(|| (number(&self.lowest), number(&self.highest)));
                if quick.number < low || quick.number > high {
                    let text = String::from_utf8_lossy(text).into_owned();
                    if quick.number < low {
                        self.lowest.clone_from(&text);
                    }
                    if quick.number > high {
                        self.highest = text;
                    }
                    self.numbers = Some((low.min(quick.number), high.max(quick.number)));
                }
            }
            // ISO days are in the order of their letters.
            Class::Date(_) => {
                if text < self.lowest.as_bytes() {
                    self.lowest = String::from_utf8_lossy(text).into_owned();
                }
                if text > self.highest.as_bytes() {
                    self.highest = String::from_utf8_lossy(text).into_owned();
                }
            }
            _ => {}
        }
    }

    pub(super) fn see(&mut self, class: Class, row: u64, text: &str, kinds: &Kinds) {
        if row < self.first.0 {
            self.first = (row, text.to_owned());
        }
        self.numbers = None;
        if class == Class::Text {
            return;
        }
        if kinds.is_lower(class, text, &self.lowest) {
            text.clone_into(&mut self.lowest);
        }
        if kinds.is_lower(class, &self.highest, text) {
            text.clone_into(&mut self.highest);
        }
        let plain = plainly(class, text);
        if matches!(class, Class::Decimal | Class::CommaDecimal | Class::Integer | Class::Thousands(..))
            && let Some(number) = Number::decimal(&plain)
        {
            let after = plain.split_once('.').map_or(0, |parts| parts.1.len());
            let count = |digits: usize| u32::try_from(digits).unwrap_or(u32::MAX);
            self.digits = (self.digits.0.max(count(number.digits().0)), self.digits.1.max(count(after)));
        }
    }

    pub(super) fn join(&mut self, class: Class, other: Self, kinds: &Kinds) {
        self.count += other.count;
        self.numbers = None;
        self.digits = (self.digits.0.max(other.digits.0), self.digits.1.max(other.digits.1));
        if kinds.is_lower(class, &other.lowest, &self.lowest) {
            self.lowest = other.lowest;
        }
        if kinds.is_lower(class, &self.highest, &other.highest) {
            self.highest = other.highest;
        }
        if other.first.0 < self.first.0 {
            self.first = other.first;
        }
    }
}
