//! Notes on cells: their texts (ECMA-376 part 1, 18.7) and the boxes in which they are shown (part 4, 19.4). Those of the
//! sender stay, ours of an earlier check go; both grow with the sheet and wait in temporary files until it is written.

use super::elements::{Element, attribute, children, escaped, piece, prefix, root};
use crate::book::patch::in_xml;
use crate::error::Error;
use std::collections::{BTreeMap, BTreeSet};
use std::fs::File;
use std::io::{self, BufWriter, Read, Seek, SeekFrom, Write};
use tidy_gate_core::finding::letter;

/// What a note of ours begins with: by it the next check knows it again.
pub(crate) const OURS: &str = "Tidy Gate: ";
/// More than this nobody reads in a note.
const LONGEST: usize = 2_000;
/// More notes than this make the programs slow that show them: one of them takes about five milliseconds for each.
pub(crate) const MOST: u64 = 10_000;
/// Boxes of ours have numbers from here on: no program has come so far.
const NUMBERS: usize = 512 * 1_024 + 1;

/// Takes bytes of the texts (true) or of the boxes.
type TakePart<'a> = dyn FnMut(bool, &[u8]) -> Result<(), Error> + 'a;

/// The notes of a sheet while marks are put on.
pub(super) struct Notes {
    texts: BufWriter<File>,
    boxes: BufWriter<File>,
    /// The frame of the texts: what stands before the notes and behind them.
    frame: (String, String),
    prefix: String,
    author: usize,
    /// The sender's own notes that were not written yet, by row and column.
    there: BTreeMap<(u64, usize), String>,
    /// Where notes of an earlier check stood, whose boxes go with them.
    gone: BTreeSet<(u64, usize)>,
    /// The number of the next box.
    next: usize,
    /// How many were written, shortened and left out.
    pub(super) written: u64,
    pub(super) cut: u64,
    pub(super) left_out: u64,
}

impl Notes {
    /// With the notes that the sheet has.
    pub(super) fn read(texts: String) -> Result<Self, String> {
        let temporary = || tempfile::tempfile().map(BufWriter::new).map_err(|error| error.to_string());
        let mut notes = Self {
            texts: temporary()?,
            boxes: temporary()?,
            frame: (String::new(), String::new()),
            prefix: String::new(),
            author: 0,
            there: BTreeMap::new(),
            gone: BTreeSet::new(),
            next: NUMBERS,
            written: 0,
            cut: 0,
            left_out: 0,
        };
        notes.read_texts(&texts)?;
        Ok(notes)
    }

    fn read_texts(&mut self, xml: &str) -> Result<(), String> {
        let (whole, within) = root(xml)?;
        let find = |name: &str| within.iter().find(|element| element.name == name);
        self.prefix = prefix(piece(xml, whole.whole.clone()));
        let p = &self.prefix;
        let authors = find("authors").map_or(Ok(Vec::new()), |authors| children(xml, authors))?;
        let author = |element: &Element| piece(xml, element.whole.clone()).to_owned();
        let mut authors: Vec<String> = authors.iter().map(author).collect();
        let own = format!("<{p}author>Tidy Gate</{p}author>");
        self.author = authors.iter().position(|author| *author == own).unwrap_or_else(|| {
            authors.push(own);
            authors.len() - 1
        });
        let authors = authors.concat();
        let head = whole.inner.clone().map_or(0, |inner| inner.start);
        self.frame = (
            format!("{}<{p}authors>{authors}</{p}authors><{p}commentList>", piece(xml, 0..head)),
            format!("</{p}commentList>{}", {
                let end = find("commentList").map_or(head, |list| list.whole.end);
                piece(xml, end..xml.len())
            }),
        );
        let notes = find("commentList").map_or(Ok(Vec::new()), |list| children(xml, list))?;
        for note in notes {
            let note = piece(xml, note.whole);
            let Some(place) = attribute(note, "ref").and_then(|place| place_of(&place)) else { continue };
            match without_ours(note)? {
                Some(xml) => drop(self.there.insert(place, xml)),
                None => drop(self.gone.insert(place)),
            }
        }
        Ok(())
    }

    /// The frame of the boxes, with those of notes that stay. What programs write there need not be well formed.
    fn frame_of_boxes(&self, boxes: &str) -> (String, String) {
        let boxes = &declared(boxes);
        let end = boxes.rfind("</").unwrap_or(boxes.len());
        let mut kept = String::new();
        let mut rest = piece(boxes, 0..end);
        while let Some(from) = rest.find("<v:shape ") {
            let to = rest.get(from..).and_then(|shape| shape.find("</v:shape>"));
            let Some(to) = to.map(|to| from + to + "</v:shape>".len()) else { break };
            let shape = piece(rest, from..to);
            let number = |name: &str| {
                let (_, behind) = shape.split_once(&format!("<x:{name}>"))?;
                behind.split_once('<')?.0.trim().parse::<u64>().ok()
            };
            let place = number("Row").zip(number("Column"));
            let place = place.map(|(row, column)| (row + 1, usize::try_from(column).unwrap_or(usize::MAX)));
            kept.push_str(piece(rest, 0..from));
            if place.is_none_or(|place| !self.gone.contains(&place)) {
                kept.push_str(shape);
            }
            rest = piece(rest, to..rest.len());
        }
        kept.push_str(rest);
        if !kept.contains("_x0000_t202") {
            kept.push_str(BOX_TYPE);
        }
        (kept, piece(boxes, end..boxes.len()).to_owned())
    }

