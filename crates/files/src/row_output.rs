//! Where ready and held rows go: text in an encoding, or the sheet of a workbook whose cells are all text, so that
//! no spreadsheet program changes them when it opens it.

use crate::{Error, Output};
use encoding_rs::{EncoderResult, Encoding, UTF_8, UTF_16BE, UTF_16LE};
use rust_xlsxwriter::{Format, FormatAlign, Workbook, XlsxError};
use std::path::Path;
use tidy_gate_core::scan::{Dialect, RowWalk, decode, walk_row};

/// One output of rows, which come as delimited text in UTF-8, whole rows at a time.
pub struct RowOutput {
    output: Output,
    form: Form,
}

enum Form {
    Text(&'static Encoding),
    Sheet(Box<SheetForm>),
}

struct SheetForm {
    book: Workbook,
    dialect: Dialect,
    row: u32,
    text: Format,
    heading: Format,
}

impl std::fmt::Debug for RowOutput {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("RowOutput").field("output", &self.output).finish_non_exhaustive()
    }
}

/// The longest text of a cell, in UTF-16 units, and the most rows of a sheet.
const LONGEST: usize = 32_767;
const MOST_ROWS: u32 = 1_048_576;
const MOST_COLUMNS: usize = 16_384;

impl RowOutput {
    /// The endings of its forms.
    pub const ENDINGS: &str = ".csv or .xlsx";

    /// A text in this encoding, or a workbook where the output's ending says so.
    #[must_use]
    pub fn new(output: Output, encoding: &'static Encoding) -> Self {
        let form = if is_workbook(output.path()) {
            Form::Sheet(Box::new(SheetForm {
                book: Workbook::new(),
                dialect: Dialect::default(),
                row: 0,
                text: Format::new().set_num_format("@"),
                heading: Format::new()
                    .set_num_format("@")
                    .set_bold()
                    .set_align(FormatAlign::Top)
                    .set_text_wrap(),
            }))
        } else {
            Form::Text(encoding)
        };
        Self { output, form }
    }

    /// Begins; the rows are cut by this dialect. `widths` are those of the first columns of a sheet, in characters.
    pub(crate) fn begin(&mut self, sheet: &str, dialect: Dialect, widths: &[f64]) -> Result<(), Error> {
        match &mut self.form {
            Form::Text(encoding) if *encoding == UTF_16LE || *encoding == UTF_16BE => {
                let mark: &[u8] = if *encoding == UTF_16LE { b"\xFF\xFE" } else { b"\xFE\xFF" };
                self.output.write(mark)
            }
            Form::Text(_) => Ok(()),
            Form::Sheet(form) => {
                form.dialect = Dialect { marks: false, ..dialect };
                form.begin(sheet, widths).map_err(|error| failed(self.output.path(), &error))
            }
        }
    }

    /// Whether a mark of UTF-8 may stand before the text.
    pub(crate) fn takes_mark(&self) -> bool {
        matches!(self.form, Form::Text(encoding) if encoding == UTF_8)
    }

    /// Adds whole rows.
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
            Form::Sheet(form) => form.write(rows, self.output.path()),
        }
    }

    /// The complete output.
    pub(crate) fn finish(self) -> Result<Output, Error> {
        let mut output = self.output;
        if let Form::Sheet(mut form) = self.form {
            let saved = form.book.save_to_writer(output.writer());
            saved.map_err(|error| failed(output.path(), &error))?;
        }
        Ok(output)
    }
}

fn is_workbook(path: &Path) -> bool {
    path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("xlsx"))
}

/// What could not be written of a workbook.
pub(crate) fn failed(path: &Path, error: &XlsxError) -> Error {
    Error::write(path, std::io::Error::other(error.to_string()))
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

impl SheetForm {
    fn begin(&mut self, name: &str, widths: &[f64]) -> Result<(), XlsxError> {
        self.book.set_properties(&crate::template_file::properties()?);
        let sheet = self.book.add_worksheet_with_constant_memory()?;
        sheet.set_name(name)?;
        for (column, width) in (0_u16..).zip(widths) {
            sheet.set_column_width(column, *width)?;
        }
        sheet.set_freeze_panes(1, 0)?;
        // Whatever is typed beside stays text too.
        sheet.set_column_range_format(0, 16_383, &self.text)?;
        Ok(())
    }

    fn write(&mut self, rows: &[u8], path: &Path) -> Result<(), Error> {
        let mut start = 0;
        while start < rows.len() {
            let mut ends = Vec::new();
            let walk = walk_row(rows, start, self.dialect, |end| ends.push(end), |_| ());
            let end = match walk {
                RowWalk::Whole { end, .. } => end,
                // The last row may want its line break, and a quoted cell in it may never close.
                RowWalk::Open { .. } => {
                    ends.push(rows.len());
                    rows.len()
                }
            };
            self.row(rows, start, &ends, path)?;
            start = end.max(start + 1);
        }
        Ok(())
    }

    fn row(&mut self, rows: &[u8], start: usize, ends: &[usize], path: &Path) -> Result<(), Error> {
        let too_much = |what: String| Error::TooMuchForSheet { path: path.to_owned(), what };
        if self.row >= MOST_ROWS {
            return Err(too_much("more than 1,048,576 rows".to_owned()));
        }
        if ends.len() > MOST_COLUMNS {
            return Err(too_much("more than 16,384 columns".to_owned()));
        }
        let sheet = self.book.worksheet_from_index(0).map_err(|error| failed(path, &error))?;
        let mut from = start;
        for (column, &end) in (0_u16..).zip(ends) {
            let raw = rows.get(from..end).unwrap_or_default();
            from = end + 1;
            let cell = decode(raw.strip_suffix(b"\r").unwrap_or(raw), self.dialect);
            let text = String::from_utf8_lossy(&cell);
            if text.is_empty() {
                continue;
            }
            if text.encode_utf16().count() > LONGEST {
                return Err(too_much("a cell with more than 32,767 characters".to_owned()));
            }
            let format = if self.row == 0 { &self.heading } else { &self.text };
            let written = sheet.write_string_with_format(self.row, column, text.as_ref(), format);
            written.map_err(|error| failed(path, &error))?;
        }
        self.row += 1;
        Ok(())
    }
}
