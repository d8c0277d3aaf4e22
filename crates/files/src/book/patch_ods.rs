//! A sheet of an ODS workbook (OpenDocument 1.3, part 3) with some of its cells rewritten: rows and cells that stand for
//! several are parted where one of those is meant; all else stays as it is written.

use super::new_cells::{Cells, Fault, NewCell, is};
use quick_xml::events::{BytesEnd, BytesStart, BytesText, Event};
use quick_xml::{Reader, Writer};
use std::collections::BTreeMap;
use std::io::{BufRead, Write};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

const ROWS: &str = "table:number-rows-repeated";
const COLUMNS: &str = "table:number-columns-repeated";

/// The content of the workbook on its way.
pub(super) struct Content<'a, R, W: Write> {
    reader: Reader<R>,
    writer: Writer<W>,
    cells: &'a Cells,
    /// Which of the sheets is meant.
    wanted: usize,
    sheets: usize,
    depth: usize,
    in_sheet: bool,
    /// The row that comes next, from 1.
    row: u64,
    piece: Arc<AtomicU64>,
}

/// An element within a row: a cell, or what stands between cells.
struct Piece {
    events: Vec<Event<'static>>,
    /// How many columns it stands for; 0 where it is no cell.
    columns: usize,
}

impl<'a, R: BufRead, W: Write> Content<'a, R, W> {
    pub(super) fn new(from: R, to: W, (cells, wanted): (&'a Cells, usize), piece: Arc<AtomicU64>) -> Self {
        let mut reader = Reader::from_reader(from);
        reader.config_mut().check_end_names = true;
        let writer = Writer::new(to);
        Self { reader, writer, cells, wanted, sheets: 0, depth: 0, in_sheet: false, row: 1, piece }
    }

    pub(super) fn copy(mut self) -> Result<(), Fault> {
        loop {
            let event = self.next()?;
            let is_meant = self.in_sheet && self.depth == 1;
            match event {
                Event::Eof => return Ok(()),
                Event::Start(start) if is_meant && is(&start, "table-row") => self.copy_row(start)?,
                Event::Empty(start) if is_meant && is(&start, "table-row") => {
                    self.row += repeated(&start, ROWS) as u64;
                    self.write(Event::Empty(start))?;
                }
                event => {
                    match &event {
                        Event::Start(start) if is(start, "table") => {
                            if self.depth == 0 {
                                self.in_sheet = self.sheets == self.wanted;
                                self.sheets += 1;
                            }
                            self.depth += 1;
                        }
                        Event::End(end) if end.local_name().as_ref() == "table" => {
                            self.depth = self.depth.saturating_sub(1);
                            self.in_sheet &= self.depth > 0;
                        }
                        _ => {}
                    }
                    self.write(event)?;
                }
            }
        }
    }

    fn next(&mut self) -> Result<Event<'static>, Fault> {
        let mut buffer = Vec::new();
        self.piece.store(0, Ordering::Relaxed);
        let event =
            self.reader.read_event_into(&mut buffer).map_err(|error| Fault::Read(error.to_string()))?;
        Ok(event.into_owned())
    }

    fn write(&mut self, event: Event<'_>) -> Result<(), Fault> {
        self.writer.write_event(event).map_err(Fault::Write)
    }

    /// Copies a row, or the rows that it stands for.
    fn copy_row(&mut self, start: BytesStart<'static>) -> Result<(), Fault> {
        let pieces = self.pieces()?;
        let (first, count) = (self.row, repeated(&start, ROWS) as u64);
        self.row += count;
        let cells = self.cells;
        let new_of = |row: u64| -> BTreeMap<usize, &NewCell> {
            cells.range((row, 0)..=(row, usize::MAX)).map(|(place, new)| (place.1, new)).collect()
        };
        let meant: Vec<u64> = cells.range((first, 0)..(first + count, 0)).map(|(place, _)| place.0).fold(
            Vec::new(),
            |mut rows, row| {
                if rows.last() != Some(&row) {
                    rows.push(row);
                }
                rows
            },
        );
        let mut at = first;
        for row in meant {
            if row > at {
                self.put_row(&start, &pieces, &BTreeMap::new(), row - at)?;
            }
            self.put_row(&start, &pieces, &new_of(row), 1)?;
            at = row + 1;
        }
        if at < first + count {
            self.put_row(&start, &pieces, &BTreeMap::new(), first + count - at)?;
        }
        Ok(())
    }

