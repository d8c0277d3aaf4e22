//! A workbook is written with marks on one of its sheets.

use super::front::{self, FrontLine};
use super::model::{Limit, MarkSum, Marking};
use super::notes::{NO_TEXTS, Notes};
use super::parts::Parts;
use super::sheet::{NextMarks, With};
use super::source::Source;
use super::styles::Styles;
use super::target::Target;
use super::wiring::content_types;
use crate::error::Error;
use crate::output::Output;
use std::io::BufRead;
use std::path::Path;
use zip::ZipWriter;

const CONTENT_TYPES: &str = "[Content_Types].xml";

/// Writes the workbook with marks on a sheet, whose part may be made elsewhere (and may be very large); `front`
/// gives the lines of the sheet in front once all is counted.
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
    let parts = Parts::of(&mut source, marking)?;
    marking.is_strict = parts.is_strict;
    let damaged = |part: &str, what: String| Error::damaged(path, part, &what);
    let mut styles =
        Styles::read(source.text(&parts.styles)?).map_err(|what| damaged(&parts.styles, what))?;
    let mut notes = Notes::read(match &parts.notes_there {
        true => source.text(&parts.notes)?.unwrap_or_else(|| NO_TEXTS.to_owned()),
        false => in_form(NO_TEXTS.to_owned(), parts.is_strict),
    })
    .map_err(|what| damaged(&parts.notes, what))?;
    let place = output.path().to_owned();
    let mut target = Target { writer: ZipWriter::new(output.writer()), path: &place };
    let types = source.text(CONTENT_TYPES)?.unwrap_or_default();
    let types = content_types(&types, &parts.new_parts()).map_err(|what| damaged(CONTENT_TYPES, what))?;
    let late = parts.late(marking.part);
    let mut done = None;
    for number in 0..source.archive.len() {
        let name = source.name(number)?;
        if name.eq_ignore_ascii_case(marking.part) {
            let with = With {
                marking,
                styles: &mut styles,
                notes: &mut notes,
                next,
                front: &parts.front_name,
                drawing: &parts.drawing,
                is_shown: !parts.is_front_shown,
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
        sheet: marking.sheet.to_owned(),
        front: parts.front_name.clone(),
        limits: tail.limits,
    };
    sum.limits.extend(limits(&styles, &notes, parts.is_front_shown, marking.own.is_some()));
    let sheet = front::written(&front(&sum), marking, &styles, parts.is_front_shown);
    target.part(&parts.front, in_form(sheet, parts.is_strict).as_bytes())?;
    target.part(&parts.styles, styles.written().as_bytes())?;
    parts.write_wiring(marking, tail.filter.as_deref(), &mut target, path)?;
    parts.write_notes(notes, &mut source, &mut target)?;
    target.finish()?;
    Ok(sum)
}

/// What could not be done with styles, notes, sheets and columns.
fn limits(styles: &Styles, notes: &Notes, is_front_shown: bool, has_columns: bool) -> Vec<Limit> {
    let count = |count: u64, limit: fn(u64) -> Limit| (count > 0).then(|| limit(count));
    let found = [
        count(styles.plain, Limit::PlainStyles),
        count(notes.cut, Limit::NotesCut),
        count(notes.left_out, Limit::NotesLeftOut),
        (!is_front_shown).then_some(Limit::OtherSheetShown),
        (!has_columns).then_some(Limit::NoColumns),
    ];
    found.into_iter().flatten().collect()
}

/// A part that was made here in the form of its workbook: the strict one has names of its own (ECMA-376 part 1, annex A).
fn in_form(part: String, is_strict: bool) -> String {
    const MAIN: [&str; 2] = [
        "http://schemas.openxmlformats.org/spreadsheetml/2006/main",
        "http://purl.oclc.org/ooxml/spreadsheetml/main",
    ];
    if is_strict { part.replace(MAIN[0], MAIN[1]) } else { part }
}
