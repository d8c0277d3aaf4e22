//! The file of a table, whatever its form, as a source of blocks of rows in text.

mod foreign;

use crate::aside::TemporaryAside;
use crate::book::{self, Closing, Marked, OpenSheet, Sheet};
use crate::error::{Error, Shape};
use crate::json;
use crate::layout::{self, Fact};
use crate::row_output::Originals;
use crate::text::blocks::{BLOCK, Blocks};
use crate::text::encoding;
use crate::text::input::Input;
use crate::text::options::{Limits, ReadOptions};
use crate::text::stream::{Again, StreamFacts, TextStream};
use crate::text::table::{self, Opened};
use crate::text::unpack::Packing;
use std::fs::File;
use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};
use tidy_gate_core::aside::Aside;
use tidy_gate_core::block::{Block, Extent};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::misfire;
use tidy_gate_core::run::BlockSource;
use tidy_gate_core::scan::{Cut, PADDING};
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_core::table::{Medium, Table};

/// A table whose headings have been read: a delimited text, a sheet of a workbook or records, all handed on as text.
pub struct TableFile {
    path: PathBuf,
    table: Table,
    /// The heading row as it came, with its line break.
    heading_bytes: Vec<u8>,
    facts: Vec<Fact>,
    stream_facts: StreamFacts,
    size: Option<u64>,
    again: Again,
    blocks: Mutex<Blocks>,
    interrupted: &'static AtomicBool,
    form: Form,
    aside: Option<TemporaryAside>,
}

/// What the file is, and what is kept of it beside its rows.
enum Form {
    /// Delimited text.
    Text,
    /// A workbook of this form.
    Book { form: &'static str, sheets: Vec<Sheet>, closing: Closing, marked: Option<Marked> },
    /// A JSON text, whose records are kept as they are written.
    Json(Records),
}

/// A JSON text that can be read once more.
struct Records {
    file: File,
    form: json::Form,
    at: Option<String>,
    has_lines: bool,
}

impl TableFile {
    /// Reads the beginning of the input up to and including its headings, and lays out the table. Where it
    /// `may_return`, its blocks can be read again. The run ends when `interrupted` turns true.
    ///
    /// # Errors
    /// When it cannot be read, or is no table, or what is stated does not fit it.
    pub fn open(
        input: Input,
        options: &ReadOptions,
        schema: Option<&RecordSchema>,
        may_return: bool,
        interrupted: &'static AtomicBool,
    ) -> Result<Self, Error> {
        Self::open_by(BLOCK, input, options, schema, may_return, interrupted)
    }

    /// As [`TableFile::open`]; a workbook is opened too, at the sheet of this name or number.
    ///
    /// # Errors
    /// When it cannot be read, or there is no such sheet.
    pub fn open_sheet(
        mut input: Input,
        sheet: Option<&str>,
        options: &ReadOptions,
        schema: Option<&RecordSchema>,
        may_return: bool,
        interrupted: &'static AtomicBool,
    ) -> Result<Self, Error> {
        let head = input.head()?;
        let is_json = json::is_one(input.path(), &head) && sheet.is_none();
        let package = input.package(&head)?;
        foreign::refuse(&input, options, is_json, package.is_some())?;
        if is_json {
            return Self::open_records(input, options, schema, may_return, interrupted);
        }
        let Some(package) = package else {
            return match sheet {
                Some(_) => Err(Error::NoSheets { path: input.path().to_owned() }),
                None => Self::open(input, options, schema, may_return, interrupted),
            };
        };
        let (path, file) = (input.path().to_owned(), input.take_file()?);
        let mut opened = book::open(&path, file, options.limits, sheet, schema, package)?;
        let (reader, closing) = (opened.take_reader(), opened.closing());
        input.replace(Box::new(reader));
        // The rows were made here: nothing about their form is in doubt.
        let options = ReadOptions {
            encoding: Some(encoding_rs::UTF_8),
            delimiter: Some(b','),
            is_made: true,
            has_marks: true,
            ..options.clone()
        };
        let mut file =
            Self::open_with(BLOCK, input, &options, schema, may_return, interrupted, Some(&opened))?;
        file.form = Form::Book { form: opened.form, sheets: opened.sheets, closing, marked: opened.marked };
        Ok(file)
    }

