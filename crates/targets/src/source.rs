//! A place of records as a table: an export as the file it is, a database's table as rows made of it.

use crate::asked::Asked;
use crate::error::Error;
use crate::place::{At, Place};
use crate::{server, sqlite};
use std::sync::atomic::AtomicBool;
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_files::{Input, ReadOptions, TableFile};

/// Opens the table at a place; an export so that it can be read again. Of a database only the columns are asked for that
/// `wants` names by their numbers; an export is read by `options`.
///
/// # Errors
/// When it cannot be opened, or there is no such table.
pub fn open(
    place: &Place,
    schema: &RecordSchema,
    options: &ReadOptions,
    wants: &dyn Fn(&[String]) -> Asked,
    interrupted: &'static AtomicBool,
) -> Result<TableFile, Error> {
    let made = |input, has_marks| Ok(TableFile::open_made(input, has_marks, schema, interrupted)?);
    match &place.at {
        At::Server(variable) => made(server::rows((variable, place), wants)?, false),
        At::File(file) if place.is_database() => made(sqlite::rows((file, place), wants)?, true),
        At::File(file) => {
            let input = Input::open(file)?;
            let sheet = place.table.as_deref();
            Ok(TableFile::open_sheet(input, sheet, options, Some(schema), true, interrupted)?)
        }
    }
}

/// The SQL that would make a table of a database, and its name; nothing where the place is none.
///
/// # Errors
/// When there is no such table.
pub fn definition(place: &Place) -> Result<Option<(String, String)>, Error> {
    match &place.at {
        At::Server(variable) => server::definition(variable, place).map(Some),
        At::File(file) if place.is_database() => sqlite::definition(file, place).map(Some),
        At::File(_) => Ok(None),
    }
}
