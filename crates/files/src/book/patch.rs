//! A workbook with some cells of one sheet rewritten: XLSX and XLSM (ECMA-376) here, ODS in [`super::patch_ods`].
//!
//! A workbook of the form XLSX or XLSM with some cells of one sheet rewritten. Every other part of the package
//! is copied byte by byte as it is packed; within the sheet's part all that is not one of those cells stays as it is
//! written. A cell keeps its style; one with a formula keeps that, and so is not rewritten unless it is to hold nothing.

use super::new_cells::{Cells, Fault, NewCell, is};
use super::package::Capped;
use super::patch_ods::Content;
use super::sheet::place_of;
use crate::error::Error;
use crate::output::Output;
use crate::text::options::Limits;
use quick_xml::events::{BytesStart, BytesText, Event};
use quick_xml::{Reader, Writer};
use std::borrow::Cow;
use std::fs::File;
use std::io::{BufRead, BufReader, BufWriter, Write};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use tidy_gate_core::finding::letter;
use zip::write::SimpleFileOptions;
use zip::{ZipArchive, ZipWriter};

/// Writes the workbook with these cells of the part rewritten; in an OpenDocument, of the sheet of this number. The part may
/// be made elsewhere.
///
/// # Errors
/// When it cannot be read again, or the output cannot be written.
pub(crate) fn patch(
    (path, mut made): (&Path, Option<&mut dyn BufRead>),
    (part, open_document): (&str, Option<usize>),
    cells: &Cells,
    output: &mut Output,
) -> Result<(), Error> {
    let damaged = |error: &dyn std::fmt::Display| Error::damaged(path, part, &error.to_string());
    let file = File::open(path).map_err(|source| Error::Read { path: path.to_owned(), source })?;
    let mut archive = ZipArchive::new(BufReader::new(file)).map_err(|error| damaged(&error))?;
    let place = output.path().to_owned();
    let failed = |error: zip::result::ZipError| Error::write(&place, std::io::Error::from(error));
    let piece = Arc::new(AtomicU64::new(0));
    let mut writer = ZipWriter::new(output.writer());
    for number in 0..archive.len() {
        let entry = archive.by_index_raw(number).map_err(|error| damaged(&error))?;
        if !entry.name().map_err(|error| damaged(&error))?.eq_ignore_ascii_case(part) {
            writer.raw_copy_file(entry).map_err(failed)?;
            continue;
        }
        let name = entry.name().map_err(|error| damaged(&error))?.into_owned();
        let options = SimpleFileOptions::default()
            .compression_method(entry.compression())
            .last_modified_time(entry.last_modified().unwrap_or_default())
            .large_file(entry.size() > u64::from(u32::MAX / 2));
        drop(entry);
        writer.start_file(name, options).map_err(failed)?;
        let entry = archive.by_index(number).map_err(|error| damaged(&error))?;
        let most =
            entry.compressed_size().saturating_mul(Limits::default().expansion).max(Limits::UNPACKED_FREELY);
        let from = BufReader::with_capacity(1 << 16, Capped::new(entry, most, Arc::clone(&piece)));
        // What packs is not asked for every few bytes.
        let mut buffered = BufWriter::with_capacity(1 << 18, &mut writer);
        let copied = match (open_document, made.take()) {
            (None, Some(made)) => Sheet::new(made, &mut buffered, cells, Arc::clone(&piece)).copy(),
            (Some(sheet), _) => Content::new(from, &mut buffered, (cells, sheet), Arc::clone(&piece)).copy(),
            (None, None) => Sheet::new(from, &mut buffered, cells, Arc::clone(&piece)).copy(),
        };
        let copied = copied.and_then(|()| buffered.flush().map_err(Fault::Write));
        copied.map_err(|fault| match fault {
            Fault::Read(what) => damaged(&what),
            Fault::Write(source) => Error::write(&place, source),
            Fault::Other(error) => error,
        })?;
    }
    writer.finish().map_err(failed)?.flush().map_err(|source| Error::write(&place, source))
}

