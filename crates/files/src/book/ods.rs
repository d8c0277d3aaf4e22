//! Workbooks of the form ODS (OpenDocument 1.3, part 3): one part holds all sheets.

use super::format::Format;
use super::package::Package;
use super::rows::{Bounds, Rows, Stored};
use super::sheet::{MOST_COLUMNS, MOST_ROWS, PIECE, SheetFacts};
use super::value;
use super::xlsx::Sheet;
use super::xml::{Node, Xml, attribute, number};
use crate::error::Error;
use quick_xml::events::BytesStart;
use std::collections::HashSet;
use std::io::BufRead;
use tidy_gate_core::finding::letter;

const CONTENT: &str = "content.xml";

/// Whether the package is such a workbook.
pub(super) fn is_one(package: &Package) -> bool {
    package.has(CONTENT) && package.has("META-INF/manifest.xml") && !package.has("[Content_Types].xml")
}

/// Whether its content is encrypted.
pub(super) fn is_encrypted(package: &mut Package) -> Result<bool, Error> {
    let (path, name) = (package.path().to_owned(), "META-INF/manifest.xml");
    let piece = package.piece();
    let Some(part) = package.part(name)? else { return Ok(false) };
    let mut xml = Xml::new(path, name, piece, part);
    loop {
        match xml.next()? {
            Node::Open(start) | Node::Empty(start) if start.local_name().as_ref() == "encryption-data" => {
                return Ok(true);
            }
            Node::End => return Ok(false),
            _ => {}
        }
    }
}

/// What sheets there are.
pub(super) fn sheets(package: &mut Package) -> Result<Vec<Sheet>, Error> {
    let mut found = Vec::new();
    let mut hidden_styles = HashSet::new();
    let mut style = String::new();
    let (path, piece) = (package.path().to_owned(), package.piece());
    let Some(part) = package.part(CONTENT)? else {
        return Err(Error::damaged(&path, CONTENT, "it is missing"));
    };
    let mut xml = Xml::new(path, CONTENT, piece, part);
    let mut depth = 0;
    loop {
        match xml.next()? {
            Node::Open(start) | Node::Empty(start) if start.local_name().as_ref() == "style" => {
                style = attribute(&start, "name").unwrap_or_default();
            }
            Node::Open(start) | Node::Empty(start)
                if start.local_name().as_ref() == "table-properties"
                    && attribute(&start, "display").as_deref() == Some("false") =>
            {
                hidden_styles.insert(style.clone());
            }
            Node::Open(start) if start.local_name().as_ref() == "table" => {
                // A table inside a cell is none of the sheets.
                if depth == 0 {
                    let style = attribute(&start, "style-name").unwrap_or_default();
                    found.push(Sheet {
                        name: attribute(&start, "name").unwrap_or_default(),
                        hidden: hidden_styles.contains(&style),
                        part: CONTENT.to_owned(),
                    });
                }
                depth += 1;
            }
            Node::Close(name) if name == "table" => depth -= 1,
            Node::End => return Ok(found),
            _ => {}
        }
    }
}

/// A cell while it is read.
struct Cell {
    kind: Option<String>,
    value: Option<String>,
    has_formula: bool,
    is_error: bool,
    repeated: u32,
    text: String,
    paragraphs: usize,
}

impl Cell {
    fn new(start: &BytesStart<'_>) -> Self {
        let kind = attribute(start, "value-type");
        let value = ["value", "date-value", "time-value", "boolean-value", "string-value"];
        Self {
            value: value.iter().find_map(|name| attribute(start, name)),
            is_error: start.attributes().flatten().any(|attribute| {
                attribute.key.as_ref() == "calcext:value-type" && attribute.value.as_ref() == "error"
            }),
            kind,
            has_formula: attribute(start, "formula").is_some(),
            repeated: number(start, "number-columns-repeated").unwrap_or(1),
            text: String::new(),
            paragraphs: 0,
        }
    }

