//! The beginning of a delimited text: is it text at all, and what are its first rows?

use crate::error::Shape;
use crate::layout::FirstRow;
use tidy_gate_core::scan::{Dialect, RowWalk, decode, walk_row};

const BOM: &[u8] = b"\xEF\xBB\xBF";

/// The length of the byte-order mark of a text in UTF-8.
pub(super) fn bom_len(bytes: &[u8]) -> usize {
    if bytes.starts_with(BOM) { BOM.len() } else { 0 }
}

/// One of the first rows, and where it stands.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct SampleRow {
    pub(super) row: FirstRow,
    /// The physical line on which it begins.
    pub(super) line: u64,
    pub(super) start: usize,
    /// The place behind its line feed.
    pub(super) end: usize,
}

/// The first rows of a text.
#[derive(Debug, Default)]
pub(super) struct Sample {
    pub(super) rows: Vec<SampleRow>,
    /// The row behind them, if it does not end, and where its quoted cell begins that does not close.
    pub(super) open: Option<(SampleRow, Option<usize>)>,
}

/// Reads up to `most` whole rows from `from` on.
pub(super) fn sample(bytes: &[u8], from: usize, dialect: Dialect, most: usize) -> Sample {
    let mut found = Sample::default();
    let (mut start, mut number, mut line) = (from, 1, 1);
    while start < bytes.len() && found.rows.len() < most {
        let mut ends = Vec::new();
        let walk = walk_row(bytes, start, dialect, |at| ends.push(at), |_| ());
        let end = match walk {
            RowWalk::Whole { end, .. } => end,
            RowWalk::Open { quote } => {
                ends.push(bytes.len());
                let row = FirstRow { number, cells: cells(bytes, start, &ends, dialect) };
                found.open = Some((SampleRow { row, line, start, end: bytes.len() }, quote));
                break;
            }
        };
        let row = FirstRow { number, cells: cells(bytes, start, &ends, dialect) };
        found.rows.push(SampleRow { row, line, start, end });
        number += 1;
        line += memchr::memchr_iter(b'\n', bytes.get(start..end).unwrap_or_default()).count() as u64;
        start = end;
    }
    found
}

/// The first rows of a sheet that was made into text.
pub(crate) fn first_rows(text: &[u8]) -> Vec<FirstRow> {
    let dialect = Dialect { marks: true, ..Dialect::default() };
    sample(text, 0, dialect, 200).rows.into_iter().map(|row| row.row).collect()
}

/// The trimmed texts of a row's cells.
pub(super) fn cells(bytes: &[u8], start: usize, ends: &[usize], dialect: Dialect) -> Vec<String> {
    let mut from = start;
    let text = |&end: &usize| {
        let raw = bytes.get(from..end).unwrap_or_default();
        let raw = raw.strip_suffix(b"\r").unwrap_or(raw);
        from = end + 1;
        String::from_utf8_lossy(&decode(raw, dialect)).trim().to_owned()
    };
    ends.iter().map(text).collect()
}

/// What the bytes are, if they are no text; `decoded` when they are in another encoding than UTF-8.
pub(super) fn no_table(bytes: &[u8], decoded: bool) -> Option<Shape> {
    let known: [(&[u8], Shape); 11] = [
        (b"PK\x03\x04", Shape::Archive),
        (b"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1", Shape::Compound),
        (b"%PDF-", Shape::Known("a PDF document")),
        (b"\x89PNG", Shape::Known("a picture (PNG)")),
        (b"\xFF\xD8\xFF", Shape::Known("a picture (JPEG)")),
        (b"GIF8", Shape::Known("a picture (GIF)")),
        (b"BZh", Shape::Known("a compressed file (bzip2); unpack it first")),
        (b"\xFD7zXZ\0", Shape::Known("a compressed file (xz); unpack it first")),
        (b"SQLite format 3\0", Shape::Known("an SQLite database")),
        (b"\xFF\xFE\0\0", Shape::Known("text in UTF-32; save it in UTF-8")),
        (b"\0\0\xFE\xFF", Shape::Known("text in UTF-32; save it in UTF-8")),
    ];
    if let Some((_, shape)) = known.into_iter().find(|(start, _)| bytes.starts_with(start)) {
        return Some(shape);
    }
    let start = bytes.get(bom_len(bytes)..).unwrap_or_default().trim_ascii_start();
    for (tag, shape) in
        [("<!doctype html", "an HTML page"), ("<html", "an HTML page"), ("<?xml", "an XML document")]
    {
        if start.get(..tag.len()).is_some_and(|start| start.eq_ignore_ascii_case(tag.as_bytes())) {
            return Some(Shape::Known(shape));
        }
    }
    let sample = bytes.get(..bytes.len().min(4096)).unwrap_or_default();
    let is_utf16 = decoded && sample.contains(&0);
    if is_utf16 {
        return None;
    }
    if let Some(first) = memchr::memchr(0, sample) {
        let rows = memchr::memchr_iter(b'\n', sample.get(..first).unwrap_or_default()).count();
        return Some(Shape::Nul(rows as u64 + 1));
    }
    let odd = |byte: &&u8| {
        **byte < 0x20 && !matches!(**byte, b'\t' | b'\n' | b'\r' | 0x0C | 0x1B..=0x1F) || **byte == 0x7F
    };
    let odd = sample.iter().filter(odd).count();
    // A text of a few bytes may hold a control character or two.
    (odd * 20 > sample.len() && odd > 3).then_some(Shape::NoText)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_rows_have_their_places() {
        let text = b"\n,,\r\n\"a\nb\" , c\r\n1,2\n3,\"x";
        let found = sample(text, 0, Dialect::default(), 9);
        let rows: Vec<_> =
            found.rows.iter().map(|row| (row.row.number, row.line, row.start, row.row.filled())).collect();
        assert_eq!(rows, [(1, 1, 0, 0), (2, 2, 1, 0), (3, 3, 5, 2), (4, 5, 16, 2)]);
        assert_eq!(found.rows[2].row.cells, ["a\nb", "c"]);
        let (open, quote) = found.open.unwrap();
        assert_eq!((open.row.number, open.line, quote), (5, 6, Some(22)));
    }

    #[test]
    fn what_is_no_text_is_told_as_what_it_is() {
        for (bytes, wanted) in [
            (&b"PK\x03\x04rest"[..], Some(Shape::Archive)),
            (b"%PDF-1.7", Some(Shape::Known("a PDF document"))),
            (b"\xFF\xFE\0\0a\0\0\0", Some(Shape::Known("text in UTF-32; save it in UTF-8"))),
            (b"\n <!DOCTYPE html><table>", Some(Shape::Known("an HTML page"))),
            (b"a,b\n1,\0\n", Some(Shape::Nul(2))),
            (b"\x01\x02\x03\x04\x05abc", Some(Shape::NoText)),
            (b"\xC3\xA4\xC3\xB6\xC3\xBC", None),
            (b"Caf\xE9,b\n", None),
            (b"", None),
        ] {
            assert_eq!(no_table(bytes, false), wanted, "{bytes:?}");
        }
        assert_eq!(no_table(b"a\0b\0", true), None);
    }
}
