//! Workbooks: which sheet holds the table, and its rows as text that is laid out and judged as any other.

mod binary;
mod format;
mod forms;
mod marked;
mod marks;
mod new_cells;
mod ods;
mod package;
mod patch;
mod patch_ods;
mod rows;
mod scan;
mod sheet;
mod template;
mod value;
mod xls;
mod xlsb;
mod xlsx;
mod xml;

pub(crate) use marked::Marked;
pub(crate) use marks::{CellMark, DropDown, Kind, Marking, NextMarks, RowMarks, push_text, put_marks};
pub use marks::{FrontLine, FrontLook, Limit, MarkSum};
pub(crate) use new_cells::NewCell;
pub(crate) use patch::patch;
pub(crate) use rows::{Stored, write_cell};
pub use template::meant_by;
pub use xlsx::Sheet;

use super::error::Error;
use crate::layout::{Fact, FirstRow, TemplateOf, fits};
use crate::pieces::{PieceReader, Pieces};
use crate::text::input::Package as Packing;
use crate::text::opening::first_rows;
use crate::text::options::Limits;
use rows::Bounds;
use sheet::SheetFacts;
use std::fs::File;
use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};
use tidy_gate_core::catalogue::{Code, entry};
use tidy_gate_core::decided::Decided;
use tidy_gate_core::finding::{Finding, letter};
use tidy_gate_core::misfire;
use tidy_gate_core::schema::RecordSchema;

/// A sheet that is read.
pub(crate) struct OpenSheet {
    /// Its rows as text.
    reader: Option<PieceReader>,
    pub(crate) name: String,
    /// The form of the workbook.
    pub(crate) form: &'static str,
    pub(crate) sheets: Vec<Sheet>,
    /// How it was chosen.
    pub(crate) fact: Fact,
    /// Several sheets fit and none was named.
    pub(crate) unclear: Option<Finding>,
    /// The template that it was filled on.
    pub(crate) template: Option<TemplateOf>,
    /// What was decided of the file of which it holds a part.
    pub(crate) decided: Decided,
    /// What an earlier check put into it.
    pub(crate) marked: Option<Marked>,
    facts: Arc<Mutex<SheetFacts>>,
}

/// Opens a workbook, an archive or a compound file; `wanted` is the name or the number of a sheet.
pub(crate) fn open(
    path: &Path,
    file: File,
    limits: Limits,
    wanted: Option<&str>,
    schema: Option<&RecordSchema>,
    packing: Packing,
) -> Result<OpenSheet, Error> {
    let mut book = Book::open(path, file, limits, packing)?;
    let template::Told { mut template, decided, .. } = book.form.told()?;
    let names: Vec<String> = book.sheets.iter().map(|sheet| sheet.name.clone()).collect();
    let mut marked = marked::find(&names, &mut |number| beginning(&mut book, number))?;
    let front = marked.as_ref().map(|marked| marked.front);
    let Choice { number, fact, unclear } = choose(&mut book, front, wanted, schema, &mut template)?;
    if let Some(found) = marked.take() {
        let found = found.seen_in(&beginning(&mut book, number)?);
        book.bounds.take_off(found.columns);
        marked = Some(found);
    }
    let Some(name) = book.sheets.get(number).map(|sheet| sheet.name.clone()) else {
        return Err(Error::damaged(path, "the workbook", "it has no sheet of cells"));
    };
    let (sheets, form) = (book.sheets.clone(), book.form.name());
    let facts = Arc::new(Mutex::new(SheetFacts::default()));
    let told = Arc::clone(&facts);
    // A few pieces wait for whoever judges them; no more are read meanwhile.
    let pieces = Pieces::start(path, 4, move |take| {
        let found = book.read(number, take)?;
        misfire::point("sheet");
        *told.lock().unwrap_or_else(PoisonError::into_inner) = found;
        Ok(())
    })?;
    let reader = PieceReader::new(pieces);
    Ok(OpenSheet {
        reader: Some(reader),
        name,
        form,
        sheets,
        fact,
        unclear,
        template,
        decided,
        marked,
        facts,
    })
}

/// A workbook of whatever form.
struct Book {
    path: PathBuf,
    sheets: Vec<Sheet>,
    form: Box<dyn forms::Form>,
    bounds: Bounds,
}

impl Book {
    fn open(path: &Path, file: File, limits: Limits, packing: Packing) -> Result<Self, Error> {
        let size = file.metadata().map_or(0, |facts| facts.len());
        let bounds = Bounds::new(path, size, limits);
        let (form, sheets) = forms::open(path, file, limits, packing)?;
        Ok(Self { path: path.to_owned(), sheets, form, bounds })
    }

