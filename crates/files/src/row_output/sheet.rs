//! Rows as the sheet of a workbook. What is text stays text, so that no spreadsheet program changes it when it opens
//! the file; numbers, days and yes and no are stored as such.

use super::begin::{Begin, CellKind};
use super::rows::{Cell, Rows};
use super::sink::RowSink;
use crate::error::Error;
use crate::output::one::Output;
use crate::workbook::{self, failed};
use rust_xlsxwriter::{ExcelDateTime, Format, FormatAlign, Workbook, Worksheet, XlsxError};
use std::path::Path;
use tidy_gate_core::scan::SheetMark;
use tidy_gate_core::value::{Date, TimeOfDay};

/// The longest text of a cell, in UTF-16 units, and the most rows and columns of a sheet.
pub(crate) const LONGEST: usize = 32_767;
pub(crate) const MOST_ROWS: u32 = 1_048_576;
const MOST_COLUMNS: usize = 16_384;
/// Rows of many columns: beyond this, packing takes longer than all else and saves little.
const COMPRESSION: u8 = 3;
/// A stored number keeps so many digits.
const MOST_DIGITS: usize = 15;

pub(super) struct SheetForm {
    book: Workbook,
    kinds: Vec<CellKind>,
    /// Whether cells say by their marks how they were stored.
    is_marked: bool,
    row: u32,
    formats: Formats,
}

struct Formats {
    text: Format,
    heading: Format,
    number: Format,
    percent: Format,
    day: Format,
    moment: Format,
    time: Format,
}

impl SheetForm {
    pub(super) fn new() -> Self {
        let format = |code: &str| Format::new().set_num_format(code);
        Self {
            book: Workbook::new(),
            kinds: Vec::new(),
            is_marked: false,
            row: 0,
            formats: Formats {
                text: format("@"),
                heading: format("@").set_bold().set_align(FormatAlign::Top).set_text_wrap(),
                number: format("General"),
                percent: format("0.############%"),
                day: format("yyyy-mm-dd"),
                moment: format("yyyy-mm-dd hh:mm:ss"),
                time: format("hh:mm:ss"),
            },
        }
    }

    fn start(&mut self, begin: &Begin<'_>) -> Result<(), XlsxError> {
        self.is_marked = begin.marks;
        self.kinds = begin.keys.iter().map(|key| key.1.clone()).collect();
        let mut properties = workbook::properties()?;
        for (name, value) in &begin.properties {
            properties = properties.set_custom_property(name, value.as_str());
        }
        self.book.set_properties(&properties);
        self.book.set_zip_compression_level(COMPRESSION);
        let sheet = self.book.add_worksheet_with_constant_memory()?;
        sheet.set_name(begin.sheet)?;
        for (column, width) in (0_u16..).zip(begin.widths) {
            sheet.set_column_width(column, *width)?;
        }
        sheet.set_freeze_panes(1, 0)?;
        // Whatever is typed beside stays text too.
        sheet.set_column_range_format(0, 16_383, &self.formats.text)?;
        Ok(())
    }

    fn row(&mut self, cells: &[Cell<'_>], path: &Path) -> Result<(), Error> {
        let too_much = |what: &str| Error::TooMuchForSheet {
            path: path.to_owned(),
            what: what.to_owned(),
            instead: "write .csv instead",
        };
        if self.row >= MOST_ROWS {
            return Err(too_much("more than 1,048,576 rows"));
        }
        if cells.len() > MOST_COLUMNS {
            return Err(too_much("more than 16,384 columns"));
        }
        let sheet = self.book.worksheet_from_index(0).map_err(|error| failed(path, &error))?;
        for (column, (text, mark)) in (0_u16..).zip(cells) {
            if text.is_empty() {
                continue;
            }
            if text.len() > LONGEST && text.encode_utf16().count() > LONGEST {
                return Err(too_much("a cell with more than 32,767 characters"));
            }
            let at = (self.row, column);
            let stored = if self.row == 0 {
                None
            } else if self.is_marked {
                as_marked(text, *mark)
            } else {
                self.kinds.get(usize::from(column)).and_then(|kind| as_kind(text, kind))
            };
            let written = match stored {
                Some(stored) => stored.write(sheet, at, &self.formats),
                None if self.row == 0 => {
                    sheet.write_string_with_format(at.0, at.1, *text, &self.formats.heading).map(drop)
                }
                // Its column makes it a text; to look up a format takes longer than to write the cell.
                None => sheet.write_string(at.0, at.1, *text).map(drop),
            };
            written.map_err(|error| failed(path, &error))?;
        }
        self.row += 1;
        Ok(())
    }
}

impl RowSink for SheetForm {
    fn begin(&mut self, begin: Begin<'_>, output: &mut Output) -> Result<(), Error> {
        self.start(&begin).map_err(|error| failed(output.path(), &error))
    }

