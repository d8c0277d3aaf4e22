//! A delimited text as a source of blocks: one owner of the order. Whoever takes the lock copies the tail
//! that the last block left, reads on, and cuts at the last row end; all else is done outside the lock.

use super::encoding;
use super::input::Input;
use super::options::{Limits, ReadOptions};
use super::stream::{Again, StreamFacts, TextStream};
use super::table::{self, Opened};
use super::unpack::Packing;
use crate::book::{self, Closing, OpenSheet, Sheet};
use crate::error::{Error, Shape};
use crate::json;
use crate::layout::Fact;
use crate::row_output::Originals;
use std::fs::File;
use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};
use tidy_gate_core::block::{Block, Extent, OpenRow};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::misfire;
use tidy_gate_core::run::BlockSource;
use tidy_gate_core::scan::{Cut, Dialect, PADDING, RowIndex, RowWalk, cut, index, walk_row};
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_core::table::Table;

/// So many bytes are read at once, unless a test reads fewer.
const BLOCK: usize = 256 << 10;

/// A delimited text whose headings have been read.
pub struct TextFile {
    path: PathBuf,
    table: Table,
    /// The heading row as it came, with its line break.
    heading_bytes: Vec<u8>,
    facts: Vec<Fact>,
    stream_facts: StreamFacts,
    size: Option<u64>,
    again: Again,
    inner: Mutex<Inner>,
    interrupted: &'static AtomicBool,
    /// What the file is: csv for all delimited text.
    form: &'static str,
    /// The sheets of a workbook.
    sheets: Vec<Sheet>,
    closing: Option<Closing>,
    /// The records of a JSON text, as they are written.
    records: Option<Records>,
}

/// A JSON text that can be read once more.
struct Records {
    file: File,
    form: json::Form,
    at: Option<String>,
    has_lines: bool,
}

struct Inner {
    input: Input,
    stream: TextStream,
    limits: Limits,
    /// The last row that is read.
    last_row: Option<u64>,
    /// Whether the last row with a value comes in a block of its own.
    seeks_total: bool,
    /// What was read and is in no block yet.
    tail: Vec<u8>,
    /// Where the tail begins in the text.
    offset: u64,
    row: u64,
    line: u64,
    number: u64,
    /// So many bytes are read for a block.
    step: usize,
    /// Whether the input is read to its end.
    is_read: bool,
    is_done: bool,
}

impl TextFile {
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

    /// As [`TextFile::open`]; a workbook is opened too, at the sheet of this name or number.
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
        refuse_what_does_not_apply(&input, options, is_json, package.is_some())?;
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
            ..options.clone()
        };
        let mut file =
            Self::open_with(BLOCK, input, &options, schema, may_return, interrupted, Some(&opened))?;
        (file.form, file.sheets, file.closing) = (opened.form, opened.sheets, Some(closing));
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
        let json::Opened { rows, form, has_keys, lines } = json::open(&path, file, reading, schema)?;
        input.replace(Box::new(rows));
        let stated = ReadOptions {
            encoding: Some(encoding_rs::UTF_8),
            delimiter: Some(b','),
            heading_row: has_keys.then_some(1),
            first_row: has_keys.then_some(2),
            is_made: true,
            is_marked: true,
            limits: options.limits,
            ..ReadOptions::default()
        };
        let mut file = Self::open_by(BLOCK, input, &stated, schema, may_return, interrupted)?;
        file.form = if form == json::Form::Json { "json" } else { "ndjson" };
        file.records = Some(Records {
            file: original,
            form,
            at: options.at.clone(),
            has_lines: schema.is_some_and(|schema| schema.lines.is_some()),
        });
        file.table.record_lines = (form == json::Form::Ndjson).then_some(lines);
        file.facts.clear();
        let table = &mut file.table;
        (table.heading_row, table.first_row, table.is_records) = (table.heading_row.map(|_| 0), 1, true);
        (table.seeks_total, table.notices) = (false, Vec::new());
        let inner = file.inner.get_mut().unwrap_or_else(PoisonError::into_inner);
        (inner.row, inner.seeks_total) = (1, false);
        Ok(file)
    }

    /// As [`TextFile::open`], reading so many bytes at once.
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
        let inner = Inner {
            input,
            stream,
            limits: options.limits,
            last_row: options.last_row,
            seeks_total: table.seeks_total,
            tail: Vec::new(),
            offset: start as u64,
            row,
            line,
            number: 0,
            step,
            is_read: false,
            is_done,
        };
        let inner = Mutex::new(inner);
        Ok(Self {
            path,
            table,
            heading_bytes,
            facts,
            stream_facts,
            size,
            again,
            inner,
            interrupted,
            form: "csv",
            sheets: Vec::new(),
            closing: None,
            records: None,
        })
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
        self.form
    }

    /// The sheets, if this is a workbook.
    #[must_use]
    pub fn sheets(&self) -> &[Sheet] {
        &self.sheets
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
        chosen.bom > 0 || chosen.encoding != encoding_rs::UTF_8 || self.table.sheet.is_some()
    }

    /// The records of a JSON text as they are written, each with its first and last rows.
    ///
    /// # Errors
    /// When they cannot be read once more.
    pub(crate) fn originals(&self) -> Result<Option<Originals>, Error> {
        let Some(records) = self.records.as_ref() else { return Ok(None) };
        let file =
            records.file.try_clone().map_err(|source| Error::Read { path: self.path.clone(), source })?;
        json::texts(&self.path, file, records.form, records.at.clone(), records.has_lines).map(Some)
    }

    /// The length of the text, if it is known.
    #[must_use]
    pub fn size(&self) -> Option<u64> {
        let is_plain = self.packing().is_none() && self.stream_facts.chosen.encoding == encoding_rs::UTF_8;
        self.size.filter(|_| is_plain && self.form == "csv")
    }

    /// The size of the file; of a stream, how much text came.
    #[must_use]
    pub fn bytes_read(&self) -> u64 {
        let inner = self.inner.lock().unwrap_or_else(PoisonError::into_inner);
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
        let inner = self.inner.lock().unwrap_or_else(PoisonError::into_inner);
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

    fn read_again(&self, offset: u64, into: &mut [u8]) -> Result<usize, Error> {
        self.again.read_at(offset, into).map_err(|source| Error::Read { path: self.path.clone(), source })
    }

    fn check_interrupt(&self) -> Result<(), Error> {
        if self.interrupted.load(Ordering::Relaxed) { Err(Error::Interrupted) } else { Ok(()) }
    }
}

