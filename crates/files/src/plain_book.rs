//! A file that is no XLSX workbook as one: every row where it stood, texts as texts, what a sheet stored as it was
//! stored. Of a workbook of another form its one sheet alone, since nothing else of it is read. The rows are made while
//! they are marked or mended: they stand in no file of their own.

use crate::error::Error;
use crate::row_output::{LONGEST, MOST_ROWS, Stored, as_marked};
use crate::table_file::TableFile;
use std::fmt::Write as _;
use std::fs::File;
use std::io::{self, BufRead, Read, Write};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};
use tidy_gate_core::finding::letter;
use tidy_gate_core::gate::Gate;
use tidy_gate_core::scan::{Dialect, RowWalk, decode, mark_of, walk_row};
use zip::ZipWriter;
use zip::write::SimpleFileOptions;

/// The part that holds the sheet that is made.
pub(crate) const PART: &str = "xl/worksheets/sheet1.xml";

/// What may stand before a text in UTF-8, and is none of it.
const MARK_OF_UTF_8: &[u8] = b"\xEF\xBB\xBF";

/// What is done with a file that no sheet holds.
const INSTEAD: &str = "take the held rows apart with --held held.csv, and mark that file";

/// So many bytes are read at once.
const PIECE: usize = 1 << 18;

/// The styles of its cells: text, headings, percentages, days, moments, times.
const TEXT: u8 = 1;
const HEADING: u8 = 2;
const PERCENT: u8 = 3;
const DAY: u8 = 4;
const MOMENT: u8 = 5;
const TIME: u8 = 6;

/// The name of the sheet that is made: that of the sheet it is made of, so that a plan finds it again.
pub(crate) fn sheet_name(file: &TableFile) -> &str {
    let is_fit = |name: &&str| {
        (1..=31).contains(&name.chars().count()) && !name.contains(['[', ']', ':', '*', '?', '/', '\\', '\''])
    };
    file.table().sheet().filter(is_fit).unwrap_or("Data")
}

/// How many cells the widest row has.
pub(crate) fn widest(file: &TableFile, dialect: Dialect) -> Result<usize, Error> {
    let (mut kept, mut widest, mut is_first): (Vec<u8>, usize, bool) = (Vec::new(), 0, true);
    let mut count = |bytes: &[u8], is_end: bool| {
        let mut start = 0;
        while start < bytes.len() {
            let mut cells = 0;
            match walk_row(bytes, start, dialect, |_| cells += 1, |_| ()) {
                RowWalk::Whole { end, .. } if end < bytes.len() || is_end => start = end,
                _ if is_end => start = bytes.len(),
                _ => break,
            }
            widest = widest.max(cells);
        }
        start
    };
    file.rest_from(0, &mut |bytes| {
        let bytes = if is_first { bytes.strip_prefix(MARK_OF_UTF_8).unwrap_or(bytes) } else { bytes };
        is_first = false;
        kept.extend(bytes);
        let used = count(&kept, false);
        kept.drain(..used);
        Ok(())
    })?;
    count(&kept, true);
    Ok(widest)
}

/// The workbook without the rows of its sheet, in a folder.
pub(crate) fn frame(name: &str, folder: &Path) -> Result<PathBuf, Error> {
    let path = folder.join("frame.xlsx");
    let made = || -> io::Result<()> {
        let mut writer = ZipWriter::new(File::create(&path)?);
        let name = quick_xml::escape::escape(name);
        let book = BOOK.replace("NAME", &name);
        let parts = [
            ("[Content_Types].xml", TYPES),
            ("_rels/.rels", ROOT),
            ("xl/workbook.xml", &book),
            ("xl/_rels/workbook.xml.rels", RELATIONS),
            ("xl/styles.xml", STYLES),
            (PART, "<worksheet/>"),
        ];
        for (part, text) in parts {
            writer.start_file(part, SimpleFileOptions::default())?;
            writer.write_all(text.as_bytes())?;
        }
        writer.finish().map(drop).map_err(io::Error::from)
    };
    made().map_err(Error::temporary)?;
    Ok(path)
}

