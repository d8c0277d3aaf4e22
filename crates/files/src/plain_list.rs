//! Lists of texts that go with a check: changed cells, records that the file does not speak of, what did not arrive.

use crate::error::Error;
use crate::row_output::{Begin, CellKind, RowOutput, Rows, record};
use tidy_gate_core::letters::harmless;

/// Begins a list on a sheet of this name, with its headings.
pub(crate) fn begin(list: &mut RowOutput, sheet: &'static str, headings: Vec<String>) -> Result<(), Error> {
    list.begin(Begin {
        sheet,
        marks: false,
        widths: &[16.0],
        keys: headings.iter().map(|heading| (heading.clone(), CellKind::Text)).collect(),
        properties: Vec::new(),
        originals: None,
    })?;
    write(list, headings.into_iter())
}

/// Adds a row of it.
pub(crate) fn write(list: &mut RowOutput, cells: impl Iterator<Item = String>) -> Result<(), Error> {
    let mut row = list.no_rows();
    match &mut row {
        // A spreadsheet program would compute what looks like a formula.
        Rows::Text(text) => {
            text.extend(record(cells.map(|cell| harmless(&cell).into_owned()), b',', b"\r\n"));
        }
        Rows::Cells(rows) => {
            cells.for_each(|cell| rows.text(&cell));
            rows.end_row(0);
        }
    }
    list.write(&row)
}
