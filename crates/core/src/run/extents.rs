use crate::block::Extent;

/// Where the blocks of a file stand, with places inside them at which reading again can begin.
#[derive(Debug, Default)]
pub struct Extents {
    blocks: Vec<Extent>,
    /// For each block: place of a row in it, and where the row starts.
    milestones: Vec<Box<[(u32, u32)]>>,
}

impl Extents {
    /// Adds the next block.
    pub(super) fn push(&mut self, block: Extent, milestones: Box<[(u32, u32)]>) {
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
    pub(super) fn around<'a, T>(
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
        let next = milestones.partition_point(|milestone| u64::from(milestone.0) <= place);
        let from = next.checked_sub(1).and_then(|before| milestones.get(before)).copied().unwrap_or_default();
        let end =
            milestones.get(next).map_or((block.rows, block.len), |next| (u64::from(next.0), next.1 as usize));
        let rows = end.0 - u64::from(from.0);
        Some(Extent {
            offset: block.offset + u64::from(from.1),
            len: end.1 - from.1 as usize,
            rows,
            // Without milestones the piece is the block; with them, its lines are its rows.
            lines: if milestones.is_empty() { block.lines } else { rows },
            first_row: block.first_row + u64::from(from.0),
            first_line: block.first_line + u64::from(from.0),
            is_ending: false,
        })
    }
}
