//! Rows as records of JSON: one array of objects, or one object a line.

use super::begin::{Begin, CellKind, Originals};
use super::rows::{Cell, Rows};
use super::sink::RowSink;
use crate::error::Error;
use crate::output::one::Output;
use crate::pieces::Pieces;
use tidy_gate_core::headings::OWN_HEADINGS;

/// Writes rows as records.
pub(super) struct JsonForm {
    is_lines: bool,
    /// Whether the headings have come.
    is_headed: bool,
    keys: Vec<(String, CellKind)>,
    count: u64,
    /// The records of the input, where held ones come as they were.
    originals: Option<Originals>,
    /// The record that is written next, with its reasons: all rows of one record come together.
    pending: Option<Held>,
}

struct Held {
    first: u64,
    last: u64,
    raw: String,
    reasons: Vec<String>,
}

impl JsonForm {
    pub(super) fn new(is_lines: bool) -> Self {
        Self { is_lines, is_headed: false, keys: Vec::new(), count: 0, originals: None, pending: None }
    }

    /// Adds a row.
    ///
    /// # Errors
    /// When the records of the input cannot be read again.
    fn row(&mut self, cells: &[Cell<'_>], into: &mut Vec<u8>) -> Result<(), Error> {
        if self.originals.is_some() {
            return self.held(cells, into);
        }
        let mut record = String::from("{");
        for ((key, kind), (cell, _)) in self.keys.iter().zip(cells) {
            if record.len() > 1 {
                record.push(',');
            }
            record.push_str(&format!("{}:{}", text(key), value(kind, cell)));
        }
        record.push('}');
        self.write(&record, into);
        Ok(())
    }

    /// A held row: its record as it came, with its row and its reasons.
    fn held(&mut self, cells: &[Cell<'_>], into: &mut Vec<u8>) -> Result<(), Error> {
        let [(row, _), (reasons, _), ..] = cells else { return Ok(()) };
        let Ok(number) = row.parse::<u64>() else { return Ok(()) };
        if let Some(pending) = self.pending.as_mut().filter(|pending| number <= pending.last) {
            if !pending.reasons.iter().any(|known| known == reasons) {
                pending.reasons.push((*reasons).to_owned());
            }
            return Ok(());
        }
        self.flush(into);
        while let Some((first, last, raw)) = self.originals.as_mut().map(Pieces::next).transpose()?.flatten()
        {
            if last >= number {
                self.pending = Some(Held { first, last, raw, reasons: vec![(*reasons).to_owned()] });
                break;
            }
        }
        Ok(())
    }

    fn flush(&mut self, into: &mut Vec<u8>) {
        let Some(held) = self.pending.take() else { return };
        let [row, reasons] = OWN_HEADINGS;
        let own =
            format!("{}:{},{}:{}", text(row), held.first, text(reasons), text(&held.reasons.join("; ")));
        let raw = held.raw.trim();
        let is_object = serde_json::from_str::<serde_json::Map<String, serde_json::Value>>(raw).is_ok();
        let inner = raw.strip_prefix('{').filter(|_| is_object).map(str::trim_start);
        let record = match inner {
            Some("}") => format!("{{{own}}}"),
            Some(inner) => format!("{{{own},{}", inner.replace(['\n', '\r'], " ")),
            None => format!("{{{own},\"text\":{}}}", text(raw)),
        };
        self.write(&record, into);
    }

    fn write(&mut self, record: &str, into: &mut Vec<u8>) {
        if !self.is_lines {
            into.extend(if self.count == 0 { &b"[\n"[..] } else { b",\n" });
        }
        into.extend(record.as_bytes());
        if self.is_lines {
            into.push(b'\n');
        }
        self.count += 1;
    }

    /// What stands behind the last record.
    fn end(&mut self, into: &mut Vec<u8>) {
        self.flush(into);
        if !self.is_lines {
            into.extend(if self.count == 0 { &b"[]\n"[..] } else { b"\n]\n" });
        }
    }
}

impl RowSink for JsonForm {
    fn begin(&mut self, begin: Begin<'_>, _: &mut Output) -> Result<(), Error> {
        (self.keys, self.originals) = (begin.keys, begin.originals);
        Ok(())
    }

    fn rows(&mut self, rows: &Rows, output: &mut Output) -> Result<(), Error> {
        let Rows::Cells(rows) = rows else { return Ok(()) };
        let mut text = Vec::new();
        for row in rows.rows() {
            if std::mem::replace(&mut self.is_headed, true) {
                self.row(&row, &mut text)?;
            }
        }
        output.write(&text)
    }

    fn finish(&mut self, output: &mut Output) -> Result<(), Error> {
        let mut text = Vec::new();
        self.end(&mut text);
        output.write(&text)
    }

    fn takes_records(&self) -> bool {
        true
    }
}

fn value(kind: &CellKind, cell: &str) -> String {
    match kind {
        _ if cell.is_empty() => "null".to_owned(),
        CellKind::Number if is_number(cell) => cell.to_owned(),
        CellKind::Boolean if matches!(cell, "true" | "false") => cell.to_owned(),
        CellKind::Several(separator) => {
            let items: Vec<String> = cell.split(separator.as_str()).map(|item| text(item.trim())).collect();
            format!("[{}]", items.join(","))
        }
        _ => text(cell),
    }
}

/// Whether a text is a number as JSON writes it.
fn is_number(cell: &str) -> bool {
    serde_json::from_str::<serde_json::Number>(cell).is_ok()
}

fn text(text: &str) -> String {
    serde_json::Value::from(text).to_string()
}
