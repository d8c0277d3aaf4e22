use crate::block::Extent;
use crate::rows::Milestone;

/// Where the blocks of a file stand, with places inside them at which reading again can begin.
#[derive(Debug, Default)]
pub struct Extents {
    blocks: Vec<Extent>,
    /// For each block rows in it at which reading again can begin.
    milestones: Vec<Box<[Milestone]>>,
}

impl Extents {
    /// Adds the next block.
    pub(super) fn push(&mut self, block: Extent, milestones: Box<[Milestone]>) {
        self.blocks.push(block);
        self.milestones.push(milestones);
    }

    /// The blocks.
    #[must_use]
    pub fn blocks(&self) -> &[Extent] {
        &self.blocks
    }

    /// The last row of the last block.
    #[must_use]
    pub fn last_row(&self) -> Option<u64> {
        self.blocks.last().map(|extent| (extent.first_row + extent.rows).saturating_sub(1))
    }

    /// Pieces of about so many rows in all, evenly spread over the file.
    #[must_use]
    pub(crate) fn spread(&self, most: u64) -> Vec<Extent> {
        let (Some(first), Some(last)) = (self.blocks.first(), self.last_row()) else { return Vec::new() };
        let mut pieces: Vec<Extent> = Vec::new();
        let (mut rows, mut row) = (0, first.first_row);
        while let Some(piece) = self.piece(row).filter(|_| row <= last && rows < most) {
            // The pieces that are still to come part what is left evenly.
            let step = (last + 1 - row) * piece.rows / (most - rows);
            rows += piece.rows;
            pieces.push(piece);
            row = (row + step).max(piece.first_row + piece.rows);
        }
        pieces
    }

    /// Small pieces of the file that hold all of the rows (ascending), each with its share of them.
    pub(crate) fn around<'a, T>(
        &'a self,
        rows: &'a [T],
        number: impl Fn(&T) -> u64 + 'a,
    ) -> impl Iterator<Item = (Extent, &'a [T])> + 'a {
        let mut rest = rows;
        std::iter::from_fn(move || {
            let piece = self.piece(number(rest.first()?))?;
            let (mine, later) =
                rest.split_at(rest.partition_point(|row| number(row) < piece.first_row + piece.rows));
            rest = later;
            Some((piece, mine))
        })
    }

    /// The piece that holds the row.
    fn piece(&self, row: u64) -> Option<Extent> {
        let number = self.blocks.partition_point(|block| block.first_row + block.rows <= row);
        let (block, milestones) = (self.blocks.get(number)?, self.milestones.get(number)?);
        let place = row.checked_sub(block.first_row)?;
        let next = milestones.partition_point(|milestone| u64::from(milestone.place) <= place);
        let from = next.checked_sub(1).and_then(|before| milestones.get(before)).copied().unwrap_or_default();
        let (end_row, end, end_line) = match milestones.get(next) {
            Some(next) => (u64::from(next.place), next.start as usize, u64::from(next.lines)),
            None => (block.rows, block.len, block.lines),
        };
        let (place, lines) = (u64::from(from.place), u64::from(from.lines));
        Some(Extent {
            offset: block.offset + u64::from(from.start),
            len: end - from.start as usize,
            rows: end_row - place,
            lines: end_line - lines,
            first_row: block.first_row + place,
            first_line: block.first_line + lines,
            is_ending: false,
        })
    }
}
