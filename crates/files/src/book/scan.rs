//! Rows of the shape that spreadsheet programs write, without building events: `<row>` with cells of the attributes r, s
//! and t, and in them `<f>`, `<v>` and plain `<is>`. Whatever else a row holds goes to the reader of XML, which is the
//! reference.
//!
//! Before you change this: what is not exactly the usual shape must be refused, never guessed; the test below reads the same
//! rows by `sheet`, and a new attribute or kind of cell belongs into both.

use super::format::Format;
use super::package::LONGEST_PIECE;
use super::rows::{Bounds, Stored, write_cell};
use super::sheet::{MOST_COLUMNS, MOST_ROWS, PIECE, SheetFacts, Walk, walk_over};
use super::value;
use super::xlsx::Shared;
use super::xml::Xml;
use crate::error::Error;
use std::io::{BufRead, Read};
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use tidy_gate_core::value::serial;

/// So many bytes are read at once.
const STEP: usize = 128 << 10;
const DATA: &[u8] = b"<sheetData>";
const DATA_END: &[u8] = b"</sheetData>";
const ROW_END: &[u8] = b"</row>";

/// Where a part is read from.
pub(super) struct Source<R> {
    pub(super) path: PathBuf,
    pub(super) part: String,
    pub(super) piece: Arc<AtomicU64>,
    pub(super) from: R,
}

impl<R: BufRead> Source<R> {
    /// An XML reader of bytes that were read, and of what follows them.
    fn xml<B: BufRead>(&self, bytes: B) -> Xml<B> {
        Xml::new(self.path.clone(), &self.part, Arc::clone(&self.piece), bytes)
    }

    /// Reads more; false at the end.
    fn read_on(&mut self, buffer: &mut Vec<u8>) -> Result<bool, Error> {
        self.piece.store(0, Ordering::Relaxed);
        let read = (&mut self.from).take(STEP as u64).read_to_end(buffer);
        let count = read.map_err(|error| Error::damaged(&self.path, &self.part, &error.to_string()))?;
        if buffer.len() as u64 > LONGEST_PIECE {
            return Err(Error::damaged(&self.path, &self.part, "a piece of it is longer than 32 MiB"));
        }
        Ok(count > 0)
    }
}

/// Reads a sheet and hands on its rows as text, some at a time, until told to stop.
pub(super) fn read<R: BufRead>(
    mut source: Source<R>,
    shared: &Shared,
    bounds: &Bounds,
    take: &mut dyn FnMut(Vec<u8>) -> bool,
) -> Result<SheetFacts, Error> {
    let mut walk = Walk::new(shared, bounds);
    let mut buffer = Vec::new();
    let begins = loop {
        if let Some(at) = memchr::memmem::find(&buffer, DATA) {
            break Some(at + DATA.len());
        }
        // A sheet whose rows do not begin soon is none of the usual shape.
        if buffer.len() > 8 * STEP || !source.read_on(&mut buffer)? {
            break None;
        }
    };
    let begins = begins.filter(|begins| {
        memchr::memmem::find(buffer.get(..*begins).unwrap_or_default(), b"<worksheet").is_some()
    });
    let mut at = 0;
    let mut goes_on = true;
    // What the rest closes was opened before it.
    let mut opened = &b""[..];
    if let Some(begins) = begins {
        opened = b"<worksheet><sheetData>";
        let preamble = buffer.get(..begins).unwrap_or_default();
        goes_on = walk_over(&mut source.xml(preamble), &mut walk, take)?;
        at = begins;
        goes_on = goes_on && rows(&mut source, &mut buffer, &mut at, &mut walk, take)?;
    }
    if goes_on {
        let rest = std::io::Cursor::new(buffer.split_off(at));
        let Source { path, part, piece, from } = source;
        let rest = opened.chain(rest).chain(from);
        let mut xml = Xml::new(path, &part, piece, std::io::BufReader::new(rest));
        if walk_over(&mut xml, &mut walk, take)? {
            take(walk.rows.take_text());
        }
    }
    Ok(walk.facts)
}

