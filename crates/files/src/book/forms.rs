//! The forms of workbooks: what each is told by, how it is opened, and how a sheet of it is read. A new form is a reader
//! beside this file and a row in the table.

use super::package::Package;
use super::rows::Bounds;
use super::sheet::SheetFacts;
use super::template::{self, Told};
use super::xlsx::Sheet;
use super::xml::Xml;
use super::{ods, scan, xls, xlsb, xlsx};
use crate::error::{Error, Shape};
use crate::text::input::Package as Packing;
use crate::text::options::Limits;
use std::fs::File;
use std::path::Path;

/// An opened workbook of some form.
pub(super) trait Form: Send {
    /// Its name in reports.
    fn name(&self) -> &'static str;

    /// What its document properties say.
    ///
    /// # Errors
    /// When they cannot be read.
    fn told(&mut self) -> Result<Told, Error>;

    /// Reads the sheet of this number, which stands in this part; its rows are handed on as text until `take` says no.
    ///
    /// # Errors
    /// When it is missing or damaged, or holds more than the bounds allow.
    fn read(
        &mut self,
        number: usize,
        part: &str,
        bounds: &Bounds,
        take: Take<'_>,
    ) -> Result<SheetFacts, Error>;
}

/// A workbook and its sheets.
type Opened = (Box<dyn Form>, Vec<Sheet>);

/// Takes the rows that were read; no more when it says no.
type Take<'a> = &'a mut dyn FnMut(Vec<u8>) -> bool;

/// Reads a sheet by its number and its part.
type ReadSheet =
    dyn FnMut(&mut Package, (usize, &str), &Bounds, Take<'_>) -> Result<SheetFacts, Error> + Send;

/// The sheets of an archive, and what reads one of them.
type Readable = (Vec<Sheet>, Box<ReadSheet>);

/// A form that is an archive of parts.
struct InArchive {
    is_one: fn(&Package) -> bool,
    open: fn(&mut Package) -> Result<Readable, Error>,
    name: &'static str,
}

/// The forms that are archives, in the order in which they are looked for.
const IN_ARCHIVES: [InArchive; 3] = [
    InArchive { name: "ods", is_one: ods::is_one, open: open_ods },
    InArchive { name: "xlsb", is_one: |package| package.has(xlsb::MAIN), open: open_xlsb },
    InArchive { name: "xlsx", is_one: |package| package.has("[Content_Types].xml"), open: open_xlsx },
];

/// Opens a workbook.
pub(super) fn open(path: &Path, file: File, limits: Limits, packing: Packing) -> Result<Opened, Error> {
    if packing == Packing::Compound {
        let (book, sheets) = xls::Xls::open(path, file)?;
        return Ok((Box::new(book), sheets));
    }
    let mut package = Package::open(path, file, limits)?;
    let Some(form) = IN_ARCHIVES.iter().find(|form| (form.is_one)(&package)) else {
        return Err(Error::NotTable { path: path.to_owned(), shape: Shape::Archive });
    };
    let (sheets, read) = (form.open)(&mut package)?;
    Ok((Box::new(Archived { name: form.name, package, read }), sheets))
}

fn open_ods(package: &mut Package) -> Result<Readable, Error> {
    if ods::is_encrypted(package)? {
        return Err(Error::NotTable { path: package.path().to_owned(), shape: Shape::Encrypted });
    }
    let read: Box<ReadSheet> = Box::new(|package, (number, part), bounds, take| {
        let (path, piece) = (package.path().to_owned(), package.piece());
        ods::read(&mut Xml::new(path, part, piece, package.needed(part)?), number, bounds, take)
    });
    Ok((ods::sheets(package)?, read))
}

fn open_xlsb(package: &mut Package) -> Result<Readable, Error> {
    let (sheets, shared) = xlsb::open(package)?;
    let read: Box<ReadSheet> = Box::new(move |package, (_, part), bounds, take| {
        let (path, piece) = (package.path().to_owned(), package.piece());
        xlsb::read(&mut xlsb::Records::new(path, part, piece, package.needed(part)?), &shared, bounds, take)
    });
    Ok((sheets, read))
}

fn open_xlsx(package: &mut Package) -> Result<Readable, Error> {
    let (sheets, from_1904) = xlsx::sheets(package)?;
    let shared = xlsx::shared(package, from_1904)?;
    let read: Box<ReadSheet> = Box::new(move |package, (_, part), bounds, take| {
        let (path, piece) = (package.path().to_owned(), package.piece());
        let source = scan::Source { path, part: part.to_owned(), piece, from: package.needed(part)? };
        scan::read(source, &shared, bounds, take)
    });
    Ok((sheets, read))
}

/// An opened archive.
struct Archived {
    name: &'static str,
    package: Package,
    read: Box<ReadSheet>,
}

impl Form for Archived {
    fn name(&self) -> &'static str {
        self.name
    }

    fn told(&mut self) -> Result<Told, Error> {
        template::in_properties(&mut self.package)
    }

    fn read(
        &mut self,
        number: usize,
        part: &str,
        bounds: &Bounds,
        take: Take<'_>,
    ) -> Result<SheetFacts, Error> {
        (self.read)(&mut self.package, (number, part), bounds, take)
    }
}

impl Form for xls::Xls {
    fn name(&self) -> &'static str {
        "xls"
    }

    fn told(&mut self) -> Result<Told, Error> {
        Ok(Told::default())
    }

    fn read(&mut self, number: usize, _: &str, bounds: &Bounds, take: Take<'_>) -> Result<SheetFacts, Error> {
        self.sheet(number, bounds, take)
    }
}
