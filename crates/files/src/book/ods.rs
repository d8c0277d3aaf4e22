//! Workbooks of the form ODS (OpenDocument 1.3, part 3): one part holds all sheets.

use super::package::Package;
use super::rows::{Bounds, Rows, Stored};
use super::sheet::{MOST_COLUMNS, MOST_ROWS, PIECE, SheetFacts};
use super::xlsx::Sheet;
use super::xml::{Node, Xml, attribute, number};
use crate::error::Error;
use quick_xml::events::BytesStart;
use std::collections::HashSet;
use std::io::BufRead;

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
        let value = self.value.unwrap_or_default();
        match self.kind.as_deref() {
            Some(kind @ ("float" | "percentage" | "currency")) => {
                // Zeros that the format puts before the number are shown.
                let is_padded = shown.len() > value.len()
                    && shown.starts_with('0')
                    && shown.bytes().all(|byte| byte.is_ascii_digit())
                    && shown.trim_start_matches('0') == value;
                let text = match is_padded {
                    true => shown,
                    false if kind == "percentage" => {
                        super::value::number(&value, super::format::Format::Percent, false)?
                    }
                    false => super::value::number(&value, super::format::Format::Number, false)?,
                };
                Some((Stored::Value, text))
            }
            Some("date") => Some((Stored::Value, value.split('.').next().unwrap_or_default().to_owned())),
            Some("time") => Some((Stored::Value, clock(&value).unwrap_or(shown))),
            Some("boolean") => Some((Stored::Value, value.to_uppercase())),
            Some(_) => Some((Stored::Text, if shown.is_empty() { value } else { shown })),
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
    let (mut facts, mut rows) = (SheetFacts::default(), Rows::new(bounds));
    let (mut number_of, mut depth, mut in_sheet) = (0, 0_usize, false);
    let (mut row, mut column, mut column_seen) = (0_u32, 0_u32, 0_u32);
    let (mut row_repeated, mut row_hidden) = (1_u32, false);
    let mut cell: Option<Cell> = None;
    let (mut in_note, mut in_paragraph) = (0_usize, 0_usize);
    let mut cells: Vec<(u32, Stored, String)> = Vec::new();
    loop {
        let node = xml.next()?;
        let (start, is_empty) = match node {
            Node::Open(start) => (start, false),
            Node::Empty(start) => (start, true),
            Node::Text(piece) => {
                if let Some(cell) = cell.as_mut().filter(|_| in_note == 0 && in_paragraph > 0) {
                    cell.push_collapsed(&piece);
                    if cell.text.len() > bounds.row() {
                        return Err(bounds.too_long(row + 1));
                    }
                }
                continue;
            }
            Node::Close(name) => {
                match name.as_str() {
                    "table" => {
                        depth -= 1;
                        if depth == 0 && in_sheet {
                            take(rows.take_text());
                            return Ok(facts);
                        }
                    }
                    "annotation" => in_note = in_note.saturating_sub(1),
                    "p" if in_note == 0 => {
                        in_paragraph = in_paragraph.saturating_sub(1);
                    }
                    "table-cell" | "covered-table-cell" if in_sheet && depth == 1 => {
                        if let Some(cell) = cell.take() {
                            column = put(xml, bounds, cell, (row, column), &mut cells)?;
                        }
                    }
                    "table-row" if in_sheet && depth == 1 => {
                        end_row(xml, &mut facts, &mut rows, &mut cells, row, row_repeated, row_hidden)?;
                        row = row.saturating_add(row_repeated);
                        if rows.text.len() >= PIECE && !take(rows.take_text()) {
                            return Ok(facts);
                        }
                    }
                    _ => {}
                }
                continue;
            }
            Node::End => return Ok(facts),
        };
        match start.local_name().as_ref() {
            "table" if !is_empty => {
                if depth == 0 {
                    in_sheet = number_of == wanted;
                    number_of += 1;
                }
                depth += 1;
            }
            _ if !in_sheet || depth != 1 => {}
            "annotation" if !is_empty => in_note += 1,
            "p" if in_note == 0 => {
                if let Some(cell) = &mut cell {
                    if cell.paragraphs > 0 {
                        cell.text.push('\n');
                    }
                    cell.paragraphs += 1;
                    in_paragraph += usize::from(!is_empty);
                }
            }
            "s" | "tab" | "line-break" if in_note == 0 => {
                if let Some(cell) = &mut cell {
                    let count = number::<usize>(&start, "c").unwrap_or(1).min(10_000);
                    match start.local_name().as_ref() {
                        "s" => cell.text.extend(std::iter::repeat_n(' ', count)),
                        "tab" => cell.text.push('\t'),
                        _ => cell.text.push('\n'),
                    }
                    if cell.text.len() > bounds.row() {
                        return Err(bounds.too_long(row + 1));
                    }
                }
            }
            "table-column" => {
                let count = number(&start, "number-columns-repeated").unwrap_or(1).max(1);
                if attribute(&start, "visibility").is_some_and(|seen| seen != "visible") {
                    facts.hide_columns(column_seen, column_seen.saturating_add(count - 1));
                }
                column_seen = column_seen.saturating_add(count);
            }
            "table-row" => {
                (column, row_repeated) = (0, number(&start, "number-rows-repeated").unwrap_or(1).max(1));
                let seen = attribute(&start, "visibility");
                row_hidden = seen.as_deref().is_some_and(|seen| seen != "visible");
                if seen.as_deref() == Some("filter") && facts.filter.is_none() {
                    facts.filter = Some("the sheet".to_owned());
                }
                if is_empty {
                    row = row.saturating_add(row_repeated);
                }
            }
            "table-cell" | "covered-table-cell" => {
                if attribute(&start, "number-columns-spanned").is_some_and(|count| count != "1")
                    || attribute(&start, "number-rows-spanned").is_some_and(|count| count != "1")
                {
                    if facts.merged.0 == 0 {
                        facts.merged.1 =
                            format!("{}{}", tidy_gate_core::finding::letter(column as usize), row + 1);
                    }
                    facts.merged.0 += 1;
                }
                let begun = Cell::new(&start);
                if is_empty {
                    column = put(xml, bounds, begun, (row, column), &mut cells)?;
                } else {
                    cell = Some(begun);
                }
            }
            _ => {}
        }
    }
}