    /// Writes a note on a cell, below the one that the sender has there.
    pub(super) fn put(&mut self, row: u64, column: usize, text: &str) -> io::Result<()> {
        if self.written >= MOST {
            self.left_out += 1;
            return Ok(());
        }
        self.written += 1;
        let short: String = text.chars().take(LONGEST).collect();
        self.cut += u64::from(short.len() < text.len());
        let more = if short.len() < text.len() { " …" } else { "" };
        let text = format!("{OURS}{short}{more}");
        let p = &self.prefix;
        let run = |text: &str| {
            format!("<{p}r><{p}t xml:space=\"preserve\">{}</{p}t></{p}r>", escaped(&in_xml(text)))
        };
        if let Some(note) = self.there.remove(&(row, column)) {
            return self.texts.write_all(joined(&note, p, &run(&format!("\n{text}"))).as_bytes());
        }
        let place = format!("{}{row}", letter(column));
        let author = self.author;
        write!(
            self.texts,
            "<{p}comment ref=\"{place}\" authorId=\"{author}\"><{p}text>{}</{p}text></{p}comment>",
            run(&text)
        )?;
        let number = self.next;
        self.next += 1;
        let lines = text.lines().map(|line| 1 + line.chars().count() / 40).sum::<usize>().clamp(2, 30);
        let (from, to) = (column + 1, column + 5);
        let (above, below) = (row.saturating_sub(2), row + lines as u64);
        write!(
            self.boxes,
            "<v:shape id=\"_x0000_s{number}\" type=\"#_x0000_t202\" style=\"position:absolute;margin-left:60pt;\
             margin-top:2pt;width:200pt;height:{}pt;z-index:1;visibility:hidden\" fillcolor=\"#ffffe1\" \
             o:insetmode=\"auto\"><v:fill color2=\"#ffffe1\"/><v:shadow on=\"t\" color=\"black\" obscured=\"t\"/>\
             <v:path o:connecttype=\"none\"/><v:textbox style=\"mso-direction-alt:auto\"/><x:ClientData \
             ObjectType=\"Note\"><x:MoveWithCells/><x:SizeWithCells/><x:Anchor>{from}, 15, {above}, 4, {to}, 15, \
             {below}, 4</x:Anchor><x:AutoFill>False</x:AutoFill><x:Row>{}</x:Row><x:Column>{column}</x:Column>\
             </x:ClientData></v:shape>",
            14 * lines,
            row.saturating_sub(1),
        )
    }

    /// Hands over the texts and the boxes, each as one part; the sheet may have boxes of its own.
    pub(super) fn finish(mut self, boxes: Option<&str>, take: &mut TakePart<'_>) -> Result<(), Error> {
        let box_frame = self.frame_of_boxes(boxes.unwrap_or(NO_BOXES));
        for note in std::mem::take(&mut self.there).into_values() {
            self.texts.write_all(note.as_bytes()).map_err(Error::temporary)?;
        }
        for (is_text, (head, tail), file) in [(true, self.frame, self.texts), (false, box_frame, self.boxes)]
        {
            let mut file = file.into_inner().map_err(|error| Error::temporary(error.into_error()))?;
            file.seek(SeekFrom::Start(0)).map_err(Error::temporary)?;
            take(is_text, head.as_bytes())?;
            let mut bytes = vec![0; 1 << 16];
            loop {
                let count = file.read(&mut bytes).map_err(Error::temporary)?;
                if count == 0 {
                    break;
                }
                take(is_text, bytes.get(..count).unwrap_or_default())?;
            }
            take(is_text, tail.as_bytes())?;
        }
        Ok(())
    }
}

/// The boxes with the prefixes that ours use, whatever their own are.
fn declared(boxes: &str) -> String {
    const PREFIXES: [(&str, &str); 3] = [
        ("xmlns:v", "urn:schemas-microsoft-com:vml"),
        ("xmlns:o", "urn:schemas-microsoft-com:office:office"),
        ("xmlns:x", "urn:schemas-microsoft-com:office:excel"),
    ];
    let Some(at) = boxes.find("<xml").map(|at| at + "<xml".len()) else { return boxes.to_owned() };
    let tag = boxes.get(at..).and_then(|rest| rest.split('>').next()).unwrap_or_default();
    let missing = PREFIXES.iter().filter(|(name, _)| !tag.contains(&format!("{name}=")));
    let missing: String = missing.map(|(name, of)| format!(" {name}=\"{of}\"")).collect();
    format!("{}{missing}{}", piece(boxes, 0..at), piece(boxes, at..boxes.len()))
}