    /// Reads the sheet of this number; its rows are handed on as text until `take` says no.
    fn read(&mut self, number: usize, take: &mut dyn FnMut(Vec<u8>) -> bool) -> Result<SheetFacts, Error> {
        match self.sheets.get(number) {
            Some(sheet) => self.form.read(number, &sheet.part, &self.bounds, take),
            None => Ok(SheetFacts::default()),
        }
    }
}

struct Choice {
    number: usize,
    fact: Fact,
    unclear: Option<Finding>,
}

/// So many sheets are looked at for the one that fits; beyond them it must be named.
const MOST_LOOKED_AT: usize = 64;

/// The sheet of this name, in whatever case; else of this number. A sheet in front that an earlier check wrote does not
/// count.
fn named(book: &Book, front: Option<usize>, wanted: &str) -> Result<Choice, Error> {
    let sheets = &book.sheets;
    let by_name = |same: &dyn Fn(&str) -> bool| sheets.iter().position(|sheet| same(&sheet.name));
    let mut counted = (0..sheets.len()).filter(|number| Some(*number) != front);
    let number = by_name(&|name| name == wanted)
        .or_else(|| by_name(&|name| name.to_lowercase() == wanted.to_lowercase()))
        .or_else(|| counted.nth(wanted.parse::<usize>().ok()?.checked_sub(1)?));
    let number = number.ok_or_else(|| Error::NoSuchSheet {
        path: book.path.clone(),
        sheet: wanted.to_owned(),
        sheets: sheets.iter().map(|sheet| sheet.name.as_str()).collect::<Vec<_>>().join(", "),
    })?;
    let name = sheets.get(number).map(|sheet| sheet.name.clone()).unwrap_or_default();
    Ok(Choice { number, fact: Fact::stated("sheet", name), unclear: None })
}

/// What the sheets hold.
#[derive(Default)]
struct Held {
    /// Those that fit the record.
    fitting: Vec<usize>,
    /// Those that hold anything.
    filled: Vec<usize>,
    /// The first that holds a table.
    table: Option<usize>,
}

/// Which sheet to read: the one that is named, the only one that fits the record, or the first that is to be seen.
fn choose(
    book: &mut Book,
    front: Option<usize>,
    wanted: Option<&str>,
    schema: Option<&RecordSchema>,
    template: &mut Option<TemplateOf>,
) -> Result<Choice, Error> {
    if let Some(wanted) = wanted {
        return named(book, front, wanted);
    }
    let is_seen =
        |(number, sheet): (usize, &Sheet)| (!sheet.hidden && Some(number) != front).then_some(number);
    let seen: Vec<usize> = book.sheets.iter().enumerate().filter_map(is_seen).collect();
    if let [only] = seen.as_slice() {
        let name = book.sheets.get(*only).map(|sheet| sheet.name.clone()).unwrap_or_default();
        let fact = Fact::plain("sheet", name, "it is the only one to be seen".to_owned());
        return Ok(Choice { number: *only, fact, unclear: None });
    }
    let mut held = Held::default();
    // In some forms a sheet is found only behind all that stand before it.
    for &number in seen.iter().take(MOST_LOOKED_AT) {
        let rows = beginning(book, number)?;
        // The lists of a template are none of the data.
        if let Some(found) = template::in_sheet(&rows) {
            *template = template.take().or(Some(found));
            continue;
        }
        if rows.iter().any(|row| row.filled() > 0) {
            held.filled.push(number);
            held.table = held.table.or(looks_like_table(&rows).then_some(number));
            held.fitting.extend(schema.filter(|schema| fits(&rows, schema)).map(|_| number));
        }
    }
    Ok(by_what_they_hold(&book.sheets, seen.first().copied().unwrap_or(0), &held, schema.is_some()))
}

