//! Rows of a table of which a file asks for few: the keys of all, then the rest of those.

use super::session::Session;
use crate::place::quoted;
use std::collections::HashSet;
use std::io;
use tidy_gate_core::gate::{Share, Sieve};
use tidy_gate_core::scan::{Dialect, RowWalk, decode, walk_row};
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
struct KeysAsked {
    known: HashSet<Vec<String>>,
    /// Column by column, in the order of the table.
    parts: Vec<Vec<String>>,
}

impl KeysAsked {
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
        let mut asked = KeysAsked { parts: vec![Vec::new(); self.key], ..KeysAsked::default() };
        let mut is_more = true;
        self.each_row(&mut |row, ends| {
            let key = || cells(row, ends).take(self.key);
            match share(key(), &mut sieve) {
                Share::Nothing => {}
                Share::Needed => {
                    into.rows(row);
                    is_more = into.rows(rest.as_bytes());
                }
                Share::All => asked.take(key()),
            }
            is_more
        })?;
        sieve.finish();
        if is_more && !asked.known.is_empty() { self.rest(&asked.parts, into) } else { Ok(()) }
    }

    /// Reads what is read of every row; each comes without its line break, with the ends of its cells.
    fn each_row(&self, take: &mut dyn FnMut(&[u8], &[usize]) -> bool) -> io::Result<()> {
        let query = format!("SELECT {} FROM {}", self.list(self.needed), self.from);
        let (mut pending, mut ends) = (Vec::new(), Vec::new());
        self.session.copy(&query, &mut |piece| {
            // A row for each piece is what servers send, and not what they promise.
            pending.extend(piece);
            let (mut taken, mut goes_on) = (0, true);
            loop {
                ends.clear();
                let walk =
                    walk_row(&pending, taken, Dialect::default(), |end| ends.push(end - taken), |_| ());
                let RowWalk::Whole { end, .. } = walk else { break };
                goes_on = take(pending.get(taken..end - 1).unwrap_or_default(), &ends);
                taken = end;
            }
            pending.drain(..taken);
            goes_on
        })
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
                // Texts are put in quotes as names are.
                row.extend(cell.map(quoted).unwrap_or_default().bytes());
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

/// What is to be read of the row with this key.
fn share<'a>(key: impl Iterator<Item = &'a [u8]>, sieve: &mut Sieve) -> Share {
    sieve.begin();
    for cell in key {
        // A row without a part of its key is met by none.
        if cell.is_empty() {
            return Share::Needed;
        }
        sieve.take((!cell.contains(&b'"')).then_some(cell));
    }
    sieve.share()
}

/// The raw cells of a row, by where they end.
fn cells<'a>(row: &'a [u8], ends: &'a [usize]) -> impl Iterator<Item = &'a [u8]> {
    let starts = std::iter::once(0).chain(ends.iter().map(|end| end + 1));
    starts.zip(ends).filter_map(|(start, end)| row.get(start..*end))
}
