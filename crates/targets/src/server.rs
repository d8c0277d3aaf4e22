//! A table or view of a PostgreSQL database: read in one read-only transaction at one snapshot, its rows streamed as the
//! server writes them (`COPY … TO STDOUT`).

mod definition;
mod settings;
mod tls;

pub(crate) use definition::definition;

use crate::error::Error;
use crate::place::{Place, listed, parts, quoted, written};
use postgres::{Client, NoTls};
use settings::{Secrecy, Settings};
use std::io::{self, Read};
use std::path::Path;
use tidy_gate_files::Input;

/// Types whose values are compared with nothing.
const INCOMPARABLE: &[&str] = &[
    "bytea", "json", "jsonb", "xml", "tsvector", "tsquery", "point", "line", "lseg", "box", "path",
    "polygon", "circle", "pg_lsn", "bit", "varbit",
];

/// A session that reads one state of a database.
pub(crate) struct Session {
    client: Client,
    /// As people call it.
    name: String,
}

/// A table that was found.
pub(crate) struct Found {
    schema: String,
    table: String,
    oid: u32,
}

/// A column, and its type.
struct Column {
    name: String,
    /// The name of its type, that of its elements' type for an array, and whether it is one.
    kind: String,
    is_array: bool,
}

impl Session {
    /// Connects, and begins the transaction in which all is read. Waits 10 seconds for the connection unless it is said
    /// otherwise, 30 for what the catalogue says, and 10 for a table that is locked.
    pub(crate) fn open(variable: &str) -> Result<Self, Error> {
        let name = format!("env:{variable}");
        let refused = |what: String| Error::Server { name: name.clone(), what, help: None };
        let settings = Settings::read(variable, &|name| std::env::var(name).ok()).map_err(refused)?;
        let connected = match settings.secrecy {
            Secrecy::None => settings.config.connect(NoTls),
            _ => settings.config.connect(tls::connector(&settings).map_err(refused)?),
        };
        let mut session = Self { client: connected.map_err(|error| told(&name, &error))?, name };
        session.run(
            "BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY; \
             SET LOCAL statement_timeout = '30s'; SET LOCAL lock_timeout = '10s'; \
             SET LOCAL idle_in_transaction_session_timeout = 0; SET LOCAL DateStyle = 'ISO, YMD'; \
             SET LOCAL IntervalStyle = 'iso_8601'; SET LOCAL TimeZone = 'UTC'; SET LOCAL extra_float_digits = 1; \
             SELECT 1",
        )?;
        Ok(session)
    }

    fn run(&mut self, sql: &str) -> Result<(), Error> {
        self.client.batch_execute(sql).map_err(|error| told(&self.name, &error))
    }

    fn rows(
        &mut self,
        sql: &str,
        given: &[&(dyn postgres::types::ToSql + Sync)],
    ) -> Result<Vec<postgres::Row>, Error> {
        self.client.query(sql, given).map_err(|error| told(&self.name, &error))
    }

    /// The tables and views that may be read, by their names as they can be typed.
    fn tables(&mut self) -> Result<Vec<String>, Error> {
        let rows = self.rows(
            "SELECT n.nspname::text, c.relname::text, pg_table_is_visible(c.oid) FROM pg_class c \
             JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') \
             AND n.nspname NOT IN ('pg_catalog', 'information_schema') AND n.nspname NOT LIKE 'pg\\_%' \
             ORDER BY NOT pg_table_is_visible(c.oid), 1, 2",
            &[],
        )?;
        let name = |row: &postgres::Row| {
            let (schema, table): (String, String) = (row.get(0), row.get(1));
            let table = written(&table);
            if row.get(2) { table } else { format!("{}.{table}", written(&schema)) }
        };
        Ok(rows.iter().map(name).collect())
    }