    fn rows(&mut self, rows: &Rows, output: &mut Output) -> Result<(), Error> {
        let Rows::Cells(rows) = rows else { return Ok(()) };
        rows.rows().try_for_each(|row| self.row(&row, output.path()))
    }

    fn finish(&mut self, output: &mut Output) -> Result<(), Error> {
        let saved = self.book.save_to_writer(output.writer());
        saved.map_err(|error| failed(output.path(), &error))
    }

    fn keeps_marks(&self) -> bool {
        true
    }
}

/// A cell that is not text.
pub(crate) enum Stored {
    /// A number.
    Number(f64),
    /// A number that is shown as a percentage.
    Percent(f64),
    /// Yes or no.
    Boolean(bool),
    /// A day.
    Day(ExcelDateTime),
    /// A day with a time.
    Moment(ExcelDateTime),
    /// A time of day.
    Time(ExcelDateTime),
}

impl Stored {
    fn write(&self, sheet: &mut Worksheet, at: (u32, u16), formats: &Formats) -> Result<(), XlsxError> {
        let (row, column) = at;
        match self {
            Self::Number(number) => {
                sheet.write_number_with_format(row, column, *number, &formats.number).map(drop)
            }
            Self::Percent(number) => {
                sheet.write_number_with_format(row, column, *number, &formats.percent).map(drop)
            }
            Self::Boolean(truth) => {
                sheet.write_boolean_with_format(row, column, *truth, &formats.number).map(drop)
            }
            Self::Day(day) => sheet.write_datetime_with_format(row, column, day, &formats.day).map(drop),
            Self::Moment(moment) => {
                sheet.write_datetime_with_format(row, column, moment, &formats.moment).map(drop)
            }
            Self::Time(time) => sheet.write_datetime_with_format(row, column, time, &formats.time).map(drop),
        }
    }
}

/// A cell of a sheet as it was stored there; nothing where it was text.
pub(crate) fn as_marked(text: &str, mark: Option<SheetMark>) -> Option<Stored> {
    match mark {
        Some(SheetMark::Text | SheetMark::Stale) => return None,
        Some(SheetMark::Percent) => return number(text).map(Stored::Percent),
        _ => {}
    }
    match text {
        "TRUE" => return Some(Stored::Boolean(true)),
        "FALSE" => return Some(Stored::Boolean(false)),
        _ => {}
    }
    number(text).map(Stored::Number).or_else(|| moment(text))
}

/// A value in the target's form as its kind is stored.
fn as_kind(text: &str, kind: &CellKind) -> Option<Stored> {
    match kind {
        CellKind::Number => number(text).map(Stored::Number),
        CellKind::Boolean if text == "true" => Some(Stored::Boolean(true)),
        CellKind::Boolean if text == "false" => Some(Stored::Boolean(false)),
        CellKind::Date => moment(text),
        CellKind::Boolean | CellKind::Text | CellKind::Several(_) => None,
    }
}

/// A number that a sheet stores without loss.
fn number(text: &str) -> Option<f64> {
    let digits = text.bytes().filter(u8::is_ascii_digit).count();
    let is_plain = text.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.' || byte == b'-');
    // Digits with leading noughts are shown so by a format, or are a code.
    let whole = text.trim_start_matches('-');
    let has_zeros = whole.len() > 1 && whole.starts_with('0') && !whole.starts_with("0.");
    (is_plain && !has_zeros && (1..=MOST_DIGITS).contains(&digits)).then(|| text.parse().ok())?
}

/// A day, a moment without a distance from UTC, or a time of day.
fn moment(text: &str) -> Option<Stored> {
    let clock = |time: TimeOfDay| {
        let seconds = time.0 / 1_000_000_000;
        let part = |number: u64| u16::try_from(number).ok();
        let (hour, minute) = (part(seconds / 3600)?, part(seconds / 60 % 60)?);
        #[expect(clippy::cast_precision_loss, reason = "less than a minute")]
        let second = (time.0 % 60_000_000_000) as f64 / 1e9;
        Some((hour, u8::try_from(minute).ok()?, second))
    };
    if let Some(time) = TimeOfDay::iso(text) {
        let (hour, minute, second) = clock(time)?;
        return ExcelDateTime::from_hms(hour, minute, second).ok().map(Stored::Time);
    }
    let (day, time) = text.split_once('T').map_or((text, None), |(day, time)| (day, Some(time)));
    let date = Date::iso(day).filter(|date| date.year() >= 1900)?;
    let day = ExcelDateTime::from_ymd(date.year(), date.month(), date.day()).ok()?;
    match time {
        None => Some(Stored::Day(day)),
        Some(time) => {
            let (hour, minute, second) = clock(TimeOfDay::iso(time)?)?;
            day.and_hms(hour, minute, second).ok().map(Stored::Moment)
        }
    }
}
