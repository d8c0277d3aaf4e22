//! Records as systems post them (RFC 8259): an array of objects, an object that holds one such array, the array that a
//! JSON Pointer (RFC 6901) names, or one object a line. They become rows of text under the keys of all of them; nested
//! objects are columns named `outer.inner`.

mod cells;
mod deeper;
mod rewrite;
mod walk;

pub(crate) use deeper::fact as deeper_fact;
pub(crate) use rewrite::{Edit, rewrite};
pub(crate) use walk::{Form, Found, each, form_of, is_one};

use super::error::Error;
use crate::book::{Stored, write_cell};
use crate::pieces::{PieceReader, Pieces};
use cells::{Cell, rows_of};
use std::collections::{HashMap, HashSet};
use std::fs::File;
use std::io::{Read, Seek};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use tidy_gate_core::headings::HeadingWords;
use tidy_gate_core::misfire;
use tidy_gate_core::schema::RecordSchema;

/// What is known of how the records are to be read.
#[derive(Debug, Clone, Default)]
pub(crate) struct Reading {
    /// Where the array of records stands, as a JSON Pointer.
    pub(crate) at: Option<String>,
    /// The most columns.
    pub(crate) most_columns: usize,
}

/// Records that are being read as rows.
pub(crate) struct Opened<R> {
    pub(crate) rows: R,
    pub(crate) form: Form,
    /// Whether there are keys at all.
    pub(crate) has_keys: bool,
    /// The rows at which the physical line is another than counting on would give: row and line.
    pub(crate) lines: Arc<[(u64, u64)]>,
    /// Where the text is one object and one record: where lists of objects stand within it, as JSON Pointers.
    pub(crate) deeper: Vec<String>,
}

/// The columns of the records: a path of keys, and which column it has.
#[derive(Debug, Default)]
struct Columns {
    names: Vec<String>,
    numbers: HashMap<String, usize>,
    /// Keys of which some record has both: they are no two spellings of one.
    beside: HashSet<(usize, usize)>,
}

impl Columns {
    fn of(&mut self, name: &str) -> usize {
        if let Some(&number) = self.numbers.get(name) {
            return number;
        }
        self.names.push(name.to_owned());
        self.numbers.insert(name.to_owned(), self.names.len() - 1);
        self.names.len() - 1
    }

    /// Takes the keys of a record, of which those of one field are compared.
    fn see(&mut self, cells: &[Cell], fields: &mut HashMap<String, Option<usize>>, words: &HeadingWords<'_>) {
        let mut of_field: HashMap<usize, Vec<usize>> = HashMap::new();
        for cell in cells {
            let number = self.of(&cell.name);
            let field = match fields.get(&cell.name) {
                Some(field) => *field,
                None => *fields.entry(cell.name.clone()).or_insert_with(|| words.field(&cell.name)),
            };
            if let Some(field) = field {
                of_field.entry(field).or_default().push(number);
            }
        }
        for numbers in of_field.into_values().filter(|numbers| numbers.len() > 1) {
            for one in &numbers {
                self.beside.extend(numbers.iter().filter(|other| *other != one).map(|other| (*one, *other)));
            }
        }
    }

    /// Makes one column of the spellings of one field that no record has side by side.
    fn join(&mut self, fields: &HashMap<String, Option<usize>>) {
        let mut kept: Vec<String> = Vec::new();
        let mut joined: Vec<(Option<usize>, Vec<usize>)> = Vec::new();
        let mut place = vec![0; self.names.len()];
        for (number, name) in self.names.iter().enumerate() {
            let field = fields.get(name).copied().flatten();
            let is_same = |(other, members): &(Option<usize>, Vec<usize>)| {
                field.is_some()
                    && *other == field
                    && !members.iter().any(|member| self.beside.contains(&(number, *member)))
            };
            let at = match joined.iter().position(is_same) {
                Some(at) => at,
                None => {
                    kept.push(name.clone());
                    joined.push((field, Vec::new()));
                    joined.len() - 1
                }
            };
            if let Some((_, members)) = joined.get_mut(at) {
                members.push(number);
            }
            if let Some(slot) = place.get_mut(number) {
                *slot = at;
            }
        }
        for number in self.numbers.values_mut() {
            *number = place.get(*number).copied().unwrap_or(*number);
        }
        self.names = kept;
    }
}

