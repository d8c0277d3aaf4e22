use std::path::PathBuf;
use thiserror::Error;

/// Why existing records cannot be read.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum Error {
    /// What is named is no place of records.
    #[error("{stated}: {what}")]
    NoPlace {
        /// As it was stated.
        stated: String,
        /// What is wrong with it.
        what: String,
    },
    /// The table cannot be read.
    #[error(transparent)]
    Table(#[from] tidy_gate_files::Error),
    /// The database refuses.
    #[error("cannot read {}: {message}", path.display())]
    Database {
        /// The database.
        path: PathBuf,
        /// What it says.
        message: String,
    },
    /// There is no such table or view.
    #[error("{} has no table or view {table}", path.display())]
    NoTable {
        /// The database.
        path: PathBuf,
        /// What was named.
        table: String,
        /// The nearest there is, or all there are.
        known: String,
    },
    /// A database has several tables, of which none was named.
    #[error("{} is a database, and no table of it is named", path.display())]
    TableWanted {
        /// The database.
        path: PathBuf,
        /// What there is.
        known: String,
    },
    /// A URL may hold a password, and is read from the environment alone.
    #[error("the URL of a database is not stated on the command line, where others could read it")]
    UrlStated,
    /// The server refuses, or is not there.
    #[error("cannot read {name}: {what}")]
    Server {
        /// The variable by which it was named.
        name: String,
        /// What it says.
        what: String,
        /// What to do.
        help: Option<String>,
    },
    /// A value of this type is compared with nothing.
    #[error("{}: the column {column} of {table} holds a blob, which cannot be compared with a file's cells", path.display())]
    Blob {
        /// The database.
        path: PathBuf,
        /// The table.
        table: String,
        /// The column.
        column: String,
    },
}

impl Error {
    /// What to do about it.
    #[must_use]
    pub fn help(&self) -> Option<String> {
        match self {
            Self::NoTable { known, .. } | Self::TableWanted { known, .. } => Some(known.clone()),
            Self::NoPlace { .. } => Some(
                "name a file, FILE#TABLE for a table of an SQLite database or a sheet of a workbook, or \
                 env:VARIABLE#TABLE for a table of PostgreSQL"
                    .to_owned(),
            ),
            Self::UrlStated => Some("put it into a variable, and name that as env:VARIABLE#TABLE".to_owned()),
            Self::Server { help, .. } => help.clone(),
            Self::Blob { .. } => Some("leave the column out of a view, and name the view".to_owned()),
            Self::Table(_) | Self::Database { .. } => None,
        }
    }
}
