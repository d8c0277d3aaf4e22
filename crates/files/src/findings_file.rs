//! The list of all findings, as CSV or NDJSON, in order.
//!
//! While rows go by, their findings are written to a journal; what only the end of the file can tell (repeats,
//! columns without a heading) is merged in when the list itself is written.

use super::error::Error;
use super::output::Output;
use std::borrow::Cow;
use std::fs::File;
use std::io::{BufReader, BufWriter, Read, Seek, Write};
use std::path::PathBuf;
use tidy_gate_core::catalogue::Code;
use tidy_gate_core::finding::Finding;
use tidy_gate_core::letters::{harmless, in_json};
use tidy_gate_core::report::FindingReport;
use tidy_gate_core::run::FindingSink;

/// The findings of the rows, kept until the list can be written.
#[derive(Debug)]
pub struct FindingsFile {
    /// Where the list goes, for messages.
    path: PathBuf,
    form: Form,
    journal: BufWriter<File>,
    line: Vec<u8>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Form {
    Csv,
    Ndjson,
}

/// Row, column and code: what findings are ordered by.
type Order = (u64, usize, Code);

const COLUMNS: [&str; 17] = [
    "level",
    "code",
    "sheet",
    "row",
    "line",
    "column",
    "letter",
    "key",
    "heading",
    "field",
    "value",
    "expected",
    "suggestion",
    "message",
    "rule",
    "fields",
    "places",
];

impl FindingsFile {
    /// The endings of its forms.
    pub const ENDINGS: &'static str = ".csv or .ndjson";

    /// For an output of one of these forms.
    ///
    /// # Errors
    /// When there is no room for the journal.
    pub fn new(output: &Output) -> Result<Self, Error> {
        let path = output.path().to_owned();
        let is_csv = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("csv"));
        Self::of(path, if is_csv { Form::Csv } else { Form::Ndjson })
    }

    /// For a stream of NDJSON.
    ///
    /// # Errors
    /// When there is no room for the journal.
    pub fn stream() -> Result<Self, Error> {
        Self::of(PathBuf::from("standard output"), Form::Ndjson)
    }

    fn of(path: PathBuf, form: Form) -> Result<Self, Error> {
        let journal = tempfile::tempfile().map_err(Error::temporary)?;
        Ok(Self { path, form, journal: BufWriter::with_capacity(1 << 18, journal), line: Vec::new() })
    }

    /// Writes the list: the journal, merged with findings known besides (in order), and with those that
    /// `repeats` hands over one after the other, in order too.
    ///
    /// # Errors
    /// When something cannot be read or written.
    pub fn write(
        self,
        output: &mut dyn FnMut(&[u8]) -> Result<(), Error>,
        besides: &[Finding],
        repeats: impl FnOnce(&mut dyn FnMut(&Finding) -> Result<bool, Error>) -> Result<bool, Error>,
    ) -> Result<(), Error> {
        let Self { path, form, journal, .. } = self;
        let failed = |source: std::io::Error| Error::write(&path, source);
        let mut file = journal.into_inner().map_err(|error| failed(error.into_error()))?;
        file.rewind().map_err(failed)?;
        if form == Form::Csv {
            output(b"\xEF\xBB\xBF")?;
            output(&csv_record(COLUMNS.map(Cow::Borrowed)))?;
        }
        let mut merge =
            Merge { journal: Journal::new(BufReader::with_capacity(1 << 18, file)), besides, form };
        merge.journal.advance().map_err(failed)?;
        repeats(&mut |finding| {
            merge.up_to(Some(finding.order()), output)?;
            output(&rendered(finding, form))?;
            Ok(true)
        })?;
        merge.up_to(None, output)
    }
}

impl FindingSink<Error> for FindingsFile {
    fn take(&mut self, finding: &Finding) -> Result<(), Error> {
        let (row, column, code) = finding.order();
        let text = rendered(finding, self.form);
        self.line.clear();
        self.line.extend(row.to_le_bytes());
        self.line.extend((column as u64).to_le_bytes());
        self.line.push(code as u8);
        self.line.extend((text.len() as u64).to_le_bytes());
        self.line.extend(text);
        self.journal.write_all(&self.line).map_err(|source| Error::write(&self.path, source))
    }
}

