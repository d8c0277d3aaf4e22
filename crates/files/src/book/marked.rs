//! Whether a workbook is one that an earlier check marked: by the first cells of the sheet it put in front, since some
//! programs drop document properties. Its marks are no part of the table: the sheet in front is none of the sheets, and
//! the columns at the right end are taken off while the rows are read.

use super::sheet::MOST_COLUMNS;
use crate::error::Error;
use crate::layout::FirstRow;
use tidy_gate_core::headings::MARK_HEADINGS;

/// The name of the sheet in front.
pub(crate) const FRONT: &str = "Tidy Gate";
/// What its first cell holds; beside it stand the form of the file that was marked, the first column of marks and how many
/// columns the table had.
pub(crate) const FRONT_MARK: &str = "tidy-gate marked";

/// What a marked workbook says of itself.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Marked {
    /// The number of the sheet in front.
    pub(crate) front: usize,
    /// The form of the file that was marked, as a report names it.
    pub(crate) form: String,
    /// How many columns the table had.
    pub(crate) width: usize,
    /// The columns of marks, from 0: first and last; none where there was no room for them.
    pub(crate) columns: Option<(usize, usize)>,
}

/// What a workbook of these sheets says of its marks, if it has some; `beginning` gives the first rows of one.
pub(super) fn find(
    sheets: &[String],
    beginning: &mut dyn FnMut(usize) -> Result<Vec<FirstRow>, Error>,
) -> Result<Option<Marked>, Error> {
    let may_be = |name: &str| name.get(..FRONT.len()).is_some_and(|name| name.eq_ignore_ascii_case(FRONT));
    let likely: Vec<usize> =
        (0..sheets.len()).filter(|number| sheets.get(*number).is_some_and(|name| may_be(name))).collect();
    for front in likely.into_iter().take(3) {
        let rows = beginning(front)?;
        let Some(first) = rows.first() else { continue };
        let cell = |number: usize| first.cells.get(number).map(|cell| cell.trim()).unwrap_or_default();
        if cell(0) == FRONT_MARK {
            let first = cell(2).parse::<usize>().ok().and_then(|place| place.checked_sub(1));
            let columns = first.map(|first| (first, first + MARK_HEADINGS.len() - 1));
            let width = cell(3).parse().unwrap_or(0).min(MOST_COLUMNS as usize);
            return Ok(Some(Marked { front, form: cell(1).to_owned(), width, columns }));
        }
    }
    Ok(None)
}

impl Marked {
    /// The columns of marks as the headings of the sheet have them, whatever was put in or taken out before them since.
    pub(super) fn seen_in(mut self, rows: &[FirstRow]) -> Self {
        let is_mark = |pair: &[String]| pair.iter().zip(MARK_HEADINGS).all(|(cell, own)| cell.trim() == own);
        let found = rows.iter().find_map(|row| row.cells.windows(MARK_HEADINGS.len()).position(is_mark));
        self.columns = found.map(|first| (first, first + MARK_HEADINGS.len() - 1)).or(self.columns);
        self
    }

    /// Whether the cells were text before, as those of a text are.
    pub(crate) fn was_text(&self) -> bool {
        matches!(self.form.as_str(), "csv" | "json" | "ndjson")
    }
}
