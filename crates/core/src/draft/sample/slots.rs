//! What the texts of a column have in common, counted: what stands around their numbers, the names of their months.

/// No text: nothing is counted.
pub(super) const NONE: u8 = u8::MAX;
/// A text that has nothing of what is looked for.
const OTHER: u8 = 0;
/// With so many other texts a column is taken for one of texts.
const MOST_OTHERS: u64 = 1000;

/// Up to `MOST` different things, and of how many texts each is; no more is looked for where there are too many of them, or
/// too many other texts.
#[derive(Debug)]
pub(super) struct Slots<T, const MOST: usize> {
    found: Vec<(T, u64)>,
    others: u64,
    is_over: bool,
}

impl<T, const MOST: usize> Default for Slots<T, MOST> {
    fn default() -> Self {
        Self { found: Vec::new(), others: 0, is_over: false }
    }
}

impl<T: PartialEq, const MOST: usize> Slots<T, MOST> {
    /// What is counted for a text, of which `of` finds what it has.
    #[inline]
    pub(super) fn slot(&mut self, text: &[u8], of: impl Fn(&str) -> Option<T>) -> u8 {
        if self.is_over { OTHER } else { self.place(text, of) }
    }

    #[cold]
    fn place(&mut self, text: &[u8], of: impl Fn(&str) -> Option<T>) -> u8 {
        let Some(found) = std::str::from_utf8(text).ok().and_then(of) else { return OTHER };
        let known = self.found.iter().position(|known| known.0 == found);
        let at = known.unwrap_or_else(|| {
            self.found.push((found, 0));
            self.found.len() - 1
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
        match usize::from(slot).checked_sub(1).and_then(|at| self.found.get_mut(at)) {
            Some(found) => found.1 += 1,
            None => {
                self.others += 1;
                self.settle();
            }
        }
    }

    /// Gives up where there is too much; the same in whatever order the texts come.
    fn settle(&mut self) {
        self.is_over |= self.found.len() > MOST || self.others > MOST_OTHERS;
        if self.is_over {
            self.found = Vec::new();
        }
    }

    pub(super) fn join(&mut self, other: Self) {
        for (found, count) in other.found {
            match self.found.iter_mut().find(|known| known.0 == found) {
                Some(known) => known.1 += count,
                None => self.found.push((found, count)),
            }
        }
        self.others += other.others;
        self.is_over |= other.is_over;
        self.settle();
    }

    /// What was found, and of how many texts each is.
    pub(super) fn found(&self) -> &[(T, u64)] {
        &self.found
    }
}