/// The part of the sheet, made row by row as it is read.
pub(crate) struct Sheet<'a> {
    file: &'a TableFile,
    dialect: Dialect,
    /// The row that holds the headings.
    heading_row: Option<u64>,
    /// Where the output stands for which it is made.
    output: &'a Path,
    offset: u64,
    kept: Vec<u8>,
    is_read: bool,
    /// The number of the next row.
    row: u64,
    ends: Vec<usize>,
    letters: Vec<String>,
    made: Vec<u8>,
    at: usize,
    is_done: bool,
    /// What went wrong, for whoever gets a mere error of reading.
    fault: Arc<Mutex<Option<Error>>>,
}

impl<'a> Sheet<'a> {
    pub(crate) fn new(
        file: &'a TableFile,
        gate: &Gate,
        heading_row: Option<u64>,
        output: &'a Path,
        fault: Arc<Mutex<Option<Error>>>,
    ) -> Self {
        let pane = heading_row.filter(|row| *row < 100).map(|row| {
            let below = row + 1;
            format!(
                "<pane ySplit=\"{row}\" topLeftCell=\"A{below}\" activePane=\"bottomLeft\" state=\"frozen\"/>"
            )
        });
        let columns: String = (1..)
            .zip(widths(gate))
            .map(|(at, width)| {
                format!(
                    "<col min=\"{at}\" max=\"{at}\" width=\"{width}\" style=\"{TEXT}\" customWidth=\"1\"/>"
                )
            })
            .collect();
        let columns = if columns.is_empty() { columns } else { format!("<cols>{columns}</cols>") };
        let head = format!(
            "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n<worksheet xmlns=\"{MAIN}\"><sheetViews>\
             <sheetView workbookViewId=\"0\">{}</sheetView></sheetViews><sheetFormatPr defaultRowHeight=\"15\"/>{columns}\
             <sheetData>",
            pane.unwrap_or_default()
        );
        Self {
            file,
            dialect: gate.table().dialect,
            heading_row,
            output,
            offset: 0,
            kept: Vec::new(),
            is_read: false,
            row: 1,
            ends: Vec::new(),
            letters: Vec::new(),
            made: head.into_bytes(),
            at: 0,
            is_done: false,
            fault,
        }
    }

    /// Makes more, until there is some or the end is reached.
    fn more(&mut self) -> Result<(), Error> {
        self.made.clear();
        self.at = 0;
        while self.made.is_empty() && !self.is_done {
            let kept = self.kept.len();
            self.kept.resize(kept + PIECE, 0);
            let count = self.file.read_again(self.offset, self.kept.get_mut(kept..).unwrap_or_default())?;
            self.kept.truncate(kept + count);
            if self.offset == 0 && self.kept.starts_with(MARK_OF_UTF_8) {
                self.kept.drain(..MARK_OF_UTF_8.len());
            }
            self.offset += count as u64;
            self.is_read = count == 0;
            let bytes = std::mem::take(&mut self.kept);
            let used = self.rows(&bytes)?;
            self.kept = bytes;
            self.kept.drain(..used);
            if self.is_read {
                self.is_done = true;
                self.made.extend(TAIL.as_bytes());
            }
        }
        Ok(())
    }

    /// Makes the whole rows of these bytes; at the end the last one too, whether it is closed or not.
    fn rows(&mut self, bytes: &[u8]) -> Result<usize, Error> {
        let mut start = 0;
        while start < bytes.len() {
            let mut ends = std::mem::take(&mut self.ends);
            ends.clear();
            let walk = walk_row(bytes, start, self.dialect, |at| ends.push(at), |_| ());
            let (end, is_open) = match walk {
                RowWalk::Whole { end, .. } if end < bytes.len() || self.is_read => (end, false),
                _ if self.is_read => (bytes.len(), true),
                _ => {
                    self.ends = ends;
                    break;
                }
            };
            let content = bytes.get(..end).unwrap_or_default();
            let last = content.strip_suffix(b"\n").unwrap_or(content).len();
            self.one_row(bytes, (start, last), ends.iter().copied().filter(|to| *to < last && !is_open))?;
            self.ends = ends;
            self.row += 1;
            start = end;
        }
        Ok(start)
    }

