//! What judging is given of a cell, and what it says.

use crate::catalogue::Code;
use crate::scan::{Dialect, SheetMark, mark_of};

/// A value as a cell gives it: trimmed, and whether a sheet keeps it as what it looks like.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Given<'a> {
    pub(crate) text: &'a str,
    /// A number that a sheet stores has a point, whatever marks are stated for texts.
    pub(crate) is_stored: bool,
    /// Whether it is a stored number that is shown as a percentage.
    pub(crate) is_percent: bool,
}

impl<'a> Given<'a> {
    /// The text of a raw cell.
    pub(crate) fn of(text: &'a str, raw: &[u8], dialect: Dialect) -> Self {
        let mark = mark_of(raw, dialect);
        // What is stored is written plainly: digits, points, days and times in ISO form.
        let is_plain = |byte: u8| byte.is_ascii_digit() || b".-+:TZE".contains(&byte);
        let is_stored = dialect.marks && mark != Some(SheetMark::Text) && text.bytes().all(is_plain);
        Self { text, is_stored, is_percent: mark == Some(SheetMark::Percent) }
    }
}

impl<'a> From<&'a str> for Given<'a> {
    fn from(text: &'a str) -> Self {
        Self { text, is_stored: false, is_percent: false }
    }
}

/// What is wrong with a value: one code for each broken constraint.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct Verdict {
    codes: [Option<Code>; 10],
}

impl Verdict {
    pub(crate) const SOUND: Self = Self { codes: [None; 10] };

    pub(crate) fn one(code: Code) -> Self {
        let mut verdict = Self::SOUND;
        verdict.add(code);
        verdict
    }

    pub(crate) fn add(&mut self, code: Code) {
        if let Some(slot) = self.codes.iter_mut().find(|slot| slot.is_none()) {
            *slot = Some(code);
        }
    }

    /// Adds a code, if it is not there.
    pub(crate) fn add_once(&mut self, code: Code) {
        if !self.codes().any(|known| known == code) {
            self.add(code);
        }
    }

    pub(crate) fn codes(self) -> impl Iterator<Item = Code> {
        self.codes.into_iter().flatten()
    }
}
