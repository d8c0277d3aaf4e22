//! Rows as they came, for ready rows: which of their cells stand there already as they are handed on, and what the others
//! become. So a sound row is copied, and only cells that change are written anew.
//!
//! Before you change this: a cell that is passed over must be what [`super::RowView::value`] gives, written as a CSV
//! writer would (quotes only where they must be); a test holds both against each other.

use super::assembly::Gate;
use super::form::Form;
use super::own_cells::{OpenCells, OwnColumn};
use super::ready_fields::ReadyField;
use crate::block::Block;
use crate::rows::Cells;
use crate::scan::{short_word, with_lanes};
use crate::straight::BuildStraight;
use std::collections::HashMap;
use xxhash_rust::xxh3::xxh3_64;

/// So many cells of a column are remembered with what they become, and no longer ones.
const MOST_KNOWN: usize = 16_384;
const LONGEST_KNOWN: usize = 64;

/// Tells which cells of rows change on their way.
#[derive(Debug, Default)]
pub struct OwnForms {
    /// Of each column.
    known: Vec<Known>,
    /// A bit for each cell that may change, by row and column.
    open: Vec<u64>,
    /// So many words of it belong to a row.
    words: usize,
    /// Rows whose cells do not stand as they are counted, by their number among the judged ones; ascending.
    odd_rows: Vec<usize>,
}

/// Cells with what they become; nothing where they stay.
#[derive(Debug, Default)]
struct Known {
    /// The first few of up to eight bytes, as a word and its length: yes and no in other words come in every row.
    few: Vec<(u64, usize, Becomes)>,
    /// All others, by the hash of the cell.
    others: HashMap<u64, (Box<[u8]>, Becomes), BuildStraight>,
}

type Becomes = Option<Box<[u8]>>;

/// So many cells of a column are kept among the few.
const FEW: usize = 4;

impl Gate {
    /// Whether ready rows with these fields hold the same cells as the rows of the file, one for one.
    #[must_use]
    pub fn copies_rows(&self, fields: &[ReadyField]) -> bool {
        let stands = |(number, field): (usize, &ReadyField)| field.column == Some(number);
        fields.len() == self.width()
            && fields.len() > 1
            && fields.iter().enumerate().all(stands)
            && self.settings.existing.is_none()
            && self.lines.is_none()
    }
}

/// What ready rows are made of: their fields, of a gate that [copies rows](Gate::copies_rows), and what writes a value as
/// a cell.
pub(super) type Made<'a> = (&'a [ReadyField], &'a dyn Fn(&[u8]) -> Vec<u8>);

impl OwnForms {
    /// Begins with a block that is laid out: column by column, the cells that do not plainly stand as they are handed on
    /// are noted.
    pub(super) fn begin(&mut self, (gate, fields): (&Gate, &[ReadyField]), (block, cells): (&Block, &Cells)) {
        let dialect = gate.table.dialect;
        let has_returns = memchr::memchr(b'\r', block.content()).is_some();
        self.odd_rows.clear();
        self.odd_rows.extend(cells.misfits.iter().filter_map(|misfit| misfit.judged).map(|row| row as usize));
        self.odd_rows.extend(cells.strays.iter().map(|stray| stray.0 as usize));
        self.odd_rows.sort_unstable();
        self.words = fields.len().div_ceil(64);
        self.open.clear();
        self.open.resize(cells.len() * self.words, 0);
        for (number, field) in fields.iter().enumerate() {
            let Some(column) = gate.columns.get(number) else { continue };
            let is_told = field.form == Form::Standard && !cells.broken_text;
            let (at, bit, words) = (number / 64, 1 << (number % 64), self.words);
            let open = &mut self.open;
            let blank_stands = field.default.is_none();
            let seen =
                OwnColumn { column, block, cells, number, dialect, blank_stands, is_told, has_returns };
            with_lanes(
                dialect,
                OpenCells {
                    seen,
                    open: |row| {
                        if let Some(word) = open.get_mut(row * words + at) {
                            *word |= bit;
                        }
                    },
                },
            );
        }
    }

    /// Whether the row can be copied with some cells changed.
    pub(super) fn takes(&self, row: usize) -> bool {
        self.odd_rows.is_empty() || self.odd_rows.binary_search(&row).is_err()
    }

    /// Gives each cell of a row that changes: where it stands in the block, and what it becomes; `value` writes what a
    /// field is handed on with.
    pub(super) fn each_change(
        &mut self,
        fields: &[ReadyField],
        (block, cells, row): (&Block, &Cells, usize),
        value: impl Fn(&ReadyField) -> Vec<u8>,
        mut take: impl FnMut(usize, usize, &[u8]),
    ) {
        self.known.resize_with(fields.len(), Known::default);
        let open = self.open.get(row * self.words..(row + 1) * self.words).unwrap_or_default();
        for (at, word) in open.iter().enumerate() {
            let mut word = *word;
            while word != 0 {
                let number = at * 64 + word.trailing_zeros() as usize;
                word &= word - 1;
                let (Some(field), Some(known)) = (fields.get(number), self.known.get_mut(number)) else {
                    continue;
                };
                let (start, end) = cells.cell(row, number);
                let raw = block.buffer.get(start..end).unwrap_or_default();
                let is_short = (1..=8).contains(&raw.len());
                let word = if is_short { short_word(&block.buffer, start, raw.len()) } else { 0 };
                let is_it = |few: &&(u64, usize, Becomes)| is_short && few.0 == word && few.1 == raw.len();
                let mut take = |becomes: &Becomes| {
                    if let Some(becomes) = becomes {
                        take(start, end, becomes);
                    }
                };
                if let Some((.., becomes)) = known.few.iter().find(is_it) {
                    take(becomes);
                    continue;
                }
                let hash = xxh3_64(raw);
                if let Some((_, becomes)) = known.others.get(&hash).filter(|known| *known.0 == *raw) {
                    take(becomes);
                    continue;
                }
                let becomes = Some(value(field)).filter(|becomes| becomes != raw).map(Vec::into_boxed_slice);
                take(&becomes);
                if is_short && known.few.len() < FEW {
                    known.few.push((word, raw.len(), becomes));
                } else if raw.len() <= LONGEST_KNOWN && known.others.len() < MOST_KNOWN {
                    known.others.insert(hash, (raw.into(), becomes));
                }
            }
        }
    }
}
