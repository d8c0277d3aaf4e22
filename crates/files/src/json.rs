//! Records as systems post them (RFC 8259): an array of objects, an object that holds one such array, or one object a
//! line. They become rows of text under the keys of all of them; nested objects are columns named `outer.inner`.

use crate::Error;
use serde::de::{DeserializeSeed, Deserializer, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde_json::value::RawValue;
use std::collections::HashMap;
use std::fmt;
use std::fs::File;
use std::io::{self, BufReader, Read, Seek};
use std::path::Path;

/// Whether a text that begins so may be such records.
pub(crate) fn is_one(head: &[u8]) -> bool {
    let text = head.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(head).trim_ascii_start();
    let inner = text.get(1..).unwrap_or_default().trim_ascii_start().first();
    match text.first() {
        Some(b'[') => matches!(inner, Some(b'{' | b']')),
        Some(b'{') => matches!(inner, Some(b'"' | b'}')),
        _ => false,
    }
}

/// The form of the records.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Form {
    /// One array of objects, perhaps in an object.
    Json,
    /// One object a line.
    Ndjson,
}

/// The columns of the records: a path of keys, and which column it has.
#[derive(Debug, Default)]
struct Columns {
    names: Vec<String>,
    numbers: HashMap<String, usize>,
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
}

/// Reads all records once for their keys, and begins to read them again: gives the rows as text, their form, and
/// whether there are keys at all.
pub(crate) fn open(
    path: &Path,
    mut file: File,
    most_columns: usize,
) -> Result<(impl Read + Send + use<>, Form, bool), Error> {
    let failed = |source| Error::Read { path: path.to_owned(), source };
    let form = form_of(&mut file).map_err(failed)?;
    let mut columns = Columns::default();
    each(path, &mut file, form, &mut |_, cells| {
        for (name, _) in cells {
            columns.of(&name);
        }
        true
    })?;
    if columns.names.len() > most_columns {
        let columns = columns.names.len();
        return Err(Error::TooManyColumns { path: path.to_owned(), columns, limit: most_columns });
    }
    let has_keys = !columns.names.is_empty();
    let path = path.to_owned();
    // A few pieces wait for whoever judges them; no more are read meanwhile.
    let (sender, receiver) = std::sync::mpsc::sync_channel(4);
    std::thread::spawn(move || {
        let names = columns.names.iter().map(String::as_str);
        let mut text = if has_keys { record(names) } else { Vec::new() };
        let read = each(&path, &mut file, form, &mut |_, cells| {
            let mut row = vec![String::new(); columns.names.len()];
            for (name, value) in cells {
                let slot = columns.numbers.get(&name).and_then(|number| row.get_mut(*number));
                slot.into_iter().for_each(|slot| slot.clone_from(&value));
            }
            text.extend(record(row.iter().map(String::as_str)));
            text.len() < 128 << 10 || sender.send(Ok(std::mem::take(&mut text))).is_ok()
        });
        drop(match read {
            Ok(()) => sender.send(Ok(text)),
            Err(error) => sender.send(Err(error)),
        });
    });
    Ok((crate::book::SheetReader::new(receiver), form, has_keys))
}

/// One row of text.
fn record<'a>(cells: impl Iterator<Item = &'a str>) -> Vec<u8> {
    let mut writer = csv::WriterBuilder::new().buffer_capacity(256).from_writer(Vec::new());
    // Writing to memory cannot fail.
    let _ = writer.write_record(cells);
    writer.into_inner().unwrap_or_default()
}

/// One object a line, if a second value stands behind the first.
fn form_of(file: &mut File) -> io::Result<Form> {
    file.rewind()?;
    let mut values = serde_json::Deserializer::from_reader(unmarked(file)?).into_iter::<IgnoredAny>();
    // A fault will be told when the records are read.
    let _ = values.next();
    let form = if matches!(values.next(), Some(Ok(_))) { Form::Ndjson } else { Form::Json };
    Ok(form)
}

/// The file from its beginning, without a byte-order mark.
fn unmarked(file: &mut File) -> io::Result<BufReader<&mut File>> {
    file.rewind()?;
    let mut start = [0; 3];
    let count = file.read(&mut start)?;
    if start.get(..count) != Some(b"\xEF\xBB\xBF") {
        file.rewind()?;
    }
    Ok(BufReader::with_capacity(1 << 16, file))
}

/// Hands on the cells of every record, with its number from 1, until told to stop.
fn each(
    path: &Path,
    file: &mut File,
    form: Form,
    take: &mut dyn FnMut(u64, Cells) -> bool,
) -> Result<(), Error> {
    let reader = unmarked(file).map_err(|source| Error::Read { path: path.to_owned(), source })?;
    let fault = |error: &serde_json::Error| Error::damaged(path, "its JSON", &error.to_string());
    let mut state = Walk { take, seen: 0, is_done: false };
    let mut reader = serde_json::Deserializer::from_reader(reader);
    let mut first = true;
    loop {
        match form {
            Form::Json if !first => return reader.end().map_err(|error| fault(&error)),
            Form::Json => Top(&mut state).deserialize(&mut reader).map_err(|error| fault(&error))?,
            Form::Ndjson => match (Record { walk: &mut state }).deserialize(&mut reader) {
                Err(error) if error.is_eof() && !first && reader.end().is_ok() => return Ok(()),
                result => result.map_err(|error| fault(&error))?,
            },
        }
        first = false;
        if state.is_done || form == Form::Ndjson && reader.end().is_ok() {
            return Ok(());
        }
    }
}

