//! How often something was seen.

/// How often something was seen, and in which row first.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Seen {
    /// How often.
    pub count: u64,
    /// The first row; 0 when there is none.
    pub first: u64,
}

impl Seen {
    pub(super) fn note(&mut self, count: u64, row: u64) {
        if self.count == 0 {
            self.first = row;
        }
        self.count += count;
    }
}
