use crate::block::Extent;

/// Which rows have a stop: one bit a row, in blocks that have any.
#[derive(Debug, Default)]
pub struct Held {
    blocks: Vec<Option<Box<[u64]>>>,
}

impl Held {
    /// Adds the rows of the next block; gives how many are held.
    pub(super) fn push(&mut self, rows: Option<Box<[u64]>>) -> u64 {
        let count = rows.iter().flat_map(|rows| rows.iter()).map(|word| u64::from(word.count_ones())).sum();
        self.blocks.push(rows);
        count
    }

    /// Holds a row; false when it was held already.
    pub(super) fn hold(&mut self, row: u64, extents: &[Extent]) -> bool {
        let number = extents.partition_point(|extent| extent.first_row + extent.rows <= row);
        let (Some(extent), Some(block)) = (extents.get(number), self.blocks.get_mut(number)) else {
            return false;
        };
        let words = usize::try_from(extent.rows.div_ceil(64)).unwrap_or(0);
        let rows = block.get_or_insert_with(|| vec![0; words].into_boxed_slice());
        let place = row - extent.first_row;
        let Some(word) = usize::try_from(place / 64).ok().and_then(|at| rows.get_mut(at)) else {
            return false;
        };
        let bit = 1 << (place % 64);
        let before = *word & bit != 0;
        *word |= bit;
        !before
    }

    /// Whether a row is held.
    pub(super) fn holds(&self, row: u64, extents: &[Extent]) -> bool {
        let number = extents.partition_point(|extent| extent.first_row + extent.rows <= row);
        extents.get(number).is_some_and(|extent| self.is_held(number, row - extent.first_row))
    }

    /// Whether any row of the block of this number is held.
    #[must_use]
    pub fn any_in(&self, block: usize) -> bool {
        self.blocks.get(block).is_some_and(Option::is_some)
    }

    /// Whether a row is held, by the number of its block and its place in it.
    #[must_use]
    pub fn is_held(&self, block: usize, place: u64) -> bool {
        let rows = self.blocks.get(block).and_then(Option::as_ref);
        let word = usize::try_from(place / 64).ok().and_then(|at| rows?.get(at));
        word.is_some_and(|word| word & 1 << (place % 64) != 0)
    }
}