/// The sheet that holds what is wanted; `first` is the first to be seen.
fn by_what_they_hold(sheets: &[Sheet], first: usize, held: &Held, has_schema: bool) -> Choice {
    let Held { fitting, filled, table } = held;
    let name = |number: usize| sheets.get(number).map(|sheet| sheet.name.clone()).unwrap_or_default();
    match (fitting.as_slice(), filled.first()) {
        ([only], _) => {
            let evidence = "it alone holds the record's key and half of the fields it needs".to_owned();
            let fact = match *only == first {
                true => Fact::plain("sheet", name(*only), evidence),
                false => Fact::guessed("sheet", name(*only), evidence),
            };
            Choice { number: *only, fact, unclear: None }
        }
        ([several, ..], _) => {
            let names: Vec<_> = fitting.iter().map(|number| name(*number)).collect();
            let message =
                format!("the sheets {} hold data that fits; name one with --sheet", names.join(", "));
            let finding = Finding::new(Code::SheetUnclear, entry(Code::SheetUnclear).level, message);
            let fact = Fact::plain("sheet", name(*several), "several fit".to_owned());
            Choice { number: *several, fact, unclear: Some(finding) }
        }
        ([], _) if !has_schema && filled.len() > 1 && table.is_some_and(|table| table != first) => {
            let number = table.unwrap_or(first);
            let evidence = "it is the first that holds a table".to_owned();
            Choice { number, fact: Fact::guessed("sheet", name(number), evidence), unclear: None }
        }
        ([], Some(filled)) if *filled != first => {
            let evidence = "it is the first that holds anything".to_owned();
            Choice { number: *filled, fact: Fact::guessed("sheet", name(*filled), evidence), unclear: None }
        }
        ([], _) if filled.len() > 1 => {
            let evidence = format!("it is the first of {} that hold something", filled.len());
            Choice { number: first, fact: Fact::guessed("sheet", name(first), evidence), unclear: None }
        }
        ([], _) => {
            let fact = Fact::plain("sheet", name(first), "it is the first".to_owned());
            Choice { number: first, fact, unclear: None }
        }
    }
}

/// Whether rows of several cells stand one below the other.
fn looks_like_table(rows: &[FirstRow]) -> bool {
    rows.windows(2).any(|pair| pair.iter().all(|row| row.filled() >= 2))
}

/// The first rows of a sheet.
fn beginning(book: &mut Book, sheet: usize) -> Result<Vec<FirstRow>, Error> {
    let mut text = Vec::new();
    book.read(sheet, &mut |piece| {
        text.extend(piece);
        false
    })?;
    Ok(first_rows(&text))
}

impl OpenSheet {
    /// Its rows as text.
    pub(crate) fn take_reader(&mut self) -> Box<dyn Read + Send> {
        match self.reader.take() {
            Some(reader) => Box::new(reader),
            None => Box::new(io::empty()),
        }
    }

    /// What gives the findings of the sheet once it is read.
    pub(crate) fn closing(&self) -> Closing {
        Closing(Arc::clone(&self.facts))
    }
}

/// What a sheet shows or hides, known when it is read to its end.
pub(crate) struct Closing(Arc<Mutex<SheetFacts>>);

impl Closing {
    /// How many columns the sheet has.
    pub(crate) fn used_columns(&self) -> usize {
        let facts = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        facts.last_column as usize + 1
    }

    /// The findings, in no order; `width` is how many columns the table has.
    pub(crate) fn findings(&self, width: usize) -> Vec<Finding> {
        let facts = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let told = |code, message| Finding::new(code, entry(code).level, message);
        let mut found = Vec::new();
        if facts.hidden_rows.0 > 0 {
            let (count, first) = facts.hidden_rows;
            let rows =
                if count == 1 { "1 row is hidden".to_owned() } else { format!("{count} rows are hidden") };
            let mut finding = told(Code::RowsHidden, format!("{rows}; read like all others"));
            finding.row = Some(first);
            found.push(finding);
        }
        let hidden = |column: usize| {
            facts
                .hidden_columns
                .iter()
                .any(|(first, last)| (*first as usize..=*last as usize).contains(&column))
        };
        let columns: Vec<_> = (0..width).filter(|column| hidden(*column)).map(letter).collect();
        if !columns.is_empty() {
            let message = match columns.as_slice() {
                [one] => format!("column {one} is hidden; it is read like all others"),
                several => {
                    const NAMED: usize = 20;
                    let names = several.iter().take(NAMED).cloned().collect::<Vec<_>>().join(", ");
                    let more = match several.len().saturating_sub(NAMED) {
                        0 => String::new(),
                        more => format!(" and {more} more"),
                    };
                    format!("columns {names}{more} are hidden; they are read like all others")
                }
            };
            found.push(told(Code::ColumnsHidden, message));
        }
        if let Some(range) = &facts.filter {
            let message = format!("a filter is on over {range}; the rows it hides are read like all others");
            found.push(told(Code::FilterActive, message));
        }
        if facts.merged.0 > 0 {
            let (count, first) = &facts.merged;
            let ranges = if *count == 1 {
                "1 range is merged".to_owned()
            } else {
                format!("{count} ranges are merged")
            };
            let message = format!("{ranges}, first {first}; only the cell at its top left has a value");
            found.push(told(Code::CellsMerged, message));
        }
        found
    }
}
