//! Workbooks of the form XLSX and XLSM (ECMA-376): what sheets there are, what their cells refer to.

use super::format::Format;
use super::package::{LONGEST_PIECE, Package};
use super::value::unescaped;
use super::xml::{Node, Xml, attribute, is_set, number};
use crate::error::Error;
use quick_xml::events::BytesStart;
use std::collections::HashMap;
use std::io::BufRead;

/// A sheet of a workbook.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sheet {
    /// Its name.
    pub name: String,
    /// Whether it is hidden.
    pub hidden: bool,
    /// The part that holds it.
    pub(super) part: String,
}

impl Sheet {
    /// The part that holds it.
    pub(crate) fn part(&self) -> &str {
        &self.part
    }
}

/// So many bytes of shared strings are kept in memory.
const MOST_SHARED: usize = 512 << 20;

/// A workbook has no more cell styles than a program writes: 65,490, with some to spare.
const MOST_STYLES: usize = 1 << 18;

/// What is said of a workbook whose shared strings are more.
pub(super) const TOO_MANY_STRINGS: &str = "its shared strings are more than 512 MiB";

/// What the cells of all sheets refer to.
#[derive(Debug, Default)]
pub(super) struct Shared {
    pub(super) from_1904: bool,
    /// The format of each style.
    pub(super) formats: Vec<Format>,
    /// All shared strings, one behind the other, and where each ends.
    strings: String,
    ends: Vec<usize>,
}

impl Shared {
    /// A shared string by its number.
    pub(super) fn string(&self, number: usize) -> Option<&str> {
        let end = *self.ends.get(number)?;
        let start = number.checked_sub(1).and_then(|before| self.ends.get(before)).copied().unwrap_or(0);
        self.strings.get(start..end)
    }

    pub(super) fn format(&self, style: usize) -> Format {
        self.formats.get(style).copied().unwrap_or_default()
    }

    /// Adds a shared string; false where there are more than are kept in memory.
    pub(super) fn push(&mut self, text: &str) -> bool {
        self.strings.push_str(text);
        self.ends.push(self.strings.len());
        self.strings.len() + self.ends.len() * size_of::<usize>() <= MOST_SHARED
    }

    /// How many shared strings there are.
    pub(super) fn strings(&self) -> usize {
        self.ends.len()
    }
}

/// Reads what sheets there are.
pub(super) fn sheets(package: &mut Package) -> Result<(Vec<Sheet>, bool), Error> {
    let main = main_part(package)?;
    let folder = main.rsplit_once('/').map(|parts| parts.0.to_owned()).unwrap_or_default();
    let relations = relations(package, &main)?;
    let (path, piece) = (package.path().to_owned(), package.piece());
    let Some(part) = package.part(&main)? else {
        return Err(Error::damaged(&path, &main, "it is missing"));
    };
    let mut xml = Xml::new(path, &main, piece, part);
    let (mut found, mut from_1904) = (Vec::new(), false);
    loop {
        match xml.next()? {
            Node::Open(start) | Node::Empty(start) => match start.local_name().as_ref() {
                "workbookPr" => from_1904 = is_set(&start, "date1904"),
                "sheet" => {
                    let target = relation_id(&start).and_then(|id| relations.get(&id));
                    let hidden = attribute(&start, "state").is_some_and(|state| state != "visible");
                    let name = attribute(&start, "name").unwrap_or_default();
                    // Charts and dialogues hold no cells.
                    if let Some((kind, target)) = target
                        && kind.ends_with("/worksheet")
                    {
                        found.push(Sheet { name, hidden, part: joined(&folder, target) });
                    }
                }
                _ => {}
            },
            Node::End => return Ok((found, from_1904)),
            Node::Close(_) | Node::Text(_) => {}
        }
    }
}

/// Reads shared strings and styles.
pub(super) fn shared(package: &mut Package, from_1904: bool) -> Result<Shared, Error> {
    let main = main_part(package)?;
    let folder = main.rsplit_once('/').map(|parts| parts.0.to_owned()).unwrap_or_default();
    let mut shared = Shared { from_1904, ..Shared::default() };
    for (kind, target) in relations(package, &main)?.into_values() {
        let (path, name) = (package.path().to_owned(), joined(&folder, &target));
        let piece = package.piece();
        if kind.ends_with("/sharedStrings")
            && let Some(part) = package.part(&name)?
        {
            strings(&mut Xml::new(path, &name, piece, part), &mut shared)?;
        } else if kind.ends_with("/styles")
            && let Some(part) = package.part(&name)?
        {
            shared.formats = formats(&mut Xml::new(path, &name, piece, part))?;
        }
    }
    Ok(shared)
}

/// The part that the package says is the workbook.
fn main_part(package: &mut Package) -> Result<String, Error> {
    let found = relations(package, "")?;
    let main = found.into_values().find(|(kind, _)| kind.ends_with("/officeDocument"));
    let main = main.map(|(_, target)| joined("", &target)).filter(|main| package.has(main));
    Ok(main.unwrap_or_else(|| "xl/workbook.xml".to_owned()))
}