    /// Records in JSON: rows under their keys, which count from 1.
    fn open_records(
        mut input: Input,
        options: &ReadOptions,
        schema: Option<&RecordSchema>,
        may_return: bool,
        interrupted: &'static AtomicBool,
    ) -> Result<Self, Error> {
        let (path, file) = (input.path().to_owned(), input.take_file()?);
        let failed = |source| Error::Read { path: path.clone(), source };
        let original = file.try_clone().map_err(failed)?;
        let reading = json::Reading { at: options.at.clone(), most_columns: options.limits.columns };
        let json::Opened { rows, form, has_keys, lines, deeper } = json::open(&path, file, reading, schema)?;
        input.replace(Box::new(rows));
        let limits = options.limits;
        let mut file = Self::open_made_by(input, (has_keys, true), limits, schema, may_return, interrupted)?;
        file.form = Form::Json(Records {
            file: original,
            form,
            at: options.at.clone(),
            has_lines: schema.is_some_and(|schema| schema.lines.is_some()),
        });
        file.facts.extend(json::deeper_fact(&deeper));
        file.table.notices.extend(layout::findings(&file.facts));
        file.table.record_lines = (form == json::Form::Ndjson).then_some(lines);
        Ok(file)
    }

    /// Opens rows that were made of what is stored elsewhere ([`Input::made`]), the first of them the headings.
    ///
    /// # Errors
    /// When they cannot be made.
    pub fn open_made(
        input: Input,
        has_marks: bool,
        schema: &RecordSchema,
        interrupted: &'static AtomicBool,
    ) -> Result<Self, Error> {
        Self::open_made_by(input, (true, has_marks), Limits::default(), Some(schema), false, interrupted)
    }

    /// Rows that were made of records, which count from 1.
    fn open_made_by(
        input: Input,
        (has_keys, has_marks): (bool, bool),
        limits: Limits,
        schema: Option<&RecordSchema>,
        may_return: bool,
        interrupted: &'static AtomicBool,
    ) -> Result<Self, Error> {
        let stated = ReadOptions {
            encoding: Some(encoding_rs::UTF_8),
            delimiter: Some(b','),
            heading_row: has_keys.then_some(1),
            first_row: has_keys.then_some(2),
            is_made: true,
            has_marks,
            limits,
            ..ReadOptions::default()
        };
        let mut file = Self::open_by(BLOCK, input, &stated, schema, may_return, interrupted)?;
        file.facts.clear();
        let table = &mut file.table;
        (table.heading_row, table.first_row, table.medium) =
            (table.heading_row.map(|_| 0), 1, Medium::Records);
        (table.seeks_total, table.notices) = (false, Vec::new());
        let inner = file.blocks.get_mut().unwrap_or_else(PoisonError::into_inner);
        (inner.row, inner.seeks_total) = (1, false);
        Ok(file)
    }

    /// As [`TableFile::open`], reading so many bytes at once.
    fn open_by(
        step: usize,
        input: Input,
        options: &ReadOptions,
        schema: Option<&RecordSchema>,
        may_return: bool,
        interrupted: &'static AtomicBool,
    ) -> Result<Self, Error> {
        Self::open_with(step, input, options, schema, may_return, interrupted, None)
    }

    fn open_with(
        step: usize,
        mut input: Input,
        options: &ReadOptions,
        schema: Option<&RecordSchema>,
        may_return: bool,
        interrupted: &'static AtomicBool,
        sheet: Option<&OpenSheet>,
    ) -> Result<Self, Error> {
        let path = input.path().to_owned();
        let (mut stream, again) = TextStream::open(&mut input, options, may_return)?;
        let Opened { table, heading_bytes, row, start, line, facts, is_empty } =
            table::open(&mut stream, &path, options, schema, sheet)?;
        let start = stream.pass(start);
        let (size, stream_facts) = (input.size(), stream.facts().clone());
        let is_done = is_empty || stream.is_at_end()?;
        let inner = Blocks {
            input,
            stream,
            limits: options.limits,
            last_row: options.last_row,
            seeks_total: table.seeks_total,
            is_wide: false,
            tail: Vec::new(),
            offset: start as u64,
            row,
            line,
            number: 0,
            step,
            is_read: false,
            is_done,
        };
        let blocks = Mutex::new(inner);
        Ok(Self {
            path,
            table,
            heading_bytes,
            facts,
            stream_facts,
            size,
            again,
            blocks,
            interrupted,
            form: Form::Text,
            aside: None,
        })
    }

    /// The same, for a run that is to take about so many bytes of memory: what is kept of every row goes to the temporary
    /// folder beyond that.
    #[must_use]
    pub fn within_memory(self, bytes: u64) -> Self {
        Self { aside: Some(TemporaryAside::for_memory(bytes)), ..self }
    }

