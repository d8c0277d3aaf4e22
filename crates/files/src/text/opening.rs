//! The beginning of a delimited text: is it text at all, and where are its headings?

use crate::Shape;
use tidy_gate_core::gate::Table;
use tidy_gate_core::scan::{Dialect, RowWalk, decode, walk_row};

const BOM: &[u8] = b"\xEF\xBB\xBF";

/// What the first bytes say.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Opening {
    /// The headings, and where their row begins and ends.
    Headings { table: Table, start: usize, end: usize },
    /// No row with a value, as far as the bytes go.
    NoRow,
    /// A row begins on this line and is not whole.
    Unfinished { line: u64, row: u64, start: usize, quote: Option<usize> },
}

/// The length of the byte-order mark.
pub(super) fn bom_len(bytes: &[u8]) -> usize {
    if bytes.starts_with(BOM) { BOM.len() } else { 0 }
}

/// Finds the first row that holds a value, at or behind `from`.
pub(super) fn headings(bytes: &[u8], from: usize, dialect: Dialect) -> Opening {
    let (mut start, mut row, mut line) = (from, 1, 1);
    while start < bytes.len() {
        let mut ends = Vec::new();
        let end = match walk_row(bytes, start, dialect, |at| ends.push(at), |_| ()) {
            RowWalk::Whole { end, .. } => end,
            RowWalk::Open { quote } => return Opening::Unfinished { line, row, start, quote },
        };
        let headings = cells(bytes, start, &ends, dialect);
        if headings.iter().any(|heading| !heading.is_empty()) {
            let table = Table { headings, heading_row: row, heading_line: line, dialect };
            return Opening::Headings { table, start, end };
        }
        row += 1;
        line +=
            bytes.get(start..end).unwrap_or_default().iter().filter(|&&byte| byte == b'\n').count() as u64;
        start = end;
    }
    Opening::NoRow
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

/// What the bytes are, if they are no text.
pub(super) fn no_table(bytes: &[u8]) -> Option<Shape> {
    let known: [(&[u8], Shape); 11] = [
        (b"PK\x03\x04", Shape::Archive),
        (b"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1", Shape::OldWorkbook),
        (b"%PDF-", Shape::Known("a PDF document")),
        (b"\x89PNG", Shape::Known("a picture (PNG)")),
        (b"\xFF\xD8\xFF", Shape::Known("a picture (JPEG)")),
        (b"GIF8", Shape::Known("a picture (GIF)")),
        (b"\x1F\x8B", Shape::Known("a compressed file (gzip); unpack it first")),
        (b"\x28\xB5\x2F\xFD", Shape::Known("a compressed file (zstd); unpack it first")),
        (b"SQLite format 3\0", Shape::Known("an SQLite database")),
        (b"\xFF\xFE", Shape::Utf16),
        (b"\xFE\xFF", Shape::Utf16),
    ];
    if let Some((_, shape)) = known.into_iter().find(|(start, _)| bytes.starts_with(start)) {
        return Some(shape);
    }
    let sample = bytes.get(..bytes.len().min(4096)).unwrap_or_default();
    if let Some(first) = sample.iter().position(|&byte| byte == 0) {
        // Latin letters in UTF-16 have a NUL beside each.
        let nuls = sample.iter().filter(|&&byte| byte == 0).count();
        let beside = |parity: usize| sample.iter().skip(parity).step_by(2).filter(|&&byte| byte == 0).count();
        if nuls * 3 > sample.len() && (beside(0) * 10 < nuls || beside(1) * 10 < nuls) {
            return Some(Shape::Utf16);
        }
        let rows = sample.iter().take(first).filter(|&&byte| byte == b'\n').count();
        return Some(Shape::Nul(rows as u64 + 1));
    }
    let odd = |byte: &&u8| {
        **byte < 0x20 && !matches!(**byte, b'\t' | b'\n' | b'\r' | 0x0C | 0x1B) || **byte == 0x7F
    };
    let odd = sample.iter().filter(odd).count();
    let is_text = std::str::from_utf8(sample).map_or_else(|error| error.error_len().is_none(), |_| true);
    let high = sample.iter().filter(|&&byte| byte >= 0x80).count();
    let share = if is_text { odd } else { odd + high };
    (share * 10 > sample.len() * 3).then_some(Shape::NoText)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_row_with_a_value_holds_the_headings() {
        let found = headings(b"\n,,\r\n\"a\nb\" , c\r\n1,2\n", 0, Dialect::default());
        let Opening::Headings { table, end, .. } = found else { panic!("{found:?}") };
        assert_eq!(
            (table.headings, table.heading_row, table.heading_line, end),
            (vec!["a\nb".into(), "c".into()], 3, 3, 16)
        );
        assert_eq!(headings(b"\n \n,\n", 0, Dialect::default()), Opening::NoRow);
        assert!(matches!(
            headings(b"\na,\"b", 0, Dialect::default()),
            Opening::Unfinished { line: 2, quote: Some(3), .. }
        ));
    }

    #[test]
    fn what_is_no_text_is_told_as_what_it_is() {
        let utf16: Vec<u8> = "tag_no,site\nHT-1,W07\n".encode_utf16().flat_map(u16::to_le_bytes).collect();
        for (bytes, wanted) in [
            (&b"PK\x03\x04rest"[..], Some(Shape::Archive)),
            (b"%PDF-1.7", Some(Shape::Known("a PDF document"))),
            (&utf16, Some(Shape::Utf16)),
            (b"a,b\n1,\0\n", Some(Shape::Nul(2))),
            (b"\x01\x02\x03\x04\x05abc", Some(Shape::NoText)),
            (b"\xC3\xA4\xC3\xB6\xC3\xBC", None),
            (b"Caf\xE9,b\n", None),
            (b"", None),
        ] {
            assert_eq!(no_table(bytes), wanted, "{bytes:?}");
        }
    }
}
