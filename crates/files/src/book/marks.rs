//! Marks on a sheet of an XLSX or XLSM workbook (ECMA-376): fills and notes on faulty cells, reasons in columns at the
//! right end, a filter over them, drop-downs, and a sheet in front that says what to do. All parts that none of this
//! concerns are copied byte by byte as they are packed.

mod elements;
mod frame;
mod front;
mod notes;
mod sheet;
mod styles;
mod wiring;

pub use front::{FrontLine, FrontLook};
pub(crate) use sheet::NextMarks;
pub(crate) use styles::Kind;

use super::marked::{FRONT, Marked};
use super::new_cells::Fault;
use super::package::Capped;
use super::patch::in_xml;
use super::xlsx::joined;
use crate::error::Error;
use crate::output::Output;
use crate::text::Limits;
use notes::Notes;
use sheet::{Sheet, With};
use std::fs::File;
use std::io::{BufRead, BufReader, BufWriter, Read, Write};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::AtomicU64;
use styles::Styles;
use tidy_gate_core::catalogue::Level;
use wiring::{Book, Filter, Relations, base_of, content_types};
use zip::write::SimpleFileOptions;
use zip::{ZipArchive, ZipWriter};

/// A row with marks.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct RowMarks {
    /// The row, as a spreadsheet shows it.
    pub(crate) row: u64,
    /// Whether it counts as a marked row.
    pub(crate) counts: bool,
    /// What stands in the columns of marks.
    pub(crate) own: [(String, Kind); 2],
    /// Its cells.
    pub(crate) cells: Vec<CellMark>,
}

/// A cell with a mark.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct CellMark {
    /// The column, from 0.
    pub(crate) column: usize,
    /// What its fill tells; none where it has a note alone.
    pub(crate) level: Option<Level>,
    /// What its note says.
    pub(crate) note: String,
}

/// A drop-down for a column.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct DropDown {
    /// The column, from 0.
    pub(crate) column: usize,
    /// What is offered.
    pub(crate) values: Vec<String>,
    /// Whether other values are permitted.
    pub(crate) is_open: bool,
}

/// What is marked, and where.
#[derive(Debug)]
pub(crate) struct Marking<'a> {
    /// The part that holds the sheet, and the sheet's name.
    pub(crate) part: &'a str,
    /// See there.
    pub(crate) sheet: &'a str,
    /// The form of the file that is marked, and how many columns its table has.
    pub(crate) form: &'a str,
    /// See there.
    pub(crate) width: usize,
    /// The row of the headings, the first that can be a record, and the last.
    pub(crate) heading_row: Option<u64>,
    /// See there.
    pub(crate) first_row: u64,
    /// See there.
    pub(crate) last_row: u64,
    /// The first column of marks, from 0; none where there is no room.
    pub(crate) own: Option<usize>,
    /// The marks of an earlier check.
    pub(crate) had: Option<&'a Marked>,
    /// The drop-downs of columns that hold picklists.
    pub(crate) lists: &'a [DropDown],
    /// Whether the workbook is of the strict form; found out here.
    pub(crate) is_strict: bool,
}

/// What could not be done, or not in full.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Limit {
    /// So many cells have the plain style of their level: the workbook has room for no more styles.
    PlainStyles(u64),
    /// So many notes were shortened.
    NotesCut(u64),
    /// So many cells have no note.
    NotesLeftOut(u64),
    /// There is no room for the columns of marks.
    NoColumns,
    /// The sheet has a filter over something else.
    OwnFilter,
    /// The sheet is protected.
    Protected,
    /// So many columns of picklists have no drop-down, since there is room for no more.
    ListsLeftOut(u64),
    /// Another sheet is the one that is shown first.
    OtherSheetShown,
    /// So many reasons were cut to what a cell may hold.
    ReasonsCut(u64),
    /// The file was written anew as a workbook: what beside its cells it held is not in it.
    WrittenAnew,
}

/// What was marked.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct MarkSum {
    /// Rows with reasons.
    pub rows: u64,
    /// Cells with a note.
    pub cells: u64,
    /// The name of the sheet in front.
    pub front: String,
    /// What could not be done.
    pub limits: Vec<Limit>,
}