    /// Adds text: white space counts as one space, and as none at the start of a paragraph.
    fn push_collapsed(&mut self, piece: &str) {
        for c in piece.chars() {
            match c {
                ' ' | '\t' | '\n' | '\r' => {
                    if !self.text.is_empty() && !self.text.ends_with([' ', '\n']) {
                        self.text.push(' ');
                    }
                }
                c => {
                    self.text.push(c);
                }
            }
        }
    }

    /// The cell as it is judged; nothing where it holds nothing.
    fn stored(self) -> Option<(Stored, String)> {
        let shown = self.text;
        if self.is_error {
            return Some((Stored::Value, shown));
        }
        let stated = self.value.unwrap_or_default();
        match self.kind.as_deref() {
            Some(kind @ ("float" | "percentage" | "currency")) => {
                // Zeros that the format puts before the number are shown.
                let is_padded = shown.len() > stated.len()
                    && shown.starts_with('0')
                    && shown.bytes().all(|byte| byte.is_ascii_digit())
                    && shown.trim_start_matches('0') == stated;
                let format = if kind == "percentage" { Format::Percent } else { Format::Number };
                if is_padded { Some((Stored::Value, shown)) } else { value::number(&stated, format, false) }
            }
            Some("date") => Some((Stored::Value, stated.split('.').next().unwrap_or_default().to_owned())),
            Some("time") => Some((Stored::Value, clock(&stated).unwrap_or(shown))),
            Some("boolean") => Some((Stored::Value, stated.to_uppercase())),
            Some(_) => Some((Stored::Text, if shown.is_empty() { stated } else { shown })),
            None if self.has_formula => Some((Stored::Stale, String::new())),
            None if shown.is_empty() => None,
            None => Some((Stored::Text, shown)),
        }
    }
}

/// `PT12H30M05S` as a time.
fn clock(text: &str) -> Option<String> {
    let (mut parts, mut digits, mut fraction) = ([0_u64; 3], String::new(), String::new());
    for c in text.strip_prefix("PT")?.chars() {
        let at = match c {
            'H' => 0,
            'M' => 1,
            'S' => 2,
            c => {
                digits.push(c);
                continue;
            }
        };
        let number = std::mem::take(&mut digits);
        let (whole, decimals) = number.split_once([',', '.']).unwrap_or((&number, ""));
        *parts.get_mut(at)? = whole.parse().ok()?;
        if at == 2 && !decimals.trim_end_matches('0').is_empty() {
            fraction = format!(".{}", decimals.trim_end_matches('0'));
        }
    }
    let [hours, minutes, seconds] = parts;
    Some(format!("{hours:02}:{minutes:02}:{seconds:02}{fraction}"))
}

/// Reads the sheet of this number, and hands on its rows as text.
pub(super) fn read<R: BufRead>(
    xml: &mut Xml<R>,
    wanted: usize,
    bounds: &Bounds,
    mut take: impl FnMut(Vec<u8>) -> bool,
) -> Result<SheetFacts, Error> {
    let mut reader = Reader::new(wanted, bounds);
    loop {
        let goes_on = match xml.next()? {
            Node::Open(start) => reader.open(xml, &start, false).map(|()| true),
            Node::Empty(start) => reader.open(xml, &start, true).map(|()| true),
            Node::Text(piece) => reader.text(&piece).map(|()| true),
            Node::Close(name) => reader.close(xml, &name, &mut take),
            Node::End => Ok(false),
        }?;
        if !goes_on {
            return Ok(reader.facts);
        }
    }
}

/// A sheet while it is read.
struct Reader<'a> {
    wanted: usize,
    bounds: &'a Bounds,
    facts: SheetFacts,
    rows: Rows,
    /// How many sheets have begun.
    sheets: usize,
    /// How many tables are open, one inside the other.
    depth: usize,
    in_sheet: bool,
    row: u32,
    column: u32,
    /// The column behind those whose looks were told.
    column_seen: u32,
    row_repeated: u32,
    row_hidden: bool,
    cell: Option<Cell>,
    in_note: usize,
    in_paragraph: usize,
    /// The cells of the row.
    cells: Vec<(u32, Stored, String)>,
}

