//! A table or view of an SQLite database as rows. The database is opened for reading alone, and read in one transaction,
//! so that it is one state of it.

use crate::error::Error;
use crate::place::{Place, parts};
use rusqlite::types::ValueRef;
use rusqlite::{Connection, OpenFlags};
use std::path::Path;
use std::time::Duration;
use tidy_gate_core::likeness;
use tidy_gate_files::{Input, MadeRows};

/// So long it is waited for a database that another program has locked.
const PATIENCE: Duration = Duration::from_secs(5);

/// The rows of the table, with the columns that `wants` names by their numbers.
pub(crate) fn rows(place: &Place, wants: &dyn Fn(&[String]) -> Vec<usize>) -> Result<Input, Error> {
    let path = place.file.clone();
    let failed = |error: rusqlite::Error| database(&path, &error);
    let connection = open(&path).map_err(failed)?;
    let known = tables(&connection).map_err(failed)?;
    let listed = || {
        let names: Vec<String> = known.iter().take(20).map(|name| written(name)).collect();
        if names.is_empty() {
            "it holds no table".to_owned()
        } else {
            format!("it holds {}", names.join(", "))
        }
    };
    let Some(stated) = &place.table else {
        return Err(Error::TableWanted {
            path: path.clone(),
            known: format!("name it as {}#TABLE; {}", path.display(), listed()),
        });
    };
    let named = parts(stated);
    let (schema, table) = match named.as_deref() {
        Some([table]) => (None, table),
        Some([schema, table]) => (Some(schema), table),
        _ => {
            let what = "not the name of a table as SQL writes it".to_owned();
            return Err(Error::NoPlace { stated: place.name(), what });
        }
    };
    let columns = columns(&connection, schema, table).map_err(failed)?;
    if columns.is_empty() {
        let near = likeness::nearest(table, known.iter().map(|name| (name.as_str(), name)));
        let known = near.map_or_else(listed, |near| format!("did you mean {}?", written(near)));
        return Err(Error::NoTable { path: path.clone(), table: stated.clone(), known });
    }
    let wanted: Vec<String> =
        wants(&columns).into_iter().filter_map(|number| columns.get(number).cloned()).collect();
    let from = schema.into_iter().chain([table]).map(|part| quoted(part)).collect::<Vec<_>>().join(".");
    let list = wanted.iter().map(|column| quoted(column)).collect::<Vec<_>>().join(", ");
    let list = if list.is_empty() { "NULL".to_owned() } else { list };
    let (query, table) = (format!("SELECT {list} FROM {from}"), stated.clone());
    let name = place.name();
    let input = Input::made(Path::new(&name), move |rows| {
        let failed = |error: Error| tidy_gate_files::Error::Read {
            path: path.clone(),
            source: std::io::Error::other(told(&error)),
        };
        select(&connection, &query, (&path, &table), &wanted, rows).map_err(failed)
    });
    Ok(input?)
}

/// What the error says, without the path that the one around it says.
fn told(error: &Error) -> String {
    match error {
        Error::Database { message, .. } => message.clone(),
        error => error.to_string(),
    }
}

fn open(path: &Path) -> rusqlite::Result<Connection> {
    let connection = Connection::open_with_flags(
        path,
        OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX,
    )?;
    connection.busy_timeout(PATIENCE)?;
    connection.pragma_update(None, "query_only", true)?;
    // Views may not call what a database file brings along.
    connection.pragma_update(None, "trusted_schema", false)?;
    connection.execute_batch("BEGIN")?;
    Ok(connection)
}

fn tables(connection: &Connection) -> rusqlite::Result<Vec<String>> {
    let sql = "SELECT name FROM sqlite_schema WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY name";
    connection.prepare(sql)?.query_map([], |row| row.get(0))?.collect()
}

/// The columns of a table, hidden ones aside.
fn columns(connection: &Connection, schema: Option<&String>, table: &str) -> rusqlite::Result<Vec<String>> {
    let sql = "SELECT name FROM pragma_table_xinfo(?1, ?2) WHERE hidden <> 1";
    let schema = schema.map_or("main", String::as_str);
    connection.prepare(sql)?.query_map([table, schema], |row| row.get(0))?.collect()
}

fn select(
    connection: &Connection,
    query: &str,
    (path, table): (&Path, &str),
    columns: &[String],
    into: &mut MadeRows<'_>,
) -> Result<(), Error> {
    let failed = |error: rusqlite::Error| database(path, &error);
    columns.iter().for_each(|column| into.text(column));
    into.end_row();
    let mut statement = connection.prepare(query).map_err(failed)?;
    let mut rows = statement.query([]).map_err(failed)?;
    while let Some(row) = rows.next().map_err(failed)? {
        for (number, column) in columns.iter().enumerate() {
            match row.get_ref(number).map_err(failed)? {
                ValueRef::Null => into.blank(),
                ValueRef::Integer(value) => into.value(&value.to_string()),
                ValueRef::Real(value) => into.value(&value.to_string()),
                ValueRef::Text(text) => into.text(&String::from_utf8_lossy(text)),
                ValueRef::Blob(_) => {
                    let (path, table, column) = (path.to_owned(), table.to_owned(), column.clone());
                    return Err(Error::Blob { path, table, column });
                }
            }
        }
        if !into.end_row() {
            return Ok(());
        }
    }
    Ok(())
}

fn database(path: &Path, error: &rusqlite::Error) -> Error {
    let message = match error {
        rusqlite::Error::SqliteFailure(_, Some(message)) => message.clone(),
        error => error.to_string(),
    };
    Error::Database { path: path.to_owned(), message }
}

/// A name as SQL takes it whatever it holds (ISO/IEC 9075-2, 5.2: a delimited identifier).
fn quoted(name: &str) -> String {
    format!("\"{}\"", name.replace('"', "\"\""))
}

/// A name as it can be typed behind `#`.
fn written(name: &str) -> String {
    let is_plain = |c: char| c.is_ascii_alphanumeric() || c == '_';
    if !name.is_empty() && name.chars().all(is_plain) { name.to_owned() } else { quoted(name) }
}
