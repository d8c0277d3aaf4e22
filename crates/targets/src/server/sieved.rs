//! Rows of a table of which a file asks for some: the keys of all, then the rest of those, found by their places.

use super::session::Session;
use std::fmt::Write;
use std::io;
use tidy_gate_core::existing::Sieve;
use tidy_gate_files::MadeRows;

/// So many rows are asked for at once.
const AT_ONCE: usize = 20_000;

/// A table that is read in two steps.
pub(super) struct Sieved<'a> {
    pub(super) session: &'a Session,
    /// The table as SQL writes it, and its columns.
    pub(super) from: &'a str,
    pub(super) list: &'a [String],
    /// So many of the first columns are the key, and so many are read of every row.
    pub(super) key: usize,
    pub(super) needed: usize,
}

impl Sieved<'_> {
    /// Hands on all rows: first those that no one asks for, with blanks for what is not read of every row.
    pub(super) fn copy(&self, mut sieve: Sieve, into: &mut MadeRows<'_>) -> io::Result<()> {
        let needed = self.list.get(..self.needed).unwrap_or_default().join(", ");
        let blanks = ",".repeat(self.list.len().saturating_sub(self.needed));
        let query = format!("SELECT ctid, {needed} FROM {}", self.from);
        let (mut asked, mut is_more, mut is_read, mut pending) = (Vec::new(), true, true, Vec::new());
        self.session.copy(&query, &mut |piece| {
            // A row for each piece is what servers send, and not what they promise.
            let is_whole = pending.is_empty() && end_of_row(piece) == Some(piece.len());
            if !is_whole {
                pending.extend(piece);
            }
            let mut rest = if is_whole { piece } else { pending.as_slice() };
            while let Some((row, behind)) = end_of_row(rest).map(|end| rest.split_at(end)) {
                rest = behind;
                let Some((place, cells)) = row.strip_suffix(b"\n").and_then(place_and_cells) else {
                    is_read = false;
                    break;
                };
                if self.may_be_wanted(cells, &mut sieve) {
                    asked.push(place);
                } else {
                    into.rows(cells);
                    into.rows(blanks.as_bytes());
                    is_more = into.rows(b"\n");
                }
            }
            if !is_whole {
                let left = rest.len();
                pending.drain(..pending.len() - left);
            }
            is_more && is_read
        })?;
        if !is_read || is_more && !pending.is_empty() {
            return Err(io::Error::other("the server sent a row that does not begin with its place"));
        }
        asked.sort_unstable();
        for places in asked.chunks(AT_ONCE).take_while(|_| is_more) {
            self.session.copy(&self.query(places), &mut |piece| into.rows(piece))?;
        }
        Ok(())
    }

    fn may_be_wanted(&self, cells: &[u8], sieve: &mut Sieve) -> bool {
        sieve.begin();
        let mut cells = cells.split(|byte| *byte == b',').take(self.key);
        cells.by_ref().for_each(|cell| sieve.take((!cell.contains(&b'"')).then_some(cell)));
        sieve.may_be_wanted()
    }

    /// The query for the rows at some places.
    fn query(&self, places: &[(u32, u16)]) -> String {
        let mut query = format!("SELECT {} FROM {} WHERE ctid = ANY('{{", self.list.join(", "), self.from);
        for (number, (page, at)) in places.iter().enumerate() {
            let comma = if number > 0 { "," } else { "" };
            // Writing into memory cannot fail.
            write!(query, "{comma}\"({page},{at})\"").unwrap_or_default();
        }
        query.push_str("}'::tid[])");
        query
    }
}

/// Where the first row of a text ends, behind its line break.
fn end_of_row(text: &[u8]) -> Option<usize> {
    let mut is_quoted = false;
    for at in memchr::memchr2_iter(b'"', b'\n', text) {
        match text.get(at) {
            Some(b'"') => is_quoted = !is_quoted,
            _ if !is_quoted => return Some(at + 1),
            _ => {}
        }
    }
    None
}

/// The place of a row, its page and where it stands there (`"(12,3)",` before it), and its cells.
fn place_and_cells(row: &[u8]) -> Option<((u32, u16), &[u8])> {
    let row = row.strip_prefix(b"\"(")?;
    let end = memchr::memmem::find(row, b")\",")?;
    let place = str::from_utf8(row.get(..end)?).ok()?;
    let (page, at) = place.split_once(',')?;
    Some(((page.parse().ok()?, at.parse().ok()?), row.get(end + 3..)?))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_end_outside_of_quotes_and_begin_with_their_place() {
        let text = b"\"(12,3)\",\"a\n\"\"b\",c\nrest";
        let end = end_of_row(text).unwrap();
        assert_eq!(&text[end..], b"rest");
        assert_eq!(end_of_row(b"\"a\n"), None);
        let row = text[..end].strip_suffix(b"\n").unwrap();
        assert_eq!(place_and_cells(row), Some(((12, 3), &b"\"a\n\"\"b\",c"[..])));
        assert_eq!(place_and_cells(b"\"(12,x)\",a"), None);
    }
}
