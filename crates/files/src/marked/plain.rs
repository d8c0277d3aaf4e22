//! A file that is no XLSX workbook as one: every row where it stood, texts as texts, what a sheet stored as it was
//! stored. Of a workbook of another form its one sheet alone, since nothing else of it is read.

use crate::error::Error;
use crate::output::Outputs;
use crate::row_output::{Begin, CellKind, RowOutput, Rows};
use crate::table_file::TableFile;
use std::path::{Path, PathBuf};
use tidy_gate_core::gate::Gate;
use tidy_gate_core::scan::{Dialect, RowWalk, walk_row};

/// The part that holds the sheet that is made.
pub(super) const PART: &str = "xl/worksheets/sheet1.xml";

/// The name of the sheet that is made: that of the sheet it is made of, so that a plan finds it again.
pub(super) fn sheet_name(file: &TableFile) -> &str {
    let is_fit = |name: &&str| {
        (1..=31).contains(&name.chars().count()) && !name.contains(['[', ']', ':', '*', '?', '/', '\\', '\''])
    };
    file.table().sheet().filter(is_fit).unwrap_or("Data")
}

/// So many bytes of rows are handed on at once.
const PIECE: usize = 1 << 18;

/// A workbook that was made, and how many cells its widest row has.
pub(super) struct Made {
    pub(super) path: PathBuf,
    pub(super) widest: usize,
}

/// Writes it into a folder. Errors name the output that it is for.
pub(super) fn write(file: &TableFile, gate: &Gate, folder: &Path, output: &Path) -> Result<Made, Error> {
    let place = folder.join("plain.xlsx");
    let mut outputs = Outputs::new(false);
    let mut rows = RowOutput::new(outputs.create(&place, "a workbook", ".xlsx")?, encoding_rs::UTF_8);
    let dialect = gate.table().dialect;
    rows.begin(Begin {
        sheet: sheet_name(file),
        marks: dialect.marks,
        widths: &widths(gate),
        keys: vec![(String::new(), CellKind::Text); gate.width()],
        properties: Vec::new(),
        originals: None,
    })?;
    let (mut kept, mut widest): (Vec<u8>, usize) = (Vec::new(), 0);
    file.rest_from(0, &mut |bytes| {
        kept.extend(bytes);
        if kept.len() < PIECE {
            return Ok(());
        }
        let used = hand_on(&kept, dialect, false, (&mut rows, &mut widest))?;
        kept.drain(..used);
        Ok(())
    })
    .and_then(|()| hand_on(&kept, dialect, true, (&mut rows, &mut widest)))
    .map_err(|error| named(error, output))?;
    outputs.complete_rows(rows).map_err(|error| named(error, output))?;
    outputs.persist()?;
    Ok(Made { path: place, widest })
}

/// What does not fit into a sheet is told of the output that was asked for.
fn named(error: Error, output: &Path) -> Error {
    match error {
        Error::TooMuchForSheet { what, .. } => Error::TooMuchForSheet { path: output.to_owned(), what },
        error => error,
    }
}

/// Hands on the whole rows of these bytes; at the end the last one too, whether it is closed or not.
fn hand_on(
    bytes: &[u8],
    dialect: Dialect,
    is_end: bool,
    (output, widest): (&mut RowOutput, &mut usize),
) -> Result<usize, Error> {
    let (mut start, mut ends) = (0, Vec::new());
    while start < bytes.len() {
        let mut made = output.no_rows();
        ends.clear();
        let walk = walk_row(bytes, start, dialect, |at| ends.push(at), |_| ());
        let (end, is_open) = match walk {
            RowWalk::Whole { end, .. } if end < bytes.len() || is_end => (end, false),
            _ if is_end => (bytes.len(), true),
            _ => break,
        };
        if let Rows::Cells(cells) = &mut made {
            let mut from = start;
            let content = bytes.get(..end).unwrap_or_default();
            let last = content.strip_suffix(b"\n").unwrap_or(content).len();
            for to in ends.iter().copied().filter(|to| *to < last && !is_open).chain([last]) {
                let raw = bytes.get(from..to).unwrap_or_default();
                let raw = if to == last { raw.strip_suffix(b"\r").unwrap_or(raw) } else { raw };
                cells.raw(raw, dialect);
                from = to + 1;
            }
            cells.end_row(0);
            *widest = (*widest).max(ends.len() + 1);
        }
        output.write(&made)?;
        start = end;
    }
    Ok(start)
}

/// As wide as what stands in the first rows, within reason.
#[expect(clippy::cast_precision_loss, reason = "a few characters")]
fn widths(gate: &Gate) -> Vec<f64> {
    let table = gate.table();
    let longest = |column: usize| {
        let cells = table.sample.iter().filter_map(|row| row.get(column));
        let heading = table.headings.get(column).into_iter();
        cells.chain(heading).map(|cell| cell.chars().count()).max().unwrap_or(0)
    };
    (0..table.headings.len()).map(|column| (longest(column).clamp(8, 40) + 2) as f64).collect()
}
