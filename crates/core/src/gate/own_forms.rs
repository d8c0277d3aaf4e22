//! Rows as they came, for ready rows: which of their cells stand there already as they are handed on, and what the others
//! become. So a sound row is copied, and only cells that change are written anew.
//!
//! Before you change this: a cell that is passed over must be what [`super::RowView::value`] gives, written as a CSV
//! writer would (quotes only where they must be); a test holds both against each other.

use super::assembly::Gate;
use super::compiled::Column;
use super::form::Form;
use super::ready_fields::ReadyField;
use crate::block::Block;
use crate::rows::Cells;
use crate::scan::{Dialect, is_plain};
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

/// Cells with what they become, by the hash of the cell.
type Known = HashMap<u64, (Box<[u8]>, Box<[u8]>), BuildStraight>;

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
            cells.each_in_column(number, |row, start, end| {
                let is_own = if start == end {
                    blank_stands
                } else {
                    is_told
                        && is_own(column, (&block.buffer, start, end), dialect)
                        && !(has_returns
                            && block.buffer.get(start..end).is_none_or(|raw| raw.contains(&b'\r')))
                };
                if !is_own && let Some(word) = open.get_mut(row * words + at) {
                    *word |= bit;
                }
            });
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
        self.known.resize_with(fields.len(), HashMap::default);
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
                let hash = xxh3_64(raw);
                if let Some((_, becomes)) = known.get(&hash).filter(|known| *known.0 == *raw) {
                    if **becomes != *raw {
                        take(start, end, becomes);
                    }
                    continue;
                }
                let becomes = value(field);
                if becomes != raw {
                    take(start, end, &becomes);
                }
                if raw.len() <= LONGEST_KNOWN && known.len() < MOST_KNOWN {
                    known.insert(hash, (raw.into(), becomes.into()));
                }
            }
        }
    }
}

/// Whether a cell plainly stands as it is handed on. False says nothing.
#[inline(always)]
fn is_own(column: &Column, (buffer, start, end): (&[u8], usize, usize), dialect: Dialect) -> bool {
    let raw = buffer.get(start..end).unwrap_or_default();
    if column.guard.as_ref().is_some_and(|guard| guard.may_hold_in(buffer, (start, end))) {
        return false;
    }
    if is_plain(raw, dialect) {
        return match &column.standing {
            Some(words) => words.holds(buffer, start, end - start),
            None => column.program.stands(raw),
        };
    }
    // In quotes that must be.
    let [first, inner @ .., last] = raw else { return false };
    *first == dialect.quote
        && *last == dialect.quote
        && column.program.is_verbatim()
        && inner.first().is_some_and(|first| first.is_ascii_graphic())
        && inner.last().is_some_and(|last| last.is_ascii_graphic())
        && memchr::memchr3(dialect.delimiter, dialect.quote, b'\n', inner).is_some()
}