/// Reads rows up to where something else begins; false when told to stop.
fn rows<R: BufRead>(
    source: &mut Source<R>,
    buffer: &mut Vec<u8>,
    at: &mut usize,
    walk: &mut Walk<'_>,
    take: &mut dyn FnMut(Vec<u8>) -> bool,
) -> Result<bool, Error> {
    loop {
        let here = buffer.get(*at..).unwrap_or_default();
        let blank = here.iter().take_while(|byte| byte.is_ascii_whitespace()).count();
        let here = here.get(blank..).unwrap_or_default();
        let end = memchr::memmem::find(here, ROW_END).map(|end| end + ROW_END.len());
        let is_over = here.starts_with(DATA_END);
        let Some(end) = end.filter(|_| !is_over) else {
            let is_short = here.len() < DATA_END.len() || here.starts_with(b"<row");
            buffer.drain(..*at + blank);
            *at = 0;
            if is_over || !is_short || !source.read_on(buffer)? {
                return Ok(true);
            }
            continue;
        };
        let bytes = here.get(..end).unwrap_or_default();
        // Comments and the like may hold anything: from here on the reader of XML alone.
        if !bytes.starts_with(b"<row") || memchr::memmem::find(bytes, b"<!").is_some() {
            return Ok(true);
        }
        let mark = walk.rows.mark();
        if read_usual(bytes, walk).is_none() {
            walk.rows.take_back(mark);
            if !walk_over(&mut source.xml(bytes), walk, take)? {
                return Ok(false);
            }
        }
        *at += blank + end;
        walk.rows.check()?;
        if walk.rows.text.len() >= PIECE {
            if !take(walk.rows.take_text()) {
                return Ok(false);
            }
            buffer.drain(..*at);
            *at = 0;
        }
    }
}

/// The bytes of a row that are still to be read.
struct Bytes<'a>(&'a [u8]);

impl<'a> Bytes<'a> {
    fn skip(&mut self, start: &[u8]) -> bool {
        match self.0.strip_prefix(start) {
            Some(rest) => {
                self.0 = rest;
                true
            }
            None => false,
        }
    }

    /// What stands before a byte, which is passed over.
    fn until(&mut self, byte: u8) -> Option<&'a [u8]> {
        let at = memchr::memchr(byte, self.0)?;
        let (before, rest) = self.0.split_at(at);
        self.0 = rest.get(1..)?;
        Some(before)
    }

    /// The next attribute: its name and its value without quotes; nothing where the tag ends.
    fn attribute(&mut self) -> Option<(&'a [u8], &'a [u8])> {
        self.0 = self.0.trim_ascii_start();
        if matches!(self.0.first(), Some(b'>' | b'/')) {
            return None;
        }
        let name = self.until(b'=')?;
        if !self.skip(b"\"") {
            return None;
        }
        Some((name, self.until(b'"')?))
    }
}

/// Reads a row if it has the usual shape; nothing when it has not.
fn read_usual(row: &[u8], walk: &mut Walk<'_>) -> Option<()> {
    let mut bytes = Bytes(row);
    let (number, hidden) = begin_row(&mut bytes, walk.row + 1)?;
    if number <= walk.row || number > MOST_ROWS || !walk.rows.go_to(number) {
        return None;
    }
    let mut column = 0;
    let mut has_cells = false;
    loop {
        bytes.0 = bytes.0.trim_ascii_start();
        if bytes.0 == ROW_END {
            break;
        }
        let (at, style, kind) = begin_cell(&mut bytes, number, column)?;
        if at < column || at >= MOST_COLUMNS {
            return None;
        }
        let text = &mut walk.rows.text;
        text.extend(std::iter::repeat_n(b',', (at - column) as usize));
        has_cells = true;
        if !bytes.skip(b"/>") {
            bytes.skip(b">").then_some(())?;
            cell(&mut bytes, kind, style, walk.shared, text)?;
        }
        text.push(b',');
        column = at + 1;
        // The reader of XML tells it.
        if walk.rows.is_too_long() {
            return None;
        }
        walk.facts.last_column = walk.facts.last_column.max(at);
    }
    if has_cells {
        walk.rows.text.pop();
        walk.rows.mark_formatted();
    }
    walk.row = number;
    walk.rows.line_written();
    if hidden && has_cells {
        walk.note_hidden();
    }
    Some(())
}

/// The beginning of a row: its number, the next where it has none, and whether it is hidden.
fn begin_row(bytes: &mut Bytes<'_>, next: u32) -> Option<(u32, bool)> {
    bytes.skip(b"<row").then_some(())?;
    let (mut number, mut hidden) = (next, false);
    while let Some((name, value)) = bytes.attribute() {
        match name {
            b"r" => number = digits(value)?,
            b"hidden" => hidden = value == b"1" || value == b"true",
            _ => {}
        }
    }
    bytes.skip(b">").then_some((number, hidden))
}

/// The beginning of a cell: its column, the next where it has none, its style and its kind.
fn begin_cell<'a>(bytes: &mut Bytes<'a>, row: u32, next: u32) -> Option<(u32, usize, &'a [u8])> {
    bytes.skip(b"<c").then_some(())?;
    let (mut at, mut style, mut kind) = (next, 0, &b"n"[..]);
    while let Some((name, value)) = bytes.attribute() {
        match name {
            b"r" => at = column_of(value, row)?,
            b"s" => style = digits(value)? as usize,
            b"t" => kind = value,
            _ => {}
        }
    }
    Some((at, style, kind))
}

