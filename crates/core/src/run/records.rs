use super::held::Held;
use crate::block::Extent;
use crate::gate::RecordRows;

/// Which rows make records, where several rows make one.
#[derive(Debug, Default)]
pub(super) struct Records {
    blocks: Vec<Option<RecordRows>>,
}

/// A record, as its rows stand together.
#[derive(Debug, Clone, Copy, Default)]
struct Run {
    /// The first and the last row.
    rows: (u64, u64),
    lines: u64,
    is_held: bool,
    /// Whether a row begins it; rows above the first of them belong to no record.
    begins: bool,
}

/// How many records there are, and what became of them.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct RecordCounts {
    /// The records.
    pub all: u64,
    /// Those with a stop in any of their rows.
    pub held: u64,
}

impl Records {
    /// Adds the rows of the next block.
    pub(super) fn push(&mut self, rows: Option<RecordRows>) {
        self.blocks.push(rows);
    }

    /// Hands every run of rows to `each`.
    fn each(&self, held: &Held, extents: &[Extent], mut each: impl FnMut(Run)) {
        let mut run: Option<Run> = None;
        for (number, (rows, extent)) in self.blocks.iter().zip(extents).enumerate() {
            let Some(rows) = rows else { continue };
            for (word, (rows, starts)) in rows.rows.iter().zip(&rows.starts).enumerate() {
                let mut rest = *rows;
                while rest != 0 {
                    let bit = rest.trailing_zeros();
                    rest &= rest - 1;
                    let place = word as u64 * 64 + u64::from(bit);
                    let begins = starts & 1 << bit != 0;
                    if begins {
                        run.take().into_iter().for_each(&mut each);
                    }
                    let row = extent.first_row + place;
                    let run = run.get_or_insert(Run { rows: (row, row), begins, ..Run::default() });
                    run.rows.1 = row;
                    run.lines += 1;
                    run.is_held |= held.is_held(number, place);
                }
            }
        }
        run.into_iter().for_each(each);
    }

    /// The first row and the lines of every record whose lines are too few or too many.
    pub(super) fn miscounted(
        &self,
        held: &Held,
        extents: &[Extent],
        is_permitted: impl Fn(u64) -> bool,
    ) -> Vec<(u64, u64)> {
        let mut found = Vec::new();
        self.each(held, extents, |run| {
            if run.begins && !is_permitted(run.lines) {
                found.push((run.rows.0, run.lines));
            }
        });
        found
    }

    /// Holds every row of a record that has a stop in one of them; gives how many rows are held by that alone, and
    /// the records. `again` are the first rows of runs that belong to a record above, ascending.
    pub(super) fn hold(&self, held: &mut Held, extents: &[Extent], again: &[u64]) -> (u64, RecordCounts) {
        let mut counts = RecordCounts::default();
        let mut whole = Vec::new();
        self.each(held, extents, |run| {
            let is_again = again.binary_search(&run.rows.0).is_ok();
            let is_record = u64::from(run.begins && !is_again);
            counts.all += is_record;
            if run.is_held {
                counts.held += is_record;
                whole.push(run.rows);
            }
        });
        let mut more = 0;
        for (first, last) in whole {
            more += self.hold_rows((first, last), held, extents);
        }
        (more, counts)
    }

    fn hold_rows(&self, (first, last): (u64, u64), held: &mut Held, extents: &[Extent]) -> u64 {
        let mut more = 0;
        let mut number = extents.partition_point(|extent| extent.first_row + extent.rows <= first);
        while let Some(extent) = extents.get(number).filter(|extent| extent.first_row <= last) {
            let rows = self.blocks.get(number).and_then(Option::as_ref);
            for row in first.max(extent.first_row)..=last.min(extent.first_row + extent.rows - 1) {
                let place = row - extent.first_row;
                let word = usize::try_from(place / 64).ok().and_then(|at| rows?.rows.get(at));
                if word.is_some_and(|word| word & 1 << (place % 64) != 0) {
                    more += u64::from(held.hold(row, extents));
                }
            }
            number += 1;
        }
        more
    }
}