/// Adds a text as it stands in an element of a sheet.
pub(crate) fn push_text(into: &mut String, text: &str) {
    into.push_str(&quick_xml::escape::escape(in_xml(text)));
}

/// Small parts are held as texts; none that is sound is longer.
const LONGEST_PART: u64 = 256 << 20;

/// Writes the workbook with marks on a sheet, whose part may be made elsewhere (and may be very large); `front` gives the lines of the sheet in
/// front once all is counted.
///
/// # Errors
/// When the workbook cannot be read again, or the output cannot be written.
pub(crate) fn put_marks(
    (path, mut rows): (&Path, Option<(&mut dyn BufRead, bool)>),
    marking: &mut Marking<'_>,
    next: &mut NextMarks<'_>,
    front: &mut dyn FnMut(&MarkSum) -> Vec<FrontLine>,
    output: &mut Output,
) -> Result<MarkSum, Error> {
    let mut source = Source::open(path)?;
    let plan = Plan::of(&mut source, marking)?;
    marking.is_strict = plan.is_strict;
    let damaged = |part: &str, what: String| Error::damaged(path, part, &what);
    let mut styles = Styles::read(source.text(&plan.styles)?).map_err(|what| damaged(&plan.styles, what))?;
    let mut notes = Notes::read(match &plan.notes_there {
        true => source.text(&plan.notes)?,
        false => None,
    })
    .map_err(|what| damaged(&plan.notes, what))?;
    let place = output.path().to_owned();
    let mut target = Target { writer: ZipWriter::new(output.writer()), path: &place };
    let types = source.text(CONTENT_TYPES)?.unwrap_or_default();
    let types =
        content_types(&types, &plan.new_parts(), true).map_err(|what| damaged(CONTENT_TYPES, what))?;
    let late = plan.late(marking.part);
    let mut done = None;
    for number in 0..source.archive.len() {
        let name = source.name(number)?;
        if name.eq_ignore_ascii_case(marking.part) {
            let with = With {
                marking,
                styles: &mut styles,
                notes: &mut notes,
                next,
                front: &plan.front_name,
                drawing: &plan.drawing,
                is_shown: !plan.is_front_shown,
            };
            done = Some(match rows.take() {
                Some((rows, is_large)) => target.made_sheet(path, (&name, is_large), rows, with)?,
                None => target.sheet(&mut source, number, with)?,
            });
        } else if name == CONTENT_TYPES {
            target.part(&name, types.as_bytes())?;
        } else if !late.iter().any(|part| part.eq_ignore_ascii_case(&name)) {
            let entry =
                source.archive.by_index_raw(number).map_err(|error| damaged(&name, error.to_string()))?;
            target.writer.raw_copy_file(entry).map_err(|error| target.failed(error))?;
        }
    }
    let (tail, counts) = done.ok_or_else(|| damaged(marking.part, "it is missing".to_owned()))?;
    let mut sum = MarkSum {
        rows: counts.rows,
        cells: counts.cells,
        front: plan.front_name.clone(),
        limits: tail.limits,
    };
    let count = |count: u64, limit: fn(u64) -> Limit| (count > 0).then(|| limit(count));
    sum.limits.extend(count(styles.plain, Limit::PlainStyles));
    sum.limits.extend(count(notes.cut, Limit::NotesCut));
    sum.limits.extend(count(notes.left_out, Limit::NotesLeftOut));
    sum.limits.extend((!plan.is_front_shown).then_some(Limit::OtherSheetShown));
    sum.limits.extend(marking.own.is_none().then_some(Limit::NoColumns));
    let lists: Vec<&DropDown> = marking.lists.iter().collect();
    let lines = front(&sum);
    let sheet = front::written(&lines, &lists, marking, &styles, plan.is_front_shown);
    target.part(&plan.front, sheet.as_bytes())?;
    target.part(&plan.styles, styles.written().as_bytes())?;
    plan.write_wiring(marking, tail.filter.as_deref(), &mut target, path)?;
    plan.write_notes(notes, &mut source, &mut target)?;
    target.finish()?;
    Ok(sum)
}