impl<'a> Reader<'a> {
    fn new(wanted: usize, bounds: &'a Bounds) -> Self {
        Self {
            wanted,
            bounds,
            facts: SheetFacts::default(),
            rows: Rows::new(bounds),
            sheets: 0,
            depth: 0,
            in_sheet: false,
            row: 0,
            column: 0,
            column_seen: 0,
            row_repeated: 1,
            row_hidden: false,
            cell: None,
            in_note: 0,
            in_paragraph: 0,
            cells: Vec::new(),
        }
    }

    fn open<R: BufRead>(
        &mut self,
        xml: &Xml<R>,
        start: &BytesStart<'_>,
        is_empty: bool,
    ) -> Result<(), Error> {
        match start.local_name().as_ref() {
            "table" if !is_empty => {
                if self.depth == 0 {
                    self.in_sheet = self.sheets == self.wanted;
                    self.sheets += 1;
                }
                self.depth += 1;
            }
            _ if !self.in_sheet || self.depth != 1 => {}
            "annotation" if !is_empty => self.in_note += 1,
            "p" if self.in_note == 0 => {
                if let Some(cell) = &mut self.cell {
                    if cell.paragraphs > 0 {
                        cell.text.push('\n');
                    }
                    cell.paragraphs += 1;
                    self.in_paragraph += usize::from(!is_empty);
                }
            }
            "s" | "tab" | "line-break" if self.in_note == 0 => self.space(start)?,
            "table-column" => {
                let count = number(start, "number-columns-repeated").unwrap_or(1).max(1);
                if attribute(start, "visibility").is_some_and(|seen| seen != "visible") {
                    self.facts.hide_columns(self.column_seen, self.column_seen.saturating_add(count - 1));
                }
                self.column_seen = self.column_seen.saturating_add(count);
            }
            "table-row" => self.begin_row(start, is_empty),
            "table-cell" | "covered-table-cell" => {
                self.note_merged(start);
                let begun = Cell::new(start);
                if is_empty {
                    self.put(xml, begun)?;
                } else {
                    self.cell = Some(begun);
                }
            }
            _ => {}
        }
        Ok(())
    }

    /// Spaces, tabs and line breaks that stand as elements of their own.
    fn space(&mut self, start: &BytesStart<'_>) -> Result<(), Error> {
        let Some(cell) = &mut self.cell else { return Ok(()) };
        let count = number::<usize>(start, "c").unwrap_or(1).min(10_000);
        match start.local_name().as_ref() {
            "s" => cell.text.extend(std::iter::repeat_n(' ', count)),
            "tab" => cell.text.push('\t'),
            _ => cell.text.push('\n'),
        }
        self.bound()
    }

    fn text(&mut self, piece: &str) -> Result<(), Error> {
        let is_meant = self.in_note == 0 && self.in_paragraph > 0;
        let Some(cell) = self.cell.as_mut().filter(|_| is_meant) else { return Ok(()) };
        cell.push_collapsed(piece);
        self.bound()
    }

    /// No cell is longer than a row may be.
    fn bound(&self) -> Result<(), Error> {
        let length = self.cell.as_ref().map_or(0, |cell| cell.text.len());
        if length > self.bounds.row() { Err(self.bounds.too_long(self.row + 1)) } else { Ok(()) }
    }

    fn begin_row(&mut self, start: &BytesStart<'_>, is_empty: bool) {
        (self.column, self.row_repeated) = (0, number(start, "number-rows-repeated").unwrap_or(1).max(1));
        let seen = attribute(start, "visibility");
        self.row_hidden = seen.as_deref().is_some_and(|seen| seen != "visible");
        if seen.as_deref() == Some("filter") && self.facts.filter.is_none() {
            self.facts.filter = Some("the sheet".to_owned());
        }
        if is_empty {
            self.row = self.row.saturating_add(self.row_repeated);
        }
    }

