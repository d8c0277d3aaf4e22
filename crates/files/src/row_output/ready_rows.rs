//! Ready rows as they are made, in the shape their output takes.

use super::rows::{CellRows, Rows};
use tidy_gate_core::plan::{LineEnd, Writing};

/// In what shape an output takes its rows.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum RowShape {
    Nothing,
    Text,
    Cells,
}

impl RowShape {
    /// As an output takes them.
    pub(crate) fn by(shape: Option<Rows>) -> Self {
        match shape {
            None => Self::Nothing,
            Some(Rows::Text(_)) => Self::Text,
            Some(Rows::Cells(_)) => Self::Cells,
        }
    }

    /// None yet.
    pub(crate) fn rows(self) -> Rows {
        if self == Self::Cells { Rows::Cells(CellRows::default()) } else { Rows::Text(Vec::new()) }
    }
}

/// Ready rows on their way.
pub(crate) enum ReadyRows {
    Nothing,
    Text(Box<csv::Writer<Vec<u8>>>),
    Cells(CellRows),
}

impl ReadyRows {
    /// None yet.
    pub(crate) fn of(wanted: RowShape, write: &Writing) -> Self {
        match wanted {
            RowShape::Nothing => Self::Nothing,
            RowShape::Cells => Self::Cells(CellRows::default()),
            RowShape::Text => {
                let mut writer = csv::WriterBuilder::new();
                writer.delimiter(write.delimiter).buffer_capacity(1 << 13).terminator(match write.line_end {
                    LineEnd::Lf => csv::Terminator::Any(b'\n'),
                    LineEnd::CrLf => csv::Terminator::CRLF,
                    LineEnd::Cr => csv::Terminator::Any(b'\r'),
                });
                if write.quotes_all {
                    writer.quote_style(csv::QuoteStyle::Always);
                }
                Self::Text(Box::new(writer.from_writer(Vec::new())))
            }
        }
    }

    /// Adds a row.
    pub(crate) fn row<T: AsRef<[u8]>>(&mut self, values: impl Iterator<Item = T>) {
        match self {
            Self::Nothing => {}
            Self::Text(writer) => {
                // Writing to memory cannot fail.
                for value in values {
                    let _ = writer.write_field(value);
                }
                let _ = writer.write_record(None::<&[u8]>);
            }
            Self::Cells(cells) => {
                values.for_each(|value| cells.bytes(value.as_ref()));
                cells.end_row(0);
            }
        }
    }

    /// All of them.
    pub(crate) fn done(self) -> Rows {
        match self {
            Self::Nothing => Rows::Text(Vec::new()),
            Self::Text(writer) => Rows::Text(writer.into_inner().unwrap_or_default()),
            Self::Cells(cells) => Rows::Cells(cells),
        }
    }
}
