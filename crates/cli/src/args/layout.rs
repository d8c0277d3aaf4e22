//! How the words of layout options are read.

use super::{LayoutArgs, ShortRowsArg};
use crate::render::text::quoted;
use encoding_rs::Encoding;
use std::str::FromStr;
use tidy_gate_files::{Limits, ReadOptions, delimiter_name, is_permitted};

impl LayoutArgs {
    /// What is stated for the reader.
    pub(crate) fn options(&self) -> ReadOptions {
        let usual = Limits::default();
        ReadOptions {
            delimiter: self.delimiter,
            encoding: self.encoding,
            turned_to: None,
            is_made: false,
            heading_row: self.heading_row,
            first_row: self.first_row,
            last_row: self.last_row,
            by_position: self.by_position,
            short_rows_are_blank: self.short_rows == ShortRowsArg::Blank,
            limits: Limits {
                row: self.max_row.unwrap_or(usual.row),
                columns: self.max_columns.unwrap_or(usual.columns),
                expansion: self.max_expansion.unwrap_or(usual.expansion),
            },
        }
    }
}

impl LayoutArgs {
    /// The options as they can be typed again.
    pub(crate) fn typed(&self) -> Vec<String> {
        fn option<T: std::fmt::Display>(name: &str, value: Option<T>) -> Option<String> {
            value.map(|value| format!("--{name} {value}"))
        }
        let delimiter = self.delimiter.map(|delimiter| match delimiter {
            b',' | b';' | b'\t' | b'|' | b' ' => delimiter_name(delimiter),
            other => format!("'{}'", char::from(other).to_string().replace('\'', r"'\''")),
        });
        [
            option("sheet", self.sheet.as_deref().map(quoted)),
            option("heading-row", self.heading_row),
            option("first-row", self.first_row),
            option("last-row", self.last_row),
            option("delimiter", delimiter),
            option("encoding", self.encoding.map(Encoding::name)),
            self.by_position.then(|| "--by-position".to_owned()),
            (self.short_rows == ShortRowsArg::Blank).then(|| "--short-rows blank".to_owned()),
            option("max-row", self.max_row),
            option("max-columns", self.max_columns),
            option("max-expansion", self.max_expansion),
        ]
        .into_iter()
        .flatten()
        .collect()
    }
}

pub(super) fn delimiter(word: &str) -> Result<u8, String> {
    let byte = match word {
        "comma" => b',',
        "semicolon" => b';',
        "tab" | "\\t" => b'\t',
        "pipe" => b'|',
        "space" => b' ',
        _ => {
            match word.as_bytes() {
                &[byte] if is_permitted(byte) => byte,
                _ => {
                    return Err("a word (comma, semicolon, tab, pipe, space) or one ASCII character that is no letter, \
                            digit or double quote"
                    .to_owned());
                }
            }
        }
    };
    Ok(byte)
}

pub(super) fn encoding(name: &str) -> Result<&'static Encoding, String> {
    let found = Encoding::for_label(name.as_bytes()).filter(|found| *found != encoding_rs::REPLACEMENT);
    // "utf-16" alone is little-endian by its label; the mark of a file says which it is.
    found.ok_or_else(|| {
        "not an encoding of the WHATWG Encoding Standard; such as utf-8, windows-1252, iso-8859-15, utf-16le or \
         shift_jis"
            .to_owned()
    })
}

pub(super) fn row_size(text: &str) -> Result<usize, String> {
    let size = bytesize::ByteSize::from_str(text).map_err(|_| "a size such as 64MiB".to_owned())?;
    match usize::try_from(size.as_u64()) {
        Ok(bytes @ 1024..=Limits::MOST_ROW) => Ok(bytes),
        _ => Err("between 1KiB and 1GiB".to_owned()),
    }
}

pub(super) fn columns(text: &str) -> Result<usize, String> {
    match text.parse() {
        Ok(columns @ 1..=Limits::MOST_COLUMNS) => Ok(columns),
        _ => Err(format!("a number between 1 and {}", Limits::MOST_COLUMNS)),
    }
}