    /// What stands in a row, up to its end.
    fn pieces(&mut self) -> Result<Vec<Piece>, Fault> {
        let mut pieces: Vec<Piece> = Vec::new();
        let mut depth = 0_usize;
        loop {
            let event = self.next()?;
            match &event {
                Event::Eof => return Err(Fault::Read("it ends within a row".to_owned())),
                Event::End(_) if depth == 0 => return Ok(pieces),
                _ => {}
            }
            if depth == 0 {
                let columns = match &event {
                    Event::Start(start) | Event::Empty(start)
                        if is(start, "table-cell") || is(start, "covered-table-cell") =>
                    {
                        repeated(start, COLUMNS)
                    }
                    _ => 0,
                };
                pieces.push(Piece { events: Vec::new(), columns });
            }
            match &event {
                Event::Start(_) => depth += 1,
                Event::End(_) => depth -= 1,
                _ => {}
            }
            if let Some(piece) = pieces.last_mut() {
                piece.events.push(event);
            }
        }
    }

    /// Writes so many rows that are the same.
    fn put_row(
        &mut self,
        start: &BytesStart<'static>,
        pieces: &[Piece],
        new: &BTreeMap<usize, &NewCell>,
        count: u64,
    ) -> Result<(), Fault> {
        let start = with_count(start, ROWS, usize::try_from(count).unwrap_or(usize::MAX));
        let end = start.to_end().into_owned();
        self.write(Event::Start(start))?;
        let mut column = 0;
        for piece in pieces {
            let behind = column + piece.columns;
            let mut at = column;
            for (place, new) in new.range(column..behind) {
                self.put_piece(piece, place - at)?;
                self.put_new(piece, new)?;
                at = place + 1;
            }
            if piece.columns == 0 {
                piece.events.iter().try_for_each(|event| self.write(event.borrow()))?;
            } else {
                self.put_piece(piece, behind - at)?;
            }
            column = behind;
        }
        self.write(Event::End(end))
    }

    /// Writes a cell that stands for so many columns.
    fn put_piece(&mut self, piece: &Piece, count: usize) -> Result<(), Fault> {
        if count == 0 {
            return Ok(());
        }
        let mut events = piece.events.iter();
        match events.next() {
            Some(Event::Start(start)) => self.write(Event::Start(with_count(start, COLUMNS, count)))?,
            Some(Event::Empty(start)) => self.write(Event::Empty(with_count(start, COLUMNS, count)))?,
            _ => {}
        }
        events.try_for_each(|event| self.write(event.borrow()))
    }

    /// Writes one cell with what it is to hold; one with a formula keeps that.
    fn put_new(&mut self, piece: &Piece, new: &NewCell) -> Result<(), Fault> {
        let Some(Event::Start(start) | Event::Empty(start)) = piece.events.first() else { return Ok(()) };
        let has = |name: &str| start.attributes().flatten().any(|attribute| attribute.key.as_ref() == name);
        if has("table:formula") && *new != NewCell::Nothing {
            return self.put_piece(piece, 1);
        }
        let mut cell = BytesStart::new(start.name().as_ref().to_owned());
        let is_kept = |key: &str| {
            let is_value = key.starts_with("office:") && key.contains("value") || key == "office:currency";
            !is_value && key != COLUMNS && key != "calcext:value-type" && key != "table:formula"
        };
        for attribute in start.attributes().flatten().filter(|attribute| is_kept(attribute.key.as_ref())) {
            cell.push_attribute(attribute);
        }
        let text = match new {
            NewCell::Nothing => return self.write(Event::Empty(cell)),
            NewCell::Number(number) => {
                cell.push_attribute(("office:value-type", "float"));
                cell.push_attribute(("office:value", number.as_str()));
                number
            }
            NewCell::Text(text) => {
                cell.push_attribute(("office:value-type", "string"));
                text
            }
        };
        let end = cell.to_end().into_owned();
        self.write(Event::Start(cell))?;
        for line in text.split('\n') {
            self.write(Event::Start(BytesStart::new("text:p")))?;
            self.write(Event::Text(BytesText::new(line)))?;
            self.write(Event::End(BytesEnd::new("text:p")))?;
        }
        self.write(Event::End(end))
    }
}

/// How many rows or columns an element stands for.
fn repeated(start: &BytesStart<'_>, name: &str) -> usize {
    let stated = start.attributes().flatten().find(|attribute| attribute.key.as_ref() == name);
    stated.and_then(|stated| stated.value.parse().ok()).unwrap_or(1).max(1)
}

/// The element, standing for so many.
fn with_count(start: &BytesStart<'static>, name: &str, count: usize) -> BytesStart<'static> {
    if repeated(start, name) == count {
        return start.clone();
    }
    let mut changed = BytesStart::new(start.name().as_ref().to_owned());
    for attribute in start.attributes().flatten().filter(|attribute| attribute.key.as_ref() != name) {
        changed.push_attribute(attribute);
    }
    if count > 1 {
        changed.push_attribute((name, count.to_string().as_str()));
    }
    changed
}
