//! Rows of a table of which a file asks for few: the keys of all, then the rest of those.

use super::session::Session;
use std::collections::HashSet;
use std::io;
use tidy_gate_core::gate::{Share, Sieve};
use tidy_gate_core::scan::{Dialect, decode};
use tidy_gate_files::MadeRows;

/// A table of which few rows are asked for.
pub(super) struct Sieved<'a> {
    pub(super) session: &'a Session,
    /// The table as SQL writes it, and its columns as text.
    pub(super) from: &'a str,
    pub(super) list: &'a [String],
    /// So many of the first columns are the key, and so many are read of every row.
    pub(super) key: usize,
    pub(super) needed: usize,
}

/// The keys of rows that may be asked for, each once.
#[derive(Default)]
struct Asked {
    known: HashSet<Vec<String>>,
    /// Column by column, in the order of the table.
    parts: Vec<Vec<String>>,
}

impl Asked {
    /// Takes the raw cells of a key.
    fn take<'a>(&mut self, cells: impl Iterator<Item = &'a [u8]>) {
        let text = |cell| String::from_utf8_lossy(&decode(cell, Dialect::default())).into_owned();
        let parts: Vec<String> = cells.map(text).collect();
        if self.known.insert(parts.clone()) {
            self.parts.iter_mut().zip(parts).for_each(|(all, part)| all.push(part));
        }
    }
}

impl Sieved<'_> {
    /// Hands on the rows: first those that no one asks for, with blanks for what is not read of every row.
    pub(super) fn copy(&self, mut sieve: Sieve, into: &mut MadeRows<'_>) -> io::Result<()> {
        let rest = format!("{}\n", ",".repeat(self.list.len().saturating_sub(self.needed)));
        let mut asked = Asked { parts: vec![Vec::new(); self.key], ..Asked::default() };
        let mut is_more = true;
        self.each_row(&mut |row| {
            match self.share(row, &mut sieve) {
                Share::Nothing => {}
                Share::Needed => {
                    into.rows(row);
                    is_more = into.rows(rest.as_bytes());
                }
                Share::All => asked.take(CellsOf(row).take(self.key)),
            }
            is_more
        })?;
        sieve.finish();
        if is_more && !asked.known.is_empty() { self.rest(&asked.parts, into) } else { Ok(()) }
    }

    /// Reads what is read of every row; each comes without its line break.
    fn each_row(&self, take: &mut dyn FnMut(&[u8]) -> bool) -> io::Result<()> {
        let query = format!("SELECT {} FROM {}", self.list(self.needed), self.from);
        let mut pending = Vec::new();
        self.session.copy(&query, &mut |piece| {
            // A row for each piece is what servers send, and not what they promise.
            if let Some(row) = piece.strip_suffix(b"\n").filter(|row| pending.is_empty() && is_one(row)) {
                return take(row);
            }
            pending.extend(piece);
            let (mut taken, mut goes_on) = (0, true);
            while let Some(row) = pending.get(taken..).and_then(row_of) {
                taken += row.len() + 1;
                goes_on = take(row);
            }
            pending.drain(..taken);
            goes_on
        })
    }

    /// What is to be read of a row.
    fn share(&self, row: &[u8], sieve: &mut Sieve) -> Share {
        sieve.begin();
        for cell in CellsOf(row).take(self.key) {
            // A row without a part of its key is met by none.
            if cell.is_empty() {
                return Share::Needed;
            }
            sieve.take((!cell.contains(&b'"')).then_some(cell));
        }
        sieve.share()
    }

    /// Hands on the rows of these keys, which are given as text, in their order.
    fn rest(&self, keys: &[Vec<String>], into: &mut MadeRows<'_>) -> io::Result<()> {
        let named = |name: char, count: usize| (1..=count).map(move |number| format!("{name}{number}"));
        let columns = self.list.iter().zip(named('c', self.list.len()));
        let columns: Vec<String> = columns.map(|(column, name)| format!("{column} AS {name}")).collect();
        let given: Vec<String> = (1..=keys.len()).map(|number| format!("${number}::text[]")).collect();
        // Keys are the same where their letters are, whatever the table takes for equal.
        let met = named('k', keys.len()).zip(named('c', keys.len()));
        let met: Vec<String> =
            met.map(|(key, column)| format!("t.{column} = a.{key} COLLATE \"C\"")).collect();
        let query = format!(
            "SELECT t.* FROM (SELECT {} FROM {}) t JOIN unnest({}) WITH ORDINALITY AS a({}, place) ON {} ORDER BY a.place",
            columns.join(", "),
            self.from,
            given.join(", "),
            named('k', keys.len()).collect::<Vec<_>>().join(", "),
            met.join(" AND "),
        );
        let mut row = Vec::new();
        self.session.each(&query, keys, &mut |cells| {
            row.clear();
            for (number, cell) in cells.enumerate() {
                row.extend((number > 0).then_some(b','));
                if let Some(cell) = cell {
                    row.push(b'"');
                    row.extend(cell.replace('"', "\"\"").bytes());
                    row.push(b'"');
                }
            }
            row.push(b'\n');
            into.rows(&row)
        })
    }

    /// The first so many columns, as SQL lists them.
    fn list(&self, count: usize) -> String {
        self.list.get(..count).unwrap_or_default().join(", ")
    }
}

/// Whether a row without its line break is surely one.
fn is_one(row: &[u8]) -> bool {
    memchr::memchr2(b'"', b'\n', row).is_none()
}

/// The first row of comma-separated text, without its line break.
fn row_of(text: &[u8]) -> Option<&[u8]> {
    let mut is_quoted = false;
    for at in memchr::memchr2_iter(b'"', b'\n', text) {
        match text.get(at) {
            Some(b'"') => is_quoted = !is_quoted,
            _ if !is_quoted => return text.get(..at),
            _ => {}
        }
    }
    None
}

/// The raw cells of a row.
struct CellsOf<'a>(&'a [u8]);

impl<'a> Iterator for CellsOf<'a> {
    type Item = &'a [u8];

    /// Behind the last cell there are blank ones.
    fn next(&mut self) -> Option<&'a [u8]> {
        let mut is_quoted = false;
        let end = self.0.iter().position(|byte| {
            is_quoted ^= *byte == b'"';
            *byte == b',' && !is_quoted
        });
        let (cell, rest) = self.0.split_at_checked(end.unwrap_or(self.0.len()))?;
        self.0 = rest.get(1..).unwrap_or_default();
        Some(cell)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_and_cells_end_outside_of_quotes() {
        let row = row_of(b"\"a\n\"\"b\",,\"c,d\"\nrest").unwrap();
        let cells: Vec<&[u8]> = CellsOf(row).take(4).collect();
        assert_eq!(cells, [&b"\"a\n\"\"b\""[..], b"", b"\"c,d\"", b""]);
        assert_eq!(row_of(b"\"a\n"), None);
    }
}
