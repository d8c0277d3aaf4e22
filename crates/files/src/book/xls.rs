//! Workbooks of the old binary form XLS, BIFF8 (MS-XLS): records of a type, a length and that many bytes.

use super::binary::{bool_or_error, f64_at, rk, u16_at, u32_at};
use super::format::Format;
use super::rows::{Bounds, Rows, Stored};
use super::sheet::{PIECE, SheetFacts};
use super::value;
use super::xlsx::Sheet;
use crate::error::Error;
use std::collections::{HashMap, HashSet};
use std::fs::File;
use std::io::{self, Cursor, Read, Seek};
use std::path::{Path, PathBuf};
use tidy_gate_core::finding::letter;

/// A workbook whose records are in memory; it is no larger than its file.
pub(super) struct Xls {
    path: PathBuf,
    stream: Vec<u8>,
    /// Where each sheet begins.
    starts: Vec<usize>,
    strings: Vec<String>,
    formats: Vec<Format>,
    from_1904: bool,
}

/// Records, one behind the other.
struct Records<'a> {
    stream: &'a [u8],
    at: usize,
}

impl<'a> Iterator for Records<'a> {
    type Item = (u16, &'a [u8]);

    fn next(&mut self) -> Option<Self::Item> {
        let (kind, len) = (u16_at(self.stream, self.at)?, u16_at(self.stream, self.at + 2)?);
        let start = self.at + 4;
        let data = self.stream.get(start..start + usize::from(len))?;
        self.at = start + usize::from(len);
        Some((kind, data))
    }
}

const BOF: u16 = 0x0809;
const EOF: u16 = 0x000A;
const CONTINUE: u16 = 0x003C;

/// A file that can be read at any place.
trait Place: Read + Seek {}
impl<T: Read + Seek> Place for T {}

/// A workbook of this form is kept in memory whole.
const LARGEST: u64 = 512 << 20;

/// Opens the compound file (MS-CFB). Some writers end the file with its last filled sector, although its allocation
/// table speaks of more: what is missing is taken as empty.
fn compound(mut file: File) -> io::Result<cfb::CompoundFile<Box<dyn Place>>> {
    const SECTOR: usize = 512;
    let retry = file.try_clone()?;
    let first = match cfb::CompoundFile::open(Box::new(retry) as Box<dyn Place>) {
        Ok(compound) => return Ok(compound),
        Err(error) => error,
    };
    file.rewind()?;
    let mut bytes = Vec::new();
    (&mut file).take(LARGEST + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > LARGEST {
        return Err(io::Error::new(io::ErrorKind::FileTooLarge, "it is larger than 512 MiB"));
    }
    // The number of sectors of the allocation table, each with a place for 128 sectors.
    let tables = u32_at(&bytes, 44).unwrap_or(0) as usize;
    let all = tables.saturating_mul(128).saturating_add(1).saturating_mul(SECTOR);
    if all <= bytes.len() || all > bytes.len().saturating_mul(4).max(1 << 20) {
        return Err(first);
    }
    bytes.resize(all, 0);
    cfb::CompoundFile::open(Box::new(Cursor::new(bytes)) as Box<dyn Place>).map_err(|_| first)
}

impl Xls {
    /// Opens a workbook; nothing when the file is none.
    pub(super) fn open(path: &Path, file: File) -> Result<(Self, Vec<Sheet>), Error> {
        let damaged = |what: &str| Error::damaged(path, "the workbook", what);
        let mut compound = compound(file).map_err(|error| damaged(&error.to_string()))?;
        let not_table = |shape| Error::NotTable { path: path.to_owned(), shape };
        if compound.is_stream("/EncryptedPackage") {
            return Err(not_table(crate::error::Shape::Encrypted));
        }
        let name = ["/Workbook", "/Book"].into_iter().find(|name| compound.is_stream(name));
        let Some(name) = name else { return Err(not_table(crate::error::Shape::Compound)) };
        let mut stream = Vec::new();
        let read =
            compound.open_stream(name).and_then(|part| part.take(LARGEST + 1).read_to_end(&mut stream));
        read.map_err(|error| damaged(&error.to_string()))?;
        if stream.len() as u64 > LARGEST {
            return Err(damaged("it is larger than 512 MiB"));
        }
        let mut book = Self {
            path: path.to_owned(),
            stream,
            starts: Vec::new(),
            strings: Vec::new(),
            formats: Vec::new(),
            from_1904: false,
        };
        let sheets = book.read_globals()?;
        Ok((book, sheets))
    }

    fn fault(&self, what: &str) -> Error {
        Error::damaged(&self.path, "the workbook", what)
    }

    /// Reads what all sheets share.
    fn read_globals(&mut self) -> Result<Vec<Sheet>, Error> {
        let stream = std::mem::take(&mut self.stream);
        let (mut own, mut styles, mut sheets) = (HashMap::new(), Vec::new(), Vec::new());
        let mut strings: Vec<&[u8]> = Vec::new();
        let mut in_strings = false;
        let mut ended = false;
        for (number, (kind, data)) in (Records { stream: &stream, at: 0 }).enumerate() {
            if number == 0 && (kind != BOF || u16_at(data, 0) != Some(0x0600)) {
                let what = "it is of a form before BIFF8; save it as XLSX";
                return Err(self.fault(what));
            }
            in_strings &= kind == CONTINUE;
            match kind {
                0x002F => {
                    let shape = crate::error::Shape::Encrypted;
                    return Err(Error::NotTable { path: self.path.clone(), shape });
                }
                0x0022 => self.from_1904 = u16_at(data, 0) == Some(1),
                0x041E => {
                    if let (Some(id), Some((code, _))) = (u16_at(data, 0), text_at(data, 2, 2)) {
                        own.insert(u32::from(id), Format::of(&code));
                    }
                }
                0x00E0 => styles.extend(u16_at(data, 2).map(u32::from)),
                0x0085 => {
                    let (start, state) = (u32_at(data, 0), data.get(4).copied());
                    // Other kinds are charts, macros and modules.
                    if let (Some(start), Some(state), Some(0), Some((name, _))) =
                        (start, state, data.get(5), text_at(data, 6, 1))
                    {
                        self.starts.push(start as usize);
                        sheets.push(Sheet { name, hidden: state & 3 != 0, part: String::new() });
                    }
                }
                0x00FC => {
                    in_strings = true;
                    strings.push(data);
                }
                CONTINUE if in_strings => strings.push(data),
                EOF => {
                    ended = true;
                    break;
                }
                _ => {}
            }
        }
        if !ended {
            return Err(self.fault("its records break off"));
        }
        let format = |id: &u32| own.get(id).copied().or_else(|| Format::built_in(*id)).unwrap_or_default();
        self.formats = styles.iter().map(format).collect();
        self.strings = shared_strings(&strings).ok_or_else(|| self.fault("its shared strings break off"))?;
        self.stream = stream;
        Ok(sheets)
    }

    /// Reads the sheet of this number, and hands on its rows as text.
    pub(super) fn sheet(
        &self,
        number: usize,
        bounds: &Bounds,
        take: &mut dyn FnMut(Vec<u8>) -> bool,
    ) -> Result<SheetFacts, Error> {
        let Some(&start) = self.starts.get(number) else { return Ok(SheetFacts::default()) };
        let mut walk =
            Walk { facts: SheetFacts::default(), rows: Rows::new(bounds), row: None, hidden: HashSet::new() };
        let mut awaits_string = None;
        let mut depth = 0;
        let mut ended = false;
        for (kind, data) in (Records { stream: &self.stream, at: start }) {
            match kind {
                BOF => depth += 1,
                EOF => {
                    depth -= 1;
                    if depth == 0 {
                        ended = true;
                        break;
                    }
                }
                // What belongs to a chart in the sheet.
                _ if depth != 1 => {}
                0x0208 => {
                    if let (Some(row), Some(flags)) = (u16_at(data, 0), data.get(12))
                        && flags & 0x20 != 0
                    {
                        walk.hidden.insert(row);
                    }
                }
                0x007D => {
                    if let (Some(first), Some(last), Some(flags)) =
                        (u16_at(data, 0), u16_at(data, 2), u16_at(data, 8))
                        && flags & 1 != 0
                    {
                        walk.facts.hide_columns(u32::from(first), u32::from(last));
                    }
                }
                0x009B => walk.facts.filter = Some("the sheet".to_owned()),
                0x00E5 => walk.note_merged(data),
                0x0207 => {
                    if let (Some((row, column)), Some((text, _))) =
                        (awaits_string.take(), text_at(data, 0, 2))
                    {
                        self.put(&mut walk, row, column, Stored::Value, text, take)?;
                    }
                }
                _ => {
                    let cells = self.cells(kind, data, &mut awaits_string)?;
                    for (row, column, stored, text) in cells {
                        if self.put(&mut walk, row, column, stored, text, take)? {
                            return Ok(walk.facts);
                        }
                    }
                }
            }
        }
        if !ended {
            return Err(self.fault("the records of the sheet break off"));
        }
        walk.end_row()?;
        take(walk.rows.take_text());
        Ok(walk.facts)
    }

    /// Puts a cell; true when no more is wanted.
    fn put(
        &self,
        walk: &mut Walk,
        row: u16,
        column: u16,
        stored: Stored,
        text: String,
        take: &mut dyn FnMut(Vec<u8>) -> bool,
    ) -> Result<bool, Error> {
        if walk.row != Some(row) {
            walk.end_row()?;
            if walk.rows.text.len() >= PIECE && !take(walk.rows.take_text()) {
                return Ok(true);
            }
            if !walk.rows.go_to(u32::from(row) + 1) {
                return Err(self.fault(&format!("row {} stands behind a later one", u32::from(row) + 1)));
            }
            walk.row = Some(row);
        }
        walk.facts.last_column = walk.facts.last_column.max(u32::from(column));
        walk.rows.cell(u32::from(column), stored, text)?;
        Ok(false)
    }

    /// The cells of a record.
    fn cells(
        &self,
        kind: u16,
        data: &[u8],
        awaits_string: &mut Option<(u16, u16)>,
    ) -> Result<Vec<(u16, u16, Stored, String)>, Error> {
        let (Some(row), Some(column)) = (u16_at(data, 0), u16_at(data, 2)) else { return Ok(Vec::new()) };
        let style = u16_at(data, 4).unwrap_or(0);
        let one = |stored, text| Ok(vec![(row, column, stored, text)]);
        let stored = |(stored, text)| one(stored, text);
        match kind {
            0x0203 => stored(self.number(f64_at(data, 6), style)),
            0x027E => stored(self.number(u32_at(data, 6).map(rk), style)),
            0x00BD => {
                let count = data.len().saturating_sub(6) / 6;
                let cell = |n: usize| {
                    let (style, number) = (u16_at(data, 4 + 6 * n)?, u32_at(data, 6 + 6 * n)?);
                    let column = column.checked_add(u16::try_from(n).ok()?)?;
                    let (stored, text) = self.number(Some(rk(number)), style);
                    Some((row, column, stored, text))
                };
                Ok((0..count).filter_map(cell).collect())
            }
            0x00FD => {
                let number = u32_at(data, 6).unwrap_or(u32::MAX) as usize;
                let Some(text) = self.strings.get(number) else {
                    let place = format!("{}{}", letter(usize::from(column)), u32::from(row) + 1);
                    let count = self.strings.len();
                    return Err(
                        self.fault(&format!("cell {place} refers to shared string {number}, of {count}"))
                    );
                };
                one(Stored::Text, text.clone())
            }
            0x0204 | 0x00D6 => one(Stored::Text, text_at(data, 6, 2).map(|text| text.0).unwrap_or_default()),
            0x0205 => one(Stored::Value, bool_or_error(data.get(6).copied(), data.get(7) == Some(&1))),
            0x0006 => {
                let result = data.get(6..14).unwrap_or_default();
                match (result.first(), result.get(6..8)) {
                    (Some(0), Some([0xFF, 0xFF])) => {
                        *awaits_string = Some((row, column));
                        Ok(Vec::new())
                    }
                    (Some(1), Some([0xFF, 0xFF])) => {
                        one(Stored::Value, bool_or_error(result.get(2).copied(), false))
                    }
                    (Some(2), Some([0xFF, 0xFF])) => {
                        one(Stored::Value, bool_or_error(result.get(2).copied(), true))
                    }
                    (Some(3), Some([0xFF, 0xFF])) => one(Stored::Value, String::new()),
                    _ => stored(self.number(f64_at(data, 6), style)),
                }
            }
            // A format and nothing else.
            0x0201 => one(Stored::Value, String::new()),
            _ => Ok(Vec::new()),
        }
    }

    fn number(&self, number: Option<f64>, style: u16) -> (Stored, String) {
        let format = self.formats.get(usize::from(style)).copied().unwrap_or_default();
        let text = number.map(|number| number.to_string()).unwrap_or_default();
        value::number(&text, format, self.from_1904).unwrap_or((Stored::Value, text))
    }
}

/// A sheet while it is read.
struct Walk {
    facts: SheetFacts,
    rows: Rows,
    row: Option<u16>,
    hidden: HashSet<u16>,
}

impl Walk {
    fn end_row(&mut self) -> Result<(), Error> {
        let Some(row) = self.row.take() else { return Ok(()) };
        if self.hidden.contains(&row) {
            self.facts.hidden_rows.0 += 1;
            if self.facts.hidden_rows.1 == 0 {
                self.facts.hidden_rows.1 = u64::from(row) + 1;
            }
        }
        self.rows.end_row()
    }

    fn note_merged(&mut self, data: &[u8]) {
        let count = u16_at(data, 0).unwrap_or(0);
        if self.facts.merged.0 == 0
            && let (Some(row), Some(column)) = (u16_at(data, 2), u16_at(data, 6))
        {
            self.facts.merged.1 = format!("{}{}", letter(usize::from(column)), u32::from(row) + 1);
        }
        self.facts.merged.0 += u64::from(count);
    }
}

/// A text whose length stands in one byte or two, then how wide its characters are; and the place behind it.
fn text_at(data: &[u8], at: usize, width: usize) -> Option<(String, usize)> {
    let count = if width == 1 { usize::from(*data.get(at)?) } else { usize::from(u16_at(data, at)?) };
    let wide = data.get(at + width)? & 1 == 1;
    let start = at + width + 1;
    let end = start + count * if wide { 2 } else { 1 };
    Some((characters(data.get(start..end)?, wide), end))
}

fn characters(bytes: &[u8], wide: bool) -> String {
    if wide {
        let units = bytes.as_chunks::<2>().0.iter().map(|pair| u16::from_le_bytes(*pair));
        char::decode_utf16(units).map(|c| c.unwrap_or(char::REPLACEMENT_CHARACTER)).collect()
    } else {
        bytes.iter().map(|&byte| char::from(byte)).collect()
    }
}

/// The shared strings, which go on from record to record: where one is cut inside its characters, the next record
/// says anew how wide they are.
fn shared_strings(records: &[&[u8]]) -> Option<Vec<String>> {
    let Some(first) = records.first() else { return Some(Vec::new()) };
    let count = u32_at(first, 4)? as usize;
    let mut pieces = Pieces { records, record: 0, at: 8 };
    let mut found = Vec::new();
    for _ in 0..count {
        let head = pieces.take(3)?;
        let (mut left, flags) = (usize::from(u16_at(&head, 0)?), *head.get(2)?);
        let runs = if flags & 8 != 0 { usize::from(u16_at(&pieces.take(2)?, 0)?) * 4 } else { 0 };
        let extra = if flags & 4 != 0 { u32_at(&pieces.take(4)?, 0)? as usize } else { 0 };
        let mut wide = flags & 1 == 1;
        let mut text = String::new();
        while left > 0 {
            let width = if wide { 2 } else { 1 };
            let here = (pieces.left() / width).min(left);
            if here == 0 {
                wide = *pieces.next_record()? & 1 == 1;
                continue;
            }
            text.push_str(&characters(&pieces.take(here * width)?, wide));
            left -= here;
        }
        pieces.skip(runs + extra)?;
        found.push(text);
    }
    Some(found)
}

/// The bytes of several records.
struct Pieces<'a> {
    records: &'a [&'a [u8]],
    record: usize,
    at: usize,
}

impl Pieces<'_> {
    /// How many bytes of this record are left.
    fn left(&self) -> usize {
        self.records.get(self.record).map_or(0, |record| record.len().saturating_sub(self.at))
    }

    /// Goes on to the next record, behind its first byte; gives that.
    fn next_record(&mut self) -> Option<&u8> {
        (self.record, self.at) = (self.record + 1, 1);
        self.records.get(self.record)?.first()
    }

    fn take(&mut self, count: usize) -> Option<Vec<u8>> {
        let mut taken = Vec::new();
        while taken.len() < count {
            if self.left() == 0 {
                (self.record, self.at) = (self.record + 1, 0);
            }
            let record = self.records.get(self.record)?;
            let end = (self.at + count - taken.len()).min(record.len());
            taken.extend(record.get(self.at..end)?);
            self.at = end;
        }
        Some(taken)
    }

    fn skip(&mut self, mut count: usize) -> Option<()> {
        while count > 0 {
            if self.left() == 0 {
                (self.record, self.at) = (self.record + 1, 0);
                self.records.get(self.record)?;
            }
            let here = self.left().min(count);
            self.at += here;
            count -= here;
        }
        Some(())
    }
}