impl BlockSource for TextFile {
    type Error = Error;

    fn next(&self, block: &mut Block) -> Result<bool, Error> {
        self.check_interrupt()?;
        let mut inner = self.inner.lock().unwrap_or_else(PoisonError::into_inner);
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
        if cut(&block.buffer, block.len, self.table.dialect) != (Cut { end: len, rows, lines }) {
            return Err(Error::Changed { path: self.path.clone() });
        }
        Ok(())
    }

    fn not_text(&self, row: u64) -> Error {
        Error::NotTable { path: self.path.clone(), shape: Shape::Nul(row) }
    }

    fn closing(&self, width: usize) -> Vec<Finding> {
        self.closing.as_ref().map(|closing| closing.findings(width)).unwrap_or_default()
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

impl Inner {
    /// Fills the block with the next whole rows.
    fn fill(&mut self, block: &mut Block, dialect: Dialect) -> Result<bool, Error> {
        let mut filled = self.tail.len();
        let mut target = filled + self.step;
        grow(&mut block.buffer, target);
        for (to, from) in block.buffer.iter_mut().zip(&self.tail) {
            *to = *from;
        }
        let mut found = loop {
            if !self.is_read {
                filled += self.stream.read(block.buffer.get_mut(filled..target).unwrap_or_default())?;
                self.is_read = filled < target || self.stream.is_at_end()?;
            }
            if self.is_read && filled > 0 && block.buffer.get(filled - 1) != Some(&b'\n') {
                grow(&mut block.buffer, filled + 1);
                if let Some(end) = block.buffer.get_mut(filled) {
                    *end = b'\n';
                }
                let whole = cut(&block.buffer, filled + 1, dialect);
                if whole.end == filled + 1 {
                    filled += 1;
                    break whole;
                }
            }
            let found = cut(&block.buffer, filled, dialect);
            if found.end > 0 || self.is_read {
                break found;
            }
            if filled >= self.limits.row {
                self.drain(block, filled, dialect)?;
                break found;
            }
            target = (2 * target).min(self.limits.row.max(target));
            grow(&mut block.buffer, target);
        };
        if let Some(last) = self.last_row.filter(|last| self.row + found.rows > *last) {
            found = self.first_rows(block, found, last + 1 - self.row, dialect);
            (self.is_read, filled) = (true, found.end);
        }
        (block.offset, block.number, block.len) = (self.offset, self.number, found.end);
        (block.rows, block.lines) = (found.rows, found.lines);
        (block.first_row, block.first_line) = (self.row, self.line);
        self.tail.clear();
        self.tail.extend_from_slice(block.buffer.get(found.end..filled).unwrap_or_default());
        self.offset += found.end as u64;
        self.row += found.rows;
        self.line += found.lines;
        self.number += 1;
        (block.open, block.is_ending) = (None, false);
        if self.is_read {
            self.is_done = true;
            block.open = self.open_row(dialect);
            if self.seeks_total && block.open.is_none() {
                self.part_ending(block, dialect);
            }
        }
        block.last = self.is_done;
        block.pad();
        Ok(true)
    }

    /// The first `count` of the rows that were found.
    #[cold]
    fn first_rows(&self, block: &Block, found: Cut, count: u64, dialect: Dialect) -> Cut {
        let content = block.buffer.get(..found.end).unwrap_or_default();
        let mut first = Cut::default();
        while first.rows < count
            && let RowWalk::Whole { end, .. } = walk_row(content, first.end, dialect, |_| (), |_| ())
        {
            first.lines +=
                memchr::memchr_iter(b'\n', content.get(first.end..end).unwrap_or_default()).count() as u64;
            (first.end, first.rows) = (end, first.rows + 1);
        }
        first
    }

    /// Keeps the last row with a value, and what follows it, for a block of its own.
    fn part_ending(&mut self, block: &mut Block, dialect: Dialect) {
        block.pad();
        let mut cells = RowIndex::default();
        index(&block.buffer, block.len, dialect, &mut cells);
        let content = block.content();
        let is_row_end = |end: &&u32| content.get(**end as usize) == Some(&b'\n');
        let mut rows_before = block.rows;
        let mut end = block.len;
        let ending = cells.ends().iter().rev().filter(is_row_end).skip(1).map(|end| *end as usize + 1);
        let ending = ending.chain([0]).find_map(|start| {
            let row = content.get(start..end)?;
            (rows_before, end) = (rows_before.saturating_sub(1), start);
            let is_blank = |byte: &u8| {
                byte.is_ascii_whitespace() || *byte == dialect.delimiter || *byte == dialect.quote
            };
            (!row.iter().all(is_blank)).then_some((rows_before, start))
        });
        let Some((rows_before, at)) = ending else { return };
        if at == 0 {
            block.is_ending = true;
            return;
        }
        let lines_before = memchr::memchr_iter(b'\n', content.get(..at).unwrap_or_default()).count() as u64;
        self.tail = content.get(at..).unwrap_or_default().to_vec();
        let taken_back = (block.len - at) as u64;
        self.offset -= taken_back;
        self.row -= block.rows - rows_before;
        self.line -= block.lines - lines_before;
        (block.len, block.rows, block.lines) = (at, rows_before, lines_before);
        self.is_done = false;
    }

    /// What is left at the end is a row whose quoted cell never closes.
    fn open_row(&self, dialect: Dialect) -> Option<OpenRow> {
        let mut column = 0;
        match walk_row(&self.tail, 0, dialect, |_| column += 1, |_| ()) {
            RowWalk::Open { quote: Some(quote) } => {
                let before = self.tail.get(..quote).unwrap_or_default();
                let lines = before.iter().filter(|&&byte| byte == b'\n').count() as u64;
                Some(OpenRow {
                    offset: self.offset,
                    row: self.row,
                    line: self.line,
                    column,
                    cell_line: self.line + lines,
                })
            }
            _ => None,
        }
    }

    /// A row is longer than the limit. If a quote is open in it, the rest is read without being kept: when
    /// the quote never closes, that is what is wrong.
    #[cold]
    fn drain(&mut self, block: &mut Block, filled: usize, dialect: Dialect) -> Result<(), Error> {
        let too_long =
            Error::RowTooLong { path: self.input.path().to_owned(), line: self.line, limit: self.limits.row };
        let content = block.buffer.get(..filled).unwrap_or_default();
        let RowWalk::Open { quote: Some(_) } = walk_row(content, 0, dialect, |_| (), |_| ()) else {
            return Err(too_long);
        };
        let mut bytes = vec![0; BLOCK];
        let mut after_quote = false;
        loop {
            let count = self.stream.read(&mut bytes)?;
            if count == 0 {
                self.is_read = true;
                return if after_quote { Err(too_long) } else { Ok(()) };
            }
            for &byte in bytes.get(..count).unwrap_or_default() {
                if after_quote && byte != dialect.quote {
                    return Err(too_long);
                }
                after_quote = byte == dialect.quote && !after_quote;
            }
        }
    }
}

/// Options that say nothing of a file of its form are refused, not passed over.
fn refuse_what_does_not_apply(
    input: &Input,
    options: &ReadOptions,
    is_json: bool,
    is_book: bool,
) -> Result<(), Error> {
    let (form, foreign): (&'static str, &[&str]) = match (is_json, is_book) {
        (true, _) => (
            "JSON",
            &["heading-row", "first-row", "last-row", "delimiter", "encoding", "by-position", "short-rows"],
        ),
        (_, true) => ("a workbook", &["delimiter", "encoding", "short-rows", "at"]),
        _ => ("delimited text", &["at"]),
    };
    match options.typed.iter().find(|option| foreign.contains(option)) {
        Some(option) => Err(Error::NotForForm { path: input.path().to_owned(), option, form }),
        None => Ok(()),
    }
}

/// Room for `len` bytes and the padding behind them.
fn grow(buffer: &mut Vec<u8>, len: usize) {
    if buffer.len() < len + PADDING {
        buffer.resize(len + PADDING, 0);
    }
}

#[cfg(test)]
mod tests;