const CONTENT_TYPES: &str = "[Content_Types].xml";

/// The workbook that is read.
struct Source<'a> {
    path: &'a Path,
    archive: ZipArchive<BufReader<File>>,
}

impl<'a> Source<'a> {
    fn open(path: &'a Path) -> Result<Self, Error> {
        let file = File::open(path).map_err(|source| Error::Read { path: path.to_owned(), source })?;
        let archive = ZipArchive::new(BufReader::new(file))
            .map_err(|error| Error::damaged(path, "the archive", &error.to_string()))?;
        Ok(Self { path, archive })
    }

    fn name(&mut self, number: usize) -> Result<String, Error> {
        let damaged =
            |error: zip::result::ZipError| Error::damaged(self.path, "the archive", &error.to_string());
        let entry = self.archive.by_index_raw(number).map_err(damaged)?;
        let name =
            entry.name().map_err(|error| Error::damaged(self.path, "the archive", &error.to_string()))?;
        Ok(name.into_owned())
    }

    /// The number of a part; names are the same whatever their case (ECMA-376 part 2, 6.2.2.3).
    fn number(&self, part: &str) -> Option<usize> {
        let same = |name: &str| name.eq_ignore_ascii_case(part);
        let mut names = self.archive.file_names();
        names.position(|name| name.is_ok_and(|name| same(&name)))
    }

    /// A part as a text, if it is there.
    fn text(&mut self, part: &str) -> Result<Option<String>, Error> {
        let Some(number) = self.number(part) else { return Ok(None) };
        let damaged = |what: String| Error::damaged(self.path, part, &what);
        let entry = self.archive.by_index(number).map_err(|error| damaged(error.to_string()))?;
        let packed = entry.compressed_size();
        let most = packed.saturating_mul(Limits::default().expansion).max(Limits::UNPACKED_FREELY);
        let mut bytes = Vec::new();
        entry
            .take(most.min(LONGEST_PART) + 1)
            .read_to_end(&mut bytes)
            .map_err(|error| damaged(error.to_string()))?;
        if bytes.len() as u64 > most.min(LONGEST_PART) {
            return Err(damaged("it unpacks to far more than a sound one".to_owned()));
        }
        let text = bytes.strip_prefix(b"\xEF\xBB\xBF").map(<[u8]>::to_vec).unwrap_or(bytes);
        String::from_utf8(text).map(Some).map_err(|_| damaged("it is not in UTF-8".to_owned()))
    }
}

/// The workbook that is written.
struct Target<'a, W: Write + std::io::Seek> {
    writer: ZipWriter<W>,
    path: &'a Path,
}