/// Reads all records once for their keys, and begins to read them again as rows of text.
pub(crate) fn open(
    path: &Path,
    mut file: File,
    reading: Reading,
    schema: Option<&RecordSchema>,
) -> Result<Opened<impl Read + Send + use<>>, Error> {
    let failed = |source| Error::Read { path: path.to_owned(), source };
    let form = form_of(path, &mut file).map_err(failed)?;
    let empty = RecordSchema::empty();
    let schema = schema.unwrap_or(&empty);
    let words = HeadingWords::of(&schema.fields);
    let mut records =
        Records { path: path.to_owned(), file, form, reading, has_lines: schema.lines.is_some() };
    let (columns, lines, rows) = records.keys(&words)?;
    let deeper = if rows == 1 { records.deeper().map_err(failed)? } else { Vec::new() };
    let has_keys = !columns.names.is_empty();
    let separator = |name: &String| {
        let field = words.field(name).and_then(|field| schema.fields.get(field));
        let many = field.and_then(|field| field.stated.many.as_ref());
        many.map_or_else(|| ";".to_owned(), |many| many.separator.clone())
    };
    let separators = columns.names.iter().map(separator).collect();
    // A few pieces wait for whoever judges them; no more are read meanwhile.
    let pieces = Pieces::start(path, 4, move |take| records.write(&columns, separators, take))?;
    Ok(Opened { rows: PieceReader::new(pieces), form, has_keys, lines: lines.into(), deeper })
}

/// Rows at which the physical line is another than counting on would give, each with its line.
type LinesAt = Vec<(u64, u64)>;

/// Records that are read twice: for their keys, and as rows.
struct Records {
    path: PathBuf,
    file: File,
    form: Form,
    reading: Reading,
    /// Whether a record may have lines.
    has_lines: bool,
}

impl Records {
    /// Where lists of objects stand within a text that is one object, where nobody says where the records are.
    fn deeper(&mut self) -> std::io::Result<Vec<String>> {
        if self.form != Form::Json || self.reading.at.is_some() {
            return Ok(Vec::new());
        }
        let mut text = Vec::new();
        self.file.rewind()?;
        self.file.read_to_end(&mut text)?;
        let text = text.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(&text);
        Ok(std::str::from_utf8(text).map(deeper::lists).unwrap_or_default())
    }

    /// All keys, the rows at which the line is another than counting on would give, and how many rows there are.
    fn keys(&mut self, words: &HeadingWords) -> Result<(Columns, LinesAt, u64), Error> {
        let (mut columns, mut fields) = (Columns::default(), HashMap::new());
        let (mut lines, mut row, mut next_line) = (Vec::new(), 1, 1);
        let mut fault = None;
        let (form, has_lines, most) = (self.form, self.has_lines, self.reading.most_columns);
        each(&self.path, &mut self.file, form, self.reading.at.as_deref(), &mut |found| {
            let (count, line) = match found {
                Found::Record { raw, line } => match rows_of(raw, has_lines) {
                    Ok(rows) => {
                        rows.iter().for_each(|cells| columns.see(cells, &mut fields, words));
                        (rows.len() as u64, line)
                    }
                    Err(error) if form == Form::Ndjson && !error.is_whole => (1, line),
                    Err(error) => {
                        fault = Some(error.text);
                        return false;
                    }
                },
                Found::Unreadable { line, .. } => (1, line),
            };
            if let Some(line) = line {
                // The rows that one line makes share it.
                for more in 0..count {
                    if line != next_line {
                        lines.push((row + more, line));
                    }
                    next_line = line + 1;
                }
            }
            row += count;
            columns.names.len() <= most
        })?;
        if let Some(text) = fault {
            return Err(Error::damaged(&self.path, "its JSON", &text));
        }
        if columns.names.len() > most {
            let (path, columns) = (self.path.clone(), columns.names.len());
            return Err(Error::TooManyColumns { path, columns, limit: most });
        }
        columns.join(&fields);
        Ok((columns, lines, row - 1))
    }

