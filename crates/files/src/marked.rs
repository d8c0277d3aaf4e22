//! The sender's own workbook with what was found in it: marks on its sheet, a sheet in front. A file that is no workbook
//! of the form XLSX becomes one first.

mod lists;
mod rows;

use crate::book::{FrontLine, Limit, MarkSum, Marking, NextMarks, put_marks};
use crate::error::Error;
use crate::output::Output;
use crate::plain_book as plain;
use crate::table_file::TableFile;
use rows::Rows;
use std::cell::Cell;
use std::path::Path;
use std::sync::{Arc, Mutex, PoisonError};
use tidy_gate_core::catalogue::Code;
use tidy_gate_core::gate::Gate;
use tidy_gate_core::run::{Outcome, Watch};

/// The endings of marked workbooks.
pub const MARKED_ENDINGS: &str = ".xlsx or .xlsm";

/// A sheet has so many columns.
const MOST_COLUMNS: usize = 16_384;

/// The ending that the marked copy of this file has: macros stay in a workbook that has some.
#[must_use]
pub fn marked_ending(path: &Path, file: &TableFile) -> &'static str {
    let is_with_macros =
        path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("xlsm")) && file.form() == "xlsx";
    if is_with_macros { "xlsm" } else { "xlsx" }
}

/// Writes the workbook of a file that has been judged, with marks on it; `front` gives the lines of the sheet in front
/// once all is counted.
///
/// # Errors
/// When the file cannot be read again, has more rows or columns than a sheet, or the output cannot be written.
pub fn mark(
    file: &TableFile,
    (gate, outcome): (&Gate, &Outcome),
    path: &Path,
    front: &mut dyn FnMut(&MarkSum) -> Vec<FrontLine>,
    output: &mut Output,
    watch: &dyn Watch,
) -> Result<MarkSum, Error> {
    let is_anew = file.form() != "xlsx";
    let had = file.marked();
    let own = first_of_marks(file, gate, outcome, is_anew)?;
    let lists = lists::of(gate);
    // Records count from 1, and their headings stand above them.
    let shift = u64::from(gate.table().is_records());
    let last = outcome.extents.last_row().unwrap_or(0);
    let last_row = outcome.open.map_or(last, |open| last.max(open.row));
    let (part, sheet) = match is_anew {
        false => {
            let part = file.sheet_part().map(|part| part.0.to_owned()).unwrap_or_default();
            (part, file.table().sheet().unwrap_or_default())
        }
        true => (plain::PART.to_owned(), plain::sheet_name(file)),
    };
    let is_book = file.table().sheet().is_some();
    let form = had.map_or(file.form(), |had| had.form.as_str());
    let mut marking = Marking {
        part: &part,
        sheet,
        form,
        width: gate.width(),
        heading_row: gate.table().heading_row.map(|row| row + shift),
        first_row: gate.table().first_row + shift,
        last_row: last_row + shift,
        own,
        had: had.filter(|_| !is_anew),
        lists: &lists,
        is_strict: false,
    };
    let mut rows = Rows::new(file, gate, outcome, own, shift);
    let cut = Cell::new(0);
    let mut next = || {
        let next = rows.next(watch)?;
        cut.set(rows.cut);
        Ok(next)
    };
    let of_file = |sum: &MarkSum| {
        let mut sum = sum.clone();
        sum.limits.extend((is_anew && is_book).then_some(Limit::WrittenAnew));
        sum.limits.extend((cut.get() > 0).then_some(Limit::ReasonsCut(cut.get())));
        sum
    };
    let mut lines = |sum: &MarkSum| front(&of_file(sum));
    let sum = match is_anew {
        false => put_marks((path, None), &mut marking, &mut next, &mut lines, output)?,
        true => put_anew((file, gate), &mut marking, &mut next, &mut lines, output)?,
    };
    Ok(of_file(&sum))
}

/// The first column of marks, from 0, beyond all that stands in the table; none where there is no room.
fn first_of_marks(
    file: &TableFile,
    gate: &Gate,
    outcome: &Outcome,
    is_anew: bool,
) -> Result<Option<usize>, Error> {
    // They stay where they were.
    if let Some((first, _)) = file.marked().and_then(|had| had.columns).filter(|_| !is_anew) {
        return Ok(Some(first));
    }
    let is_judged = outcome.extents.last_row().is_some();
    let has_wider = outcome.tallies.iter().any(|(counted, _)| counted.code == Code::RowWidth);
    let used = match is_anew {
        false => file.used_columns(),
        true if has_wider || !is_judged => plain::widest(file, gate.table().dialect)?,
        true => 0,
    };
    let first = gate.width().max(used);
    Ok((first + 2 <= MOST_COLUMNS).then_some(first))
}

/// The same for a file that becomes a workbook first, while its rows are marked.
fn put_anew(
    (file, gate): (&TableFile, &Gate),
    marking: &mut Marking<'_>,
    next: &mut NextMarks<'_>,
    lines: &mut dyn FnMut(&MarkSum) -> Vec<FrontLine>,
    output: &mut Output,
) -> Result<MarkSum, Error> {
    let folder = tempfile::tempdir().map_err(Error::temporary)?;
    let frame = plain::frame(marking.sheet, folder.path())?;
    let place = output.path().to_owned();
    let fault = Arc::new(Mutex::new(None));
    let mut made = plain::Sheet::new(file, gate, marking.heading_row, &place, Arc::clone(&fault));
    // A cell takes many times its bytes.
    let is_large = file.bytes_read() > 300 << 20;
    let put = put_marks((&frame, Some((&mut made, is_large))), marking, next, lines, output);
    // What went wrong while the rows were made says more than that they could not be read.
    match fault.lock().unwrap_or_else(PoisonError::into_inner).take() {
        Some(error) => Err(error),
        None => put,
    }
}
