//! The measure for workbooks that are handed on: every cell of the first sheet with calamine's streaming reader, written
//! again by `rust_xlsxwriter` in constant memory. Dates stay the numbers they are stored as.
//!
//! Usage: plain-book FILE.xlsx OUT.xlsx

use calamine::{DataRef, Reader, Xlsx, open_workbook};
use rust_xlsxwriter::Workbook;
use std::io;

fn main() -> io::Result<()> {
    let mut args = std::env::args().skip(1);
    let (Some(from), Some(to)) = (args.next(), args.next()) else {
        return Err(io::Error::other("usage: plain-book FILE.xlsx OUT.xlsx"));
    };
    let mut book: Xlsx<_> = open_workbook(from).map_err(io::Error::other)?;
    let name = book.sheet_names().first().cloned().unwrap_or_default();
    let mut reader = book.worksheet_cells_reader(&name).map_err(io::Error::other)?;
    let mut written = Workbook::new();
    let sheet = written.add_worksheet_with_constant_memory().map_err(io::Error::other)?;
    while let Some(cell) = reader.next_cell().map_err(io::Error::other)? {
        let (row, column) = cell.get_position();
        let column = u16::try_from(column).map_err(io::Error::other)?;
        let text = match cell.get_value() {
            DataRef::Empty => continue,
            DataRef::Int(number) => {
                #[expect(clippy::cast_precision_loss, reason = "a sheet stores no other numbers")]
                sheet.write_number(row, column, *number as f64).map_err(io::Error::other)?;
                continue;
            }
            DataRef::Float(number) => {
                sheet.write_number(row, column, *number).map_err(io::Error::other)?;
                continue;
            }
            DataRef::DateTime(moment) => {
                sheet.write_number(row, column, moment.as_f64()).map_err(io::Error::other)?;
                continue;
            }
            DataRef::String(text) | DataRef::DateTimeIso(text) | DataRef::DurationIso(text) => text.as_str(),
            DataRef::SharedString(text) => text,
            DataRef::Bool(truth) => {
                sheet.write_boolean(row, column, *truth).map_err(io::Error::other)?;
                continue;
            }
            DataRef::Error(_) => "#N/A",
        };
        sheet.write_string(row, column, text).map_err(io::Error::other)?;
    }
    written.save(to).map_err(io::Error::other)
}