    fn one_row(
        &mut self,
        bytes: &[u8],
        (start, last): (usize, usize),
        ends: impl Iterator<Item = usize>,
    ) -> Result<(), Error> {
        let too_much = |what: &str| Error::TooMuchForSheet {
            path: self.output.to_owned(),
            what: what.to_owned(),
            instead: INSTEAD,
        };
        if self.row > u64::from(MOST_ROWS) {
            return Err(too_much("more than 1,048,576 rows"));
        }
        let (begin, mut from, mut column) = (self.made.len(), start, 0);
        let mut text = String::new();
        for to in ends.chain([last]) {
            let raw = bytes.get(from..to).unwrap_or_default();
            let raw = if to == last { raw.strip_suffix(b"\r").unwrap_or(raw) } else { raw };
            if !raw.is_empty() {
                if self.made.len() == begin {
                    text.clear();
                    let _ = write!(text, "<row r=\"{}\">", self.row);
                    self.made.extend(text.as_bytes());
                }
                while self.letters.len() <= column {
                    self.letters.push(letter(self.letters.len()));
                }
                let cell = decode(raw, self.dialect);
                let cell = String::from_utf8_lossy(&cell);
                if cell.len() > LONGEST && cell.encode_utf16().count() > LONGEST {
                    return Err(too_much("a cell with more than 32,767 characters"));
                }
                let is_heading = self.heading_row == Some(self.row);
                let stored = match self.dialect.marks && !is_heading {
                    true => as_marked(&cell, mark_of(raw, self.dialect)),
                    false => None,
                };
                let place = self.letters.get(column).map(String::as_str).unwrap_or_default();
                let style = if is_heading { HEADING } else { TEXT };
                put(&mut self.made, (place, self.row), &cell, stored, style);
            }
            (from, column) = (to + 1, column + 1);
        }
        if self.made.len() > begin {
            self.made.extend(b"</row>");
        }
        Ok(())
    }
}

impl Read for Sheet<'_> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let mut there = self.fill_buf()?;
        let count = there.read(into)?;
        self.consume(count);
        Ok(count)
    }
}

impl BufRead for Sheet<'_> {
    fn fill_buf(&mut self) -> io::Result<&[u8]> {
        if self.at >= self.made.len()
            && !self.is_done
            && let Err(error) = self.more()
        {
            let what = error.to_string();
            *self.fault.lock().unwrap_or_else(PoisonError::into_inner) = Some(error);
            return Err(io::Error::other(what));
        }
        Ok(self.made.get(self.at..).unwrap_or_default())
    }

    fn consume(&mut self, count: usize) {
        self.at += count;
    }
}