/// A sheet's part on its way.
struct Sheet<'a, R, W: Write> {
    reader: Reader<R>,
    writer: Writer<W>,
    cells: &'a Cells,
    /// The row and column last met, from 1 and from 0; rows and cells need not say theirs.
    row: u64,
    column: Option<usize>,
    /// Counts what is read for one event.
    piece: Arc<AtomicU64>,
}

impl<'a, R: BufRead, W: Write> Sheet<'a, R, W> {
    fn new(from: R, to: W, cells: &'a Cells, piece: Arc<AtomicU64>) -> Self {
        let mut reader = Reader::from_reader(from);
        reader.config_mut().check_end_names = true;
        Self { reader, writer: Writer::new(to), cells, row: 0, column: None, piece }
    }

    fn copy(mut self) -> Result<(), Fault> {
        let mut buffer = Vec::new();
        loop {
            buffer.clear();
            self.piece.store(0, Ordering::Relaxed);
            let event =
                self.reader.read_event_into(&mut buffer).map_err(|error| Fault::Read(error.to_string()))?;
            match event {
                Event::Eof => return Ok(()),
                Event::Start(start) if is(&start, "row") => {
                    self.begin_row(&start);
                    self.write(Event::Start(start))?;
                }
                Event::Empty(start) if is(&start, "row") => {
                    self.begin_row(&start);
                    self.write(Event::Empty(start))?;
                }
                Event::End(end) if end.local_name().as_ref() == "row" => {
                    let prefix = end.name().as_ref().strip_suffix("row").unwrap_or_default().to_owned();
                    self.put_missing(&prefix, usize::MAX)?;
                    self.write(Event::End(end))?;
                }
                Event::Start(start) if is(&start, "c") => {
                    let start = start.into_owned();
                    self.cell(&start)?;
                }
                Event::Empty(start) if is(&start, "c") => {
                    let start = start.into_owned();
                    let place = self.next_cell(&start)?;
                    match self.cells.get(&place).filter(|new| **new != NewCell::Nothing) {
                        Some(new) => self.write_new(&start, new)?,
                        None => self.write(Event::Empty(start))?,
                    }
                }
                event => self.write(event)?,
            }
        }
    }

    fn write(&mut self, event: Event<'_>) -> Result<(), Fault> {
        self.writer.write_event(event).map_err(Fault::Write)
    }

    fn begin_row(&mut self, start: &BytesStart<'_>) {
        let stated = attribute(start, "r").and_then(|row| row.parse().ok());
        self.row = stated.unwrap_or(self.row + 1);
        self.column = None;
    }

    /// The place of the cell that comes, before which those are put that are missing.
    fn next_cell(&mut self, start: &BytesStart<'_>) -> Result<(u64, usize), Fault> {
        let before = self.column.map_or(0, |column| column + 1);
        let place = self.place(start);
        self.column = before.checked_sub(1);
        let prefix = start.name().as_ref().strip_suffix('c').unwrap_or_default().to_owned();
        self.put_missing(&prefix, place.1)?;
        self.column = Some(place.1);
        Ok(place)
    }

    /// Writes cells that do not stand in the row, up to this column.
    fn put_missing(&mut self, prefix: &str, before: usize) -> Result<(), Fault> {
        let from = self.column.map_or(0, |column| column + 1);
        let (cells, row) = (self.cells, self.row);
        for ((_, column), new) in cells.range((row, from)..(row, before.max(from))) {
            if *new != NewCell::Nothing {
                let mut start = BytesStart::new(format!("{prefix}c"));
                start.push_attribute(("r", format!("{}{row}", letter(*column)).as_str()));
                self.write_new(&start, new)?;
            }
        }
        Ok(())
    }

    /// The place of a cell.
    fn place(&mut self, start: &BytesStart<'_>) -> (u64, usize) {
        let stated = attribute(start, "r").and_then(|place| column_of(&place));
        let column = stated.unwrap_or_else(|| self.column.map_or(0, |column| column + 1));
        self.column = Some(column);
        (self.row, column)
    }