    /// Hands on the records as rows of text, some at a time.
    fn write(
        mut self,
        columns: &Columns,
        separators: Vec<String>,
        take: &mut dyn FnMut(Vec<u8>) -> bool,
    ) -> Result<(), Error> {
        let (mut text, has_lines) = (Vec::new(), self.has_lines);
        if !columns.names.is_empty() {
            write_row(&mut text, columns.names.iter().map(|name| (Stored::Value, name.as_str())));
        }
        each(&self.path, &mut self.file, self.form, self.reading.at.as_deref(), &mut |found| {
            match found {
                Found::Record { raw, .. } => match rows_of(raw, has_lines) {
                    Ok(rows) => {
                        rows.iter().for_each(|cells| write_cells(&mut text, cells, columns, &separators));
                    }
                    Err(_) => write_unreadable(&mut text, raw, columns.names.len()),
                },
                Found::Unreadable { raw, .. } => write_unreadable(&mut text, raw, columns.names.len()),
            }
            text.len() < 128 << 10 || take(std::mem::take(&mut text))
        })?;
        misfire::point("json");
        take(text);
        Ok(())
    }
}

/// How many rows a record makes.
pub(crate) fn count_rows(raw: &str, has_lines: bool) -> u64 {
    rows_of(raw, has_lines).map_or(1, |rows| rows.len() as u64)
}

/// The records of a file as they are written, each with the rows that it makes, for writing some of them again.
pub(crate) fn texts(
    path: &Path,
    mut file: File,
    form: Form,
    at: Option<String>,
    has_lines: bool,
) -> Result<Pieces<(u64, u64, String)>, Error> {
    let from = path.to_owned();
    Pieces::start(path, 256, move |take| {
        let mut row = 1;
        file.rewind().map_err(|source| Error::Read { path: from.clone(), source })?;
        each(&from, &mut file, form, at.as_deref(), &mut |found| {
            let (raw, count) = match found {
                Found::Record { raw, .. } => (raw, count_rows(raw, has_lines)),
                Found::Unreadable { raw, .. } => (raw, 1),
            };
            let is_wanted = take((row, row + count - 1, raw.to_owned()));
            row += count;
            is_wanted
        })
    })
}

fn write_cells(into: &mut Vec<u8>, cells: &[Cell], columns: &Columns, separators: &[String]) {
    let mut row: Vec<(Stored, String)> = vec![(Stored::Value, String::new()); columns.names.len()];
    for cell in cells {
        let Some(number) = columns.numbers.get(&cell.name).copied() else { continue };
        let separator = separators.get(number).map_or(";", String::as_str);
        if let Some(slot) = row.get_mut(number) {
            *slot = cell.value.text(separator);
        }
    }
    write_row(into, row.iter().map(|(stored, text)| (*stored, text.as_str())));
}

/// A row that has more cells than there are columns, the first of which is all there is of the record.
fn write_unreadable(into: &mut Vec<u8>, raw: &str, width: usize) {
    let raw: String = raw.trim_end().chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
    let rest = std::iter::repeat_n((Stored::Value, "!"), width.max(1));
    write_row(into, std::iter::once((Stored::Value, raw.as_str())).chain(rest));
}

fn write_row<'a>(into: &mut Vec<u8>, cells: impl Iterator<Item = (Stored, &'a str)>) {
    let (mut is_first, begin) = (true, into.len());
    for (stored, text) in cells {
        if !is_first {
            into.push(b',');
        }
        is_first = false;
        write_cell(into, stored, text);
    }
    // A single blank cell is more than an empty line.
    if into.len() == begin {
        into.extend(b"\"\"");
    }
    into.push(b'\n');
}
