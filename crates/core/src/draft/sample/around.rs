//! What stands around the numbers of a column, counted.

use crate::value::AroundNumber;

/// No text: nothing is counted.
pub(super) const NONE: u8 = u8::MAX;
/// A text with no number, or nothing around it.
const OTHER: u8 = 0;
/// So many different ones are told apart.
const MOST_MARKS: usize = 4;
/// With so many other texts a column is taken for one of texts.
const MOST_OTHERS: u64 = 1000;

/// What stands around the numbers of a column, and of how many texts; no more is looked for where there is too much of it,
/// or too much else.
#[derive(Debug, Default)]
pub(super) struct Around {
    marks: Vec<(AroundNumber, u64)>,
    others: u64,
    is_over: bool,
}

impl Around {
    /// What is counted for a text.
    #[inline]
    pub(super) fn slot(&mut self, text: &[u8]) -> u8 {
        if self.is_over { OTHER } else { self.place(text) }
    }

    #[cold]
    fn place(&mut self, text: &[u8]) -> u8 {
        let Some(around) = std::str::from_utf8(text).ok().and_then(AroundNumber::of) else { return OTHER };
        let known = self.marks.iter().position(|mark| mark.0 == around);
        let at = known.unwrap_or_else(|| {
            self.marks.push((around, 0));
            self.marks.len() - 1
        });
        self.settle();
        u8::try_from(at + 1).unwrap_or(OTHER)
    }

    /// Counts a text.
    #[inline]
    pub(super) fn count(&mut self, slot: u8) {
        if self.is_over || slot == NONE {
            return;
        }
        match usize::from(slot).checked_sub(1).and_then(|at| self.marks.get_mut(at)) {
            Some(mark) => mark.1 += 1,
            None => {
                self.others += 1;
                self.settle();
            }
        }
    }

    /// Gives up where there is too much; the same in whatever order the texts come.
    fn settle(&mut self) {
        self.is_over |= self.marks.len() > MOST_MARKS || self.others > MOST_OTHERS;
        if self.is_over {
            self.marks = Vec::new();
        }
    }

    pub(super) fn join(&mut self, other: Self) {
        for (around, count) in other.marks {
            match self.marks.iter_mut().find(|mark| mark.0 == around) {
                Some(mark) => mark.1 += count,
                None => self.marks.push((around, count)),
            }
        }
        self.others += other.others;
        self.is_over |= other.is_over;
        self.settle();
    }

    /// What most of them have.
    pub(super) fn most(&self) -> Option<(&AroundNumber, u64)> {
        let most = self.marks.iter().max_by_key(|mark| mark.1)?;
        Some((&most.0, most.1))
    }
}
