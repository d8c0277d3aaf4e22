//! What the rows of a block take over from the first of their record, where several make one.

use std::sync::Arc;

/// What stands above a row: the record that it may belong to.
#[derive(Debug, Clone, Default)]
pub(crate) struct Above {
    /// The row that begins the record; nothing where none has begun.
    pub(crate) row: Option<u64>,
    /// The header's cells in that row, as they stand.
    pub(crate) cells: Vec<Vec<u8>>,
    /// Whether a row of the wrong width stands above all records: it may have begun one.
    pub(crate) is_broken: bool,
}

/// Which rows of a block begin a record, and where each finds its header.
#[derive(Debug, Default)]
pub(crate) struct Taken {
    header: Vec<usize>,
    /// For each judged row, the judged row that begins its record.
    pub(crate) heads: Vec<Head>,
    above: Arc<Above>,
    /// Header cells that stand blank, by judged row and place in the header.
    blanks: Vec<u64>,
    /// Cells that differ from the first row of their record.
    pub(crate) differs: Vec<(usize, usize)>,
    /// Lines without a record.
    pub(crate) orphans: Vec<usize>,
}

/// Where the record of a row begins.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Head {
    /// In this row.
    Here,
    /// In a judged row of the block.
    Row(usize),
    /// Above the block.
    Above,
    /// Nowhere: it is a line without a record.
    None,
}

/// The cell of the row that begins a record.
#[derive(Debug, Clone, Copy)]
pub(crate) enum HeadCell<'a> {
    /// In a judged row of the block.
    Row(usize),
    /// Above the block: the row's number, and the cell as it stands.
    Above(u64, &'a [u8]),
}

impl Taken {
    /// Nothing yet, of so many judged rows below what stands above them.
    pub(crate) fn new(header: &[usize], above: Arc<Above>, rows: usize) -> Self {
        let blanks = vec![0; (rows * header.len()).div_ceil(64)];
        Self { header: header.to_vec(), above, blanks, ..Self::default() }
    }

    fn bit(&self, row: usize, at: usize) -> (usize, u64) {
        let bit = row * self.header.len() + at;
        (bit / 64, 1 << (bit % 64))
    }

    pub(crate) fn set_blank(&mut self, row: usize, at: usize) {
        let (word, bit) = self.bit(row, at);
        if let Some(word) = self.blanks.get_mut(word) {
            *word |= bit;
        }
    }

    pub(crate) fn is_blank(&self, row: usize, at: usize) -> bool {
        let (word, bit) = self.bit(row, at);
        self.blanks.get(word).is_some_and(|word| word & bit != 0)
    }

    /// Whether the row does not begin a record.
    pub(crate) fn is_below(&self, row: usize) -> bool {
        self.heads.get(row).is_some_and(|head| *head != Head::Here)
    }

    /// Whether a cell is blank and means "as above".
    pub(crate) fn takes_over(&self, row: usize, column: usize) -> bool {
        self.is_below(row)
            && self
                .header
                .iter()
                .position(|header| *header == column)
                .is_some_and(|at| self.is_blank(row, at))
    }

    /// Where the record of a judged row begins, and its cell of a header's column stands; nothing where it begins in
    /// this row or nowhere.
    pub(crate) fn head(&self, row: usize, column: usize) -> Option<HeadCell<'_>> {
        match self.heads.get(row)? {
            Head::Row(head) => Some(HeadCell::Row(*head)),
            Head::Above => {
                let at = self.header.iter().position(|header| *header == column)?;
                Some(HeadCell::Above(self.above.row?, self.above.cells.get(at)?))
            }
            Head::Here | Head::None => None,
        }
    }
}
