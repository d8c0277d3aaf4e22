//! The part of a sheet on its way, with marks put on its rows: faulty cells get a fill, those that are not there come
//! into being, the columns of marks get their reasons. Rows without marks pass as they are written.

use super::elements::{escaped, value, with};
use super::frame::{self, Columns, Tail};
use super::model::{Marking, RowMarks};
use super::notes::Notes;
use super::styles::{Kind, Styles};
use crate::book::new_cells::{Fault, is};
use crate::book::patch::{column_of, in_xml};
use crate::error::Error;
use quick_xml::events::{BytesStart, Event};
use quick_xml::{Reader, Writer};
use std::collections::BTreeMap;
use std::io::{BufRead, Write};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use tidy_gate_core::catalogue::Level;
use tidy_gate_core::finding::letter;

/// Gives the rows that have marks, in order.
pub(crate) type NextMarks<'a> = dyn FnMut() -> Result<Option<RowMarks>, Error> + 'a;

/// What a cell is to be.
enum New {
    /// As it is, with the fill of this level.
    Filled(Level),
    /// A text of ours.
    Text(String, Kind),
}

/// What a sheet is marked with.
pub(super) struct With<'a> {
    pub(super) marking: &'a Marking<'a>,
    pub(super) styles: &'a mut Styles,
    pub(super) notes: &'a mut Notes,
    pub(super) next: &'a mut NextMarks<'a>,
    /// The name of the sheet in front, and the relation of the notes' boxes.
    pub(super) front: &'a str,
    pub(super) drawing: &'a str,
    /// Whether the sheet stays the one that is shown first.
    pub(super) is_shown: bool,
}

/// How much was marked.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(super) struct Counts {
    pub(super) rows: u64,
    pub(super) cells: u64,
}

pub(super) struct Sheet<'a, R, W: Write> {
    reader: Reader<R>,
    writer: Writer<W>,
    with: With<'a>,
    columns: Columns,
    prefix: String,
    /// The row that comes next of those with marks.
    waiting: Option<RowMarks>,
    /// Whether cells may have marks of an earlier check.
    is_marked: bool,
    /// The row and column last met, from 1 and from 0; rows and cells need not say theirs.
    row: u64,
    column: Option<usize>,
    counts: Counts,
    /// Counts what is read for one event.
    piece: Arc<AtomicU64>,
}

impl<'a, R: BufRead, W: Write> Sheet<'a, R, W> {
    pub(super) fn new(from: R, to: W, with: With<'a>, piece: Arc<AtomicU64>) -> Self {
        let mut reader = Reader::from_reader(from);
        reader.config_mut().check_end_names = true;
        let is_marked = with.marking.had.is_some() || with.styles.has_ours();
        Self {
            reader,
            writer: Writer::new(to),
            with,
            columns: Columns::default(),
            prefix: String::new(),
            waiting: None,
            is_marked,
            row: 0,
            column: None,
            counts: Counts::default(),
            piece,
        }
    }

    /// Copies the part; gives what stands behind its rows, and how much was marked.
    pub(super) fn copy(mut self) -> Result<(Tail, Counts), Fault> {
        let (head, is_empty) = self.head()?;
        let (written, columns) =
            frame::head(&head, self.with.marking, self.with.is_shown).map_err(Fault::Read)?;
        self.columns = columns;
        let name = head.rfind('<').and_then(|at| head.get(at + 1..)).unwrap_or_default();
        self.prefix = name.split_once(':').map(|parts| format!("{}:", parts.0)).unwrap_or_default();
        self.raw(written.as_bytes())?;
        self.waiting = (self.with.next)().map_err(Fault::Other)?;
        if !is_empty {
            self.rows()?;
        }
        self.rows_before(u64::MAX)?;
        let rest = self.rest(&head)?;
        let With { marking, front, drawing, .. } = self.with;
        let tail = frame::tail(&rest, &head, marking, front, drawing).map_err(Fault::Read)?;
        self.writer.get_mut().write_all(tail.xml.as_bytes()).map_err(Fault::Write)?;
        Ok((tail, self.counts))
    }

