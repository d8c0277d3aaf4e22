//! The cells of a record: the path of each and its value.

use crate::book::Stored;
use serde::de::{Deserializer, MapAccess, Visitor};
use serde_json::value::RawValue;
use std::collections::HashSet;
use std::fmt;
use std::ops::Range;

/// The path of keys, and what stands there.
#[derive(Debug, Clone)]
pub(super) struct Cell {
    pub(super) name: String,
    pub(super) value: Value,
}

/// A value as a cell holds it.
#[derive(Debug, Clone)]
pub(super) enum Value {
    /// A number, yes or no: as it stands.
    Stored(String),
    Text(String),
    /// Several values.
    List(Vec<String>),
}

impl Value {
    /// Its text; several values are joined.
    pub(super) fn text(&self, separator: &str) -> (Stored, String) {
        match self {
            Self::Stored(text) => (Stored::Value, text.clone()),
            Self::Text(text) => (Stored::Text, text.clone()),
            Self::List(items) => (Stored::Text, items.join(separator)),
        }
    }
}

/// Why a record has no cells.
#[derive(Debug)]
pub(super) struct CellFault {
    pub(super) text: String,
    /// Whether it is a fault of the whole file: a key that stands twice.
    pub(super) is_whole: bool,
}

impl From<serde_json::Error> for CellFault {
    fn from(error: serde_json::Error) -> Self {
        let text = error.to_string();
        let is_whole = text.contains(TWICE);
        Self { text, is_whole }
    }
}

const TWICE: &str = "stands twice in one object";
/// Objects may lie so deep in each other.
const DEEPEST: usize = 32;

/// The rows of a record: one, or where records have lines, one for each object of the first array of objects in it.
pub(super) fn rows_of(raw: &str, has_lines: bool) -> Result<Vec<Vec<Cell>>, CellFault> {
    let (mut cells, mut lines) = (Vec::new(), None);
    let keys = members(raw)?;
    for (key, value) in keys {
        if has_lines && lines.is_none() && is_objects(value.get()) {
            let items: Vec<&RawValue> = serde_json::from_str(value.get())?;
            let mut rows = Vec::new();
            for item in items {
                let mut line = Vec::new();
                flatten(&key, item, 1, &mut line)?;
                rows.push(line);
            }
            lines = Some(rows);
        } else {
            flatten(&key, value, 1, &mut cells)?;
        }
    }
    Ok(match lines {
        Some(lines) if !lines.is_empty() => {
            lines.into_iter().map(|line| cells.iter().cloned().chain(line).collect()).collect()
        }
        _ => vec![cells],
    })
}

/// Whether a value is an array that begins with an object.
fn is_objects(raw: &str) -> bool {
    raw.strip_prefix('[').is_some_and(|inner| inner.trim_start().starts_with('{'))
}

/// The keys and values of an object.
fn members(raw: &str) -> Result<Vec<(String, &RawValue)>, serde_json::Error> {
    struct Members;
    impl<'de> Visitor<'de> for Members {
        type Value = Vec<(String, &'de RawValue)>;

        fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
            f.write_str("a record: an object of keys and values")
        }

        fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self::Value, A::Error> {
            let (mut found, mut keys) = (Vec::new(), HashSet::new());
            while let Some(key) = map.next_key::<String>()? {
                if !keys.insert(key.clone()) {
                    return Err(serde::de::Error::custom(format!("the key {key} {TWICE}")));
                }
                found.push((key, map.next_value()?));
            }
            Ok(found)
        }
    }
    let mut deserializer = serde_json::Deserializer::from_str(raw);
    let found = deserializer.deserialize_map(Members)?;
    deserializer.end()?;
    Ok(found)
}

/// A value that is a text or a number, within the record that holds it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Leaf {
    /// The path of its keys.
    pub(super) name: String,
    /// Where it stands, with its quotes.
    pub(super) span: Range<usize>,
}

/// The texts and numbers of a record, of each row that it makes.
pub(super) fn leaves_of(raw: &str, has_lines: bool) -> Result<Vec<Vec<Leaf>>, CellFault> {
    let (mut own, mut lines) = (Vec::new(), None);
    for (key, value) in members(raw)? {
        if has_lines && lines.is_none() && is_objects(value.get()) {
            let items: Vec<&RawValue> = serde_json::from_str(value.get())?;
            let mut rows = Vec::new();
            for item in items {
                let mut line = Vec::new();
                leaves(raw, &key, item, 1, &mut line)?;
                rows.push(line);
            }
            lines = Some(rows);
        } else {
            leaves(raw, &key, value, 1, &mut own)?;
        }
    }
    Ok(match lines {
        Some(lines) if !lines.is_empty() => {
            lines.into_iter().map(|line| own.iter().cloned().chain(line).collect()).collect()
        }
        _ => vec![own],
    })
}

