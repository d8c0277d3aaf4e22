//! Where the table lies in a text: its dialect, its headings, its first row.

use super::delimiter::{self, delimiter_name};
use super::encoding::How as Encoded;
use super::opening::{Sample, SampleRow, bom_len, sample};
use super::options::ReadOptions;
use super::stream::TextStream;
use crate::book::OpenSheet;
use crate::error::{Error, Shape};
use crate::layout::{self, Fact, FirstRow, LOOKED_AT, StatedRows};
use std::path::Path;
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::headings::HeadingWords;
use tidy_gate_core::scan::{Dialect, decode, walk_row};
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_core::table::Table;

/// So many bytes are looked at, unless they hold too few rows.
const SAMPLE: usize = 256 << 10;
/// So many of the first rows show how columns are written.
const SHOWN: usize = 120;
/// So many bytes are looked at for a stated row.
const FARTHEST: usize = 64 << 20;

/// A table and where it begins.
pub(super) struct Opened {
    pub(super) table: Table,
    /// The heading row as it came, with its line break.
    pub(super) heading_bytes: Vec<u8>,
    /// The row that is read first, where it begins, and on which physical line.
    pub(super) row: u64,
    pub(super) start: usize,
    pub(super) line: u64,
    pub(super) facts: Vec<Fact>,
    /// Whether there is nothing to be read behind.
    pub(super) is_empty: bool,
}