struct Merge<'a> {
    journal: Journal,
    besides: &'a [Finding],
    form: Form,
}

impl Merge<'_> {
    /// Writes what comes before the given order; all that is left, without one.
    fn up_to(
        &mut self,
        end: Option<Order>,
        output: &mut dyn FnMut(&[u8]) -> Result<(), Error>,
    ) -> Result<(), Error> {
        let before = |order: Order, end: Option<Order>| end.is_none_or(|end| order < end);
        loop {
            let beside = self.besides.first().map(Finding::order).filter(|order| before(*order, end));
            let journal = self.journal.order.filter(|order| before(*order, end));
            match (beside, journal) {
                (None, None) => return Ok(()),
                (Some(beside), journal) if journal.is_none_or(|journal| beside <= journal) => {
                    let Some((first, rest)) = self.besides.split_first() else { return Ok(()) };
                    output(&rendered(first, self.form))?;
                    self.besides = rest;
                }
                _ => {
                    output(&self.journal.text)?;
                    self.journal.advance().map_err(Error::temporary)?;
                }
            }
        }
    }
}

/// The journal read back.
struct Journal {
    reader: BufReader<File>,
    /// The order of the finding at hand; nothing at the end.
    order: Option<Order>,
    text: Vec<u8>,
}

impl Journal {
    fn new(reader: BufReader<File>) -> Self {
        Self { reader, order: None, text: Vec::new() }
    }

    fn advance(&mut self) -> std::io::Result<()> {
        let mut head = [0; 25];
        self.order = None;
        match self.reader.read_exact(&mut head) {
            Err(error) if error.kind() == std::io::ErrorKind::UnexpectedEof => return Ok(()),
            read => read?,
        }
        let number = |at: usize| {
            head.get(at..at + 8).and_then(|bytes| bytes.try_into().ok()).map_or(0, u64::from_le_bytes)
        };
        let code = Code::ALL.get(usize::from(head[16])).copied();
        self.order = code.map(|code| (number(0), usize::try_from(number(8)).unwrap_or(0), code));
        self.text.resize(usize::try_from(number(17)).unwrap_or(0), 0);
        self.reader.read_exact(&mut self.text)
    }
}

fn rendered(finding: &Finding, form: Form) -> Vec<u8> {
    match form {
        Form::Ndjson => {
            let line = serde_json::to_string(&FindingReport::from(finding)).unwrap_or_default();
            format!("{}\n", in_json(&line)).into_bytes()
        }
        Form::Csv => csv_record(cells(finding)),
    }
}

fn cells(finding: &Finding) -> [Cow<'_, str>; 17] {
    fn number(number: Option<u64>) -> Cow<'static, str> {
        number.map(|number| number.to_string()).unwrap_or_default().into()
    }
    fn text(text: &Option<String>) -> Cow<'_, str> {
        harmless(text.as_deref().unwrap_or_default())
    }
    let places: Vec<_> = finding.places.iter().map(u64::to_string).collect();
    let more = if finding.places_left_out > 0 {
        format!(" and {} more", finding.places_left_out)
    } else {
        String::new()
    };
    [
        finding.level.name().into(),
        finding.code.name().into(),
        text(&finding.sheet),
        number(finding.row),
        number(finding.line),
        number(finding.column.map(|column| column as u64)),
        text(&finding.letter),
        text(&finding.key),
        text(&finding.heading),
        text(&finding.field),
        text(&finding.value),
        text(&finding.expected),
        text(&finding.suggestion),
        harmless(&finding.sentence()).into_owned().into(),
        text(&finding.rule),
        harmless(&finding.fields.join("; ")).into_owned().into(),
        format!("{}{more}", places.join("; ")).into(),
    ]
}

/// A record of a spreadsheet's CSV: commas, CRLF.
fn csv_record<'a>(cells: impl IntoIterator<Item = Cow<'a, str>>) -> Vec<u8> {
    let mut writer = csv::WriterBuilder::new()
        .terminator(csv::Terminator::CRLF)
        .buffer_capacity(256)
        .from_writer(Vec::new());
    let cells: Vec<_> = cells.into_iter().collect();
    // Writing to memory cannot fail.
    let _ = writer.write_record(cells.iter().map(|cell| cell.as_bytes()));
    writer.into_inner().unwrap_or_default()
}
