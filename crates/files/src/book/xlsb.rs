//! Workbooks of the form XLSB (MS-XLSB): the parts of an XLSX, as binary records instead of XML.

use super::binary::{bool_or_error, f64_at, rk, u16_at, u32_at};
use super::format::Format;
use super::package::Package;
use super::rows::{Bounds, Rows, Stored};
use super::sheet::{MOST_COLUMNS, MOST_ROWS, PIECE, SheetFacts};
use super::value;
use super::xlsx::{Shared, Sheet, TOO_MANY_STRINGS, joined, relations};
use crate::error::Error;
use std::collections::HashMap;
use std::io::Read;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use tidy_gate_core::finding::letter;

pub(super) const MAIN: &str = "xl/workbook.bin";

/// Records of one part.
pub(super) struct Records<R> {
    path: PathBuf,
    part: String,
    from: R,
    data: Vec<u8>,
    /// Counts what is read for one record.
    piece: Arc<AtomicU64>,
}

impl<R: Read> Records<R> {
    pub(super) fn new(path: PathBuf, part: &str, piece: Arc<AtomicU64>, from: R) -> Self {
        Self { path, part: part.to_owned(), from, data: Vec::new(), piece }
    }

    fn fault(&self, what: &str) -> Error {
        Error::damaged(&self.path, &self.part, what)
    }

    /// The next record: its type; its bytes are in `data`. Nothing at the end.
    fn next(&mut self) -> Result<Option<u32>, Error> {
        self.piece.store(0, Ordering::Relaxed);
        let Some(first) = self.byte()? else { return Ok(None) };
        let mut kind = u32::from(first);
        if first & 0x80 != 0 {
            let second = self.byte()?.ok_or_else(|| self.fault("its records break off"))?;
            kind = kind & 0x7F | (u32::from(second) & 0x7F) << 7;
        }
        let mut len = 0_u64;
        for shift in [0, 7, 14, 21] {
            let byte = self.byte()?.ok_or_else(|| self.fault("its records break off"))?;
            len |= u64::from(byte & 0x7F) << shift;
            if byte & 0x80 == 0 {
                break;
            }
        }
        self.data.clear();
        let read = (&mut self.from).take(len).read_to_end(&mut self.data);
        let count = read.map_err(|error| self.fault(&error.to_string()))?;
        if count as u64 == len { Ok(Some(kind)) } else { Err(self.fault("its records break off")) }
    }

    fn byte(&mut self) -> Result<Option<u8>, Error> {
        let mut byte = [0];
        match self.from.read(&mut byte) {
            Ok(0) => Ok(None),
            Ok(_) => Ok(byte.first().copied()),
            Err(error) => Err(self.fault(&error.to_string())),
        }
    }

    /// A text: its length in four bytes, then its characters in UTF-16; and the place behind it.
    fn text_at(&self, at: usize) -> Option<(String, usize)> {
        let count = u32_at(&self.data, at)?;
        // The length of a text that is not there.
        if count == u32::MAX {
            return Some((String::new(), at + 4));
        }
        let end = (at + 4).checked_add((count as usize).checked_mul(2)?)?;
        let units =
            self.data.get(at + 4..end)?.as_chunks::<2>().0.iter().map(|pair| u16::from_le_bytes(*pair));
        let text = char::decode_utf16(units).map(|c| c.unwrap_or(char::REPLACEMENT_CHARACTER)).collect();
        Some((text, end))
    }
}