/// Writes a cell.
fn put(into: &mut Vec<u8>, (column, row): (&str, u64), text: &str, stored: Option<Stored>, style: u8) {
    if text.is_empty() {
        return;
    }
    let mut made = String::with_capacity(text.len() + 80);
    let number = |made: &mut String, style: u8, number: f64| {
        let _ = write!(made, "<c r=\"{column}{row}\" s=\"{style}\"><v>{number}</v></c>");
    };
    match stored {
        None => {
            let _ = write!(made, "<c r=\"{column}{row}\" s=\"{style}\" t=\"inlineStr\"><is><t");
            // Outer spaces are lost where it is not said that they count.
            if text.trim() != text || text.contains(['\n', '\t']) {
                made.push_str(" xml:space=\"preserve\"");
            }
            made.push('>');
            crate::book::push_text(&mut made, text);
            made.push_str("</t></is></c>");
        }
        Some(Stored::Number(value)) => number(&mut made, 0, value),
        Some(Stored::Percent(value)) => number(&mut made, PERCENT, value),
        Some(Stored::Day(day)) => number(&mut made, DAY, day.to_excel()),
        Some(Stored::Moment(moment)) => number(&mut made, MOMENT, moment.to_excel()),
        Some(Stored::Time(time)) => number(&mut made, TIME, time.to_excel()),
        Some(Stored::Boolean(truth)) => {
            let _ = write!(made, "<c r=\"{column}{row}\" t=\"b\"><v>{}</v></c>", u8::from(truth));
        }
    }
    into.extend(made.as_bytes());
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

const MAIN: &str = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";
const TAIL: &str = "</sheetData><pageMargins left=\"0.5\" right=\"0.5\" top=\"0.6\" bottom=\"0.6\" header=\"0.3\" \
footer=\"0.3\"/><pageSetup orientation=\"landscape\"/></worksheet>";
const TYPES: &str = "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n<Types \
xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\"><Default Extension=\"rels\" \
ContentType=\"application/vnd.openxmlformats-package.relationships+xml\"/><Default Extension=\"xml\" \
ContentType=\"application/xml\"/><Override PartName=\"/xl/workbook.xml\" \
ContentType=\"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml\"/><Override \
PartName=\"/xl/worksheets/sheet1.xml\" \
ContentType=\"application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml\"/><Override \
PartName=\"/xl/styles.xml\" ContentType=\"application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml\"/>\
</Types>";
const ROOT: &str = "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n<Relationships \
xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"><Relationship Id=\"rId1\" \
Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument\" Target=\"xl/workbook.xml\"/>\
</Relationships>";
const BOOK: &str = "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n<workbook \
xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\" \
xmlns:r=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships\"><bookViews><workbookView/></bookViews>\
<sheets><sheet name=\"NAME\" sheetId=\"1\" r:id=\"rId1\"/></sheets></workbook>";
const RELATIONS: &str = "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n<Relationships \
xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"><Relationship Id=\"rId1\" \
Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet\" \
Target=\"worksheets/sheet1.xml\"/><Relationship Id=\"rId2\" \
Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/styles\" Target=\"styles.xml\"/>\
</Relationships>";
const STYLES: &str = "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n<styleSheet \
xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"><numFmts count=\"4\"><numFmt numFmtId=\"164\" \
formatCode=\"0.############%\"/><numFmt numFmtId=\"165\" formatCode=\"yyyy\\-mm\\-dd\"/><numFmt numFmtId=\"166\" \
formatCode=\"yyyy\\-mm\\-dd\\ hh:mm:ss\"/><numFmt numFmtId=\"167\" formatCode=\"hh:mm:ss\"/></numFmts><fonts count=\"2\">\
<font><sz val=\"11\"/><name val=\"Calibri\"/><family val=\"2\"/></font><font><b/><sz val=\"11\"/><name val=\"Calibri\"/>\
<family val=\"2\"/></font></fonts><fills count=\"2\"><fill><patternFill patternType=\"none\"/></fill><fill><patternFill \
patternType=\"gray125\"/></fill></fills><borders count=\"1\"><border><left/><right/><top/><bottom/><diagonal/></border>\
</borders><cellStyleXfs count=\"1\"><xf numFmtId=\"0\" fontId=\"0\" fillId=\"0\" borderId=\"0\"/></cellStyleXfs><cellXfs \
count=\"7\"><xf numFmtId=\"0\" fontId=\"0\" fillId=\"0\" borderId=\"0\" xfId=\"0\"/><xf numFmtId=\"49\" fontId=\"0\" \
fillId=\"0\" borderId=\"0\" xfId=\"0\" applyNumberFormat=\"1\"/><xf numFmtId=\"49\" fontId=\"1\" fillId=\"0\" \
borderId=\"0\" xfId=\"0\" applyNumberFormat=\"1\" applyFont=\"1\" applyAlignment=\"1\"><alignment vertical=\"top\" \
wrapText=\"1\"/></xf><xf numFmtId=\"164\" fontId=\"0\" fillId=\"0\" borderId=\"0\" xfId=\"0\" applyNumberFormat=\"1\"/><xf \
numFmtId=\"165\" fontId=\"0\" fillId=\"0\" borderId=\"0\" xfId=\"0\" applyNumberFormat=\"1\"/><xf numFmtId=\"166\" \
fontId=\"0\" fillId=\"0\" borderId=\"0\" xfId=\"0\" applyNumberFormat=\"1\"/><xf numFmtId=\"167\" fontId=\"0\" \
fillId=\"0\" borderId=\"0\" xfId=\"0\" applyNumberFormat=\"1\"/></cellXfs><cellStyles count=\"1\">\
<cellStyle name=\"Normal\" xfId=\"0\" builtinId=\"0\"/></cellStyles></styleSheet>";