    /// The table.
    #[must_use]
    pub fn table(&self) -> &Table {
        &self.table
    }

    /// How the text is laid out, and on what evidence.
    #[must_use]
    pub fn facts(&self) -> &[Fact] {
        &self.facts
    }

    /// The encoding, by its WHATWG name in lower case.
    #[must_use]
    pub fn encoding(&self) -> String {
        self.stream_facts.chosen.encoding.name().to_lowercase()
    }

    /// What the file is: csv for all delimited text, xlsx (with xlsm), xlsb, xls, ods, json, ndjson.
    #[must_use]
    pub fn form(&self) -> &'static str {
        match &self.form {
            Form::Text => "csv",
            Form::Book { form, .. } => form,
            Form::Json(records) if records.form == json::Form::Json => "json",
            Form::Json(_) => "ndjson",
        }
    }

    /// The sheets, if this is a workbook: those that count, without one that an earlier check put in front.
    pub fn sheets(&self) -> impl Iterator<Item = &Sheet> {
        let front = self.marked().map(|marked| marked.front);
        let all = self.all_sheets().iter().enumerate();
        all.filter(move |(number, _)| Some(*number) != front).map(|(_, sheet)| sheet)
    }

    fn all_sheets(&self) -> &[Sheet] {
        if let Form::Book { sheets, .. } = &self.form { sheets } else { &[] }
    }

    /// The part of its package that holds the sheet, and the number of that, in a workbook.
    pub(crate) fn sheet_part(&self) -> Option<(&str, usize)> {
        let name = self.table.sheet()?;
        let number = self.all_sheets().iter().position(|sheet| sheet.name == name)?;
        self.all_sheets().get(number).map(|sheet| (sheet.part(), number))
    }

    /// Of a JSON text, whether its records may have lines, and whether they stand in an array.
    pub(crate) fn shape_of_records(&self) -> Option<(bool, bool)> {
        match &self.form {
            Form::Json(records) => Some((records.has_lines, records.form == json::Form::Json)),
            Form::Text | Form::Book { .. } => None,
        }
    }

    /// What an earlier check put into the workbook.
    pub(crate) fn marked(&self) -> Option<&Marked> {
        if let Form::Book { marked, .. } = &self.form { marked.as_ref() } else { None }
    }

    /// How many columns the sheet has, whatever its headings are; known when it was read to its end.
    pub(crate) fn used_columns(&self) -> usize {
        if let Form::Book { closing, .. } = &self.form { closing.used_columns() } else { 0 }
    }

    /// The encoding of the text, and whether a mark of it stands before all else.
    pub(crate) fn encoding_and_mark(&self) -> (&'static encoding_rs::Encoding, bool) {
        let chosen = &self.stream_facts.chosen;
        (chosen.encoding, chosen.bom > 0)
    }

    /// Whether carriage returns alone end the lines.
    pub fn returns_alone(&self) -> bool {
        self.again.returns_alone()
    }

    /// How the text is packed, if it is.
    #[must_use]
    pub fn packing(&self) -> Option<Packing> {
        self.stream_facts.packing
    }

    /// The heading row as it came, and its line break; carriage returns alone have become line feeds.
    #[must_use]
    pub fn heading_row(&self) -> (&[u8], &'static [u8]) {
        let row = self.heading_bytes.strip_suffix(b"\n").unwrap_or(&self.heading_bytes);
        match row.strip_suffix(b"\r") {
            Some(row) => (row, b"\r\n"),
            None => (row, b"\n"),
        }
    }

    /// Whether copies of its rows begin with a byte-order mark: it had one, or was not in UTF-8.
    #[must_use]
    pub fn has_bom(&self) -> bool {
        let chosen = &self.stream_facts.chosen;
        chosen.bom > 0 || chosen.encoding != encoding_rs::UTF_8 || self.table.sheet().is_some()
    }

    /// The records of a JSON text as they are written, each with its first and last rows.
    ///
    /// # Errors
    /// When they cannot be read once more.
    pub(crate) fn originals(&self) -> Result<Option<Originals>, Error> {
        let Form::Json(records) = &self.form else { return Ok(None) };
        let file =
            records.file.try_clone().map_err(|source| Error::Read { path: self.path.clone(), source })?;
        json::texts(&self.path, file, records.form, records.at.clone(), records.has_lines).map(Some)
    }

    /// The length of the text, if it is known.
    #[must_use]
    pub fn size(&self) -> Option<u64> {
        let is_plain = self.packing().is_none() && self.stream_facts.chosen.encoding == encoding_rs::UTF_8;
        self.size.filter(|_| is_plain && matches!(self.form, Form::Text))
    }

