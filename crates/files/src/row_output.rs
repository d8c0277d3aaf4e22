//! Where ready and held rows go: text in an encoding, the sheet of a workbook, or records of JSON.

mod begin;
mod json;
mod sheet;

pub(crate) use begin::Begin;
pub(crate) use json::{CellKind, Originals};

use crate::error::Error;
use crate::output::one::Output;
use crate::workbook::failed;
use encoding_rs::{EncoderResult, Encoding, UTF_8, UTF_16BE, UTF_16LE};
use json::JsonForm;
use sheet::SheetForm;
use tidy_gate_core::scan::{Dialect, RowWalk, decode, walk_row};

/// One output of rows, which come as delimited text in UTF-8, whole rows at a time.
pub struct RowOutput {
    output: Output,
    form: Form,
    /// Whether the headings are still to come.
    is_fresh: bool,
}

enum Form {
    Text(&'static Encoding),
    Sheet(Box<SheetForm>),
    Json(Box<JsonForm>, Dialect),
}

impl std::fmt::Debug for RowOutput {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("RowOutput").field("output", &self.output).finish_non_exhaustive()
    }
}

impl RowOutput {
    /// The endings of its forms.
    pub const ENDINGS: &str = ".csv, .xlsx, .json or .ndjson";

    /// A text in this encoding, or another form where the output's ending says so.
    #[must_use]
    pub fn new(output: Output, encoding: &'static Encoding) -> Self {
        let ending = output.path().extension().map(|ending| ending.to_string_lossy().to_lowercase());
        let form = match ending.as_deref() {
            Some("xlsx") => Form::Sheet(Box::new(SheetForm::new())),
            Some("json") => Form::Json(Box::new(JsonForm::new(false)), Dialect::default()),
            Some("ndjson") => Form::Json(Box::new(JsonForm::new(true)), Dialect::default()),
            _ => Form::Text(encoding),
        };
        Self { output, form, is_fresh: true }
    }

    /// Whether it is a workbook, which keeps how cells were stored.
    pub(crate) fn is_workbook(&self) -> bool {
        matches!(self.form, Form::Sheet(_))
    }

    /// Whether it is records of JSON.
    pub(crate) fn is_json(&self) -> bool {
        matches!(self.form, Form::Json(..))
    }

    /// Begins.
    pub(crate) fn begin(&mut self, begin: Begin<'_>) -> Result<(), Error> {
        match &mut self.form {
            Form::Text(encoding) if *encoding == UTF_16LE || *encoding == UTF_16BE => {
                let mark: &[u8] = if *encoding == UTF_16LE { b"\xFF\xFE" } else { b"\xFE\xFF" };
                self.output.write(mark)
            }
            Form::Text(_) => Ok(()),
            Form::Sheet(form) => form.begin(&begin).map_err(|error| failed(self.output.path(), &error)),
            Form::Json(form, dialect) => {
                *dialect = Dialect { marks: false, ..begin.dialect };
                form.begin(begin.keys, begin.originals);
                Ok(())
            }
        }
    }

    /// Whether a mark of UTF-8 may stand before the text.
    pub(crate) fn takes_mark(&self) -> bool {
        matches!(self.form, Form::Text(encoding) if encoding == UTF_8)
    }

    /// Adds whole rows; the first is that of the headings.
    pub(crate) fn write(&mut self, rows: &[u8]) -> Result<(), Error> {
        match &mut self.form {
            Form::Text(encoding) if *encoding == UTF_8 => self.output.write(rows),
            Form::Text(encoding) => {
                let encoded = encoded(rows, encoding).map_err(|letter| Error::Unwritable {
                    path: self.output.path().to_owned(),
                    letter,
                    encoding: encoding.name(),
                })?;
                self.output.write(&encoded)
            }
            Form::Sheet(form) => {
                let dialect = form.dialect;
                each_row(rows, dialect, |raws| form.row(raws, self.output.path()))
            }
            Form::Json(form, dialect) => {
                let mut text = Vec::new();
                each_row(rows, *dialect, |raws| {
                    let cell = |raw: &&[u8]| String::from_utf8_lossy(&decode(raw, *dialect)).into_owned();
                    let cells: Vec<String> = raws.iter().map(cell).collect();
                    if !std::mem::take(&mut self.is_fresh) {
                        return form.row(&cells, &mut text);
                    }
                    Ok(())
                })?;
                self.output.write(&text)
            }
        }
    }

    /// The complete output.
    pub(crate) fn finish(self) -> Result<Output, Error> {
        let mut output = self.output;
        match self.form {
            Form::Sheet(mut form) => {
                let saved = form.book.save_to_writer(output.writer());
                saved.map_err(|error| failed(output.path(), &error))?;
            }
            Form::Json(mut form, _) => {
                let mut text = Vec::new();
                form.end(&mut text);
                output.write(&text)?;
            }
            Form::Text(_) => {}
        }
        Ok(output)
    }
}

/// Hands on the raw cells of each row.
fn each_row(
    rows: &[u8],
    dialect: Dialect,
    mut take: impl FnMut(&[&[u8]]) -> Result<(), Error>,
) -> Result<(), Error> {
    let mut start = 0;
    while start < rows.len() {
        let mut ends = Vec::new();
        let walk = walk_row(rows, start, dialect, |end| ends.push(end), |_| ());
        let end = match walk {
            RowWalk::Whole { end, .. } => end,
            // The last row may want its line break, and a quoted cell in it may never close.
            RowWalk::Open { .. } => {
                ends.push(rows.len());
                rows.len()
            }
        };
        let mut from = start;
        let raw = |end: &usize| {
            let raw = rows.get(from..*end).unwrap_or_default();
            from = end + 1;
            raw.strip_suffix(b"\r").unwrap_or(raw)
        };
        let raws: Vec<&[u8]> = ends.iter().map(raw).collect();
        take(&raws)?;
        start = end.max(start + 1);
    }
    Ok(())
}

/// The rows in another encoding, or the first character that it does not have.
fn encoded(rows: &[u8], encoding: &'static Encoding) -> Result<Vec<u8>, char> {
    let text = String::from_utf8_lossy(rows);
    if encoding == UTF_16LE {
        return Ok(text.encode_utf16().flat_map(u16::to_le_bytes).collect());
    }
    if encoding == UTF_16BE {
        return Ok(text.encode_utf16().flat_map(u16::to_be_bytes).collect());
    }
    let mut encoder = encoding.new_encoder();
    let most = encoder.max_buffer_length_from_utf8_without_replacement(text.len());
    let mut bytes = Vec::with_capacity(most.unwrap_or(4 * text.len()) + 16);
    match encoder.encode_from_utf8_to_vec_without_replacement(&text, &mut bytes, true).0 {
        EncoderResult::Unmappable(letter) => Err(letter),
        EncoderResult::InputEmpty | EncoderResult::OutputFull => Ok(bytes),
    }
}