    /// The table of this name. A name that SQL would fold to small letters is found by them, too.
    pub(crate) fn find(&mut self, place: &Place) -> Result<Found, Error> {
        let Some(stated) = &place.table else {
            let known = listed(&self.tables()?, None);
            return Err(Error::Server {
                name: self.name.clone(),
                what: "no table of the database is named".to_owned(),
                help: Some(format!("name it as {}#TABLE; {known}", self.name)),
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
        let rows = self.rows(
            "SELECT n.nspname::text, c.relname::text, c.oid FROM pg_class c \
             JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') \
             AND (c.relname = $1 OR c.relname = lower($1)) \
             AND CASE WHEN $2::text IS NULL THEN pg_table_is_visible(c.oid) ELSE n.nspname IN ($2, lower($2)) END \
             ORDER BY c.relname = $1 DESC, n.nspname = $2 DESC LIMIT 1",
            &[&table, &schema],
        )?;
        if let Some(row) = rows.first() {
            return Ok(Found { schema: row.get(0), table: row.get(1), oid: row.get(2) });
        }
        let known = self.tables()?;
        Err(Error::Server {
            name: self.name.clone(),
            what: format!("there is no table or view {stated} that can be read"),
            help: Some(listed(&known, Some(stated))),
        })
    }

    fn columns(&mut self, found: &Found) -> Result<Vec<Column>, Error> {
        let rows = self.rows(
            "SELECT a.attname::text, coalesce(e.typname, b.typname, t.typname)::text, \
             t.typelem <> 0 AND t.typlen = -1 FROM pg_attribute a JOIN pg_type t ON t.oid = a.atttypid \
             LEFT JOIN pg_type e ON e.oid = t.typelem AND t.typlen = -1 \
             LEFT JOIN pg_type b ON b.oid = t.typbasetype AND t.typtype = 'd' \
             WHERE a.attrelid = $1 AND a.attnum > 0 AND NOT a.attisdropped ORDER BY a.attnum",
            &[&found.oid],
        )?;
        let column =
            |row: &postgres::Row| Column { name: row.get(0), kind: row.get(1), is_array: row.get(2) };
        Ok(rows.iter().map(column).collect())
    }
}

/// The rows of the table, with the columns that `wants` names by their numbers.
pub(crate) fn rows(
    (variable, place): (&str, &Place),
    wants: &dyn Fn(&[String]) -> Vec<usize>,
) -> Result<Input, Error> {
    let mut session = Session::open(variable)?;
    let found = session.find(place)?;
    let columns = session.columns(&found)?;
    let names: Vec<String> = columns.iter().map(|column| column.name.clone()).collect();
    let wanted: Vec<&Column> = wants(&names).into_iter().filter_map(|number| columns.get(number)).collect();
    if let Some(column) = wanted.iter().find(|column| is_incomparable(column)) {
        let kind = if column.is_array { format!("{}[]", column.kind) } else { column.kind.clone() };
        return Err(Error::Server {
            name: session.name,
            what: format!(
                "the column {} of {} is of the type {kind}, which cannot be compared with a file's cells",
                column.name,
                place.table.as_deref().unwrap_or_default()
            ),
            help: Some("leave the column out of a view, and name the view".to_owned()),
        });
    }
    // Where nothing is asked for, the names alone are told.
    let none = if wanted.is_empty() { " WHERE false" } else { "" };
    let wanted = if wanted.is_empty() { columns.iter().collect() } else { wanted };
    let list: Vec<String> = wanted.iter().map(|column| as_text(column)).collect();
    let from = format!("{}.{}", quoted(&found.schema), quoted(&found.table));
    let query = format!("COPY (SELECT {} FROM {from}{none}) TO STDOUT (FORMAT csv)", list.join(", "));
    let headings: Vec<String> = wanted.iter().map(|column| quoted(&column.name)).collect();
    let headings = format!("{}\n", headings.join(","));
    session.run("SET LOCAL statement_timeout = 0")?;
    let name = place.name();
    let path = Path::new(&name).to_owned();
    let input = Input::made(&path.clone(), move |rows| {
        let failed = |source| tidy_gate_files::Error::Read { path: path.clone(), source };
        rows.rows(headings.as_bytes());
        let refused = |error: postgres::Error| failed(io::Error::other(Reason::of(&error).what));
        let mut reader = session.client.copy_out(&query).map_err(refused)?;
        let mut piece = vec![0; 1 << 16];
        loop {
            let read = reader.read(&mut piece).map_err(|error| failed(of_stream(error)))?;
            if read == 0 || !rows.rows(piece.get(..read).unwrap_or_default()) {
                return Ok(());
            }
        }
    });
    Ok(input?)
}

fn is_incomparable(column: &Column) -> bool {
    column.is_array || INCOMPARABLE.contains(&column.kind.as_str())
}

/// A column as text that a file could hold.
fn as_text(column: &Column) -> String {
    let name = quoted(&column.name);
    match column.kind.as_str() {
        "timestamptz" => format!(r#"to_char({name} AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')"#),
        "timestamp" => format!(r#"to_char({name}, 'YYYY-MM-DD"T"HH24:MI:SS.US')"#),
        "money" => format!("{name}::numeric::text"),
        _ => format!("{name}::text"),
    }
}

/// What went wrong while rows were streamed.
fn of_stream(error: io::Error) -> io::Error {
    match error.get_ref().and_then(|inner| inner.downcast_ref::<postgres::Error>()) {
        Some(inner) => io::Error::other(Reason::of(inner).what),
        None => error,
    }
}

/// Why a server refuses, in words, and what to do.
struct Reason {
    what: String,
    help: Option<String>,
}

impl Reason {
    fn of(error: &postgres::Error) -> Self {
        use postgres::error::SqlState;
        let Some(database) = error.as_db_error() else {
            if error.is_closed() {
                let what = "the server ended the connection".to_owned();
                return Self { what, help: None };
            }
            let mut what = error.to_string();
            let mut source = std::error::Error::source(error);
            while let Some(cause) = source {
                what = format!("{what}: {cause}");
                source = cause.source();
            }
            return Self {
                what,
                help: Some("see that the server runs, and that host and port are right".to_owned()),
            };
        };
        let code = database.code();
        let help =
            if [SqlState::INVALID_PASSWORD, SqlState::INVALID_AUTHORIZATION_SPECIFICATION].contains(code) {
                Some(
                    "the user or the password in the variable, the environment or the password file is wrong"
                        .to_owned(),
                )
            } else if *code == SqlState::INSUFFICIENT_PRIVILEGE {
                Some("let the user SELECT from it".to_owned())
            } else {
                database.hint().map(str::to_owned)
            };
        Self { what: database.message().to_owned(), help }
    }
}

fn told(name: &str, error: &postgres::Error) -> Error {
    let reason = Reason::of(error);
    Error::Server { name: name.to_owned(), what: reason.what, help: reason.help }
}
