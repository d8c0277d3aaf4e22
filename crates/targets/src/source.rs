//! A place of records as a table: an export as the file it is, a database's table as rows made of it.

use crate::error::Error;
use crate::place::Place;
use crate::sqlite;
use std::sync::atomic::AtomicBool;
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_files::{Input, ReadOptions, TableFile};

/// Opens the table at a place; an export so that it can be read again. Of a database only the columns are asked for that `wants` names by their numbers; an
/// export is read by `options`.
///
/// # Errors
/// When it cannot be opened, or there is no such table.
pub fn open(
    place: &Place,
    schema: &RecordSchema,
    options: &ReadOptions,
    wants: &dyn Fn(&[String]) -> Vec<usize>,
    interrupted: &'static AtomicBool,
) -> Result<TableFile, Error> {
    if place.is_database() {
        let input = sqlite::rows(place, wants)?;
        return Ok(TableFile::open_made(input, schema, interrupted)?);
    }
    let input = Input::open(&place.file)?;
    let sheet = place.table.as_deref();
    Ok(TableFile::open_sheet(input, sheet, options, Some(schema), true, interrupted)?)
}