/// The cells of a record: the path of each and its text.
type Cells = Vec<(String, String)>;

struct Walk<'a> {
    take: &'a mut dyn FnMut(u64, Cells) -> bool,
    seen: u64,
    is_done: bool,
}

/// The whole text: an array of records, or an object that holds one.
struct Top<'w, 'a>(&'w mut Walk<'a>);

impl<'de> DeserializeSeed<'de> for Top<'_, '_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<(), D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for Top<'_, '_> {
    type Value = ();

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("an array of records, or an object that holds one")
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<(), A::Error> {
        while !self.0.is_done && seq.next_element_seed(Record { walk: self.0 })?.is_some() {}
        while seq.next_element::<IgnoredAny>()?.is_some() {}
        Ok(())
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<(), A::Error> {
        let mut found = None;
        let mut alone = Vec::new();
        while let Some(key) = map.next_key::<String>()? {
            let value: Box<RawValue> = map.next_value()?;
            if is_one(value.get().as_bytes()) && value.get().starts_with('[') {
                if found.is_some() {
                    return Err(serde::de::Error::custom(format!(
                        "several of its keys hold an array of records, {key} among them"
                    )));
                }
                found = Some(value);
            } else {
                alone.push((key, value));
            }
        }
        let error = |error: serde_json::Error| serde::de::Error::custom(error.to_string());
        match found {
            Some(array) => {
                let mut inner = serde_json::Deserializer::from_str(array.get());
                Top(self.0).deserialize(&mut inner).map_err(error)
            }
            // One record alone.
            None => {
                let mut cells = Cells::new();
                for (key, value) in alone {
                    flatten(&key, &value, 1, &mut cells).map_err(error)?;
                }
                self.0.seen += 1;
                self.0.is_done = !(self.0.take)(self.0.seen, cells);
                Ok(())
            }
        }
    }
}

/// One record.
struct Record<'w, 'a> {
    walk: &'w mut Walk<'a>,
}

impl<'de> DeserializeSeed<'de> for Record<'_, '_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<(), D::Error> {
        let cells = deserializer.deserialize_map(CellsOf { path: "", depth: 1 })?;
        self.walk.seen += 1;
        self.walk.is_done = !(self.walk.take)(self.walk.seen, cells);
        Ok(())
    }
}

/// The cells of an object below a path.
struct CellsOf<'a> {
    path: &'a str,
    depth: usize,
}

/// Objects may lie so deep in each other.
const DEEPEST: usize = 32;

impl<'de> Visitor<'de> for CellsOf<'_> {
    type Value = Cells;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a record: an object of keys and values")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Cells, A::Error> {
        let (mut cells, mut keys) = (Cells::new(), Vec::<String>::new());
        while let Some(key) = map.next_key::<String>()? {
            if keys.contains(&key) {
                return Err(serde::de::Error::custom(format!("the key {key} stands twice in one object")));
            }
            let path = if self.path.is_empty() { key.clone() } else { format!("{}.{key}", self.path) };
            let value: Box<RawValue> = map.next_value()?;
            flatten(&path, &value, self.depth, &mut cells)
                .map_err(|error| serde::de::Error::custom(error.to_string()))?;
            keys.push(key);
        }
        Ok(cells)
    }
}

/// Adds what a value holds: an object by its keys, a list by its items, a number digit by digit.
fn flatten(path: &str, value: &RawValue, depth: usize, cells: &mut Cells) -> Result<(), serde_json::Error> {
    if depth > DEEPEST {
        return Err(serde::de::Error::custom(format!("objects lie more than {DEEPEST} deep in each other")));
    }
    let raw = value.get();
    match raw.as_bytes().first() {
        Some(b'{') => {
            let mut inner = serde_json::Deserializer::from_str(raw);
            cells.extend(inner.deserialize_map(CellsOf { path, depth: depth + 1 })?);
        }
        _ => cells.push((path.to_owned(), scalar(raw)?)),
    }
    Ok(())
}

fn scalar(raw: &str) -> Result<String, serde_json::Error> {
    Ok(match raw.as_bytes().first() {
        Some(b'"') => serde_json::from_str(raw)?,
        Some(b'[') => {
            // Lists in lists, and objects in lists, stay as they are written.
            let items: Vec<Box<RawValue>> = serde_json::from_str(raw)?;
            let text = |item: &RawValue| match item.get().starts_with('[') {
                true => Ok(item.get().to_owned()),
                false => scalar(item.get()),
            };
            let items: Result<Vec<_>, _> = items.iter().map(|item| text(item)).collect();
            items?.join(";")
        }
        Some(b'n') => String::new(),
        // Powers of ten are written out.
        Some(b'-' | b'0'..=b'9') if raw.contains(['e', 'E']) => {
            raw.parse::<f64>().map_or_else(|_| raw.to_owned(), |number| number.to_string())
        }
        _ => raw.to_owned(),
    })
}
