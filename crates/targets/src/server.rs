//! A table or view of a PostgreSQL database: read in one read-only transaction at one snapshot, its rows streamed as the
//! server writes them (`COPY … TO STDOUT`).

mod definition;
mod session;
mod settings;
mod tls;

pub(crate) use definition::definition;

use crate::error::Error;
use crate::place::{Place, quoted};
use futures_util::TryStreamExt;
use session::{Column, Reason, Session};
use std::io;
use std::path::Path;
use std::pin::pin;
use tidy_gate_files::Input;

/// Types whose values are compared with nothing.
const INCOMPARABLE: &[&str] = &[
    "bytea", "json", "jsonb", "xml", "tsvector", "tsquery", "point", "line", "lseg", "box", "path",
    "polygon", "circle", "pg_lsn", "bit", "varbit",
];

/// The rows of the table, with the columns that `wants` names by their numbers.
pub(crate) fn rows(
    (variable, place): (&str, &Place),
    wants: &dyn Fn(&[String]) -> Vec<usize>,
) -> Result<Input, Error> {
    let session = Session::open(variable)?;
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
        let Session { runtime, client, .. } = session;
        // The server sends each row by itself: all of them are one thing to wait for.
        let copied = runtime.block_on(async {
            let mut copied = pin!(client.copy_out(&query).await?);
            while let Some(piece) = copied.try_next().await? {
                if !rows.rows(&piece) {
                    break;
                }
            }
            Ok(())
        });
        copied.map_err(|error: tokio_postgres::Error| failed(io::Error::other(Reason::of(&error).what)))
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