    /// Copies all rows up to their end.
    fn rows(&mut self) -> Result<(), Fault> {
        let mut buffer = Vec::new();
        let row_tag = (format!("<{}row", self.prefix), format!("</{}row>", self.prefix));
        loop {
            self.pass_plain(&row_tag)?;
            buffer.clear();
            match self.event(&mut buffer)? {
                Event::Eof => return Err(Fault::Read("it ends within its rows".to_owned())),
                Event::End(end) if end.local_name().as_ref() == "sheetData" => return Ok(()),
                Event::Start(start) if is(&start, "row") => {
                    let start = start.into_owned();
                    self.copy_row(&start, false)?;
                }
                Event::Empty(start) if is(&start, "row") => {
                    let start = start.into_owned();
                    self.copy_row(&start, true)?;
                }
                event => self.writer.write_event(event).map_err(Fault::Write)?,
            }
        }
    }

    fn event<'b>(&mut self, buffer: &'b mut Vec<u8>) -> Result<Event<'b>, Fault> {
        self.piece.store(0, Ordering::Relaxed);
        self.reader.read_event_into(buffer).map_err(|error| Fault::Read(error.to_string()))
    }

    fn raw(&mut self, bytes: &[u8]) -> Result<(), Fault> {
        self.writer.get_mut().write_all(bytes).map_err(Fault::Write)
    }

    fn write(&mut self, event: Event<'_>) -> Result<(), Fault> {
        self.writer.write_event(event).map_err(Fault::Write)
    }

    /// What stands before the rows, with the tag that begins them; and whether there are none.
    fn head(&mut self) -> Result<(String, bool), Fault> {
        let (mut writer, mut buffer) = (Writer::new(Vec::new()), Vec::new());
        loop {
            buffer.clear();
            let event = self.event(&mut buffer)?;
            let (is_end, is_empty) = match &event {
                Event::Eof => return Err(Fault::Read("it has no rows".to_owned())),
                Event::Start(start) => (is(start, "sheetData"), false),
                Event::Empty(start) => (is(start, "sheetData"), true),
                _ => (false, false),
            };
            let event = match event {
                Event::Empty(start) if is_end => Event::Start(start),
                event => event,
            };
            writer.write_event(event).map_err(Fault::Write)?;
            if is_end {
                let head = String::from_utf8(writer.into_inner());
                return Ok((head.map_err(|_| Fault::Read("it is not in UTF-8".to_owned()))?, is_empty));
            }
        }
    }

    /// What stands behind the rows.
    fn rest(&mut self, head: &str) -> Result<String, Fault> {
        let name = head.rfind('<').and_then(|at| head.get(at + 1..)).unwrap_or_default();
        let name = name.split(|c: char| c == '>' || c.is_whitespace()).next().unwrap_or_default();
        let mut writer = Writer::new(format!("</{name}>").into_bytes());
        let mut buffer = Vec::new();
        loop {
            buffer.clear();
            match self.event(&mut buffer)? {
                Event::Eof => break,
                event => writer.write_event(event).map_err(Fault::Write)?,
            }
        }
        String::from_utf8(writer.into_inner()).map_err(|_| Fault::Read("it is not in UTF-8".to_owned()))
    }

    /// Writes rows that have marks and do not stand in the sheet.
    fn rows_before(&mut self, row: u64) -> Result<(), Fault> {
        while let Some(marks) = self.waiting.take_if(|marks| marks.row < row) {
            self.waiting = (self.with.next)().map_err(Fault::Other)?;
            let (p, at) = (self.prefix.clone(), marks.row);
            self.raw(format!("<{p}row r=\"{at}\">").as_bytes())?;
            let new = self.new_cells(marks)?;
            self.put_new(at, new, 0)?;
            self.raw(format!("</{p}row>").as_bytes())?;
        }
        Ok(())
    }

    fn copy_row(&mut self, start: &BytesStart<'static>, is_empty: bool) -> Result<(), Fault> {
        let stated = value(start, "r").and_then(|row| row.parse().ok());
        self.row = stated.unwrap_or(self.row + 1);
        self.column = None;
        let row = self.row;
        self.rows_before(row)?;
        let marks = self.waiting.take_if(|marks| marks.row == row);
        if marks.is_some() {
            self.waiting = (self.with.next)().map_err(Fault::Other)?;
        }
        if marks.is_none() && !self.is_marked {
            return self.pass(start, is_empty);
        }
        let style = match value(start, "customFormat").as_deref() {
            Some("1" | "true") => value(start, "s").and_then(|style| style.parse().ok()),
            _ => None,
        };
        let mut new = marks.map_or(Ok(BTreeMap::new()), |marks| self.new_cells(marks))?;
        let number = row.to_string();
        self.write(Event::Start(with(start, &[("r", Some(&number)), ("spans", None)])))?;
        if !is_empty {
            self.cells(row, style, &mut new)?;
        }
        let style = style.unwrap_or(0);
        self.put_new(row, new, style)?;
        self.write(Event::End(start.to_end().into_owned()))
    }

    /// Copies rows without marks that stand whole in what is read ahead, without looking at their cells.
    fn pass_plain(&mut self, (open, close): &(String, String)) -> Result<(), Fault> {
        while !self.is_marked {
            let limit = self.waiting.as_ref().map_or(u64::MAX, |marks| marks.row);
            let there = self.reader.get_mut().fill_buf().map_err(|error| Fault::Read(error.to_string()))?;
            let (used, row) = plain_rows(there, (open.as_bytes(), close.as_bytes()), self.row, limit);
            if used == 0 {
                break;
            }
            let there = there.get(..used).unwrap_or_default();
            self.writer.get_mut().write_all(there).map_err(Fault::Write)?;
            self.reader.get_mut().consume(used);
            self.row = row;
        }
        Ok(())
    }

    /// Copies a row as it is written.
    fn pass(&mut self, start: &BytesStart<'static>, is_empty: bool) -> Result<(), Fault> {
        if is_empty {
            return self.write(Event::Empty(start.borrow()));
        }
        self.write(Event::Start(start.borrow()))?;
        let mut buffer = Vec::new();
        loop {
            buffer.clear();
            let event = self.event(&mut buffer)?;
            let is_end = match &event {
                Event::Eof => return Err(Fault::Read("it ends within a row".to_owned())),
                Event::End(end) => end.local_name().as_ref() == "row",
                _ => false,
            };
            self.writer.write_event(event).map_err(Fault::Write)?;
            if is_end {
                return Ok(());
            }
        }
    }

    /// What the cells of a row are to be, by column; its notes are written.
    fn new_cells(&mut self, marks: RowMarks) -> Result<BTreeMap<usize, New>, Fault> {
        let mut new = BTreeMap::new();
        self.counts.rows += u64::from(marks.counts);
        for cell in marks.cells {
            self.counts.cells += 1;
            self.with
                .notes
                .put(marks.row, cell.column, &cell.note)
                .map_err(|error| Fault::Other(Error::temporary(error)))?;
            if let Some(level) = cell.level {
                new.insert(cell.column, New::Filled(level));
            }
        }
        if let Some(first) = self.with.marking.own {
            for (at, (text, kind)) in (first..).zip(marks.own) {
                new.insert(at, New::Text(text, kind));
            }
        }
        Ok(new)
    }

    /// Copies the cells of a row up to its end, with those that are new before and among them.
    fn cells(
        &mut self,
        row: u64,
        row_style: Option<usize>,
        new: &mut BTreeMap<usize, New>,
    ) -> Result<(), Fault> {
        let mut buffer = Vec::new();
        loop {
            buffer.clear();
            match self.event(&mut buffer)? {
                Event::Eof => return Err(Fault::Read("it ends within a row".to_owned())),
                Event::End(end) if end.local_name().as_ref() == "row" => return Ok(()),
                Event::Start(start) if is(&start, "c") => {
                    let start = start.into_owned();
                    self.cell(row, row_style, (&start, false), new)?;
                }
                Event::Empty(start) if is(&start, "c") => {
                    let start = start.into_owned();
                    self.cell(row, row_style, (&start, true), new)?;
                }
                event => self.writer.write_event(event).map_err(Fault::Write)?,
            }
        }
    }

    fn cell(
        &mut self,
        row: u64,
        row_style: Option<usize>,
        (start, is_empty): (&BytesStart<'static>, bool),
        new: &mut BTreeMap<usize, New>,
    ) -> Result<(), Fault> {
        let stated = value(start, "r").and_then(|place| column_of(&place));
        let column = stated.unwrap_or_else(|| self.column.map_or(0, |column| column + 1));
        self.column = Some(column);
        let later = new.split_off(&column);
        let before = std::mem::replace(new, later);
        self.put_new(row, before, row_style.unwrap_or(0))?;
        let had = self.with.marking.had.and_then(|had| had.columns);
        let is_own = had.is_some_and(|(first, last)| (first..=last).contains(&column));
        let wanted = new.remove(&column);
        if is_own || matches!(wanted, Some(New::Text(..))) {
            if !is_empty {
                self.skip_cell()?;
            }
            if let Some(wanted @ New::Text(..)) = wanted {
                self.put_new(row, BTreeMap::from([(column, wanted)]), 0)?;
            }
            return Ok(());
        }
        let style = value(start, "s").and_then(|style| style.parse::<usize>().ok()).unwrap_or(0);
        let bare = if self.is_marked { self.with.styles.bare(style) } else { style };
        let style = match wanted {
            Some(New::Filled(level)) => self.with.styles.filled(bare, level),
            _ => bare,
        };
        let (place, style) = (format!("{}{row}", letter(column)), style.to_string());
        let tag = with(start, &[("r", Some(&place)), ("s", Some(&style))]);
        self.write(if is_empty { Event::Empty(tag) } else { Event::Start(tag) })
    }

    /// Passes over the rest of a cell.
    fn skip_cell(&mut self) -> Result<(), Fault> {
        let (mut depth, mut buffer) = (1_usize, Vec::new());
        while depth > 0 {
            buffer.clear();
            match self.event(&mut buffer)? {
                Event::Eof => return Err(Fault::Read("it ends within a cell".to_owned())),
                Event::Start(_) => depth += 1,
                Event::End(_) => depth -= 1,
                _ => {}
            }
        }
        Ok(())
    }

    /// Writes cells that do not stand in the row.
    fn put_new(&mut self, row: u64, new: BTreeMap<usize, New>, row_style: usize) -> Result<(), Fault> {
        for (column, new) in new {
            let (p, place) = (&self.prefix, format!("{}{row}", letter(column)));
            let cell = match new {
                New::Filled(level) => {
                    let base = if row_style > 0 { row_style } else { self.columns.style(column) };
                    let base = self.with.styles.bare(base);
                    format!("<{p}c r=\"{place}\" s=\"{}\"/>", self.with.styles.filled(base, level))
                }
                New::Text(text, _) if text.is_empty() => continue,
                New::Text(text, kind) => format!(
                    "<{p}c r=\"{place}\" s=\"{}\" t=\"inlineStr\"><{p}is><{p}t xml:space=\"preserve\">{}</{p}t></{p}is>\
                     </{p}c>",
                    self.with.styles.kind(kind),
                    escaped(&in_xml(&text))
                ),
            };
            self.raw(cell.as_bytes())?;
        }
        Ok(())
    }
}

