//! A session with a server, in one read-only transaction.

use super::settings::{Secrecy, Settings};
use super::tls;
use crate::error::Error;
use crate::place::{Place, listed, parts, written};
use futures_util::TryStreamExt;
use std::io;
use std::pin::pin;
use tokio::io::{AsyncRead, AsyncWrite};
use tokio::runtime::{Builder, Runtime};
use tokio_postgres::{Client, Connection, NoTls};

/// A session that reads one state of a database.
pub(crate) struct Session {
    /// Carries the connection while something is asked for.
    pub(super) runtime: Runtime,
    pub(super) client: Client,
    /// As people call it.
    pub(super) name: String,
}

/// A table that was found.
pub(crate) struct Found {
    pub(super) schema: String,
    pub(super) table: String,
    pub(super) oid: u32,
}

/// A column, and its type.
pub(super) struct Column {
    pub(super) name: String,
    /// The name of its type, that of its elements' type for an array, and whether it is one.
    pub(super) kind: String,
    pub(super) is_array: bool,
}

impl Session {
    /// Connects, and begins the transaction in which all is read. Waits 10 seconds for the connection unless it is said
    /// otherwise, 30 for what the catalogue says, and 10 for a table that is locked.
    pub(crate) fn open(variable: &str) -> Result<Self, Error> {
        let name = format!("env:{variable}");
        let refused = |what: String| Error::Server { name: name.clone(), what, help: None };
        let settings = Settings::read(variable, &|name| std::env::var(name).ok()).map_err(refused)?;
        let runtime = Builder::new_current_thread().enable_all().build();
        let runtime = runtime.map_err(|error| refused(error.to_string()))?;
        let connected = match settings.secrecy {
            Secrecy::None => runtime.block_on(carried(settings.config.connect(NoTls))),
            _ => {
                let tls = tls::connector(&settings).map_err(refused)?;
                runtime.block_on(carried(settings.config.connect(tls)))
            }
        };
        let client = connected.map_err(|error| told(&name, &error))?;
        let session = Self { runtime, client, name };
        session.run(
            "BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY; \
             SET LOCAL statement_timeout = '30s'; SET LOCAL lock_timeout = '10s'; \
             SET LOCAL idle_in_transaction_session_timeout = 0; SET LOCAL DateStyle = 'ISO, YMD'; \
             SET LOCAL IntervalStyle = 'iso_8601'; SET LOCAL TimeZone = 'UTC'; SET LOCAL extra_float_digits = 1; \
             SELECT 1",
        )?;
        Ok(session)
    }

    pub(super) fn run(&self, sql: &str) -> Result<(), Error> {
        self.runtime.block_on(self.client.batch_execute(sql)).map_err(|error| told(&self.name, &error))
    }

    pub(super) fn rows(
        &self,
        sql: &str,
        given: &[&(dyn tokio_postgres::types::ToSql + Sync)],
    ) -> Result<Vec<tokio_postgres::Row>, Error> {
        self.runtime.block_on(self.client.query(sql, given)).map_err(|error| told(&self.name, &error))
    }

    /// Hands on what a query gives, as comma-separated text (RFC 4180) in pieces, until no more is wanted.
    pub(super) fn copy(&self, query: &str, take: &mut dyn FnMut(&[u8]) -> bool) -> io::Result<()> {
        // The server sends each row by itself: all of them are one thing to wait for.
        let copied = self.runtime.block_on(async {
            let query = format!("COPY ({query}) TO STDOUT (FORMAT csv)");
            let mut copied = pin!(self.client.copy_out(&query).await?);
            while let Some(piece) = copied.try_next().await? {
                if !take(&piece) {
                    break;
                }
            }
            Ok(())
        });
        copied.map_err(|error| io::Error::other(Reason::of(&error).what))
    }

