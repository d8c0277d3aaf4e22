//! A JSON text with some values of its records rewritten, each within its quotes or as the number that it is; all else
//! stays byte by byte.

use super::cells::leaves_of;
use crate::error::Error;
use crate::output::Output;
use crate::pieces::Pieces;
use std::collections::BTreeMap;
use std::fs::File;
use std::io::{Read, Seek};
use std::path::Path;

/// A value that is to be another.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Edit {
    /// The paths of keys under which it may stand, the likeliest first.
    pub(crate) names: Vec<String>,
    /// What it is to be.
    pub(crate) after: String,
}

/// So many bytes are read at once.
const PIECE: usize = 1 << 18;

/// Writes the text with these values rewritten, by row; `done` is told of each that was, by row and number. What is neither
/// text nor number stays.
///
/// # Errors
/// When the text cannot be read again, its records cannot be found in it without doubt, or the output cannot be written.
pub(crate) fn rewrite(
    (path, file): (&Path, File),
    mut records: Pieces<(u64, u64, String)>,
    (has_lines, is_array): (bool, bool),
    edits: &BTreeMap<u64, Vec<Edit>>,
    done: &mut dyn FnMut(u64, usize) -> Result<(), Error>,
    output: &mut Output,
) -> Result<(), Error> {
    let mut source = Source::new(path, file)?;
    let mut record = records.next()?;
    let mut is_first = true;
    while let Some((first, last, raw)) = record {
        let following = records.next()?;
        let next = following.as_ref().map(|following| following.2.as_str());
        let at = source.find(&raw, next, (is_first, is_array))?;
        let Some(at) = at else {
            return Err(Error::NotMended { path: path.to_owned(), form: "json" });
        };
        source.pass(at, output)?;
        let rewritten = match edits.range(first..=last).next() {
            Some(_) => rewritten(&raw, (first, last), has_lines, edits, done)?,
            None => None,
        };
        match rewritten {
            Some(text) => {
                output.write(text.as_bytes())?;
                source.skip(raw.len());
            }
            None => source.pass(raw.len(), output)?,
        }
        (record, is_first) = (following, false);
    }
    source.rest(output)
}

/// A record with its values rewritten; nothing where none is.
fn rewritten(
    raw: &str,
    (first, last): (u64, u64),
    has_lines: bool,
    edits: &BTreeMap<u64, Vec<Edit>>,
    done: &mut dyn FnMut(u64, usize) -> Result<(), Error>,
) -> Result<Option<String>, Error> {
    let Ok(rows) = leaves_of(raw, has_lines) else { return Ok(None) };
    let mut changes: BTreeMap<usize, (usize, String)> = BTreeMap::new();
    for (row, leaves) in (first..=last).zip(&rows) {
        for (number, edit) in edits.get(&row).into_iter().flatten().enumerate() {
            let of = |name: &String| leaves.iter().find(|leaf| leaf.name == *name);
            let Some(leaf) = edit.names.iter().find_map(of) else { continue };
            let before = raw.get(leaf.span.clone()).unwrap_or_default();
            let is_number =
                !before.starts_with('"') && serde_json::from_str::<serde_json::Number>(&edit.after).is_ok();
            let after = match is_number {
                true => edit.after.clone(),
                false => serde_json::to_string(&edit.after).unwrap_or_else(|_| before.to_owned()),
            };
            changes.insert(leaf.span.start, (leaf.span.end, after));
            done(row, number)?;
        }
    }
    let (mut text, mut at) = (String::with_capacity(raw.len()), 0);
    let is_changed = !changes.is_empty();
    for (start, (end, after)) in changes {
        text.push_str(raw.get(at..start).unwrap_or_default());
        text.push_str(&after);
        at = end;
    }
    text.push_str(raw.get(at..).unwrap_or_default());
    Ok(is_changed.then_some(text))
}

/// The text as it is read, from the place on up to which it was written.
struct Source<'a> {
    path: &'a Path,
    file: File,
    window: Vec<u8>,
    /// How much of it was written.
    begin: usize,
    is_read: bool,
}

impl<'a> Source<'a> {
    fn new(path: &'a Path, mut file: File) -> Result<Self, Error> {
        file.rewind().map_err(|source| Error::Read { path: path.to_owned(), source })?;
        Ok(Self { path, file, window: Vec::new(), begin: 0, is_read: false })
    }

    fn more(&mut self) -> Result<(), Error> {
        self.window.drain(..self.begin);
        self.begin = 0;
        let there = self.window.len();
        self.window.resize(there + PIECE, 0);
        let read = self.file.read(self.window.get_mut(there..).unwrap_or_default());
        let count = read.map_err(|source| Error::Read { path: self.path.to_owned(), source })?;
        self.window.truncate(there + count);
        self.is_read = count == 0;
        Ok(())
    }

    fn ahead(&self) -> &[u8] {
        self.window.get(self.begin..).unwrap_or_default()
    }

    /// Where a record stands: between records there is nothing but what parts them, and the first of an array is the one
    /// behind which the next one follows, or the array's end.
    fn find(
        &mut self,
        raw: &str,
        next: Option<&str>,
        (is_first, is_array): (bool, bool),
    ) -> Result<Option<usize>, Error> {
        let mut from = 0;
        loop {
            let found = memchr::memmem::find(self.ahead().get(from..).unwrap_or_default(), raw.as_bytes());
            let Some(at) = found.map(|at| from + at) else {
                if self.is_read {
                    return Ok(None);
                }
                from = self.ahead().len().saturating_sub(raw.len());
                self.more()?;
                continue;
            };
            let before = self.ahead().get(..at).unwrap_or_default();
            if !is_first || !is_array {
                let is_between = before.iter().all(|byte| byte.is_ascii_whitespace() || *byte == b',');
                let is_mark = is_first && before.starts_with(b"\xEF\xBB\xBF");
                return Ok((is_between || is_mark).then_some(at));
            }
            while !self.is_read && self.ahead().len() < at + raw.len() + next.map_or(0, str::len) + PIECE {
                self.more()?;
            }
            let before = self.ahead().get(..at).unwrap_or_default();
            let behind = self.ahead().get(at + raw.len()..).unwrap_or_default().trim_ascii_start();
            let follows = match next {
                Some(next) => {
                    let behind = behind.strip_prefix(b",").unwrap_or_default();
                    behind.trim_ascii_start().starts_with(next.as_bytes())
                }
                None => behind.starts_with(b"]"),
            };
            if follows && before.trim_ascii_end().ends_with(b"[") {
                return Ok(Some(at));
            }
            from = at + 1;
        }
    }

    /// Writes so many bytes as they are.
    fn pass(&mut self, count: usize, output: &mut Output) -> Result<(), Error> {
        output.write(self.ahead().get(..count).unwrap_or_default())?;
        self.skip(count);
        Ok(())
    }

    fn skip(&mut self, count: usize) {
        self.begin = (self.begin + count).min(self.window.len());
    }

    fn rest(mut self, output: &mut Output) -> Result<(), Error> {
        loop {
            self.pass(self.ahead().len(), output)?;
            if self.is_read {
                return Ok(());
            }
            self.more()?;
        }
    }
}