impl<W: Write + std::io::Seek> Target<'_, W> {
    fn failed(&self, error: zip::result::ZipError) -> Error {
        Error::write(self.path, std::io::Error::from(error))
    }

    fn begin(&mut self, name: &str, is_large: bool) -> Result<(), Error> {
        let options = SimpleFileOptions::default()
            .compression_method(zip::CompressionMethod::Deflated)
            // What is packed here says the same over and over: little is won by looking longer.
            .compression_level(Some(3))
            .last_modified_time(zip::DateTime::default())
            .large_file(is_large);
        self.writer.start_file(name, options).map_err(|error| self.failed(error))
    }

    fn bytes(&mut self, bytes: &[u8]) -> Result<(), Error> {
        self.writer.write_all(bytes).map_err(|source| Error::write(self.path, source))
    }

    fn part(&mut self, name: &str, bytes: &[u8]) -> Result<(), Error> {
        self.begin(name, bytes.len() as u64 > u64::from(u32::MAX / 2))?;
        self.bytes(bytes)
    }

    fn sheet(
        &mut self,
        source: &mut Source<'_>,
        number: usize,
        with: With<'_>,
    ) -> Result<(frame::Tail, sheet::Counts), Error> {
        let path = source.path;
        let name = source.name(number)?;
        let entry = source.archive.by_index(number);
        let entry = entry.map_err(|error| Error::damaged(path, &name, &error.to_string()))?;
        let most =
            entry.compressed_size().saturating_mul(Limits::default().expansion).max(Limits::UNPACKED_FREELY);
        // Reasons make it larger than it was. Not every program reads what is packed as large.
        self.begin(&name, entry.size() > u64::from(u32::MAX / 3))?;
        let piece = Arc::new(AtomicU64::new(0));
        let from = BufReader::with_capacity(1 << 16, Capped::new(entry, most, Arc::clone(&piece)));
        self.copy(path, &name, from, with, piece)
    }

    /// The same for a sheet that is made elsewhere.
    fn made_sheet(
        &mut self,
        path: &Path,
        (name, is_large): (&str, bool),
        rows: &mut dyn BufRead,
        with: With<'_>,
    ) -> Result<(frame::Tail, sheet::Counts), Error> {
        self.begin(name, is_large)?;
        self.copy(path, name, rows, with, Arc::default())
    }

    fn copy(
        &mut self,
        path: &Path,
        name: &str,
        from: impl BufRead,
        with: With<'_>,
        piece: Arc<AtomicU64>,
    ) -> Result<(frame::Tail, sheet::Counts), Error> {
        // What packs is not asked for every few bytes.
        let mut buffered = BufWriter::with_capacity(1 << 18, &mut self.writer);
        let copied = Sheet::new(from, &mut buffered, with, piece).copy();
        let copied = copied.and_then(|done| buffered.flush().map(|()| done).map_err(Fault::Write));
        copied.map_err(|fault| match fault {
            Fault::Read(what) => Error::damaged(path, name, &what),
            Fault::Write(source) => Error::write(self.path, source),
            Fault::Other(error) => error,
        })
    }

    fn finish(self) -> Result<(), Error> {
        let path = self.path;
        let failed = |error: zip::result::ZipError| Error::write(path, std::io::Error::from(error));
        let mut writer = self.writer.finish().map_err(failed)?;
        writer.flush().map_err(|source| Error::write(path, source))
    }
}

/// Which parts are changed and which come into being.
struct Plan {
    /// The workbook's part and its relations.
    main: String,
    book: Book,
    relations: Relations,
    /// What all relations begin with, and whether that is the strict form's.
    base: String,
    is_strict: bool,
    styles: String,
    has_styles: bool,
    /// The sheet in front: its part, its name, and its relation where it is new.
    front: String,
    front_name: String,
    front_relation: Option<String>,
    is_front_shown: bool,
    /// The number of the marked sheet.
    sheet: usize,
    /// The relations of the marked sheet, with the notes and their boxes.
    of_sheet: Relations,
    sheet_folder: String,
    notes: String,
    notes_there: bool,
    boxes: String,
    boxes_there: bool,
    /// The relation of the boxes.
    drawing: String,
}

/// The part of a part's relations.
fn relations_of(part: &str) -> String {
    let (folder, file) = part.rsplit_once('/').unwrap_or(("", part));
    let folder = if folder.is_empty() { String::new() } else { format!("{folder}/") };
    format!("{folder}_rels/{file}.rels")
}

fn folder_of(part: &str) -> String {
    part.rsplit_once('/').map(|parts| parts.0.to_owned()).unwrap_or_default()
}

