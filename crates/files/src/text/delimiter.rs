//! Which byte stands between two cells: the one with which the headings are known best, then the one that cuts
//! the rows most evenly.

use super::opening::{SampleRow, sample};
use crate::layout::{Fact, FirstRow, LOOKED_AT};
use tidy_gate_core::headings::HeadingWords;
use tidy_gate_core::plan::is_permitted;
use tidy_gate_core::scan::Dialect;

/// The delimiters that are looked for.
const CANDIDATES: [u8; 4] = [b',', b';', b'\t', b'|'];
/// So many rows are looked at.
const MOST_ROWS: usize = 100;

/// A delimiter as people call it.
#[must_use]
pub fn delimiter_name(delimiter: u8) -> String {
    match delimiter {
        b',' => "comma".to_owned(),
        b';' => "semicolon".to_owned(),
        b'\t' => "tab".to_owned(),
        b'|' => "pipe".to_owned(),
        b' ' => "space".to_owned(),
        other if other.is_ascii_graphic() => char::from(other).to_string(),
        other => format!("the character U+{other:04X}"),
    }
}

/// The delimiter that a first line `sep=;` states, as spreadsheet programs write and read it.
pub(super) fn stated_in_text(bytes: &[u8], from: usize) -> Option<u8> {
    let line = bytes.get(from..)?.split(|&byte| byte == b'\n').next()?;
    let line = line.strip_suffix(b"\r").unwrap_or(line);
    // Its own delimiters may follow, and quotes stand around it.
    let line = line.strip_prefix(b"\"").unwrap_or(line);
    match line {
        [b's' | b'S', b'e' | b'E', b'p' | b'P', b'=', delimiter, rest @ ..]
            if is_permitted(*delimiter) && rest.iter().all(|byte| byte == delimiter || *byte == b'"') =>
        {
            Some(*delimiter)
        }
        _ => None,
    }
}

/// Chooses the delimiter of a text.
pub(super) fn choose(bytes: &[u8], from: usize, words: Option<&HeadingWords<'_>>) -> (Dialect, Fact) {
    let try_it = |delimiter| {
        let dialect = Dialect { delimiter, ..Dialect::default() };
        Trial::of(dialect, &sample(bytes, from, dialect, MOST_ROWS).rows, words)
    };
    let [first, others @ ..] = CANDIDATES;
    let mut best = try_it(first);
    for delimiter in others.into_iter().filter(|&delimiter| memchr::memchr(delimiter, bytes).is_some()) {
        let trial = try_it(delimiter);
        // A mark in a cell here and there is no delimiter.
        let cuts = trial.cut * 2 >= trial.rows || trial.named > 1;
        if cuts && (trial.named, trial.evenness) > (best.named, best.evenness) {
            best = trial;
        }
    }
    let name = delimiter_name(best.dialect.delimiter);
    let evidence = match best.named {
        0 | 1 if best.evenness == 0 => "no other common one stands between cells".to_owned(),
        0 => {
            format!("{} of the {} rows looked at have {} cells with it", best.regular, best.rows, best.width)
        }
        1 => "one heading names a field with it".to_owned(),
        named => format!("{named} headings name a field with it"),
    };
    let fact = match best.dialect.delimiter {
        b',' => Fact::plain("delimiter", name, evidence),
        _ => Fact::guessed("delimiter", name, evidence),
    };
    (best.dialect, fact)
}

/// A delimiter and how well it does.
struct Trial {
    dialect: Dialect,
    /// How many fields the best row names.
    named: usize,
    /// Rows that are cut at all, and rows that are cut as most are, in thousandths.
    evenness: usize,
    /// Rows that are cut at all.
    cut: usize,
    rows: usize,
    regular: usize,
    width: usize,
}

impl Trial {
    fn of(dialect: Dialect, rows: &[SampleRow], words: Option<&HeadingWords<'_>>) -> Self {
        let filled: Vec<&FirstRow> = rows.iter().map(|row| &row.row).filter(|row| row.filled() > 0).collect();
        let named = words.map_or(0, |words| {
            filled.iter().take(LOOKED_AT).map(|row| words.named_by(&row.cells)).max().unwrap_or(0)
        });
        let mut widths: Vec<usize> =
            filled.iter().map(|row| row.cells.len()).filter(|&width| width > 1).collect();
        widths.sort_unstable();
        let runs = widths.chunk_by(|one, other| one == other).map(|run| (run.len(), run.first().copied()));
        let (regular, width) = runs.max().map_or((0, 1), |(count, width)| (count, width.unwrap_or(1)));
        let all = filled.len().max(1);
        let evenness = (widths.len() + regular) * 500 / all;
        Self { dialect, named, evenness, cut: widths.len(), rows: filled.len(), regular, width }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_delimiter_is_the_one_that_cuts_evenly() {
        for (text, wanted) in [
            ("a,b,c\n1,2,3\n", b','),
            ("a;b;c\n1,5;2,5;3\n", b';'),
            ("a\tb\n1, 2\tx\n", b'\t'),
            ("a|b|c\n1;2|2,3|x\n", b'|'),
            ("\"a;b\",c\n\"1;2\",3\n", b','),
            ("a\n1\n2\n", b','),
            ("Survey, ward 7\n\na;b;c;d\n1;2;3;4\n1;2\n5;6;7;8\n", b';'),
            ("note\na\nb\np;q\nc\nd\n", b','),
            ("", b','),
        ] {
            let (dialect, _) = choose(text.as_bytes(), 0, None);
            assert_eq!(dialect.delimiter, wanted, "{text:?}");
        }
        assert_eq!(stated_in_text(b"sep=;\r\na;b\n", 0), Some(b';'));
        assert_eq!(stated_in_text(b"\"sep=|\"\na|b\n", 0), Some(b'|'));
        assert_eq!(stated_in_text(b"sep=a\n", 0), None);
        assert_eq!(stated_in_text(b"separator\n", 0), None);
    }
}