    /// Hands on each row that a query gives for arrays of texts, its columns as text, until no more is wanted.
    pub(super) fn each(
        &self,
        query: &str,
        given: &[Vec<String>],
        take: &mut dyn FnMut(&mut dyn Iterator<Item = Option<&str>>) -> bool,
    ) -> io::Result<()> {
        let read = self.runtime.block_on(async {
            let mut rows = pin!(self.client.query_raw(query, given).await?);
            while let Some(row) = rows.try_next().await? {
                let cells: Vec<Option<&str>> =
                    (0..row.len()).map(|at| row.try_get(at)).collect::<Result<_, _>>()?;
                if !take(&mut cells.into_iter()) {
                    break;
                }
            }
            Ok(())
        });
        read.map_err(|error| io::Error::other(Reason::of(&error).what))
    }

    /// About how many rows a table has; nothing is known of a view.
    pub(super) fn estimate(&self, found: &Found) -> Result<f64, Error> {
        // A table that was never analysed has about so many rows as its pages hold of this length.
        let rows = self.rows(
            "SELECT CASE WHEN reltuples > 0 THEN reltuples::float8 ELSE pg_relation_size(oid) / 100.0 END::float8 \
             FROM pg_class WHERE oid = $1",
            &[&found.oid],
        )?;
        Ok(rows.first().and_then(|row| row.get::<_, Option<f64>>(0)).unwrap_or_default())
    }

    /// The tables and views that may be read, by their names as they can be typed.
    fn tables(&self) -> Result<Vec<String>, Error> {
        let rows = self.rows(
            "SELECT n.nspname::text, c.relname::text, pg_table_is_visible(c.oid) FROM pg_class c \
             JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') \
             AND n.nspname NOT IN ('pg_catalog', 'information_schema') AND n.nspname NOT LIKE 'pg\\_%' \
             ORDER BY NOT pg_table_is_visible(c.oid), 1, 2",
            &[],
        )?;
        let name = |row: &tokio_postgres::Row| {
            let (schema, table): (String, String) = (row.get(0), row.get(1));
            let table = written(&table);
            if row.get(2) { table } else { format!("{}.{table}", written(&schema)) }
        };
        Ok(rows.iter().map(name).collect())
    }

    /// The table of this name. A name that SQL would fold to small letters is found by them, too.
    pub(crate) fn find(&self, place: &Place) -> Result<Found, Error> {
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

    pub(super) fn columns(&self, found: &Found) -> Result<Vec<Column>, Error> {
        let rows = self.rows(
            "SELECT a.attname::text, coalesce(e.typname, b.typname, t.typname)::text, \
             t.typelem <> 0 AND t.typlen = -1 FROM pg_attribute a JOIN pg_type t ON t.oid = a.atttypid \
             LEFT JOIN pg_type e ON e.oid = t.typelem AND t.typlen = -1 \
             LEFT JOIN pg_type b ON b.oid = t.typbasetype AND t.typtype = 'd' \
             WHERE a.attrelid = $1 AND a.attnum > 0 AND NOT a.attisdropped ORDER BY a.attnum",
            &[&found.oid],
        )?;
        let column =
            |row: &tokio_postgres::Row| Column { name: row.get(0), kind: row.get(1), is_array: row.get(2) };
        Ok(rows.iter().map(column).collect())
    }
}

/// The client of a connection, which is carried from here on.
async fn carried<S, T>(
    connected: impl Future<Output = Result<(Client, Connection<S, T>), tokio_postgres::Error>>,
) -> Result<Client, tokio_postgres::Error>
where
    S: AsyncRead + AsyncWrite + Unpin + Send + 'static,
    T: AsyncRead + AsyncWrite + Unpin + Send + 'static,
{
    let (client, connection) = connected.await?;
    // What goes wrong with it is told to whoever asks next.
    tokio::spawn(async move { connection.await.ok() });
    Ok(client)
}

/// Why a server refuses, in words, and what to do.
pub(super) struct Reason {
    pub(super) what: String,
    help: Option<String>,
}

impl Reason {
    pub(super) fn of(error: &tokio_postgres::Error) -> Self {
        use tokio_postgres::error::SqlState;
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

fn told(name: &str, error: &tokio_postgres::Error) -> Error {
    let reason = Reason::of(error);
    Error::Server { name: name.to_owned(), what: reason.what, help: reason.help }
}
