//! The forms of workbooks: what each is told by, how it is opened, and how a sheet of it is read. A new form is a reader
//! beside this file and a row in the table.

use super::package::Package;
use super::rows::Bounds;
use super::sheet::SheetFacts;
use super::template::{self, Told};
use super::xlsx::{Shared, Sheet};
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
        take: &mut dyn FnMut(Vec<u8>) -> bool,
    ) -> Result<SheetFacts, Error>;
}

/// A workbook and its sheets.
type Opened = (Box<dyn Form>, Vec<Sheet>);

/// A form that is an archive of parts.
struct InArchive {
    is_one: fn(&Package) -> bool,
    open: fn(Package) -> Result<Opened, Error>,
}

/// The forms that are archives, in the order in which they are looked for.
const IN_ARCHIVES: [InArchive; 3] = [
    InArchive { is_one: ods::is_one, open: Ods::open },
    InArchive { is_one: |package| package.has(xlsb::MAIN), open: Xlsb::open },
    InArchive { is_one: |package| package.has("[Content_Types].xml"), open: Xlsx::open },
];

/// Opens a workbook.
pub(super) fn open(path: &Path, file: File, limits: Limits, packing: Packing) -> Result<Opened, Error> {
    if packing == Packing::Compound {
        let (book, sheets) = xls::Xls::open(path, file)?;
        return Ok((Box::new(book), sheets));
    }
    let package = Package::open(path, file, limits)?;
    match IN_ARCHIVES.iter().find(|form| (form.is_one)(&package)) {
        Some(form) => (form.open)(package),
        None => Err(Error::NotTable { path: path.to_owned(), shape: Shape::Archive }),
    }
}

struct Ods(Package);

impl Ods {
    fn open(mut package: Package) -> Result<Opened, Error> {
        if ods::is_encrypted(&mut package)? {
            return Err(Error::NotTable { path: package.path().to_owned(), shape: Shape::Encrypted });
        }
        let sheets = ods::sheets(&mut package)?;
        Ok((Box::new(Self(package)), sheets))
    }
}

impl Form for Ods {
    fn name(&self) -> &'static str {
        "ods"
    }

    fn told(&mut self) -> Result<Told, Error> {
        template::in_properties(&mut self.0)
    }

    fn read(
        &mut self,
        number: usize,
        part: &str,
        bounds: &Bounds,
        take: &mut dyn FnMut(Vec<u8>) -> bool,
    ) -> Result<SheetFacts, Error> {
        let (path, piece) = (self.0.path().to_owned(), self.0.piece());
        let from = self.0.needed(part)?;
        ods::read(&mut Xml::new(path, part, piece, from), number, bounds, take)
    }
}

struct Xlsb(Package, Shared);

impl Xlsb {
    fn open(mut package: Package) -> Result<Opened, Error> {
        let (sheets, shared) = xlsb::open(&mut package)?;
        Ok((Box::new(Self(package, shared)), sheets))
    }
}

impl Form for Xlsb {
    fn name(&self) -> &'static str {
        "xlsb"
    }

    fn told(&mut self) -> Result<Told, Error> {
        template::in_properties(&mut self.0)
    }

    fn read(
        &mut self,
        _: usize,
        part: &str,
        bounds: &Bounds,
        take: &mut dyn FnMut(Vec<u8>) -> bool,
    ) -> Result<SheetFacts, Error> {
        let (path, piece) = (self.0.path().to_owned(), self.0.piece());
        let from = self.0.needed(part)?;
        xlsb::read(&mut xlsb::Records::new(path, part, piece, from), &self.1, bounds, take)
    }
}

struct Xlsx(Package, Shared);

impl Xlsx {
    fn open(mut package: Package) -> Result<Opened, Error> {
        let (sheets, from_1904) = xlsx::sheets(&mut package)?;
        let shared = xlsx::shared(&mut package, from_1904)?;
        Ok((Box::new(Self(package, shared)), sheets))
    }
}

impl Form for Xlsx {
    fn name(&self) -> &'static str {
        "xlsx"
    }

    fn told(&mut self) -> Result<Told, Error> {
        template::in_properties(&mut self.0)
    }

    fn read(
        &mut self,
        _: usize,
        part: &str,
        bounds: &Bounds,
        take: &mut dyn FnMut(Vec<u8>) -> bool,
    ) -> Result<SheetFacts, Error> {
        let (path, piece) = (self.0.path().to_owned(), self.0.piece());
        let from = self.0.needed(part)?;
        scan::read(scan::Source { path, part: part.to_owned(), piece, from }, &self.1, bounds, take)
    }
}

impl Form for xls::Xls {
    fn name(&self) -> &'static str {
        "xls"
    }

    fn told(&mut self) -> Result<Told, Error> {
        Ok(Told::default())
    }

    fn read(
        &mut self,
        number: usize,
        _: &str,
        bounds: &Bounds,
        take: &mut dyn FnMut(Vec<u8>) -> bool,
    ) -> Result<SheetFacts, Error> {
        self.sheet(number, bounds, take)
    }
}
