//! Where the records of a JSON text stand, one after the other.

use crate::error::{Error, Shape};
use serde::de::{DeserializeSeed, Deserializer, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde_json::value::RawValue;
use std::fmt;
use std::fs::File;
use std::io::{self, BufRead, BufReader, Read, Seek};
use std::path::Path;

/// The form of the records.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Form {
    /// One array of objects, perhaps in an object.
    Json,
    /// One object a line.
    Ndjson,
}

/// What stands where a record is expected.
pub(crate) enum Found<'a> {
    /// A record as it is written, and in a text of one record a line the line on which it begins.
    Record { raw: &'a str, line: Option<u64> },
    /// What cannot be read, and its line.
    Unreadable { raw: &'a str, line: Option<u64> },
}

/// Whether a text of this name that begins so is JSON.
pub(crate) fn is_one(path: &Path, head: &[u8]) -> bool {
    let text = head.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(head).trim_ascii_start();
    if is_named(path, &["json", "ndjson", "jsonl"]) {
        return true;
    }
    let inner = text.get(1..).unwrap_or_default().trim_ascii_start().first();
    match text.first() {
        Some(b'[') if matches!(inner, Some(b'{' | b']')) => true,
        Some(b'{') => matches!(inner, Some(b'"' | b'}')),
        // An array of whatever else, if it is JSON as far as it is seen.
        Some(b'[') => {
            let is_cut = text.len() >= head.len().min(400);
            let read = serde_json::from_slice::<IgnoredAny>(text);
            read.is_ok() || read.is_err_and(|error| error.is_eof() && is_cut) || is_brackets(text)
        }
        _ => false,
    }
}

fn is_brackets(text: &[u8]) -> bool {
    text.len() > 100 && text.iter().all(|byte| *byte == b'[')
}

fn is_named(path: &Path, endings: &[&str]) -> bool {
    let ending = path.extension().map(|ending| ending.to_string_lossy().to_lowercase());
    ending.is_some_and(|ending| endings.contains(&ending.as_str()))
}

/// One object a line, if the lines after the first begin with one too.
pub(crate) fn form_of(path: &Path, file: &mut File) -> io::Result<Form> {
    let mut lines = unmarked(file)?;
    let mut begins = Vec::new();
    let (mut line, mut first) = (Vec::new(), Vec::new());
    while begins.len() < 2 {
        line.clear();
        if (&mut lines).take(1 << 20).read_until(b'\n', &mut line)? == 0 {
            break;
        }
        let trimmed = line.trim_ascii();
        if !trimmed.is_empty() {
            if begins.is_empty() {
                first = trimmed.to_vec();
            }
            // What stands further to the right belongs to what is above it.
            begins.push(line.first() == Some(&b'{'));
        }
    }
    let is_lines = match begins.as_slice() {
        [true, true] => first.ends_with(b"}") || serde_json::from_slice::<IgnoredAny>(&first).is_ok(),
        // Two records on the first line.
        [true, ..] => {
            let mut values = serde_json::Deserializer::from_slice(&first).into_iter::<IgnoredAny>();
            matches!((values.next(), values.next()), (Some(Ok(_)), Some(Ok(_))))
        }
        _ => false,
    };
    let is_lines = is_lines || begins.first() == Some(&true) && is_named(path, &["ndjson", "jsonl"]);
    Ok(if is_lines { Form::Ndjson } else { Form::Json })
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

/// Hands on every record until told to stop.
pub(crate) fn each(
    path: &Path,
    file: &mut File,
    form: Form,
    at: Option<&str>,
    take: &mut dyn FnMut(Found<'_>) -> bool,
) -> Result<(), Error> {
    let reader = unmarked(file).map_err(|source| Error::Read { path: path.to_owned(), source })?;
    if form == Form::Ndjson {
        return each_line(path, reader, take);
    }
    let pointer = at.map(pointer).unwrap_or_default();
    let mut walk = Walk { take, is_done: false, fault: None };
    let mut json = serde_json::Deserializer::from_reader(reader);
    let read = Place { walk: &mut walk, pointer: &pointer, is_top: true }.deserialize(&mut json);
    if let Some(fault) = walk.fault {
        return Err(match fault {
            Fault::NoRecords(found) => {
                Error::NotTable { path: path.to_owned(), shape: Shape::NoRecords(found) }
            }
            Fault::Several(places) => {
                Error::SeveralArrays { path: path.to_owned(), places: places.join(", ") }
            }
            Fault::NoPlace => {
                Error::NoSuchPlace { path: path.to_owned(), place: at.unwrap_or_default().to_owned() }
            }
        });
    }
    if walk.is_done {
        return Ok(());
    }
    let fault = |error: serde_json::Error| Error::damaged(path, "its JSON", &error.to_string());
    read.map_err(fault)?;
    json.end().map_err(fault)
}

/// The parts of a JSON Pointer (RFC 6901).
fn pointer(at: &str) -> Vec<String> {
    let at = at.strip_prefix('/').unwrap_or(at);
    if at.is_empty() {
        return Vec::new();
    }
    at.split('/').map(|part| part.replace("~1", "/").replace("~0", "~")).collect()
}

/// A record may be so long, over however many lines.
const LONGEST: usize = 32 << 20;

/// Records one behind the other, each beginning on a line of its own or behind another.
fn each_line(
    path: &Path,
    mut reader: impl BufRead,
    take: &mut dyn FnMut(Found<'_>) -> bool,
) -> Result<(), Error> {
    let failed = |source| Error::Read { path: path.to_owned(), source };
    let (mut number, mut begun) = (0, 1);
    let mut pending = String::new();
    loop {
        let mut line = Vec::new();
        let count = reader.by_ref().take(LONGEST as u64).read_until(b'\n', &mut line).map_err(failed)?;
        if count == 0 {
            break;
        }
        number += 1;
        let text = String::from_utf8_lossy(&line);
        if pending.is_empty() {
            if text.trim().is_empty() {
                continue;
            }
            begun = number;
        }
        let before = pending.len();
        pending.push_str(&text);
        match take_whole(&pending, begun, take) {
            Taken::Stopped => return Ok(()),
            Taken::Whole => pending.clear(),
            Taken::Open if pending.len() < LONGEST => {}
            // What stood open before this line stays unread, and the line is tried alone.
            Taken::Open | Taken::Broken if before > 0 => {
                let first = pending.get(..before).unwrap_or_default();
                if !take(Found::Unreadable { raw: first, line: Some(begun) }) {
                    return Ok(());
                }
                pending = text.into_owned();
                begun = number;
                match take_whole(&pending, begun, take) {
                    Taken::Stopped => return Ok(()),
                    Taken::Open => {}
                    Taken::Whole => pending.clear(),
                    Taken::Broken => {
                        if !take(Found::Unreadable { raw: &pending, line: Some(begun) }) {
                            return Ok(());
                        }
                        pending.clear();
                    }
                }
            }
            Taken::Open | Taken::Broken => {
                if !take(Found::Unreadable { raw: &pending, line: Some(begun) }) {
                    return Ok(());
                }
                pending.clear();
            }
        }
    }
    if pending.trim().is_empty() {
        return Ok(());
    }
    // Nobody knows what else was cut off.
    let what = format!("it ends within the record that begins on line {begun}");
    Err(Error::damaged(path, "its JSON", &what))
}

enum Taken {
    Whole,
    /// It goes on behind the text.
    Open,
    Broken,
    Stopped,
}

/// Hands on the records of a text, if it holds whole ones alone.
fn take_whole(text: &str, line: u64, take: &mut dyn FnMut(Found<'_>) -> bool) -> Taken {
    let mut raws: Vec<&RawValue> = Vec::new();
    for value in serde_json::Deserializer::from_str(text).into_iter::<&RawValue>() {
        match value {
            Ok(raw) if raw.get().starts_with('{') => raws.push(raw),
            Ok(_) => return Taken::Broken,
            Err(error) if error.is_eof() => return Taken::Open,
            Err(_) => return Taken::Broken,
        }
    }
    for raw in raws {
        if !take(Found::Record { raw: raw.get(), line: Some(line) }) {
            return Taken::Stopped;
        }
    }
    Taken::Whole
}

struct Walk<'a> {
    take: &'a mut dyn FnMut(Found<'_>) -> bool,
    is_done: bool,
    fault: Option<Fault>,
}

enum Fault {
    /// What stands where the records should.
    NoRecords(String),
    /// Several arrays hold records.
    Several(Vec<String>),
    /// Nothing stands at the stated place.
    NoPlace,
}

impl Walk<'_> {
    fn take(&mut self, raw: &str) {
        self.is_done = !(self.take)(Found::Record { raw, line: None });
    }

    fn fail<T, E: serde::de::Error>(&mut self, fault: Fault) -> Result<T, E> {
        self.fault = Some(fault);
        Err(E::custom("no records"))
    }
}

/// A value on the way to the records.
struct Place<'w, 'a, 'p> {
    walk: &'w mut Walk<'a>,
    pointer: &'p [String],
    /// Whether an object may hold the array, or be the only record.
    is_top: bool,
}

impl<'de> DeserializeSeed<'de> for Place<'_, '_, '_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<(), D::Error> {
        deserializer.deserialize_any(self)
    }
}