/// The content of a cell, up to and with its end.
fn cell(bytes: &mut Bytes<'_>, kind: &[u8], style: usize, shared: &Shared, text: &mut Vec<u8>) -> Option<()> {
    if kind == b"inlineStr" {
        (bytes.skip(b"<is><t>") || bytes.skip(b"<is><t xml:space=\"preserve\">")).then_some(())?;
        let value = plain(bytes.until(b'<')?)?;
        bytes.skip(b"/t></is></c>").then_some(())?;
        // The escapes and the trimming of texts are the other reader's.
        if value.contains("_x") || value.trim().len() != value.len() {
            return None;
        }
        write_cell(text, Stored::Text, value);
        return Some(());
    }
    let mut has_formula = false;
    if bytes.skip(b"<f") {
        has_formula = true;
        let tag = bytes.until(b'>')?;
        if !tag.ends_with(b"/") {
            bytes.until(b'<')?;
            bytes.skip(b"/f>").then_some(())?;
        }
    }
    if !bytes.skip(b"<v>") {
        // A formula without its result, or an empty cell.
        bytes.skip(b"</c>").then_some(())?;
        if has_formula {
            write_cell(text, Stored::Stale, "");
        }
        return Some(());
    }
    let raw = bytes.until(b'<')?;
    bytes.skip(b"/v></c>").then_some(())?;
    match kind {
        b"s" => write_cell(text, Stored::Text, shared.string(digits(raw)? as usize)?),
        b"n" => stored_number(raw, shared.format(style), shared, text)?,
        b"b" if raw == b"0" => text.extend(b"FALSE"),
        b"b" if raw == b"1" => text.extend(b"TRUE"),
        b"e" => write_cell(text, Stored::Value, plain(raw)?),
        _ => return None,
    }
    Some(())
}

/// A stored number: digit by digit where it is short, a day where its format says so.
fn stored_number(raw: &[u8], format: Format, shared: &Shared, text: &mut Vec<u8>) -> Option<()> {
    let is_short = !raw.is_empty() && raw.len() <= 15;
    let is_plain = |byte: &u8| byte.is_ascii_digit() || *byte == b'.' || *byte == b'-';
    match format {
        // Noughts that end a number are left to the plain reader.
        Format::Number if is_short && raw.iter().all(is_plain) && !ends_in_zeros(raw) => text.extend(raw),
        Format::Date { time: false }
            if is_short && !shared.from_1904 && raw.iter().all(u8::is_ascii_digit) =>
        {
            let day = serial::day_of(digits(raw)?)?;
            push_digits(text, u32::from(day.year()), 4);
            text.push(b'-');
            push_digits(text, u32::from(day.month()), 2);
            text.push(b'-');
            push_digits(text, u32::from(day.day()), 2);
        }
        _ => {
            let (stored, shown) = value::number(plain(raw)?, format, shared.from_1904)?;
            write_cell(text, stored, &shown);
        }
    }
    Some(())
}

fn ends_in_zeros(raw: &[u8]) -> bool {
    raw == b"-0" || raw.contains(&b'.') && raw.last().is_some_and(|last| matches!(last, b'0' | b'.'))
}

fn push_digits(text: &mut Vec<u8>, number: u32, count: u32) {
    text.extend((0..count).rev().map(|place| b'0' + (number / 10_u32.pow(place) % 10) as u8));
}

/// A text without entities.
fn plain(raw: &[u8]) -> Option<&str> {
    (memchr::memchr2(b'&', b'\r', raw).is_none()).then(|| std::str::from_utf8(raw).ok()).flatten()
}

fn digits(raw: &[u8]) -> Option<u32> {
    if raw.is_empty() || raw.len() > 9 {
        return None;
    }
    raw.iter().try_fold(0, |number, byte| byte.is_ascii_digit().then(|| number * 10 + u32::from(byte - b'0')))
}