impl Plan {
    fn of(source: &mut Source<'_>, marking: &Marking<'_>) -> Result<Self, Error> {
        let path = source.path;
        let damaged = |part: &str, what: String| Error::damaged(path, part, &what);
        let read = |source: &mut Source<'_>, part: &str| -> Result<Relations, Error> {
            Relations::read(source.text(part)?).map_err(|what| damaged(part, what))
        };
        let root = read(source, "_rels/.rels")?;
        let main = root.target("officeDocument").map(|target| joined("", target));
        let main =
            main.filter(|main| source.number(main).is_some()).unwrap_or_else(|| "xl/workbook.xml".to_owned());
        let folder = folder_of(&main);
        let mut relations = read(source, &relations_of(&main))?;
        let book =
            Book::read(source.text(&main)?.unwrap_or_default()).map_err(|what| damaged(&main, what))?;
        let base = base_of(&relations);
        let is_same = |target: &str| joined(&folder, target).eq_ignore_ascii_case(marking.part);
        let sheet = book
            .sheet_relations()
            .iter()
            .position(|relation| relations.target_of(relation).is_some_and(is_same))
            .unwrap_or(0);
        let had = marking.had.map(|had| had.front);
        let there = had.and_then(|front| {
            let relation = book.worksheets(&relations).into_iter().nth(front)?;
            Some((book.name_of(&relation)?, joined(&folder, relations.target_of(&relation)?)))
        });
        let is_shown_now = book.active() == sheet || book.active() == 0 && there.is_some();
        let free = |source: &Source<'_>, wanted: &str, ending: &str| {
            let names = (1..).map(|number| format!("{wanted}{number}.{ending}"));
            names.into_iter().find(|name| source.number(name).is_none()).unwrap_or_default()
        };
        let (front_name, front, front_relation) = match there {
            Some((name, part)) => (name, part, None),
            None => {
                let part = free(source, &format!("{folder}{}worksheets/tidyGate", slash(&folder)), "xml");
                let relation = relations.add(&base, "worksheet", &part);
                (book.free_name(FRONT), part, Some(relation))
            }
        };
        let styles = relations.target("styles").map(|target| joined(&folder, target));
        let has_styles = styles.is_some();
        let styles = styles.unwrap_or_else(|| {
            let part = free(source, &format!("{folder}{}styles", slash(&folder)), "xml");
            relations.add(&base, "styles", &part);
            part
        });
        let mut of_sheet = read(source, &relations_of(marking.part))?;
        let sheet_folder = folder_of(marking.part);
        let notes = of_sheet.target("comments").map(|target| joined(&sheet_folder, target));
        let notes_there = notes.is_some();
        let notes = notes.unwrap_or_else(|| {
            let part = free(source, &format!("{folder}{}tidyGateNotes", slash(&folder)), "xml");
            of_sheet.add(&base, "comments", &part);
            part
        });
        Ok(Self {
            is_strict: base != wiring::OFFICE,
            main,
            book,
            relations,
            base,
            styles,
            has_styles,
            front,
            front_name,
            front_relation,
            is_front_shown: is_shown_now,
            sheet,
            of_sheet,
            sheet_folder,
            notes,
            notes_there,
            boxes: String::new(),
            boxes_there: false,
            drawing: String::new(),
        }
        .with_boxes(source, &folder, marking)?)
    }

    /// The boxes that the sheet has: those its own element names, which stands behind its rows.
    fn with_boxes(
        mut self,
        source: &mut Source<'_>,
        folder: &str,
        marking: &Marking<'_>,
    ) -> Result<Self, Error> {
        let named = legacy_drawing(source, marking.part)?;
        let there = named.and_then(|name| Some((self.of_sheet.target_of(&name)?.to_owned(), name)));
        match there {
            Some((target, name)) => {
                (self.boxes, self.boxes_there) = (joined(&self.sheet_folder, &target), true);
                self.drawing = name;
            }
            None => {
                let names =
                    (1..).map(|number| format!("{folder}{}drawings/tidyGate{number}.vml", slash(folder)));
                self.boxes = names.into_iter().find(|name| source.number(name).is_none()).unwrap_or_default();
                self.drawing = self.of_sheet.add(&self.base, "vmlDrawing", &self.boxes);
            }
        }
        Ok(self)
    }

    /// The parts that come into being, with what they are.
    fn new_parts(&self) -> Vec<(&str, &str)> {
        const SHEET: &str = "application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml";
        const STYLES: &str = "application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml";
        const NOTES: &str = "application/vnd.openxmlformats-officedocument.spreadsheetml.comments+xml";
        let mut parts = Vec::new();
        parts.extend(self.front_relation.is_some().then_some((self.front.as_str(), SHEET)));
        parts.extend((!self.has_styles).then_some((self.styles.as_str(), STYLES)));
        parts.extend((!self.notes_there).then_some((self.notes.as_str(), NOTES)));
        parts
    }

    /// The parts that are written last, when all is known.
    fn late(&self, sheet: &str) -> Vec<String> {
        let own = [&self.main, &self.styles, &self.front, &self.notes, &self.boxes];
        let relations = [relations_of(&self.main), relations_of(sheet)];
        own.into_iter().cloned().chain(relations).collect()
    }

    fn write_wiring<W: Write + std::io::Seek>(
        &self,
        marking: &Marking<'_>,
        filter: Option<&str>,
        target: &mut Target<'_, W>,
        path: &Path,
    ) -> Result<(), Error> {
        let damaged = |part: &str, what: String| Error::damaged(path, part, &what);
        let filter = filter.map(|range| Filter { sheet: self.sheet, name: marking.sheet, range });
        let front = self.front_relation.as_deref().map(|relation| (self.front_name.as_str(), relation));
        let main = self.book.with_front(front, filter.as_ref(), self.is_front_shown);
        target.part(&self.main, main.map_err(|what| damaged(&self.main, what))?.as_bytes())?;
        for (part, relations) in
            [(relations_of(&self.main), &self.relations), (relations_of(marking.part), &self.of_sheet)]
        {
            let written = relations.written().map_err(|what| damaged(&part, what))?;
            target.part(&part, written.as_bytes())?;
        }
        Ok(())
    }

    fn write_notes<W: Write + std::io::Seek>(
        &self,
        notes: Notes,
        source: &mut Source<'_>,
        target: &mut Target<'_, W>,
    ) -> Result<(), Error> {
        let boxes = if self.boxes_there { source.text(&self.boxes)? } else { None };
        let mut current = None;
        notes.finish(boxes.as_deref(), &mut |is_text, bytes| {
            if current != Some(is_text) {
                target.begin(if is_text { &self.notes } else { &self.boxes }, false)?;
                current = Some(is_text);
            }
            target.bytes(bytes)
        })
    }
}