/// What sheets there are, and what their cells share.
pub(super) fn open(package: &mut Package) -> Result<(Vec<Sheet>, Shared), Error> {
    let relations = relations(package, MAIN)?;
    let (path, piece) = (package.path().to_owned(), package.piece());
    let (mut sheets, mut shared) = (Vec::new(), Shared::default());
    if let Some(part) = package.part(MAIN)? {
        let mut records = Records::new(path.clone(), MAIN, Arc::clone(&piece), part);
        while let Some(kind) = records.next()? {
            match kind {
                // BrtWbProp
                153 => shared.from_1904 = records.data.first().is_some_and(|flags| flags & 1 != 0),
                // BrtBundleSh
                156 => {
                    let found = records.text_at(8).and_then(|(id, at)| Some((id, records.text_at(at)?.0)));
                    if let (Some(state), Some((id, name))) = (u32_at(&records.data, 0), found)
                        && let Some((kind, target)) = relations.get(&id)
                        && kind.ends_with("/worksheet")
                    {
                        sheets.push(Sheet { name, hidden: state != 0, part: joined("xl", target) });
                    }
                }
                _ => {}
            }
        }
    }
    for (kind, target) in relations.values() {
        let name = joined("xl", target);
        if kind.ends_with("/sharedStrings")
            && let Some(part) = package.part(&name)?
        {
            let mut records = Records::new(path.clone(), &name, Arc::clone(&piece), part);
            while let Some(kind) = records.next()? {
                // BrtSSTItem: flags, then the text; its runs follow.
                if kind == 19 {
                    let text =
                        records.text_at(1).ok_or_else(|| records.fault("a shared string breaks off"))?;
                    if !shared.push(&text.0) {
                        return Err(records.fault(TOO_MANY_STRINGS));
                    }
                }
            }
        } else if kind.ends_with("/styles")
            && let Some(part) = package.part(&name)?
        {
            shared.formats = formats(&mut Records::new(path.clone(), &name, Arc::clone(&piece), part))?;
        }
    }
    Ok((sheets, shared))
}

fn formats<R: Read>(records: &mut Records<R>) -> Result<Vec<Format>, Error> {
    let (mut own, mut found, mut in_cells) = (HashMap::new(), Vec::new(), false);
    while let Some(kind) = records.next()? {
        match kind {
            // BrtFmt
            44 => {
                if let (Some(id), Some((code, _))) = (u16_at(&records.data, 0), records.text_at(2)) {
                    own.insert(u32::from(id), Format::of(&code));
                }
            }
            // BrtBeginCellXFs, BrtEndCellXFs
            617 => in_cells = true,
            618 => in_cells = false,
            // BrtXF
            47 if in_cells => {
                let id = u32::from(u16_at(&records.data, 2).unwrap_or(0));
                found.push(own.get(&id).copied().or_else(|| Format::built_in(id)).unwrap_or_default());
            }
            _ => {}
        }
    }
    Ok(found)
}

/// Reads a sheet, and hands on its rows as text.
pub(super) fn read<R: Read>(
    records: &mut Records<R>,
    shared: &Shared,
    bounds: &Bounds,
    take: &mut dyn FnMut(Vec<u8>) -> bool,
) -> Result<SheetFacts, Error> {
    let facts = SheetFacts::default();
    let mut reader = Reader { shared, facts, rows: Rows::new(bounds), row: None, column: 0, filters: false };
    while let Some(kind) = records.next()? {
        if !reader.take_in(records, kind, take)? {
            return Ok(reader.facts);
        }
    }
    reader.end_row()?;
    take(reader.rows.take_text());
    Ok(reader.facts)
}

/// A sheet while it is read.
struct Reader<'a> {
    shared: &'a Shared,
    facts: SheetFacts,
    rows: Rows,
    /// The row that is open, and whether it is hidden.
    row: Option<(u32, bool)>,
    column: u32,
    /// Whether a filter has begun.
    filters: bool,
}

