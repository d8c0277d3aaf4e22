//! A sheet of an XLSX workbook, read row by row (ECMA-376 part 1, 18.3).

use super::package::LONGEST_PIECE;
use super::rows::{Bounds, Rows, Stored};
use super::value;
use super::xlsx::{Shared, StringText};
use super::xml::{Node, Xml, attribute, is_set, number};
use crate::error::Error;
use quick_xml::events::BytesStart;
use std::io::BufRead;

/// The most rows and columns of a sheet.
pub(super) const MOST_ROWS: u32 = 1_048_576;
pub(super) const MOST_COLUMNS: u32 = 16_384;
/// So many bytes of rows are handed on at once.
pub(super) const PIECE: usize = 128 << 10;

/// What a sheet shows, or hides, beside its cells.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct SheetFacts {
    /// Hidden rows that hold cells: how many, and the first.
    pub(super) hidden_rows: (u64, u64),
    /// Hidden columns that lie within the used ones, from 0: first and last.
    pub(super) hidden_columns: Vec<(u32, u32)>,
    /// Merged ranges: how many, and the first.
    pub(super) merged: (u64, String),
    /// The range of a filter that is on.
    pub(super) filter: Option<String>,
    /// The last column that holds a cell, from 0.
    pub(super) last_column: u32,
}

/// A cell while it is read.
#[derive(Default)]
pub(super) struct Cell {
    row: u32,
    column: u32,
    kind: Option<String>,
    style: usize,
    value: String,
    in_value: bool,
    has_value: bool,
    has_formula: bool,
}

/// A sheet while it is read.
pub(super) struct Walk<'a> {
    pub(super) shared: &'a Shared,
    pub(super) facts: SheetFacts,
    pub(super) rows: Rows,
    pub(super) row: u32,
    pub(super) in_data: bool,
    column: u32,
    hidden: bool,
    cell: Option<Cell>,
    text: StringText,
    filter_range: Option<String>,
}

impl SheetFacts {
    /// Notes that columns are hidden. A sheet has no more ranges than columns.
    pub(super) fn hide_columns(&mut self, first: u32, last: u32) {
        if self.hidden_columns.len() < MOST_COLUMNS as usize {
            self.hidden_columns.push((first, last));
        }
    }
}

impl<'a> Walk<'a> {
    pub(super) fn new(shared: &'a Shared, bounds: &Bounds) -> Self {
        Self {
            shared,
            facts: SheetFacts::default(),
            rows: Rows::new(bounds),
            row: 0,
            in_data: false,
            column: 0,
            hidden: false,
            cell: None,
            text: StringText::default(),
            filter_range: None,
        }
    }

    /// Notes a row that holds cells and is hidden.
    pub(super) fn note_hidden(&mut self) {
        self.facts.hidden_rows.0 += 1;
        if self.facts.hidden_rows.1 == 0 {
            self.facts.hidden_rows.1 = u64::from(self.row);
        }
    }
}

/// Walks over the nodes of a sheet, or of a piece of it, and hands on its rows as text, some at a time; false when told
/// to stop.
pub(super) fn walk_over<R: BufRead>(
    xml: &mut Xml<R>,
    walk: &mut Walk<'_>,
    take: &mut dyn FnMut(Vec<u8>) -> bool,
) -> Result<bool, Error> {
    loop {
        match xml.next()? {
            Node::Open(start) => walk.open(xml, &start)?,
            Node::Empty(start) => walk.empty(xml, &start)?,
            Node::Text(piece) => walk.text(xml, &piece)?,
            Node::Close(name) => {
                if !walk.close(xml, &name, take)? {
                    return Ok(false);
                }
            }
            Node::End => return Ok(true),
        }
    }
}