    /// Copies a cell, or writes what it is to hold.
    fn cell(&mut self, start: &BytesStart<'static>) -> Result<(), Fault> {
        let place = self.next_cell(start)?;
        let Some(new) = self.cells.get(&place) else { return self.write(Event::Start(start.borrow())) };
        // What stands in it is kept until it is known that there is no formula.
        let (mut inner, mut depth, mut has_formula) = (vec![Event::Start(start.clone())], 1_usize, false);
        let mut buffer = Vec::new();
        while depth > 0 {
            buffer.clear();
            let event =
                self.reader.read_event_into(&mut buffer).map_err(|error| Fault::Read(error.to_string()))?;
            match &event {
                Event::Start(start) => {
                    has_formula |= is(start, "f");
                    depth += 1;
                }
                Event::Empty(start) => has_formula |= is(start, "f"),
                Event::End(_) => depth -= 1,
                Event::Eof => return Err(Fault::Read("it ends within a cell".to_owned())),
                _ => {}
            }
            inner.push(event.into_owned());
        }
        if has_formula && *new != NewCell::Nothing {
            return inner.into_iter().try_for_each(|event| self.write(event));
        }
        self.write_new(start, new)
    }

    fn write_new(&mut self, start: &BytesStart<'_>, new: &NewCell) -> Result<(), Fault> {
        let name = start.name().as_ref().to_owned();
        let prefix = name.rsplit_once(':').map(|parts| format!("{}:", parts.0)).unwrap_or_default();
        let mut cell = BytesStart::new(name);
        for attribute in start.attributes().flatten().filter(|attribute| attribute.key.as_ref() != "t") {
            cell.push_attribute(attribute);
        }
        let element = |name: &str| BytesStart::new(format!("{prefix}{name}"));
        match new {
            NewCell::Nothing => self.write(Event::Empty(cell)),
            NewCell::Number(number) => {
                let value = element("v");
                let end = value.to_end().into_owned();
                let whole = cell.to_end().into_owned();
                self.write(Event::Start(cell))?;
                self.write(Event::Start(value))?;
                self.write(Event::Text(BytesText::new(number)))?;
                self.write(Event::End(end))?;
                self.write(Event::End(whole))
            }
            NewCell::Text(text) => {
                cell.push_attribute(("t", "inlineStr"));
                let (item, mut piece) = (element("is"), element("t"));
                if text.trim() != text || text.contains(['\n', '\t']) || text.contains("  ") {
                    piece.push_attribute(("xml:space", "preserve"));
                }
                let ends =
                    [piece.to_end().into_owned(), item.to_end().into_owned(), cell.to_end().into_owned()];
                self.write(Event::Start(cell))?;
                self.write(Event::Start(item))?;
                self.write(Event::Start(piece))?;
                self.write(Event::Text(BytesText::new(&in_xml(text))))?;
                ends.into_iter().try_for_each(|end| self.write(Event::End(end)))
            }
        }
    }
}

fn attribute(start: &BytesStart<'_>, name: &str) -> Option<String> {
    let found = start.attributes().flatten().find(|attribute| attribute.key.as_ref() == name);
    found.map(|attribute| attribute.value.to_string())
}

/// The column of a cell's reference, from 0.
pub(super) fn column_of(place: &str) -> Option<usize> {
    place_of(place).map(|place| place.0 as usize)
}

/// A text as a sheet stores it: characters that XML cannot hold are written `_xHHHH_`, and what looks so is told apart
/// (ECMA-376, 22.9.2.19).
pub(super) fn in_xml(text: &str) -> Cow<'_, str> {
    let is_unfit = |c: char| c.is_control() && !matches!(c, '\n' | '\t');
    let looks_so = |rest: &str| {
        let code = rest.as_bytes();
        code.get(1) == Some(&b'x')
            && code.get(6) == Some(&b'_')
            && code.get(2..6).is_some_and(|code| code.iter().all(u8::is_ascii_hexdigit))
    };
    if !text.contains(is_unfit) && !text.contains("_x") {
        return Cow::Borrowed(text);
    }
    let mut written = String::with_capacity(text.len() + 8);
    for (at, c) in text.char_indices() {
        if is_unfit(c) {
            written.push_str(&format!("_x{:04X}_", u32::from(c)));
        } else if c == '_' && text.get(at..).is_some_and(looks_so) {
            written.push_str("_x005F_");
        } else {
            written.push(c);
        }
    }
    Cow::Owned(written)
}
