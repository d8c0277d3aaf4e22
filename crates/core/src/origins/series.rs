//! Values that count on from row to row, as where a cell was dragged down.

use xxhash_rust::xxh3::xxh3_64;

/// So many values that count on make a run.
const RUN: u64 = 4;

/// The values of a column that count on.
#[derive(Debug, Clone, Default)]
pub(crate) struct Series {
    /// Findings of the column.
    all: u64,
    /// Those whose values stand in runs that count on.
    in_runs: u64,
    last: Option<(u64, Step)>,
    length: u64,
}

/// What of a text counts on: its last number, and a hash of what stands around it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Step {
    stem: u64,
    number: u64,
}

impl Step {
    /// Of a text; nothing where nothing stands around a number.
    pub(super) fn of(text: &str) -> Option<Self> {
        let (stem, tail, number) = around_number(text)?;
        let (stem, tail) = (xxh3_64(stem.as_bytes()), xxh3_64(tail.as_bytes()));
        Some(Self { stem: stem.rotate_left(32) ^ tail, number })
    }
}

impl Series {
    /// Takes up a value, in the order of rows.
    pub(super) fn take(&mut self, row: u64, step: Option<Step>) {
        self.all += 1;
        let Some(step) = step else {
            self.last = None;
            return;
        };
        let is_next = |last: (u64, Step)| {
            let follows = last.1.stem == step.stem && last.1.number.checked_add(1) == Some(step.number);
            last.0 + 1 == row && follows
        };
        self.length = if self.last.is_some_and(is_next) { self.length + 1 } else { 1 };
        self.in_runs += match self.length {
            ..RUN => 0,
            RUN => RUN,
            _ => 1,
        };
        self.last = Some((row, step));
    }

    /// Whether most of the values count on.
    pub(crate) fn is_telling(&self) -> bool {
        self.in_runs >= RUN && self.in_runs * 5 >= self.all * 4
    }
}

/// What stands before and behind the last number of a text, and the number; nothing where nothing stands around it.
fn around_number(text: &str) -> Option<(&str, &str, u64)> {
    let end = text.rfind(|c: char| c.is_ascii_digit())? + 1;
    let (head, tail) = text.split_at(end);
    let begin = head
        .rfind(|c: char| !c.is_ascii_digit())
        .map_or(0, |at| at + head.get(at..).and_then(|rest| rest.chars().next()).map_or(1, char::len_utf8));
    let (stem, digits) = head.split_at(begin);
    if stem.is_empty() && tail.is_empty() {
        return None;
    }
    Some((stem, tail, digits.parse().ok()?))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_number_counts() {
        for (text, wanted) in [
            ("W03-MILL", Some(("W", "-MILL", 3))),
            ("HT-0042", Some(("HT-", "", 42))),
            ("é9", Some(("é", "", 9))),
            ("42", None),
            ("Mill", None),
            ("A1B22", Some(("A1B", "", 22))),
        ] {
            assert_eq!(around_number(text), wanted, "{text}");
        }
    }
}