/// Finds the table of a text.
pub(super) fn open(
    stream: &mut TextStream,
    path: &Path,
    options: &ReadOptions,
    schema: Option<&RecordSchema>,
    sheet: Option<&OpenSheet>,
) -> Result<Opened, Error> {
    let words = schema.map(|schema| HeadingWords::of(&schema.fields));
    let stated = StatedRows {
        heading_row: options.heading_row,
        first_row: options.first_row,
        by_position: options.by_position,
        is_planned: options.heading_row_is_planned,
        example_row: options.example_row,
        is_template: sheet
            .and_then(|sheet| sheet.template.as_ref())
            .zip(schema)
            .is_some_and(|(template, schema)| template.record == schema.record),
    };
    let farthest = options.heading_row.max(options.first_row).max(options.example_row).unwrap_or(0);
    let mut wanted = SAMPLE;
    let (bytes, found, dialect, mut facts, above) = loop {
        let mut bytes = stream.peek(wanted)?.to_vec();
        let is_whole = bytes.len() < wanted;
        if is_whole && !bytes.is_empty() && !bytes.ends_with(b"\n") {
            bytes.push(b'\n');
        }
        let from = if stream.facts().chosen.encoding == encoding_rs::UTF_8 { bom_len(&bytes) } else { 0 };
        let mut facts = match sheet {
            Some(sheet) => vec![sheet.fact.clone()],
            None => stream_facts(stream),
        };
        let in_text = delimiter::stated_in_text(&bytes, from).filter(|_| sheet.is_none());
        let (dialect, fact) = match (options.delimiter, in_text) {
            _ if sheet.is_some() || options.is_marked => {
                (Dialect { marks: true, ..Dialect::default() }, None)
            }
            (Some(delimiter), _) => (
                Dialect { delimiter, ..Dialect::default() },
                Some(Fact::stated("delimiter", delimiter_name(delimiter))),
            ),
            (None, Some(delimiter)) => {
                let why = "the first line says so (sep=)".to_owned();
                let fact = Fact::guessed("delimiter", delimiter_name(delimiter), why);
                (Dialect { delimiter, ..Dialect::default() }, Some(fact))
            }
            (None, None) => {
                let (dialect, fact) = delimiter::choose(&bytes, from, words.as_ref());
                (dialect, Some(fact))
            }
        };
        facts.extend(fact);
        let most = usize::try_from(farthest).unwrap_or(usize::MAX).max(4 * LOOKED_AT);
        let found = sample(&bytes, from, dialect, most);
        let last = found.rows.last().map_or(0, |row| row.row.number);
        let is_enough = found.rows.iter().any(|row| row.row.filled() > 0) && last >= farthest;
        if is_whole || is_enough {
            break (bytes, found, dialect, facts, usize::from(in_text.is_some()));
        }
        if let Some((open, _)) =
            found.open.as_ref().filter(|(open, _)| bytes.len() - open.start >= options.limits.row)
        {
            return Err(Error::RowTooLong {
                path: path.to_owned(),
                line: open.line,
                limit: options.limits.row,
            });
        }
        if wanted >= FARTHEST.max(options.limits.row) {
            return Err(Error::RowTooFar {
                path: path.to_owned(),
                row: farthest.max(last + 1),
                limit: wanted,
            });
        }
        wanted *= 2;
    };
    if let Some(open) = headings_that_never_close(&found, above, options) {
        return Ok(open_headings(open, &bytes, dialect, facts));
    }
    let rows: Vec<FirstRow> = found.rows.iter().map(|row| row.row.clone()).collect();
    let laid_out = layout::lay_out(path, &rows, above, stated, schema)?;
    facts.extend(laid_out.facts);
    if let Some(last) = options.last_row {
        if last < laid_out.first_row {
            return Err(Error::LastRowAbove { path: path.to_owned(), last, first: laid_out.first_row });
        }
        facts.push(Fact::stated("last row", format!("row {last}")));
    }
    let heading = laid_out.heading.and_then(|at| found.rows.get(at));
    let widest = found.rows.iter().map(|row| row.row.cells.len()).max().unwrap_or(0);
    let headings = match heading {
        Some(row) if sheet.is_some() => {
            // A row of a sheet ends with its last cell; columns without a heading may follow.
            let mut headings = row.row.cells.clone();
            headings.resize(widest.max(headings.len()), String::new());
            headings
        }
        Some(row) => row.row.cells.clone(),
        None if options.by_position && sheet.is_some() => vec![String::new(); widest],
        None if options.by_position => vec![String::new(); usual_width(&found, laid_out.first_row)],
        None => Vec::new(),
    };
    if headings.len() > options.limits.columns {
        let (columns, limit) = (headings.len(), options.limits.columns);
        return Err(Error::TooManyColumns { path: path.to_owned(), columns, limit });
    }
    if headings.iter().any(|heading| heading.contains('\0')) {
        let row = heading.map_or(1, |row| row.row.number);
        return Err(Error::NotTable { path: path.to_owned(), shape: Shape::Nul(row) });
    }
    let is_data = |row: &&FirstRow| {
        row.number >= laid_out.first_row && row.filled() > 0 && Some(row.number) != laid_out.example_row
    };
    let data = rows.iter().filter(is_data);
    let (start, line) = beginning_of(&found, laid_out.first_row, bytes.len());
    let unclear = sheet.and_then(|sheet| sheet.unclear.clone());
    let template = sheet.and_then(|sheet| sheet.template.as_ref());
    facts.extend(template.map(|template| {
        let named = format!("{} {}", template.record, template.version);
        Fact::plain("template", named.trim().to_owned(), "the workbook says so".to_owned())
    }));
    let outdated = template.zip(schema).and_then(|(template, schema)| layout::outdated(template, schema));
    let mut notices: Vec<_> =
        layout::findings(&facts).chain(laid_out.notices).chain(unclear).chain(outdated).collect();
    if let Some(notice) = doubt(stream).filter(|_| sheet.is_none()) {
        notices.push(notice);
    }
    for notice in &mut notices {
        let row = found.rows.iter().find(|row| Some(row.row.number) == notice.row);
        notice.line = row.map(|row| row.line);
    }
    Ok(Opened {
        is_empty: headings.is_empty() || sheet.is_some_and(|sheet| sheet.unclear.is_some()),
        row: laid_out.first_row,
        table: Table {
            headings,
            heading_row: heading.map(|row| row.row.number),
            heading_line: heading.map_or(1, |row| row.line),
            first_row: laid_out.first_row,
            dialect,
            notices,
            left_out: laid_out.left_out,
            example_row: laid_out.example_row,
            seeks_total: options.last_row.is_none(),
            short_rows_are_blank: options.short_rows_are_blank || sheet.is_some(),
            sheet: sheet.map(|sheet| sheet.name.clone()),
            sample: data.map(|row| row.cells.clone()).take(SHOWN).collect(),
            is_records: false,
            headings_may_be_data: laid_out.is_like_data,
            padded: heading.map(|row| padded(&bytes, row, dialect)).unwrap_or_default(),
            decided: sheet.map(|sheet| sheet.decided.clone()).unwrap_or_default(),
            record_lines: None,
        },
        heading_bytes: heading.and_then(|row| bytes.get(row.start..row.end)).unwrap_or_default().to_vec(),
        start,
        line,
        facts,
    })
}

