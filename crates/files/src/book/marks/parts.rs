//! Which parts of a workbook are changed when it is marked, and which come into being.

use super::model::Marking;
use super::notes::Notes;
use super::source::{Source, legacy_drawing};
use super::target::Target;
use super::wiring::{self, Book, Filter, Relations, base_of};
use crate::book::marked::FRONT;
use crate::book::xlsx::joined;
use crate::error::Error;
use std::io::Write;
use std::path::Path;

/// Which parts are changed and which come into being.
pub(super) struct Parts {
    /// The workbook's part and its relations.
    pub(super) main: String,
    pub(super) book: Book,
    pub(super) relations: Relations,
    /// What all relations begin with, and whether that is the strict form's.
    pub(super) base: String,
    pub(super) is_strict: bool,
    pub(super) styles: String,
    pub(super) has_styles: bool,
    /// The sheet in front: its part, its name, and its relation where it is new.
    pub(super) front: String,
    pub(super) front_name: String,
    pub(super) front_relation: Option<String>,
    pub(super) is_front_shown: bool,
    /// The number of the marked sheet.
    pub(super) sheet: usize,
    /// The relations of the marked sheet, with the notes and their boxes.
    pub(super) of_sheet: Relations,
    pub(super) sheet_folder: String,
    pub(super) notes: String,
    pub(super) notes_there: bool,
    pub(super) boxes: String,
    pub(super) boxes_there: bool,
    /// The relation of the boxes.
    pub(super) drawing: String,
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

/// The relations in this part, which need not be there.
fn relations_in(source: &mut Source<'_>, part: &str) -> Result<Relations, Error> {
    let path = source.path;
    Relations::read(source.text(part)?).map_err(|what| Error::damaged(path, part, &what))
}

/// The part that the package says is the workbook.
fn main_part(source: &mut Source<'_>) -> Result<String, Error> {
    let root = relations_in(source, "_rels/.rels")?;
    let main = root.target("officeDocument").map(|target| joined("", target));
    let main = main.filter(|main| source.number(main).is_some());
    Ok(main.unwrap_or_else(|| "xl/workbook.xml".to_owned()))
}

/// A name that no part has.
fn free(source: &Source<'_>, folder: &str, wanted: &str, ending: &str) -> String {
    let names = (1..).map(|number| format!("{folder}{}{wanted}{number}.{ending}", slash(folder)));
    names.into_iter().find(|name| source.number(name).is_none()).unwrap_or_default()
}

/// The part of this kind that the relations name, within the first folder; else a new one in the second, which they name
/// from here on. Tells whether it was there.
fn there_or_new(
    source: &Source<'_>,
    (relations, base): (&mut Relations, &str),
    (within, folder): (&str, &str),
    [kind, wanted]: [&str; 2],
) -> (String, bool) {
    match relations.target(kind).map(|target| joined(within, target)) {
        Some(part) => (part, true),
        None => {
            let part = free(source, folder, wanted, "xml");
            relations.add(base, kind, &part);
            (part, false)
        }
    }
}

impl Parts {
    pub(super) fn of(source: &mut Source<'_>, marking: &Marking<'_>) -> Result<Self, Error> {
        let main = main_part(source)?;
        let folder = folder_of(&main);
        let mut relations = relations_in(source, &relations_of(&main))?;
        let book = Book::read(source.text(&main)?.unwrap_or_default())
            .map_err(|what| Error::damaged(source.path, &main, &what))?;
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
        let (front_name, front, front_relation) = match there {
            Some((name, part)) => (name, part, None),
            None => {
                let part = free(source, &folder, "worksheets/tidyGate", "xml");
                let relation = relations.add(&base, "worksheet", &part);
                (book.free_name(FRONT), part, Some(relation))
            }
        };
        let (styles, has_styles) =
            there_or_new(source, (&mut relations, &base), (&folder, &folder), ["styles", "styles"]);
        let mut of_sheet = relations_in(source, &relations_of(marking.part))?;
        let sheet_folder = folder_of(marking.part);
        let (notes, notes_there) = there_or_new(
            source,
            (&mut of_sheet, &base),
            (&sheet_folder, &folder),
            ["comments", "tidyGateNotes"],
        );
        Self {
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
        .with_boxes(source, &folder, marking)
    }

    /// The boxes that the sheet has: those its own element names, which stands behind its rows.
    pub(super) fn with_boxes(
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
                self.boxes = free(source, folder, "drawings/tidyGate", "vml");
                self.drawing = self.of_sheet.add(&self.base, "vmlDrawing", &self.boxes);
            }
        }
        Ok(self)
    }

    /// The parts that come into being, with what they are.
    pub(super) fn new_parts(&self) -> Vec<(&str, &str)> {
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
    pub(super) fn late(&self, sheet: &str) -> Vec<String> {
        let own = [&self.main, &self.styles, &self.front, &self.notes, &self.boxes];
        let relations = [relations_of(&self.main), relations_of(sheet)];
        own.into_iter().cloned().chain(relations).collect()
    }

    pub(super) fn write_wiring<W: Write + std::io::Seek>(
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

    pub(super) fn write_notes<W: Write + std::io::Seek>(
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