fn leaves(
    whole: &str,
    path: &str,
    value: &RawValue,
    depth: usize,
    found: &mut Vec<Leaf>,
) -> Result<(), serde_json::Error> {
    let raw = value.get();
    if raw.starts_with('{') && depth <= DEEPEST {
        for (key, value) in members(raw)? {
            leaves(whole, &format!("{path}.{key}"), value, depth + 1, found)?;
        }
    } else if raw.starts_with(['"', '-']) || raw.starts_with(|c: char| c.is_ascii_digit()) {
        // It is a part of the whole text, so that its place is how far it begins behind that.
        let begin = (raw.as_ptr() as usize).wrapping_sub(whole.as_ptr() as usize);
        if whole.get(begin..begin.saturating_add(raw.len())) == Some(raw) {
            found.push(Leaf { name: path.to_owned(), span: begin..begin + raw.len() });
        }
    }
    Ok(())
}

/// Adds what a value holds: an object by its keys, a list by its items, a number digit by digit.
fn flatten(
    path: &str,
    value: &RawValue,
    depth: usize,
    cells: &mut Vec<Cell>,
) -> Result<(), serde_json::Error> {
    if depth > DEEPEST {
        return Err(serde::de::Error::custom(format!("objects lie more than {DEEPEST} deep in each other")));
    }
    let raw = value.get();
    if raw.starts_with('{') {
        for (key, value) in members(raw)? {
            flatten(&format!("{path}.{key}"), value, depth + 1, cells)?;
        }
        return Ok(());
    }
    cells.push(Cell { name: path.to_owned(), value: scalar(raw)? });
    Ok(())
}

fn scalar(raw: &str) -> Result<Value, serde_json::Error> {
    Ok(match raw.as_bytes().first() {
        Some(b'"') => Value::Text(serde_json::from_str(raw)?),
        Some(b'[') => {
            // Lists in lists, and objects in lists, stay as they are written.
            let items: Vec<Box<RawValue>> = serde_json::from_str(raw)?;
            let text = |item: &RawValue| match item.get().starts_with('[') {
                true => Ok(item.get().to_owned()),
                false => scalar(item.get()).map(|value| value.text(";").1),
            };
            Value::List(items.iter().map(|item| text(item)).collect::<Result<_, _>>()?)
        }
        Some(b'n') => Value::Stored(String::new()),
        Some(b'-' | b'0'..=b'9') => Value::Stored(written_out(raw).unwrap_or_else(|| raw.to_owned())),
        _ => Value::Stored(raw.to_owned()),
    })
}

/// So many noughts are written out.
const MOST_ZEROS: usize = 400;

/// A number with a power of ten, digit by digit.
fn written_out(raw: &str) -> Option<String> {
    let (mantissa, exponent) = raw.split_once(['e', 'E'])?;
    let exponent: i64 = exponent.parse().ok()?;
    let (sign, digits) = mantissa.strip_prefix('-').map_or(("", mantissa), |digits| ("-", digits));
    let (whole, part) = digits.split_once('.').unwrap_or((digits, ""));
    let all = format!("{whole}{part}");
    let point = i64::try_from(whole.len()).ok()? + exponent;
    if point.unsigned_abs() as usize > MOST_ZEROS + all.len() {
        return None;
    }
    let length = i64::try_from(all.len()).ok()?;
    let written = if point <= 0 {
        format!("0.{}{all}", "0".repeat(usize::try_from(-point).ok()?))
    } else if point >= length {
        format!("{all}{}", "0".repeat(usize::try_from(point - length).ok()?))
    } else {
        let (whole, part) = all.split_at(usize::try_from(point).ok()?);
        format!("{whole}.{part}")
    };
    let (whole, part) = written.split_once('.').unwrap_or((&written, ""));
    let (whole, part) = (whole.trim_start_matches('0'), part.trim_end_matches('0'));
    let whole = if whole.is_empty() { "0" } else { whole };
    Some(format!("{sign}{whole}{}{part}", if part.is_empty() { "" } else { "." }))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn powers_of_ten_are_written_out_digit_by_digit() {
        for (raw, wanted) in [
            ("12345678901234567890123e0", Some("12345678901234567890123")),
            ("1.5E+3", Some("1500")),
            ("-2.50e-2", Some("-0.025")),
            ("1e-3", Some("0.001")),
            ("0e5", Some("0")),
            ("1e400", Some(&*format!("1{}", "0".repeat(400)))),
            ("1e99999", None),
            ("12", None),
        ] {
            assert_eq!(written_out(raw).as_deref(), wanted, "{raw}");
        }
    }
}
