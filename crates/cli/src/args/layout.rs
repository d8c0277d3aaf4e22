//! How the file is laid out, as far as it is stated.

use crate::shell::quoted;
use clap::{Args, ValueEnum};
use encoding_rs::Encoding;
use std::str::FromStr;
use tidy_gate_core::plan::{PlanFile, delimiter_of};
use tidy_gate_files::{Limits, ReadOptions, delimiter_name};

/// How the file is laid out.
#[derive(Debug, Clone, Default, Args)]
#[command(next_help_heading = "How the file is laid out (what is not stated is read off the file, and said)")]
pub(crate) struct LayoutArgs {
    /// The sheet of a workbook, by its name or its number
    #[arg(long, value_name = "SHEET")]
    pub(crate) sheet: Option<String>,

    /// The array of records in a JSON file, as a JSON Pointer such as /data/trees
    #[arg(long, value_name = "POINTER")]
    pub(crate) at: Option<String>,

    /// The row that holds the headings, as a spreadsheet counts
    #[arg(long, value_name = "ROW", value_parser = clap::value_parser!(u64).range(1..), conflicts_with = "by_position")]
    pub(crate) heading_row: Option<u64>,

    /// The first row of the data; rows between it and the headings are passed over
    #[arg(long, value_name = "ROW", value_parser = clap::value_parser!(u64).range(1..))]
    pub(crate) first_row: Option<u64>,

    /// The last row of the data; what follows is passed over
    #[arg(long, value_name = "ROW", value_parser = clap::value_parser!(u64).range(1..))]
    pub(crate) last_row: Option<u64>,

    /// What stands between cells: comma, semicolon, tab, pipe, space or any other character
    #[arg(long, value_name = "CHARACTER", value_parser = delimiter, allow_hyphen_values = true)]
    pub(crate) delimiter: Option<u8>,

    /// The encoding, such as windows-1252, utf-16le or shift_jis
    #[arg(long, value_name = "NAME", value_parser = encoding)]
    pub(crate) encoding: Option<&'static Encoding>,

    /// The file has no headings: its columns are the record's fields, in their order
    #[arg(long)]
    pub(crate) by_position: bool,

    /// What a row is whose last cells are missing: held, or filled up with blank cells, as some programs drop those
    /// [default: hold]
    #[arg(long, value_enum)]
    pub(crate) short_rows: Option<ShortRowsArg>,

    /// The longest row, and so the largest cell [default: 32MiB, at most 1GiB]
    #[arg(long, value_name = "SIZE", value_parser = row_size)]
    pub(crate) max_row: Option<usize>,

    /// The most columns [default: 16384, at most 65534]
    #[arg(long, value_name = "N", value_parser = columns)]
    pub(crate) max_columns: Option<usize>,

    /// How many times its size a packed file may unpack to, beyond 256 MiB [default: 200]; the text of a sheet a tenth of
    /// that, beyond 4 GiB
    #[arg(long, value_name = "TIMES", value_parser = clap::value_parser!(u64).range(1..))]
    pub(crate) max_expansion: Option<u64>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, ValueEnum)]
pub(crate) enum ShortRowsArg {
    /// The row is held: its cells may stand under the wrong headings
    #[default]
    Hold,
    /// The missing cells are blank
    Blank,
}

impl LayoutArgs {
    /// What is stated for the reader: here, or else in the plan.
    pub(crate) fn options(&self, plan: &PlanFile) -> ReadOptions {
        let usual = Limits::default();
        let by_position =
            self.by_position || self.heading_row.is_none() && plan.by_position.unwrap_or_default();
        let planned_row = plan.heading_row.filter(|_| !by_position);
        let planned_encoding = || Encoding::for_label(plan.encoding.as_ref()?.as_bytes());
        ReadOptions {
            delimiter: self.delimiter.or_else(|| delimiter_of(plan.delimiter.as_ref()?)),
            encoding: self.encoding.or_else(planned_encoding),
            turned_to: None,
            is_made: false,
            has_marks: false,
            at: self.at.clone().or_else(|| plan.at.clone()),
            typed: self.named(),
            heading_row: self.heading_row.or(planned_row),
            heading_row_is_planned: self.heading_row.is_none(),
            // Rows of a plan are counted from its headings.
            first_row: self.first_row.or(plan.first_row.filter(|_| self.heading_row.is_none())),
            last_row: self.last_row.or(plan.last_row),
            example_row: plan.example_row.filter(|_| self.heading_row.is_none()),
            by_position,
            short_rows_are_blank: match self.short_rows {
                Some(rows) => rows == ShortRowsArg::Blank,
                None => plan.short_rows_are_blank.unwrap_or_default(),
            },
            limits: Limits {
                row: self.max_row.unwrap_or(usual.row),
                columns: self.max_columns.unwrap_or(usual.columns),
                expansion: self.max_expansion.unwrap_or(usual.expansion),
            },
        }
    }

    /// The sheet that is stated: here, or else in the plan.
    pub(crate) fn sheet<'a>(&'a self, plan: &'a PlanFile) -> Option<&'a str> {
        self.sheet.as_deref().or(plan.sheet.as_deref())
    }
}

impl LayoutArgs {
    /// The names of the options that were typed and do not apply to files of all forms.
    fn named(&self) -> Vec<&'static str> {
        let typed = [
            (self.heading_row.is_some(), "heading-row"),
            (self.first_row.is_some(), "first-row"),
            (self.last_row.is_some(), "last-row"),
            (self.delimiter.is_some(), "delimiter"),
            (self.encoding.is_some(), "encoding"),
            (self.by_position, "by-position"),
            (self.short_rows.is_some(), "short-rows"),
            (self.at.is_some(), "at"),
        ];
        typed.into_iter().filter(|typed| typed.0).map(|typed| typed.1).collect()
    }

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
            option("at", self.at.as_deref().map(quoted)),
            option("heading-row", self.heading_row),
            option("first-row", self.first_row),
            option("last-row", self.last_row),
            option("delimiter", delimiter),
            option("encoding", self.encoding.map(Encoding::name)),
            self.by_position.then(|| "--by-position".to_owned()),
            match self.short_rows {
                Some(ShortRowsArg::Blank) => Some("--short-rows blank".to_owned()),
                Some(ShortRowsArg::Hold) => Some("--short-rows hold".to_owned()),
                None => None,
            },
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
    delimiter_of(word).ok_or_else(|| {
        "a word (comma, semicolon, tab, pipe, space) or one ASCII character that is no letter, digit or double quote"
            .to_owned()
    })
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

pub(super) fn memory(text: &str) -> Result<u64, String> {
    match bytesize::ByteSize::from_str(text).map(|size| size.as_u64()) {
        Ok(bytes) if bytes >= 1 << 20 => Ok(bytes),
        Ok(_) => Err("1MiB at least".to_owned()),
        Err(_) => Err("a size such as 64MiB".to_owned()),
    }
}

pub(super) fn columns(text: &str) -> Result<usize, String> {
    match text.parse() {
        Ok(columns @ 1..=Limits::MOST_COLUMNS) => Ok(columns),
        _ => Err(format!("a number between 1 and {}", Limits::MOST_COLUMNS)),
    }
}
