//! Whether a workbook was made from a template: by its document properties, or by the first cells of a sheet of the
//! template's own, since some programs drop properties.

use super::package::Package;
use super::xml::{Node, Xml, attribute};
use crate::error::Error;
use crate::layout::{FirstRow, TemplateOf};
use crate::text::Limits;
use std::fs::File;
use std::io::BufRead;
use std::path::Path;
use tidy_gate_core::decided::{DECIDED, Decided};
use tidy_gate_core::template::{MARK, MEANT, Meant, PROPERTIES};

/// What the document properties of a workbook say that was made here.
#[derive(Debug, Clone, Default)]
pub(crate) struct Told {
    pub(crate) template: Option<TemplateOf>,
    /// What was decided of the file of which it holds a part.
    pub(crate) decided: Decided,
    /// How a sheet of records that are there is to be checked.
    pub(crate) meant: Option<Meant>,
}

/// How a workbook is to be checked that was made to change records which are there, if it says so.
#[must_use]
pub fn meant_by(path: &Path) -> Option<Meant> {
    let file = File::open(path).ok().filter(|file| file.metadata().is_ok_and(|facts| facts.is_file()))?;
    let mut package = Package::open(path, file, Limits::default()).ok()?;
    in_properties(&mut package).ok()?.meant
}

/// What the rows of one of the template's own sheets say.
pub(super) fn in_sheet(rows: &[FirstRow]) -> Option<TemplateOf> {
    let cells = &rows.first()?.cells;
    let cell = |number: usize| cells.get(number).map(|cell| cell.trim().to_owned()).unwrap_or_default();
    (cell(0) == MARK).then(|| TemplateOf { record: cell(1), version: cell(2) })
}

/// What the document properties of an office package say; properties that cannot be read are none.
pub(super) fn in_properties(package: &mut Package) -> Result<Told, Error> {
    for name in ["docProps/custom.xml", "meta.xml"] {
        let (path, piece) = (package.path().to_owned(), package.piece());
        let Some(part) = package.part(name)? else { continue };
        if let Ok(found) = properties(&mut Xml::new(path, name, piece, part))
            && (found.template.is_some() || found.meant.is_some() || !found.decided.fields.is_empty())
        {
            return Ok(found);
        }
    }
    Ok(Told::default())
}

fn properties<R: BufRead>(xml: &mut Xml<R>) -> Result<Told, Error> {
    let names = [PROPERTIES[0], PROPERTIES[1], DECIDED, MEANT];
    let mut values = [const { String::new() }; 4];
    let mut current = None;
    loop {
        match xml.next()? {
            Node::Open(start) if matches!(start.local_name().as_ref(), "property" | "user-defined") => {
                let name = attribute(&start, "name").unwrap_or_default();
                current = names.iter().position(|known| *known == name);
            }
            Node::Text(text) => {
                if let Some(slot) = current.and_then(|number| values.get_mut(number)) {
                    slot.push_str(text.trim());
                }
            }
            Node::Close(name) if matches!(name.as_str(), "property" | "user-defined") => current = None,
            Node::End => break,
            _ => {}
        }
    }
    let [record, version, decided, meant] = values;
    let meant = serde_json::from_str(&meant).ok();
    let template = (!record.is_empty()).then_some(TemplateOf { record, version });
    Ok(Told { template, decided: Decided::of_property(&decided), meant })
}
