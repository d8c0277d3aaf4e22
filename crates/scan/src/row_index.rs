//! The list of cells that a walk over rows makes.

use super::dialect::Dialect;
use super::machine::{RowWalk, walk_row};
use super::oddities::Oddities;
use crate::lanes::Lanes;
use crate::padding::PADDING;

/// The cells of a block: positions of every delimiter and row end outside quotes, in order. The list is
/// kept and used again for the next block.
#[derive(Debug, Default)]
pub struct RowIndex {
    ends: Vec<u32>,
    len: usize,
    /// So many bytes are listed.
    listed: usize,
    /// Cells with a stray quote: the position of the cell in `ends`.
    pub strays: Vec<u32>,
    /// What unusual bytes the block holds.
    pub oddities: Oddities,
}

impl RowIndex {
    /// The positions found.
    #[must_use]
    pub fn ends(&self) -> &[u32] {
        self.ends.get(..self.len).unwrap_or_default()
    }

    /// Whether it lists the cells of a block of so many bytes.
    #[must_use]
    pub fn is_of(&self, len: usize) -> bool {
        self.listed == len && len > 0
    }

    /// Forgets everything.
    pub fn clear(&mut self) {
        (self.len, self.listed, self.oddities) = (0, 0, Oddities::default());
        self.strays.clear();
    }

    /// Lists no more than the cells of the first `len` bytes, which end with a row.
    pub fn shorten(&mut self, len: usize) {
        self.drop_from(len);
        self.listed = self.listed.min(len);
    }

    /// Drops the cells that end at `len` or behind it.
    fn drop_from(&mut self, len: usize) {
        while self.ends().last().is_some_and(|end| *end as usize >= len) {
            self.len -= 1;
        }
        while self.strays.last().is_some_and(|cell| *cell as usize >= self.len) {
            self.strays.pop();
        }
    }

    /// Makes room for the cells of `len` bytes.
    pub(crate) fn begin(&mut self, len: usize) {
        self.clear();
        self.listed = len;
        let wanted = len + PADDING;
        if self.ends.len() < wanted {
            self.ends = vec![0; wanted.next_power_of_two()];
        }
    }

    fn push(&mut self, at: usize) {
        if let Some(slot) = self.ends.get_mut(self.len) {
            *slot = position(at);
            self.len += 1;
        }
    }

    /// Writes the position of each set bit. The slots behind the last one may be scribbled on.
    #[inline(always)]
    pub(crate) fn push_mask<L: Lanes>(&mut self, lanes: &L, base: usize, mask: u64) {
        let Some(slots) = self.ends.get_mut(self.len..self.len + 64) else { return };
        let Some((slots, _)) = slots.split_first_chunk_mut::<64>() else { return };
        lanes.positions(position(base), mask, slots);
        self.len += mask.count_ones() as usize;
    }

    /// Lists the cells of the row at `start` by the plain machine, and nothing else behind it.
    pub(crate) fn list_row(&mut self, content: &[u8], start: usize, dialect: Dialect) -> RowWalk {
        self.drop_from(start);
        let mut strays = std::mem::take(&mut self.strays);
        let first = self.len;
        let row =
            walk_row(content, start, dialect, |at| self.push(at), |cell| strays.push(position(first + cell)));
        self.strays = strays;
        row
    }
}

#[expect(clippy::cast_possible_truncation, reason = "blocks are under 4 GiB, see `index`")]
const fn position(at: usize) -> u32 {
    at as u32
}
