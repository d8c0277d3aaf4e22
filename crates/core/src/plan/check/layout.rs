//! How the file is laid out.

use crate::fault::Fault;
use crate::plan::raw::{RawPlan, RawShortRows};
use crate::plan::stated::PlanFile;
use toml::Spanned;

pub(super) fn file(raw: &RawPlan, faults: &mut Vec<Fault>) -> PlanFile {
    let file = &raw.file;
    let mut row = |row: &Option<Spanned<u64>>| {
        let row = row.as_ref()?;
        if *row.get_ref() == 0 {
            faults.push(Fault::new(row.span(), "rows count from 1, as in a spreadsheet"));
        }
        Some(*row.get_ref())
    };
    let (heading_row, first_row, last_row) =
        (row(&file.heading_row), row(&file.first_row), row(&file.last_row));
    let example_row = row(&file.example_row);
    let by_position = file.by_position.unwrap_or_default();
    if let Some(row) = file.heading_row.as_ref().filter(|_| by_position) {
        let fault = Fault::new(row.span(), "a file read by position has no heading row");
        faults.push(fault.help("keep one of `heading_row` and `by_position`"));
    }
    let least_below = [
        (&file.heading_row, &file.first_row, 1),
        (&file.first_row, &file.last_row, 0),
        (&file.heading_row, &file.example_row, 1),
    ];
    for (above, below, least) in least_below {
        if let (Some(above), Some(below)) = (above, below)
            && below.get_ref() < &(above.get_ref() + least)
        {
            let message = format!("row {} is not below row {}", below.get_ref(), above.get_ref());
            faults.push(Fault::new(below.span(), message));
        }
    }
    let delimiter = file.delimiter.as_ref().map(|delimiter| {
        if delimiter_of(delimiter.get_ref()).is_none() {
            faults.push(bad_delimiter(delimiter));
        }
        delimiter.get_ref().clone()
    });
    let encoding = file.encoding.as_ref().map(|encoding| {
        known_encoding(encoding, faults);
        encoding.get_ref().clone()
    });
    PlanFile {
        sheet: file.sheet.clone(),
        at: file.at.clone(),
        heading_row,
        first_row,
        last_row,
        example_row,
        delimiter,
        encoding,
        by_position: file.by_position,
        short_rows_are_blank: file.short_rows.as_ref().map(|rows| *rows.get_ref() == RawShortRows::Blank),
    }
}

pub(super) fn bad_delimiter(delimiter: &Spanned<String>) -> Fault {
    Fault::new(delimiter.span(), format!("`{}` is no delimiter", delimiter.get_ref()))
        .help("one ASCII character that is no letter, digit or double quote, or tab, comma, semicolon, pipe")
}

/// The byte that a word or a character stands for as delimiter.
#[must_use]
pub fn delimiter_of(word: &str) -> Option<u8> {
    Some(match word {
        "comma" => b',',
        "semicolon" => b';',
        "tab" | "\\t" => b'\t',
        "pipe" => b'|',
        "space" => b' ',
        _ => match word.as_bytes() {
            &[byte] if is_permitted(byte) => byte,
            _ => return None,
        },
    })
}

/// Whether a byte may stand between cells.
#[must_use]
pub fn is_permitted(byte: u8) -> bool {
    byte.is_ascii() && !byte.is_ascii_alphanumeric() && !matches!(byte, b'"' | b'\n' | b'\r' | 0)
}

pub(super) fn known_encoding(encoding: &Spanned<String>, faults: &mut Vec<Fault>) {
    let found = encoding_rs::Encoding::for_label(encoding.get_ref().as_bytes());
    if found.is_none_or(|found| found == encoding_rs::REPLACEMENT) {
        let fault =
            Fault::new(encoding.span(), format!("`{}` is no encoding that is known", encoding.get_ref()));
        faults.push(
            fault.help("a name of the WHATWG Encoding Standard, such as utf-8, windows-1252 or utf-16le"),
        );
    }
}