impl Reader<'_> {
    /// Takes in a record of this kind; false when nobody wants more rows.
    fn take_in<R: Read>(
        &mut self,
        records: &mut Records<R>,
        kind: u32,
        take: &mut dyn FnMut(Vec<u8>) -> bool,
    ) -> Result<bool, Error> {
        let data = &records.data;
        match kind {
            // BrtRowHdr
            0 => {
                self.end_row()?;
                if self.rows.text.len() >= PIECE && !take(self.rows.take_text()) {
                    return Ok(false);
                }
                self.begin_row(records)?;
            }
            1..=18 if self.row.is_some() => self.cell(records, kind)?,
            // BrtColInfo
            60 => {
                let (first, last, flags) = (u32_at(data, 0), u32_at(data, 4), u16_at(data, 16));
                if let (Some(first), Some(last), Some(flags)) = (first, last, flags)
                    && flags & 1 != 0
                {
                    self.facts.hide_columns(first, last);
                }
            }
            // BrtBeginAFilter, BrtBeginFilterColumn
            161 => self.filters = true,
            163 if self.filters => self.facts.filter = Some("the sheet".to_owned()),
            // BrtMergeCell
            176 => {
                if self.facts.merged.0 == 0
                    && let (Some(row), Some(column)) = (u32_at(data, 0), u32_at(data, 8))
                {
                    self.facts.merged.1 = format!("{}{}", letter(column as usize), u64::from(row) + 1);
                }
                self.facts.merged.0 += 1;
            }
            // BrtEndSheetData
            146 => self.end_row()?,
            _ => {}
        }
        Ok(true)
    }

    fn begin_row<R: Read>(&mut self, records: &Records<R>) -> Result<(), Error> {
        let number = u32_at(&records.data, 0).unwrap_or(u32::MAX);
        if number >= MOST_ROWS {
            let (at, most) = (u64::from(number) + 1, MOST_ROWS);
            return Err(records.fault(&format!("a row has the number {at}; a sheet has {most} at most")));
        }
        if !self.rows.go_to(number + 1) {
            return Err(records.fault(&format!("row {} stands behind a later one", number + 1)));
        }
        self.row = Some((number, records.data.get(11).is_some_and(|flags| flags & 0x10 != 0)));
        self.column = 0;
        Ok(())
    }

    fn cell<R: Read>(&mut self, records: &mut Records<R>, kind: u32) -> Result<(), Error> {
        // The short records stand in the column behind the one before.
        let is_short = kind >= 12;
        let kind = if is_short { kind - 11 } else { kind };
        let at = if is_short { self.column } else { u32_at(&records.data, 0).unwrap_or(u32::MAX) };
        if at >= MOST_COLUMNS {
            let what = format!("a cell stands in column {}; a sheet has {MOST_COLUMNS}", u64::from(at) + 1);
            return Err(records.fault(&what));
        }
        self.column = at + 1;
        self.facts.last_column = self.facts.last_column.max(at);
        let row = self.row.map_or(0, |row| row.0) + 1;
        let place = || format!("{}{row}", letter(at as usize));
        let (stored, text) = cell(records, self.shared, kind, if is_short { 0 } else { 4 }, place)?;
        self.rows.cell(at, stored, text)
    }

    fn end_row(&mut self) -> Result<(), Error> {
        let Some((number, hidden)) = self.row.take() else { return Ok(()) };
        if hidden && self.rows.has_cells() {
            self.facts.hidden_rows.0 += 1;
            if self.facts.hidden_rows.1 == 0 {
                self.facts.hidden_rows.1 = u64::from(number) + 1;
            }
        }
        self.rows.end_row()
    }
}

/// A cell of a kind as it is judged; its style stands at `at`, its value four bytes behind.
fn cell<R: Read>(
    records: &Records<R>,
    shared: &Shared,
    kind: u32,
    at: usize,
    place: impl Fn() -> String,
) -> Result<(Stored, String), Error> {
    let data = &records.data;
    let style = u32_at(data, at).unwrap_or(0) & 0x00FF_FFFF;
    let number = |number: Option<f64>| {
        let text = number.map(|number| number.to_string()).unwrap_or_default();
        value::number(&text, shared.format(style as usize), shared.from_1904).unwrap_or((Stored::Value, text))
    };
    let at = at + 4;
    Ok(match kind {
        2 => number(u32_at(data, at).map(rk)),
        3 | 11 => (Stored::Value, bool_or_error(data.get(at).copied(), true)),
        4 | 10 => (Stored::Value, bool_or_error(data.get(at).copied(), false)),
        5 | 9 => number(f64_at(data, at)),
        6 => (Stored::Text, records.text_at(at).map(|text| text.0).unwrap_or_default()),
        8 => (Stored::Value, records.text_at(at).map(|text| text.0).unwrap_or_default()),
        7 => {
            let number = u32_at(data, at).unwrap_or(u32::MAX) as usize;
            let text = shared.string(number).ok_or_else(|| {
                let count = shared.strings();
                records.fault(&format!("cell {} refers to shared string {number}, of {count}", place()))
            })?;
            (Stored::Text, text.to_owned())
        }
        _ => (Stored::Value, String::new()),
    })
}
