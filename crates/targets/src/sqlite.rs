//! A table or view of an SQLite database as rows. The database is opened for reading alone, and read in one transaction,
//! so that it is one state of it.

use crate::asked::Asked;
use crate::error::Error;
use crate::place::{Place, listed, parts, quoted, written};
use rusqlite::types::ValueRef;
use rusqlite::{Connection, OpenFlags, Row};
use std::path::Path;
use std::time::Duration;
use tidy_gate_core::gate::{Share, Sieve};
use tidy_gate_files::{Input, MadeRows};

/// So long it is waited for a database that another program has locked.
const PATIENCE: Duration = Duration::from_secs(5);

/// A database that is open, and the table of it that was found.
struct Found {
    connection: Connection,
    schema: Option<String>,
    table: String,
    columns: Vec<String>,
}

/// Opens the database and finds the table.
fn find(path: &Path, place: &Place) -> Result<Found, Error> {
    let failed = |error: rusqlite::Error| database(path, &error);
    let connection = open(path).map_err(failed)?;
    let known: Vec<String> = tables(&connection).map_err(failed)?.iter().map(|name| written(name)).collect();
    let path = path.to_owned();
    let stated = match (&place.table, known.as_slice()) {
        (Some(stated), _) => stated,
        (None, [only]) => only,
        (None, _) => {
            let known = format!("name it as {}#TABLE; {}", path.display(), listed(&known, None));
            return Err(Error::TableWanted { path, known });
        }
    };
    let named = parts(stated);
    let (schema, table) = match named.as_deref() {
        Some([table]) => (None, table.clone()),
        Some([schema, table]) => (Some(schema.clone()), table.clone()),
        _ => {
            let what = "not the name of a table as SQL writes it".to_owned();
            return Err(Error::NoPlace { stated: place.name(), what });
        }
    };
    let columns = columns(&connection, schema.as_ref(), &table).map_err(|error| database(&path, &error))?;
    if columns.is_empty() {
        let known = listed(&known, Some(stated));
        return Err(Error::NoTable { path, table: stated.clone(), known });
    }
    Ok(Found { connection, schema, table, columns })
}

/// The SQL that made a table, its indexes among it, and its name. A view is described by its columns.
pub(crate) fn definition(path: &Path, place: &Place) -> Result<(String, String), Error> {
    let found = find(path, place)?;
    let failed = |error: rusqlite::Error| database(path, &error);
    let schema = found.schema.as_deref().unwrap_or("main");
    let sql = format!(
        "SELECT sql, type FROM {}.sqlite_schema WHERE tbl_name = ?1 COLLATE NOCASE AND sql IS NOT NULL \
         AND type IN ('table', 'view', 'index') ORDER BY type <> 'table'",
        quoted(schema)
    );
    let mut statement = found.connection.prepare(&sql).map_err(failed)?;
    let rows = statement.query_map([&found.table], |row| Ok((row.get(0)?, row.get(1)?))).map_err(failed)?;
    let made: Vec<(String, String)> = rows.collect::<rusqlite::Result<_>>().map_err(failed)?;
    if made.first().is_some_and(|made| made.1 == "table") {
        let all: Vec<String> = made.into_iter().map(|made| format!("{};\n", made.0)).collect();
        return Ok((all.concat(), found.table));
    }
    let sql = "SELECT name, type FROM pragma_table_xinfo(?1, ?2) WHERE hidden <> 1";
    let mut statement = found.connection.prepare(sql).map_err(failed)?;
    let column = |row: &rusqlite::Row<'_>| {
        let (name, kind): (String, String) = (row.get(0)?, row.get(1)?);
        Ok(format!("{} {}", quoted(&name), if kind.is_empty() { "text" } else { &kind }))
    };
    let columns = statement.query_map([&found.table, schema], column).map_err(failed)?;
    let columns: Vec<String> = columns.collect::<rusqlite::Result<_>>().map_err(failed)?;
    Ok((format!("CREATE TABLE {} ({});\n", quoted(&found.table), columns.join(", ")), found.table))
}