impl Walk<'_> {
    fn open<R: BufRead>(&mut self, xml: &Xml<R>, start: &BytesStart<'_>) -> Result<(), Error> {
        match start.local_name().as_ref() {
            "sheetData" => self.in_data = true,
            "row" if self.in_data => {
                (self.row, self.column) = (begin_row(xml, start, self.row + 1, &mut self.rows)?, 0);
                self.hidden = is_set(start, "hidden");
            }
            "c" if self.in_data => self.cell = Some(begin_cell(xml, start, self.row, self.column)?),
            "v" => {
                if let Some(cell) = self.cell.as_mut() {
                    (cell.in_value, cell.has_value) = (true, true);
                }
            }
            "autoFilter" => self.filter_range = attribute(start, "ref"),
            _ if self.note(start) => {}
            _ => self.text.open(start),
        }
        Ok(())
    }

    fn empty<R: BufRead>(&mut self, xml: &Xml<R>, start: &BytesStart<'_>) -> Result<(), Error> {
        match start.local_name().as_ref() {
            "row" if self.in_data => {
                self.row = begin_row(xml, start, self.row + 1, &mut self.rows)?;
                self.rows.end_row()?;
            }
            // A cell that has a format and nothing else.
            "c" if self.in_data => {
                let empty = begin_cell(xml, start, self.row, self.column)?;
                self.column = empty.column + 1;
                self.rows.cell(empty.column, Stored::Value, String::new())?;
            }
            _ => drop(self.note(start)),
        }
        Ok(())
    }

    /// Notes what says the same with and without content; false where it is something else.
    fn note(&mut self, start: &BytesStart<'_>) -> bool {
        match start.local_name().as_ref() {
            "f" => self.cell.iter_mut().for_each(|cell| cell.has_formula = true),
            "filterColumn" => {
                self.facts.filter = self.facts.filter.take().or(self.filter_range.clone());
            }
            "mergeCell" => note_merged(&mut self.facts, start),
            "col" => note_hidden_columns(&mut self.facts, start),
            _ => return false,
        }
        true
    }

    fn text<R: BufRead>(&mut self, xml: &Xml<R>, piece: &str) -> Result<(), Error> {
        match self.cell.as_mut() {
            Some(cell) if cell.in_value => {
                cell.value.push_str(piece);
                if cell.value.len() as u64 > LONGEST_PIECE {
                    return Err(xml.fault("a value of it is longer than 32 MiB"));
                }
            }
            _ => {
                self.text.add(piece);
                if self.text.len() as u64 > LONGEST_PIECE {
                    return Err(xml.fault("a text of it is longer than 32 MiB"));
                }
            }
        }
        Ok(())
    }

    /// Ends an element; false when nobody wants more rows.
    fn close<R: BufRead>(
        &mut self,
        xml: &Xml<R>,
        name: &str,
        take: &mut dyn FnMut(Vec<u8>) -> bool,
    ) -> Result<bool, Error> {
        match name {
            "v" => self.cell.iter_mut().for_each(|cell| cell.in_value = false),
            "c" if self.in_data => {
                let Some(cell) = self.cell.take() else { return Ok(true) };
                self.column = cell.column + 1;
                self.facts.last_column = self.facts.last_column.max(cell.column);
                let at = cell.column;
                let (stored, shown) = stored(xml, cell, self.shared, self.text.take())?;
                self.rows.cell(at, stored, shown)?;
            }
            "row" if self.in_data => {
                if self.hidden && self.rows.has_cells() {
                    self.note_hidden();
                }
                self.rows.end_row()?;
                return Ok(self.rows.text.len() < PIECE || take(self.rows.take_text()));
            }
            "sheetData" => self.in_data = false,
            other => self.text.close(other),
        }
        Ok(true)
    }
}

/// Begins a row: the one of its own number, else the next; gives its number.
fn begin_row<R: BufRead>(
    xml: &Xml<R>,
    start: &BytesStart<'_>,
    next: u32,
    rows: &mut Rows,
) -> Result<u32, Error> {
    let stated = attribute(start, "r");
    let row = stated.as_ref().map_or(Some(next), |stated| stated.parse().ok());
    let Some(row) = row.filter(|row| (1..=MOST_ROWS).contains(row)) else {
        let stated = stated.unwrap_or_else(|| next.to_string());
        return Err(xml.fault(&format!("a row has the number {stated}; a sheet has {MOST_ROWS} at most")));
    };
    if !rows.go_to(row) {
        return Err(xml.fault(&format!("row {row} stands behind a later one")));
    }
    Ok(row)
}

