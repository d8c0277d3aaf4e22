//! Whether a workbook is one that an earlier check marked: by the first cells of the sheet it put in front, since some
//! programs drop document properties. Its marks are no part of the table: the sheet in front is none of the sheets, and
//! the columns at the right end are taken off while the rows are read.

use super::Book;
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

/// What a workbook says of its marks, if it has some.
pub(super) fn find(book: &mut Book) -> Result<Option<Marked>, Error> {
    let may_be = |name: &str| name.get(..FRONT.len()).is_some_and(|name| name.eq_ignore_ascii_case(FRONT));
    let likely: Vec<usize> = (0..book.sheets.len())
        .filter(|number| book.sheets.get(*number).is_some_and(|sheet| may_be(&sheet.name)))
        .collect();
    for front in likely.into_iter().take(3) {
        let rows = super::beginning(book, front)?;
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

/// Takes these columns out of the row of delimited text that begins there.
pub(super) fn take_off(text: &mut Vec<u8>, begin: usize, (first, last): (usize, usize)) {
    let (mut column, mut quoted, mut from, mut to) = (0, false, None, None);
    for (at, byte) in text.iter().enumerate().skip(begin) {
        if column == first && from.is_none() {
            from = Some(at);
        }
        match byte {
            b'"' => quoted = !quoted,
            b',' if !quoted => {
                column += 1;
                if column == last + 1 {
                    to = Some(at + 1);
                    break;
                }
            }
            _ => {}
        }
    }
    if column == first && from.is_none() {
        from = Some(text.len());
    }
    let Some(from) = from else { return };
    match to {
        Some(to) => drop(text.drain(from..to)),
        // The comma before them goes with them.
        None => text.truncate(from.saturating_sub(1).max(begin)),
    }
}

#[cfg(test)]
mod tests {
    use super::take_off;

    #[test]
    fn columns_of_marks_go_and_the_others_stay() {
        let cases = [
            ("a,b,c,d", "a,b"),
            ("a,b,c,d,e", "a,b,e"),
            ("a,\"b,\"\"\n\",c,\"d,d\"", "a,\"b,\"\"\n\""),
            ("a", "a"),
            ("a,b", "a,b"),
            ("a,b,", "a,b"),
            (",,c,d", ","),
            ("", ""),
        ];
        for (row, wanted) in cases {
            let mut text = format!("x\n{row}").into_bytes();
            take_off(&mut text, 2, (2, 3));
            assert_eq!(String::from_utf8_lossy(&text), format!("x\n{wanted}"), "{row}");
        }
    }
}