/// Puts a cell in its places; gives the next column.
fn put<R: BufRead>(
    xml: &Xml<R>,
    bounds: &Bounds,
    cell: Cell,
    (row, column): (u32, u32),
    cells: &mut Vec<(u32, Stored, String)>,
) -> Result<u32, Error> {
    let repeated = cell.repeated.max(1);
    let next = column.saturating_add(repeated);
    if let Some((stored, text)) = cell.stored() {
        if next > MOST_COLUMNS {
            return Err(xml.fault(&format!("a cell stands in column {next}; a sheet has {MOST_COLUMNS}")));
        }
        // Copies of a long text are longer than a row may be.
        if text.len().saturating_mul(repeated as usize) > bounds.row() {
            return Err(bounds.too_long(row + 1));
        }
        cells.extend((column..next).map(|column| (column, stored, text.clone())));
    }
    Ok(next)
}

/// Ends a row, as often as it is repeated.
fn end_row<R: BufRead>(
    xml: &Xml<R>,
    facts: &mut SheetFacts,
    rows: &mut Rows,
    cells: &mut Vec<(u32, Stored, String)>,
    row: u32,
    repeated: u32,
    hidden: bool,
) -> Result<(), Error> {
    if cells.is_empty() {
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
    if repeated > 1 && u64::from(repeated) * cells.len() as u64 > MOST_COPIES {
        return Err(xml.fault(&format!("row {} is repeated {repeated} times with its values", row + 1)));
    }
    for copy in 0..repeated {
        rows.go_to(row + copy + 1);
        for (column, stored, text) in cells.iter() {
            facts.last_column = facts.last_column.max(*column);
            rows.cell(*column, *stored, text.clone())?;
        }
        rows.end_row()?;
        if hidden {
            facts.hidden_rows.0 += 1;
            if facts.hidden_rows.1 == 0 {
                facts.hidden_rows.1 = u64::from(row + copy + 1);
            }
        }
    }
    cells.clear();
    Ok(())
}