/// Which headings have spaces around them.
fn padded(bytes: &[u8], row: &SampleRow, dialect: Dialect) -> Vec<bool> {
    let mut ends = Vec::new();
    walk_row(bytes, row.start, dialect, |at| ends.push(at), |_| ());
    let mut from = row.start;
    let is_padded = |end: &usize| {
        let raw = bytes.get(from..*end).unwrap_or_default();
        from = end + 1;
        let text = decode(raw.strip_suffix(b"\r").unwrap_or(raw), dialect);
        let text = String::from_utf8_lossy(&text);
        text.trim().len() < text.len()
    };
    ends.iter().map(is_padded).collect()
}

/// What is said of an encoding for which little speaks.
fn doubt(stream: &TextStream) -> Option<Finding> {
    let chosen = &stream.facts().chosen;
    let message = format!(
        "read in {} although little speaks for it: {}; look at letters with accents, and state it with --encoding",
        chosen.encoding.name(),
        chosen.evidence
    );
    chosen.is_doubtful.then(|| Finding::new(Code::EncodingDoubt, Level::Warn, message))
}

/// What is known of the bytes themselves.
fn stream_facts(stream: &TextStream) -> Vec<Fact> {
    let found = stream.facts();
    let mut facts = Vec::new();
    if let Some(packing) = found.packing {
        facts.push(Fact::plain("packing", packing.name().to_owned(), "its first bytes say so".to_owned()));
    }
    let (name, evidence) = (found.chosen.encoding.name().to_owned(), found.chosen.evidence.clone());
    facts.push(match found.chosen.how {
        Encoded::Stated => Fact::stated("encoding", name),
        Encoded::Guessed => Fact::guessed("encoding", name, evidence),
        Encoded::Certain if found.chosen.encoding != encoding_rs::UTF_8 => {
            Fact::guessed("encoding", name, evidence)
        }
        Encoded::Certain | Encoded::Assumed => Fact::plain("encoding", name, evidence),
    });
    if stream.returns_alone() {
        let evidence = "no line feed stands among the first rows".to_owned();
        facts.push(Fact::guessed("line ends", "carriage returns alone".to_owned(), evidence));
    }
    facts
}

/// The first row with a value, where it never ends since a quoted cell in it never closes.
fn headings_that_never_close<'a>(
    found: &'a Sample,
    above: usize,
    options: &ReadOptions,
) -> Option<&'a SampleRow> {
    let (open, quote) = found.open.as_ref()?;
    let is_first = found.rows.iter().skip(above).all(|row| row.row.filled() == 0);
    (quote.is_some() && is_first && !options.by_position).then_some(open)
}

/// What there is of such headings, and no rows: they come as the open row of the first block.
fn open_headings(open: &SampleRow, bytes: &[u8], dialect: Dialect, facts: Vec<Fact>) -> Opened {
    let number = open.row.number;
    Opened {
        table: Table {
            headings: open.row.cells.clone(),
            heading_row: Some(number),
            heading_line: open.line,
            first_row: number + 1,
            dialect,
            notices: layout::findings(&facts).collect(),
            ..Table::default()
        },
        heading_bytes: bytes.get(open.start..).unwrap_or_default().to_vec(),
        row: number,
        start: open.start,
        line: open.line,
        facts,
        is_empty: false,
    }
}

/// Where a row begins, and on which line; the end where it is not among the first rows.
fn beginning_of(found: &Sample, first_row: u64, end: usize) -> (usize, u64) {
    let row = found.rows.iter().chain(found.open.as_ref().map(|open| &open.0));
    let mut at = row.skip_while(|row| row.row.number < first_row);
    match at.next() {
        Some(row) => (row.start, row.line),
        // Behind the last row; a line feed that was added at the end is none of the text.
        None => (end, found.rows.last().map_or(1, |row| row.line + 1)),
    }
}

/// How many cells most rows have; the larger of equals.
fn usual_width(found: &Sample, first_row: u64) -> usize {
    let rows = found.rows.iter().filter(|row| row.row.number >= first_row && row.row.filled() > 0);
    let mut widths: Vec<usize> = rows.map(|row| row.row.cells.len()).collect();
    widths.sort_unstable();
    widths
        .chunk_by(|one, other| one == other)
        .map(|run| (run.len(), run.first().copied()))
        .max()
        .map_or(0, |most| most.1.unwrap_or(0))
}