/// The rows of the table, with the columns that `wants` names by their numbers. Rows that no one asks for are blank but
/// for those columns that are read of every row.
pub(crate) fn rows(
    (path, place): (&Path, &Place),
    wants: &dyn Fn(&[String]) -> Asked,
) -> Result<Input, Error> {
    let Found { connection, schema, table, columns } = find(path, place)?;
    let mut asked = wants(&columns);
    let (key, needed) = asked.put_in_order();
    let wanted: Vec<String> =
        asked.columns.iter().filter_map(|number| columns.get(*number).cloned()).collect();
    let from: Vec<String> = schema.iter().chain([&table]).map(|part| quoted(part)).collect();
    // Where nothing is asked for, the names alone are told.
    let none = if wanted.is_empty() { " WHERE false" } else { "" };
    let wanted = if wanted.is_empty() { columns } else { wanted };
    let list = wanted.iter().map(|column| quoted(column)).collect::<Vec<_>>().join(", ");
    let query = format!("SELECT {list} FROM {}{none}", from.join("."));
    let (name, path) = (place.name(), path.to_owned());
    let input = Input::made(Path::new(&name), move |rows| {
        let failed = |error: Error| tidy_gate_files::Error::Read {
            path: path.clone(),
            source: std::io::Error::other(told(&error)),
        };
        let table = Reading { path: &path, table: &table, columns: &wanted, key, needed };
        table.select(&connection, &query, asked.sieve, rows).map_err(failed)
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

/// A table that is read.
struct Reading<'a> {
    path: &'a Path,
    table: &'a str,
    columns: &'a [String],
    /// So many of the first columns are the key, and so many are read of every row.
    key: usize,
    needed: usize,
}

impl Reading<'_> {
    fn select(
        &self,
        connection: &Connection,
        query: &str,
        mut sieve: Option<Sieve>,
        into: &mut MadeRows<'_>,
    ) -> Result<(), Error> {
        let failed = |error: rusqlite::Error| database(self.path, &error);
        self.columns.iter().for_each(|column| into.text(column));
        into.end_row();
        let mut statement = connection.prepare(query).map_err(failed)?;
        let mut rows = statement.query([]).map_err(failed)?;
        while let Some(row) = rows.next().map_err(failed)? {
            let share = match &mut sieve {
                Some(sieve) => self.share(row, sieve).map_err(failed)?,
                None => Share::All,
            };
            let read = match share {
                Share::All => self.columns.len(),
                Share::Needed => self.needed,
                Share::Nothing => continue,
            };
            for number in 0..read {
                self.write(row.get_ref(number).map_err(failed)?, number, into)?;
            }
            (read..self.columns.len()).for_each(|_| into.blank());
            if !into.end_row() {
                return Ok(());
            }
        }
        sieve.into_iter().for_each(Sieve::finish);
        Ok(())
    }

    fn share(&self, row: &Row<'_>, sieve: &mut Sieve) -> rusqlite::Result<Share> {
        sieve.begin();
        for number in 0..self.key {
            match row.get_ref(number)? {
                ValueRef::Text(text) => sieve.take(Some(text)),
                ValueRef::Integer(value) => sieve.take(Some(value.to_string().as_bytes())),
                _ => sieve.take(None),
            }
        }
        Ok(sieve.share())
    }

    fn write(&self, value: ValueRef<'_>, number: usize, into: &mut MadeRows<'_>) -> Result<(), Error> {
        match value {
            ValueRef::Null => into.blank(),
            ValueRef::Integer(value) => into.number(value),
            ValueRef::Real(value) => into.number(value),
            ValueRef::Text(text) => match str::from_utf8(text) {
                Ok(text) => into.text(text),
                Err(_) => into.text(&String::from_utf8_lossy(text)),
            },
            ValueRef::Blob(_) => {
                let column = self.columns.get(number).cloned().unwrap_or_default();
                let (path, table) = (self.path.to_owned(), self.table.to_owned());
                return Err(Error::Blob { path, table, column });
            }
        }
        Ok(())
    }
}

fn database(path: &Path, error: &rusqlite::Error) -> Error {
    let message = match error {
        rusqlite::Error::SqliteFailure(_, Some(message)) => message.clone(),
        error => error.to_string(),
    };
    Error::Database { path: path.to_owned(), message }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_opened_cannot_be_written() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("r.db");
        Connection::open(&path).unwrap().execute_batch("CREATE TABLE tree (tag TEXT)").unwrap();
        let place = Place::read(&format!("{}#tree", path.display())).unwrap();
        let found = find(&path, &place).unwrap();
        for sql in ["INSERT INTO tree VALUES ('x')", "DROP TABLE tree", "PRAGMA user_version = 3"] {
            assert!(found.connection.execute_batch(sql).is_err(), "{sql}");
        }
        assert_eq!(found.columns, ["tag"]);
    }
}