/// How many bytes at the beginning are whole rows before this one, written plainly; and the number of the last of them.
fn plain_rows(bytes: &[u8], (open, close): (&[u8], &[u8]), before: u64, limit: u64) -> (usize, u64) {
    let (mut used, mut row) = (0, before);
    loop {
        let rest = bytes.get(used..).unwrap_or_default();
        let Some(tag) = rest.strip_prefix(open).filter(|tag| matches!(tag.first(), Some(b' ' | b'>' | b'/')))
        else {
            return (used, row);
        };
        let Some(end) = memchr::memchr(b'>', tag) else { return (used, row) };
        let stated = tag.get(..end).unwrap_or_default();
        let number = match memchr::memmem::find(stated, b" r=") {
            None => row + 1,
            Some(at) => {
                let digits = stated.get(at + 4..).unwrap_or_default();
                let digits = digits.split(|byte| !byte.is_ascii_digit()).next().unwrap_or_default();
                let number = std::str::from_utf8(digits).ok().and_then(|digits| digits.parse().ok());
                let Some(number) = number else { return (used, row) };
                number
            }
        };
        if number >= limit {
            return (used, row);
        }
        let length = match stated.last() {
            Some(b'/') => open.len() + end + 1,
            _ => {
                let Some(at) = memchr::memmem::find(rest, close) else { return (used, row) };
                at + close.len()
            }
        };
        // What is no element is left to the reader of XML.
        let whole = rest.get(..length).unwrap_or_default();
        if memchr::memmem::find(whole, b"<!").is_some() || memchr::memmem::find(whole, b"<?").is_some() {
            return (used, row);
        }
        (used, row) = (used + length, number);
    }
}

/// Adds a text as it stands in an element of a sheet.
pub(crate) fn push_text(into: &mut String, text: &str) {
    into.push_str(&quick_xml::escape::escape(in_xml(text)));
}