macro_rules! no_records {
    ($($visit:ident: $kind:ty => $words:literal,)*) => {
        $(fn $visit<E: serde::de::Error>(self, _: $kind) -> Result<(), E> {
            self.refuse($words)
        })*
    };
}

impl Place<'_, '_, '_> {
    fn refuse<E: serde::de::Error>(self, what: &str) -> Result<(), E> {
        let is_place = self.pointer.is_empty();
        self.walk.fail(if is_place { Fault::NoRecords(what.to_owned()) } else { Fault::NoPlace })
    }
}

impl<'de> Visitor<'de> for Place<'_, '_, '_> {
    type Value = ();

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("an array of records, or an object that holds one")
    }

    no_records! {
        visit_bool: bool => "true or false",
        visit_i64: i64 => "a number",
        visit_u64: u64 => "a number",
        visit_f64: f64 => "a number",
        visit_str: &str => "a text",
    }

    fn visit_unit<E: serde::de::Error>(self) -> Result<(), E> {
        self.refuse("null")
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<(), A::Error> {
        if let [first, rest @ ..] = self.pointer {
            let wanted = first.parse::<usize>().ok();
            let mut number = 0;
            loop {
                if Some(number) == wanted {
                    let place = Place { walk: &mut *self.walk, pointer: rest, is_top: false };
                    if seq.next_element_seed(place)?.is_none() {
                        return self.walk.fail(Fault::NoPlace);
                    }
                    while seq.next_element::<IgnoredAny>()?.is_some() {}
                    return Ok(());
                }
                if seq.next_element::<IgnoredAny>()?.is_none() {
                    return self.walk.fail(Fault::NoPlace);
                }
                number += 1;
            }
        }
        while let Some(raw) = seq.next_element::<Box<RawValue>>()? {
            if !raw.get().starts_with('{') {
                let what = match raw.get().as_bytes().first() {
                    Some(b'[') => "an array of arrays",
                    Some(b'"') => "an array of texts",
                    Some(b'n') => "an array of nulls",
                    Some(b't' | b'f') => "an array of true and false",
                    _ => "an array of numbers",
                };
                return self.walk.fail(Fault::NoRecords(what.to_owned()));
            }
            self.walk.take(raw.get());
            if self.walk.is_done {
                return Err(serde::de::Error::custom("enough"));
            }
        }
        Ok(())
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<(), A::Error> {
        // A number, where numbers are kept digit by digit, comes as an object too.
        if let [first, rest @ ..] = self.pointer {
            let mut is_found = false;
            while let Some(key) = map.next_key::<String>()? {
                if key == *first && !is_found {
                    is_found = true;
                    map.next_value_seed(Place { walk: &mut *self.walk, pointer: rest, is_top: false })?;
                } else {
                    map.next_value::<IgnoredAny>()?;
                }
            }
            return if is_found { Ok(()) } else { self.walk.fail(Fault::NoPlace) };
        }
        let (mut arrays, mut places, mut members) = (Vec::new(), Vec::new(), Vec::new());
        while let Some(key) = map.next_key::<String>()? {
            if key == "$serde_json::private::Number" {
                return self.walk.fail(Fault::NoRecords("a number".to_owned()));
            }
            let value: Box<RawValue> = map.next_value()?;
            let inner = value.get().strip_prefix('[').map(str::trim_start);
            if inner.is_some_and(|inner| inner.starts_with(['{', ']'])) {
                places.push(format!("/{}", key.replace('~', "~0").replace('/', "~1")));
                arrays.push(value);
            } else {
                let name = serde_json::to_string(&key).unwrap_or_default();
                members.push(format!("{name}:{}", value.get()));
            }
        }
        match arrays.as_slice() {
            [] => {
                // One record alone.
                self.walk.take(&format!("{{{}}}", members.join(",")));
                Ok(())
            }
            [array] if self.is_top => {
                let mut inner = serde_json::Deserializer::from_str(array.get());
                let place = Place { walk: &mut *self.walk, pointer: &[], is_top: false };
                place.deserialize(&mut inner).map_err(|error| serde::de::Error::custom(error.to_string()))
            }
            _ => self.walk.fail(Fault::Several(places)),
        }
    }
}