fn slash(folder: &str) -> &'static str {
    if folder.is_empty() { "" } else { "/" }
}

/// The relation of the boxes that a sheet names behind its rows.
fn legacy_drawing(source: &mut Source<'_>, part: &str) -> Result<Option<String>, Error> {
    let Some(number) = source.number(part) else { return Ok(None) };
    let path = source.path;
    let damaged = |what: String| Error::damaged(path, part, &what);
    let entry = source.archive.by_index(number).map_err(|error| damaged(error.to_string()))?;
    let most =
        entry.compressed_size().saturating_mul(Limits::default().expansion).max(Limits::UNPACKED_FREELY);
    let mut from = entry.take(most);
    // It is looked for as bytes: the rows need not be read for it.
    let (mut bytes, mut kept) = (vec![0; 1 << 18], 0);
    loop {
        let count = from
            .read(bytes.get_mut(kept..).unwrap_or_default())
            .map_err(|error| damaged(error.to_string()))?;
        let read = bytes.get(..kept + count).unwrap_or_default();
        let found = memchr::memmem::find(read, b"legacyDrawing ").map(|at| at.saturating_sub(64));
        if let Some(at) = found
            && (count == 0 || read.len() > at + 1024)
        {
            let text = String::from_utf8_lossy(read.get(at..).unwrap_or_default()).into_owned();
            let begin = text.find("legacyDrawing ").and_then(|at| text.get(..at)?.rfind('<'));
            let tag = begin.and_then(|begin| elements::tag(text.get(begin..)?));
            let id = tag.and_then(|tag| {
                let mut attributes = tag.attributes().flatten();
                let found = attributes.find(|attribute| attribute.key.local_name().as_ref() == "id")?;
                Some(found.value.to_string())
            });
            return Ok(id);
        }
        if count == 0 {
            return Ok(None);
        }
        let from = read.len().saturating_sub(if found.is_some() { 4096 } else { 1024 });
        kept = read.len() - from;
        bytes.copy_within(from..from + kept, 0);
    }
}