    fn note_merged(&mut self, start: &BytesStart<'_>) {
        let is_wide = |name| attribute(start, name).is_some_and(|count| count != "1");
        if is_wide("number-columns-spanned") || is_wide("number-rows-spanned") {
            if self.facts.merged.0 == 0 {
                self.facts.merged.1 = format!("{}{}", letter(self.column as usize), self.row + 1);
            }
            self.facts.merged.0 += 1;
        }
    }

    /// Ends an element; false when the sheet is at its end, or nobody wants more of it.
    fn close<R: BufRead>(
        &mut self,
        xml: &Xml<R>,
        name: &str,
        take: &mut impl FnMut(Vec<u8>) -> bool,
    ) -> Result<bool, Error> {
        match name {
            "table" => {
                self.depth -= 1;
                if self.depth == 0 && self.in_sheet {
                    take(self.rows.take_text());
                    return Ok(false);
                }
            }
            "annotation" => self.in_note = self.in_note.saturating_sub(1),
            "p" if self.in_note == 0 => self.in_paragraph = self.in_paragraph.saturating_sub(1),
            "table-cell" | "covered-table-cell" if self.in_sheet && self.depth == 1 => {
                if let Some(cell) = self.cell.take() {
                    self.put(xml, cell)?;
                }
            }
            "table-row" if self.in_sheet && self.depth == 1 => {
                self.end_row(xml)?;
                self.row = self.row.saturating_add(self.row_repeated);
                return Ok(self.rows.text.len() < PIECE || take(self.rows.take_text()));
            }
            _ => {}
        }
        Ok(true)
    }

    /// Puts a cell in its places.
    fn put<R: BufRead>(&mut self, xml: &Xml<R>, cell: Cell) -> Result<(), Error> {
        let repeated = cell.repeated.max(1);
        let next = self.column.saturating_add(repeated);
        if let Some((stored, text)) = cell.stored() {
            if next > MOST_COLUMNS {
                return Err(xml.fault(&format!("a cell stands in column {next}; a sheet has {MOST_COLUMNS}")));
            }
            // Copies of a long text are longer than a row may be.
            if text.len().saturating_mul(repeated as usize) > self.bounds.row() {
                return Err(self.bounds.too_long(self.row + 1));
            }
            self.cells.extend((self.column..next).map(|column| (column, stored, text.clone())));
        }
        self.column = next;
        Ok(())
    }

    /// Ends a row, as often as it is repeated.
    fn end_row<R: BufRead>(&mut self, xml: &Xml<R>) -> Result<(), Error> {
        let (row, repeated) = (self.row, self.row_repeated);
        if self.cells.is_empty() {
            return Ok(());
        }
        if row.saturating_add(repeated) > MOST_ROWS {
            return Err(xml.fault(&format!(
                "row {} holds values; a sheet has {MOST_ROWS} rows",
                row.saturating_add(repeated)
            )));
        }
        // Rows that are written once and stand for many: a sound sheet has few of them with values.
        const MOST_COPIES: u64 = 4_000_000;
        if repeated > 1 && u64::from(repeated) * self.cells.len() as u64 > MOST_COPIES {
            return Err(xml.fault(&format!("row {} is repeated {repeated} times with its values", row + 1)));
        }
        for copy in 0..repeated {
            self.rows.go_to(row + copy + 1);
            for (column, stored, text) in &self.cells {
                self.facts.last_column = self.facts.last_column.max(*column);
                self.rows.cell(*column, *stored, text.clone())?;
            }
            self.rows.end_row()?;
            if self.row_hidden {
                self.facts.hidden_rows.0 += 1;
                if self.facts.hidden_rows.1 == 0 {
                    self.facts.hidden_rows.1 = u64::from(row + copy + 1);
                }
            }
        }
        self.cells.clear();
        Ok(())
    }
}
