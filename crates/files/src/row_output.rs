//! Where ready and held rows go: text in an encoding, the sheet of a workbook, or records of JSON. A new form is a file
//! here and a row in the table of forms.

mod begin;
mod copied_rows;
mod json;
mod ready_rows;
mod rows;
mod sheet;
mod sink;
mod text;

pub(crate) use begin::{Begin, CellKind, Originals};
pub(crate) use copied_rows::CopiedRows;
pub(crate) use ready_rows::{ReadyRows, RowShape};
pub(crate) use rows::{Rows, record};
pub(crate) use sheet::{LONGEST, MOST_ROWS, Stored, as_marked};

use crate::error::Error;
use crate::output::one::Output;
use encoding_rs::Encoding;
use json::JsonForm;
use sheet::SheetForm;
use sink::RowSink;
use text::TextForm;

pub(crate) use text::encoded;

type NewForm = fn() -> Box<dyn RowSink>;

/// The forms that an output's name asks for by its ending; any other is text.
const FORMS: [(&str, NewForm); 3] = [
    ("xlsx", || Box::new(SheetForm::new())),
    ("json", || Box::new(JsonForm::new(false))),
    ("ndjson", || Box::new(JsonForm::new(true))),
];

/// One output of rows.
pub struct RowOutput {
    output: Output,
    form: Box<dyn RowSink>,
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
        let named = FORMS.iter().find(|(name, _)| ending.as_deref() == Some(*name));
        Self { output, form: named.map_or_else(|| Box::new(TextForm { encoding }) as _, |(_, new)| new()) }
    }

    /// Whether it keeps how cells were stored in a sheet.
    pub(crate) fn keeps_marks(&self) -> bool {
        self.form.keeps_marks()
    }

    /// Whether it writes held records as they came, where the input has records.
    pub(crate) fn takes_records(&self) -> bool {
        self.form.takes_records()
    }

    /// Whether a mark of UTF-8 may stand before the rows.
    pub(crate) fn takes_mark(&self) -> bool {
        self.form.takes_mark()
    }

    /// Begins.
    pub(crate) fn begin(&mut self, begin: Begin<'_>) -> Result<(), Error> {
        self.form.begin(begin, &mut self.output)
    }

    /// No rows yet, in the shape it takes.
    pub(crate) fn no_rows(&self) -> Rows {
        if self.form.takes_text() { Rows::Text(Vec::new()) } else { Rows::Cells(rows::CellRows::default()) }
    }

    /// Adds rows; the first is that of the headings.
    pub(crate) fn write(&mut self, rows: &Rows) -> Result<(), Error> {
        if rows.is_empty() { Ok(()) } else { self.form.rows(rows, &mut self.output) }
    }

    /// The complete output.
    pub(crate) fn finish(mut self) -> Result<Output, Error> {
        self.form.finish(&mut self.output)?;
        Ok(self.output)
    }
}
