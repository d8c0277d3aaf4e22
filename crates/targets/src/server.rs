//! A table or view of a PostgreSQL database: read in one read-only transaction at one snapshot, its rows streamed as the
//! server writes them (`COPY … TO STDOUT`).

mod definition;
mod session;
mod settings;
mod sieved;
mod tls;

pub(crate) use definition::definition;

use crate::asked::Asked;
use crate::error::Error;
use crate::place::{Place, quoted};
use session::{Column, Session};
use sieved::Sieved;
use std::path::Path;
use tidy_gate_files::Input;

/// Types whose values are compared with nothing.
const INCOMPARABLE: &[&str] = &[
    "bytea", "json", "jsonb", "xml", "tsvector", "tsquery", "point", "line", "lseg", "box", "path",
    "polygon", "circle", "pg_lsn", "bit", "varbit",
];

/// Of so many rows one may be asked for, and keys are asked for first.
const MANY: usize = 10;

/// The rows of the table, with the columns that `wants` names by their numbers. Rows that no one asks for are blank but
/// for those columns that are read of every row, where the keys are asked for first.
pub(crate) fn rows(
    (variable, place): (&str, &Place),
    wants: &dyn Fn(&[String]) -> Asked,
) -> Result<Input, Error> {
    let session = Session::open(variable)?;
    let found = session.find(place)?;
    let columns = session.columns(&found)?;
    let names: Vec<String> = columns.iter().map(|column| column.name.clone()).collect();
    let mut asked = wants(&names);
    let (key, needed) = asked.put_in_order();
    let wanted: Vec<&Column> = asked.columns.iter().filter_map(|number| columns.get(*number)).collect();
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
    // The keys of all and then the rest of few are less than all of all.
    let sieve = match asked.sieve.filter(|sieve| needed < wanted.len() && !sieve.minds_order()) {
        Some(sieve) if (sieve.asked() * MANY) as f64 <= session.estimate(&found)? => Some(sieve),
        _ => None,
    };
    // Where nothing is asked for, the names alone are told.
    let none = if wanted.is_empty() { " WHERE false" } else { "" };
    let wanted = if wanted.is_empty() { columns.iter().collect() } else { wanted };
    let list: Vec<String> = wanted.iter().map(|column| as_text(column)).collect();
    let from = format!("{}.{}", quoted(&found.schema), quoted(&found.table));
    let headings: Vec<String> = wanted.iter().map(|column| quoted(&column.name)).collect();
    let headings = format!("{}\n", headings.join(","));
    session.run("SET LOCAL statement_timeout = 0")?;
    let name = place.name();
    let path = Path::new(&name).to_owned();
    let input = Input::made(&path.clone(), move |rows| {
        rows.rows(headings.as_bytes());
        let copied = match sieve {
            Some(sieve) => {
                Sieved { session: &session, from: &from, list: &list, key, needed }.copy(sieve, rows)
            }
            None => {
                let query = format!("SELECT {} FROM {from}{none}", list.join(", "));
                session.copy(&query, &mut |piece| rows.rows(piece))
            }
        };
        copied.map_err(|source| tidy_gate_files::Error::Read { path: path.clone(), source })
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