    /// The size of the file; of a stream, how much text came.
    #[must_use]
    pub fn bytes_read(&self) -> u64 {
        let inner = self.blocks.lock().unwrap_or_else(PoisonError::into_inner);
        self.size.unwrap_or(inner.offset + inner.tail.len() as u64)
    }

    /// Whether its blocks can be read again.
    #[must_use]
    pub fn can_return(&self) -> bool {
        self.again.is_possible()
    }

    /// Tells that the file is as it was when the run began.
    ///
    /// # Errors
    /// When it is not.
    pub fn confirm_unchanged(&self) -> Result<(), Error> {
        let inner = self.blocks.lock().unwrap_or_else(PoisonError::into_inner);
        if inner.input.has_changed() { Err(Error::Changed { path: self.path.clone() }) } else { Ok(()) }
    }

    /// The bytes from a place to the end of the file, some at a time.
    ///
    /// # Errors
    /// When they cannot be read again, or an error of `take`.
    pub fn rest_from(
        &self,
        mut offset: u64,
        take: &mut dyn FnMut(&[u8]) -> Result<(), Error>,
    ) -> Result<(), Error> {
        let mut bytes = vec![0; BLOCK];
        loop {
            let count = self.read_again(offset, &mut bytes)?;
            if count == 0 {
                return Ok(());
            }
            take(bytes.get(..count).unwrap_or_default())?;
            offset += count as u64;
        }
    }

    /// Bytes from a place on; none at the end.
    pub(crate) fn read_again(&self, offset: u64, into: &mut [u8]) -> Result<usize, Error> {
        self.again.read_at(offset, into).map_err(|source| Error::Read { path: self.path.clone(), source })
    }

    fn check_interrupt(&self) -> Result<(), Error> {
        if self.interrupted.load(Ordering::Relaxed) { Err(Error::Interrupted) } else { Ok(()) }
    }
}

impl BlockSource for TableFile {
    type Error = Error;

    fn next(&self, block: &mut Block) -> Result<bool, Error> {
        self.check_interrupt()?;
        let mut inner = self.blocks.lock().unwrap_or_else(PoisonError::into_inner);
        if inner.is_done {
            return Ok(false);
        }
        misfire::point("text");
        inner.fill(block, self.table.dialect)
    }

    fn again(&self, extent: &Extent, block: &mut Block) -> Result<(), Error> {
        self.check_interrupt()?;
        if block.buffer.len() < extent.len + PADDING {
            block.buffer.resize(extent.len + PADDING, 0);
        }
        let content = block.buffer.get_mut(..extent.len).unwrap_or_default();
        let count = self.read_again(extent.offset, content)?;
        if count + 1 == extent.len
            && let Some(last) = block.buffer.get_mut(count)
        {
            *last = b'\n';
        } else if count != extent.len {
            return Err(Error::Changed { path: self.path.clone() });
        }
        let Extent { offset, len, rows, lines, first_row, first_line, .. } = *extent;
        (block.offset, block.len, block.rows, block.lines) = (offset, len, rows, lines);
        (block.first_row, block.first_line, block.open) = (first_row, first_line, None);
        block.pad();
        // Rows that lie elsewhere than before are those of another file.
        if block.cut(len, self.table.dialect) != (Cut { end: len, rows, lines }) {
            return Err(Error::Changed { path: self.path.clone() });
        }
        Ok(())
    }

    fn aside(&self) -> Option<&dyn Aside<Error = Error>> {
        self.aside.as_ref().map(|aside| aside as &dyn Aside<Error = Error>)
    }

    fn not_text(&self, row: u64) -> Error {
        Error::NotTable { path: self.path.clone(), shape: Shape::Nul(row) }
    }

    fn closing(&self, width: usize) -> Vec<Finding> {
        match &self.form {
            Form::Book { closing, .. } => closing.findings(width),
            Form::Text | Form::Json(_) => Vec::new(),
        }
    }

    fn other_encoding(&self, extent: &Extent) -> Option<Error> {
        if !self.stream_facts.is_encoding_open() || self.size.is_none() {
            return None;
        }
        let mut bytes = vec![0; extent.len];
        let count = self.read_again(extent.offset, &mut bytes).ok()?;
        bytes.truncate(count);
        let found = encoding::choose(&bytes, true, None, None).encoding;
        (found != encoding_rs::UTF_8)
            .then(|| Error::OtherEncoding { path: self.path.clone(), encoding: found.name() })
    }
}

#[cfg(test)]
mod tests;