/// A sheet without notes.
pub(super) const NO_TEXTS: &str = "<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"yes\"?>\n<comments \
xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"><authors/><commentList/></comments>";
const NO_BOXES: &str = "<xml xmlns:v=\"urn:schemas-microsoft-com:vml\" xmlns:o=\"urn:schemas-microsoft-com:office:office\" \
xmlns:x=\"urn:schemas-microsoft-com:office:excel\"><o:shapelayout v:ext=\"edit\"><o:idmap v:ext=\"edit\" data=\"1\"/>\
</o:shapelayout></xml>";
/// What all boxes of notes are.
const BOX_TYPE: &str = "<v:shapetype id=\"_x0000_t202\" coordsize=\"21600,21600\" o:spt=\"202\" \
path=\"m,l,21600r21600,l21600,xe\"><v:stroke joinstyle=\"miter\"/><v:path gradientshapeok=\"t\" o:connecttype=\"rect\"/>\
</v:shapetype>";

/// A note without what an earlier check wrote; nothing where it wrote all of it.
fn without_ours(note: &str) -> Result<Option<String>, String> {
    let (_, within) = root(note)?;
    let Some(text) = within.iter().find(|element| element.name == "text") else {
        return Ok(Some(note.to_owned()));
    };
    let runs = children(note, text)?;
    let said = |element: &Element| -> String {
        let texts = match element.name.as_str() {
            "t" => vec![element.clone()],
            _ => children(note, element).unwrap_or_default(),
        };
        let inner = texts.into_iter().filter(|element| element.name == "t").filter_map(|text| text.inner);
        inner.map(|inner| piece(note, inner)).collect()
    };
    // Programs join runs: what stands behind our first words is ours in any case.
    let whole: String = runs.iter().map(said).collect();
    if whole.trim_start().starts_with(OURS) {
        return Ok(None);
    }
    let Some(at) = runs.iter().position(|run| said(run).contains(OURS)) else {
        return Ok(Some(note.to_owned()));
    };
    let Some(first) = runs.get(at) else { return Ok(None) };
    let end = text.inner.clone().map_or(text.whole.end, |inner| inner.end);
    let before = said(first).split(OURS).next().unwrap_or_default().trim_end().to_owned();
    let p = prefix(piece(note, text.whole.clone()));
    let kept = match before.is_empty() {
        true => String::new(),
        false => format!("<{p}r><{p}t xml:space=\"preserve\">{before}</{p}t></{p}r>"),
    };
    Ok(Some(format!("{}{kept}{}", piece(note, 0..first.whole.start), piece(note, end..note.len()))))
}

/// A note of the sender with a run of ours behind its text.
fn joined(note: &str, p: &str, run: &str) -> String {
    let end = format!("</{p}text>");
    let Some((before, behind)) = note.rsplit_once(&end) else { return note.to_owned() };
    // A text that is no run becomes one.
    let open = format!("<{p}text>");
    let before = match before.split_once(&open) {
        Some((head, plain))
            if plain.starts_with(&format!("<{p}t")) && !plain.contains(&format!("<{p}r>")) =>
        {
            format!("{head}{open}<{p}r>{plain}</{p}r>")
        }
        _ => before.to_owned(),
    };
    format!("{before}{run}{end}{behind}")
}

/// Row, from 1, and column, from 0, of a place such as `B12`.
pub(super) fn place_of(place: &str) -> Option<(u64, usize)> {
    let place: String = place.chars().filter(|c| *c != '$').collect();
    let (column, row) = crate::book::sheet::place_of(&place)?;
    Some((u64::from(row), column as usize))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn notes_of_the_sender_stay_and_ours_go() {
        let own = "<comment ref=\"B2\" authorId=\"0\"><text><t>ask Ida</t></text></comment>";
        let xml = NO_TEXTS.replace("<commentList/>", &format!("<commentList>{own}</commentList>"));
        let texts_of = |xml: &str, put: &[(u64, usize, &str)]| {
            let mut notes = Notes::read(xml.to_owned()).expect("they can be read");
            put.iter().for_each(|(row, column, text)| notes.put(*row, *column, text).expect("there is room"));
            let (mut texts, mut boxes) = (Vec::new(), Vec::new());
            notes
                .finish(None, &mut |is_text, bytes| {
                    if is_text { &mut texts } else { &mut boxes }.extend(bytes);
                    Ok(())
                })
                .expect("they can be read again");
            (String::from_utf8(texts).expect("text"), String::from_utf8(boxes).expect("text"))
        };
        let (marked, boxes) = texts_of(&xml, &[(2, 1, "no number"), (3, 1, "a < b")]);
        assert!(marked.contains("ask Ida</t></r><r><t xml:space=\"preserve\">\nTidy Gate: no number</t>"));
        assert!(
            marked.contains("Tidy Gate: a &lt; b") && boxes.contains("<x:Row>2</x:Row>"),
            "{marked}{boxes}"
        );
        let (bare, _) = texts_of(&marked, &[]);
        assert!(bare.contains("ask Ida") && !bare.contains(OURS) && !bare.contains("B3"), "{bare}");
    }
}