fn begin_cell<R: BufRead>(xml: &Xml<R>, start: &BytesStart<'_>, row: u32, next: u32) -> Result<Cell, Error> {
    let place = attribute(start, "r");
    let column = match &place {
        Some(place) => {
            place_of(place)
                .filter(|(_, stated)| *stated == row)
                .ok_or_else(|| xml.fault(&format!("the cell {place} stands in row {row}")))?
                .0
        }
        None => next,
    };
    if column >= MOST_COLUMNS {
        return Err(xml.fault(&format!("a cell stands in column {}; a sheet has {MOST_COLUMNS}", column + 1)));
    }
    let (kind, style) = (attribute(start, "t"), number(start, "s").unwrap_or(0));
    Ok(Cell { row, column, kind, style, ..Cell::default() })
}

/// Column, from 0, and row of a place such as `B12`.
pub(super) fn place_of(place: &str) -> Option<(u32, u32)> {
    let letters = place.bytes().take_while(u8::is_ascii_alphabetic).count();
    let (letters, row) = place.split_at(letters);
    if letters.is_empty() || letters.len() > 3 {
        return None;
    }
    let column = letters
        .bytes()
        .fold(0, |column, letter| column * 26 + u32::from(letter.to_ascii_uppercase() - b'A') + 1);
    Some((column - 1, row.parse().ok()?))
}

/// A cell as it is judged.
fn stored<R: BufRead>(
    xml: &Xml<R>,
    cell: Cell,
    shared: &Shared,
    inline: String,
) -> Result<(Stored, String), Error> {
    let place = || format!("{}{}", tidy_gate_core::finding::letter(cell.column as usize), cell.row);
    let kind = cell.kind.as_deref().unwrap_or("n");
    if kind == "inlineStr" {
        return Ok((Stored::Text, inline));
    }
    if cell.value.is_empty() {
        let stale = cell.has_formula && (kind != "str" || !cell.has_value);
        return Ok((if stale { Stored::Stale } else { Stored::Value }, String::new()));
    }
    match kind {
        "s" => {
            let number = cell.value.trim().parse::<usize>().ok();
            let text = number.and_then(|number| shared.string(number)).ok_or_else(|| {
                let (place, count) = (place(), shared.strings());
                xml.fault(&format!("cell {place} refers to shared string {}, of {count}", cell.value.trim()))
            })?;
            Ok((Stored::Text, text.to_owned()))
        }
        "str" => Ok((Stored::Text, value::unescaped(&cell.value))),
        "b" => Ok((Stored::Value, if cell.value.trim() == "0" { "FALSE" } else { "TRUE" }.to_owned())),
        "e" => Ok((Stored::Value, cell.value.trim().to_owned())),
        "d" => Ok((Stored::Value, cell.value.trim().to_owned())),
        _ => {
            let shown = value::number(&cell.value, shared.format(cell.style), shared.from_1904);
            shown.ok_or_else(|| xml.fault(&format!("cell {} holds a number that is none", place())))
        }
    }
}

fn note_merged(facts: &mut SheetFacts, start: &BytesStart<'_>) {
    if facts.merged.0 == 0 {
        facts.merged.1 = attribute(start, "ref").unwrap_or_default();
    }
    facts.merged.0 += 1;
}

fn note_hidden_columns(facts: &mut SheetFacts, start: &BytesStart<'_>) {
    if is_set(start, "hidden")
        && let (Some(first), Some(last)) = (number::<u32>(start, "min"), number::<u32>(start, "max"))
    {
        facts.hide_columns(first.saturating_sub(1), last.saturating_sub(1));
    }
}
