//! The measure for workbooks: every cell of the first sheet with calamine's streaming reader, and nothing done with it.
//! Prints how many cells it saw.
//!
//! Usage: plain-cells FILE.xlsx

use calamine::{DataRef, Reader, Xlsx, open_workbook};
use std::io::{self, Write};

fn main() -> io::Result<()> {
    let path = std::env::args().nth(1).ok_or_else(|| io::Error::other("usage: plain-cells FILE.xlsx"))?;
    let mut book: Xlsx<_> = open_workbook(path).map_err(io::Error::other)?;
    let name = book.sheet_names().first().cloned().unwrap_or_default();
    let mut reader = book.worksheet_cells_reader(&name).map_err(io::Error::other)?;
    let mut cells = 0_u64;
    while let Some(cell) = reader.next_cell().map_err(io::Error::other)? {
        cells += u64::from(!matches!(cell.get_value(), DataRef::Empty));
    }
    writeln!(io::stdout(), "{cells} cells")
}