/// The column, from 0, of a place that must stand in this row.
fn column_of(place: &[u8], row: u32) -> Option<u32> {
    let letters = place.iter().take_while(|byte| byte.is_ascii_uppercase()).count();
    let (letters, number) = place.split_at(letters);
    if letters.is_empty() || letters.len() > 3 || digits(number) != Some(row) {
        return None;
    }
    Some(letters.iter().fold(0, |column, letter| column * 26 + u32::from(letter - b'A') + 1) - 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    const PIECES: [&str; 22] = [
        "<row r=\"4\"><c r=\"A4\"><v>1</v></c><c r=\"C4\" t=\"s\"><v>1</v></c></row>",
        "<row><c><v>-2.50</v></c><c t=\"b\"><v>1</v></c><c t=\"e\"><v>#N/A</v></c></row>",
        "<row r=\"9\" hidden=\"1\"><c r=\"B9\" s=\"1\"><v>45351</v></c><c s=\"1\"><v>45351.5</v></c><c s=\"1\"><v>12</v></c></row>",
        "<row spans=\"1:3\" r=\"12\" ht=\"15\">\n <c t=\"s\" s=\"0\" r=\"A12\"><v>2</v></c>\n</row>\n",
        "<row><c t=\"inlineStr\"><is><t>a, \u{e9}</t></is></c><c t=\"inlineStr\"><is><t xml:space=\"preserve\">b</t></is></c></row>",
        "<row><c t=\"inlineStr\"><is><t>a &amp; b</t></is></c><c t=\"inlineStr\"><is><r><t>rich</t></r></is></c></row>",
        "<row><c t=\"inlineStr\"><is><t xml:space=\"preserve\"> a_x000A_b</t></is></c><c t=\"inlineStr\"><is><t> c </t></is></c></row>",
        "<row><c><f>A1*2</f><v>7</v></c><c><f>A1</f></c><c><f t=\"shared\" si=\"0\"/><v>1E-3</v></c><c t=\"str\"><f>B1</f><v>x&lt;y</v></c></row>",
        "<row><c><f>A1</f><v/></c><c s=\"1\"/><c/><c t=\"s\"><v>0</v></c></row>",
        "<row/>",
        "<row r=\"40\"></row>",
        "<row><c r=\"A41\"><v>0.30000000000000004</v></c></row>",
        "<row><!-- a comment with </row> in it --><c><v>1</v></c></row>",
        "<row><c t=\"inlineStr\"><is><t><![CDATA[a </row> b]]></t></is></c></row>",
        "<row><c t=\"d\"><v>2024-02-29</v></c><c s=\"2\"><v>42</v></c></row>",
        "<row r='60'><c r='A60'><v>1</v></c></row>",
        "<row><c><v>1</v></c><extLst/></row>",
        "<row><c t=\"s\"><v>99</v></c></row>",
        "<row r=\"3\"><c><v>1</v></c></row>",
        "<row><c r=\"C70\"><v>1</v></c><c r=\"A70\"><v>2</v></c></row>",
        "<row r=\"70\"><c r=\"C70\"><v>1</v></c><c r=\"A70\"><v>2</v></c></row>",
        "<row><c t=\"s\"><v>3</v></c><c t=\"s\"><v>4</v></c></row>",
    ];

    fn shared() -> Shared {
        let mut shared = Shared::default();
        for text in ["zero", "0815", "say \"no\", please", "", " "] {
            shared.push(text);
        }
        shared.formats = vec![Format::Number, Format::Date { time: false }, Format::Digits(5)];
        shared
    }

    fn source(text: &[u8]) -> Source<&[u8]> {
        Source { path: "f.xlsx".into(), part: "sheet".to_owned(), piece: Arc::default(), from: text }
    }

    /// The rows as text, what the sheet hides, or the message.
    fn both(sheet: &str) -> [Result<(String, SheetFacts), String>; 2] {
        let shared = shared();
        let (mut fast, mut plain) = (Vec::new(), Vec::new());
        let bounds = Bounds::new("book.xlsx".as_ref(), 0, crate::text::Limits::default());
        let found = read(source(sheet.as_bytes()), &shared, &bounds, &mut |piece| {
            fast.extend(piece);
            true
        });
        let mut walk = Walk::new(&shared, &bounds);
        let source = source(sheet.as_bytes());
        let walked = walk_over(&mut source.xml(source.from), &mut walk, &mut |piece| {
            plain.extend(piece);
            true
        });
        plain.extend(walk.rows.take_text());
        let text = |bytes| String::from_utf8(bytes).unwrap();
        [
            found.map(|facts| (text(fast), facts)).map_err(|error| error.to_string()),
            walked.map(|_| (text(plain), walk.facts)).map_err(|error| error.to_string()),
        ]
    }

    #[test]
    fn usual_rows_are_read_as_the_reader_of_xml_reads_them() {
        let around = |rows: &str| {
            format!(
                "<?xml version=\"1.0\"?><worksheet><cols><col min=\"2\" max=\"3\" hidden=\"1\"/></cols><sheetData>{rows}\
                 </sheetData><mergeCells><mergeCell ref=\"A1:B2\"/></mergeCells></worksheet>"
            )
        };
        for first in PIECES {
            for second in PIECES {
                let sheet = around(&format!("{first}{second}"));
                let [fast, plain] = both(&sheet);
                assert_eq!(fast, plain, "{sheet}");
            }
        }
        let many = around(&PIECES[1].repeat(20_000));
        let [fast, plain] = both(&many);
        assert!(fast == plain && fast.unwrap().0.lines().count() == 20_000);
        for cut in [10, 60, 120, 200, many.len() - 60, many.len() - 20] {
            let [fast, plain] = both(&many[..cut]);
            assert_eq!(fast.is_ok(), plain.is_ok(), "{cut}");
        }
    }
}