/// The relations of a part: kind and target by their names.
pub(super) fn relations(package: &mut Package, of: &str) -> Result<HashMap<String, (String, String)>, Error> {
    let (folder, file) = of.rsplit_once('/').unwrap_or(("", of));
    let name = format!("{folder}{}_rels/{file}.rels", if folder.is_empty() { "" } else { "/" });
    let (path, piece) = (package.path().to_owned(), package.piece());
    let mut found = HashMap::new();
    let Some(part) = package.part(&name)? else { return Ok(found) };
    let mut xml = Xml::new(path, &name, piece, part);
    loop {
        match xml.next()? {
            Node::Open(start) | Node::Empty(start) if start.local_name().as_ref() == "Relationship" => {
                let get = |name| attribute(&start, name).unwrap_or_default();
                found.insert(get("Id"), (get("Type"), get("Target")));
            }
            Node::End => return Ok(found),
            _ => {}
        }
    }
}

/// The `r:id` of a sheet: an attribute of that name in whatever prefix, which `sheetId` is not.
fn relation_id(start: &BytesStart<'_>) -> Option<String> {
    start
        .attributes()
        .flatten()
        .find(|attribute| attribute.key.prefix().is_some() && attribute.key.local_name().as_ref() == "id")
        .map(|attribute| attribute.value.to_string())
}

/// A target as the name of a part: from the root, or beside the part that refers to it. It never leaves the archive.
pub(super) fn joined(folder: &str, target: &str) -> String {
    if let Some(from_root) = target.strip_prefix('/') {
        return from_root.to_owned();
    }
    let mut parts: Vec<&str> = folder.split('/').filter(|part| !part.is_empty()).collect();
    for part in target.split('/') {
        match part {
            ".." => drop(parts.pop()),
            "." | "" => {}
            part => parts.push(part),
        }
    }
    parts.join("/")
}

/// All shared strings, rich ones by their runs; how a word is read aloud is none of them.
fn strings<R: BufRead>(xml: &mut Xml<R>, shared: &mut Shared) -> Result<(), Error> {
    let mut text = StringText::default();
    loop {
        match xml.next()? {
            Node::Open(start) => {
                text.open(&start);
            }
            // An empty string is one all the same.
            Node::Empty(start) if start.local_name().as_ref() == "si" => {
                if !shared.push("") {
                    return Err(xml.fault(TOO_MANY_STRINGS));
                }
            }
            Node::Empty(_) => {}
            Node::Close(name) if name == "si" => {
                if !shared.push(&text.take()) {
                    return Err(xml.fault(TOO_MANY_STRINGS));
                }
            }
            Node::Close(name) => text.close(&name),
            Node::Text(piece) => {
                text.add(&piece);
                if text.len() as u64 > LONGEST_PIECE {
                    return Err(xml.fault("one of its strings is longer than 32 MiB"));
                }
            }
            Node::End => return Ok(()),
        }
    }
}

/// The text of a string item: that of its `t` elements, but for phonetic runs.
#[derive(Debug, Default)]
pub(super) struct StringText {
    text: String,
    piece: String,
    in_text: bool,
    keeps_spaces: bool,
    phonetic: usize,
}

impl StringText {
    pub(super) fn open(&mut self, start: &BytesStart<'_>) {
        match start.local_name().as_ref() {
            "t" if self.phonetic == 0 => {
                self.in_text = true;
                self.keeps_spaces = attribute(start, "space").as_deref() == Some("preserve");
                self.piece.clear();
            }
            "rPh" => self.phonetic += 1,
            _ => {}
        }
    }

    pub(super) fn close(&mut self, name: &str) {
        match name {
            "t" if self.in_text => {
                self.in_text = false;
                let piece = if self.keeps_spaces { self.piece.as_str() } else { self.piece.trim() };
                self.text.push_str(&unescaped(piece));
            }
            "rPh" => self.phonetic = self.phonetic.saturating_sub(1),
            _ => {}
        }
    }

    pub(super) fn add(&mut self, piece: &str) {
        if self.in_text {
            self.piece.push_str(piece);
        }
    }

    /// How long it is so far.
    pub(super) fn len(&self) -> usize {
        self.text.len() + self.piece.len()
    }

    pub(super) fn take(&mut self) -> String {
        std::mem::take(&mut self.text)
    }
}

/// The format of each cell style.
fn formats<R: BufRead>(xml: &mut Xml<R>) -> Result<Vec<Format>, Error> {
    let (mut own, mut found, mut in_cells) = (HashMap::new(), Vec::new(), false);
    loop {
        match xml.next()? {
            Node::Open(start) | Node::Empty(start) => match start.local_name().as_ref() {
                "numFmt" => {
                    if let (Some(id), Some(code)) =
                        (number::<u32>(&start, "numFmtId"), attribute(&start, "formatCode"))
                    {
                        own.insert(id, Format::of(&code));
                    }
                }
                "cellXfs" => in_cells = true,
                "xf" if in_cells => {
                    let id = number::<u32>(&start, "numFmtId").unwrap_or(0);
                    found.push(own.get(&id).copied().or_else(|| Format::built_in(id)).unwrap_or_default());
                    if found.len() + own.len() > MOST_STYLES {
                        return Err(xml.fault("it has more styles than any workbook"));
                    }
                }
                _ => {}
            },
            Node::Close(name) if name == "cellXfs" => in_cells = false,
            Node::Close(_) | Node::Text(_) => {}
            Node::End => return Ok(found),
        }
    }
}
