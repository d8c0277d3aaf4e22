//! Where the table lies in a text: its dialect, its headings, its first row.

use super::delimiter::{self, delimiter_name};
use super::encoding::How as Encoded;
use super::opening::{Sample, SampleRow, bom_len, sample};
use super::options::ReadOptions;
use super::stream::TextStream;
use crate::book::{Marked, OpenSheet};
use crate::error::{Error, Shape};
use crate::layout::{self, Fact, FirstRow, LOOKED_AT, Rows, StatedRows};
use std::path::Path;
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::headings::HeadingWords;
use tidy_gate_core::scan::{Dialect, decode, walk_row};
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_core::table::{Medium, Table};

/// So many bytes are looked at, unless they hold too few rows.
const SAMPLE: usize = 256 << 10;
/// So many of the first rows show how columns are written.
const SHOWN: usize = 120;
/// So many bytes are looked at for a stated row.
const FARTHEST: usize = 64 << 20;

/// A table and where it begins.
pub(crate) struct Opened {
    pub(crate) table: Table,
    /// The heading row as it came, with its line break.
    pub(crate) heading_bytes: Vec<u8>,
    /// The row that is read first, where it begins, and on which physical line.
    pub(crate) row: u64,
    pub(crate) start: usize,
    pub(crate) line: u64,
    pub(crate) facts: Vec<Fact>,
    /// Whether there is nothing to be read behind.
    pub(crate) is_empty: bool,
}

/// Finds the table of a text.
pub(crate) fn open(
    stream: &mut TextStream,
    path: &Path,
    options: &ReadOptions,
    schema: Option<&RecordSchema>,
    sheet: Option<&OpenSheet>,
) -> Result<Opened, Error> {
    let wanted = RowShape { path, options, schema, sheet };
    let mut looked = wanted.look(stream)?;
    if let Some(open) = headings_that_never_close(&looked.found, looked.above, options) {
        return Ok(open_headings(open, &looked.bytes, looked.dialect, looked.facts));
    }
    let rows: Vec<FirstRow> = looked.found.rows.iter().map(|row| row.row.clone()).collect();
    let mut laid_out = layout::lay_out(path, &rows, looked.above, wanted.stated(), schema)?;
    looked.facts.append(&mut laid_out.facts);
    if let Some(last) = options.last_row {
        if last < laid_out.first_row {
            return Err(Error::LastRowAbove { path: path.to_owned(), last, first: laid_out.first_row });
        }
        looked.facts.push(Fact::stated("last row", format!("row {last}")));
    }
    let headings = wanted.headings(&looked.found, &laid_out)?;
    let notices = wanted.notices(stream, &mut looked, &mut laid_out);
    Ok(wanted.opened(looked, laid_out, headings, notices))
}

/// What is asked of a text.
#[derive(Clone, Copy)]
struct RowShape<'a> {
    path: &'a Path,
    options: &'a ReadOptions,
    schema: Option<&'a RecordSchema>,
    /// The sheet that the text was made of.
    sheet: Option<&'a OpenSheet>,
}

/// The first rows of a text.
struct Looked {
    bytes: Vec<u8>,
    found: Sample,
    dialect: Dialect,
    facts: Vec<Fact>,
    /// So many rows above all others are none of the table.
    above: usize,
}

impl RowShape<'_> {
    fn stated(&self) -> StatedRows {
        let template = self.sheet.and_then(|sheet| sheet.template.as_ref());
        StatedRows {
            heading_row: self.options.heading_row,
            first_row: self.options.first_row,
            by_position: self.options.by_position,
            is_planned: self.options.heading_row_is_planned,
            example_row: self.options.example_row,
            is_template: template
                .zip(self.schema)
                .is_some_and(|(template, schema)| template.record == schema.record),
        }
    }

    /// Looks at as much of the text as it takes to see its first rows, and those that are stated.
    fn look(&self, stream: &mut TextStream) -> Result<Looked, Error> {
        let options = self.options;
        let words = self.schema.map(|schema| HeadingWords::of(&schema.fields));
        let farthest = options.heading_row.max(options.first_row).max(options.example_row).unwrap_or(0);
        let mut wanted = SAMPLE;
        loop {
            let mut bytes = stream.peek(wanted)?.to_vec();
            let is_whole = bytes.len() < wanted;
            if is_whole && !bytes.is_empty() && !bytes.ends_with(b"\n") {
                bytes.push(b'\n');
            }
            let is_utf_8 = stream.facts().chosen.encoding == encoding_rs::UTF_8;
            let from = if is_utf_8 { bom_len(&bytes) } else { 0 };
            let mut facts = match self.sheet {
                Some(sheet) => vec![sheet.fact.clone()],
                None => stream_facts(stream),
            };
            let in_text = delimiter::stated_in_text(&bytes, from).filter(|_| self.sheet.is_none());
            let (dialect, fact) = self.dialect(&bytes, from, in_text, words.as_ref());
            facts.extend(fact);
            let most = usize::try_from(farthest).unwrap_or(usize::MAX).max(4 * LOOKED_AT);
            let found = sample(&bytes, from, dialect, most);
            let last = found.rows.last().map_or(0, |row| row.row.number);
            let is_enough = found.rows.iter().any(|row| row.row.filled() > 0) && last >= farthest;
            if is_whole || is_enough {
                return Ok(Looked { bytes, found, dialect, facts, above: usize::from(in_text.is_some()) });
            }
            let is_long = |open: &SampleRow| bytes.len() - open.start >= options.limits.row;
            if let Some((open, _)) = found.open.as_ref().filter(|(open, _)| is_long(open)) {
                let (line, limit) = (open.line, options.limits.row);
                return Err(Error::RowTooLong { path: self.path.to_owned(), line, limit });
            }
            if wanted >= FARTHEST.max(options.limits.row) {
                let row = farthest.max(last + 1);
                return Err(Error::RowTooFar { path: self.path.to_owned(), row, limit: wanted });
            }
            wanted *= 2;
        }
    }

    /// How the cells are marked: as it is stated, here or in the text's first line; else as its first rows show.
    fn dialect(
        &self,
        bytes: &[u8],
        from: usize,
        in_text: Option<u8>,
        words: Option<&HeadingWords>,
    ) -> (Dialect, Option<Fact>) {
        let of = |delimiter| Dialect { delimiter, ..Dialect::default() };
        if self.options.is_made {
            return (Dialect { marks: self.options.has_marks, ..Dialect::default() }, None);
        }
        if let Some(delimiter) = self.options.delimiter {
            return (of(delimiter), Some(Fact::stated("delimiter", delimiter_name(delimiter))));
        }
        if let Some(delimiter) = in_text {
            let why = "the first line says so (sep=)".to_owned();
            return (of(delimiter), Some(Fact::guessed("delimiter", delimiter_name(delimiter), why)));
        }
        let (dialect, fact) = delimiter::choose(bytes, from, words);
        (dialect, Some(fact))
    }

    /// The headings; blank ones where columns pair by their position.
    fn headings(&self, found: &Sample, laid_out: &Rows) -> Result<Vec<String>, Error> {
        let heading = laid_out.heading.and_then(|at| found.rows.get(at));
        let widest = found.rows.iter().map(|row| row.row.cells.len()).max().unwrap_or(0);
        let was_text = self.sheet.and_then(|sheet| sheet.marked.as_ref()).filter(|marked| marked.was_text());
        let headings = match heading {
            Some(row) if let Some(marked) = was_text => {
                // What stands beyond the headings of a text is too much in its row.
                let blank = |cell: &&String| cell.is_empty();
                let filled = row.row.cells.len() - row.row.cells.iter().rev().take_while(blank).count();
                let mut headings = row.row.cells.clone();
                headings.resize(filled.max(marked.width), String::new());
                headings
            }
            None if self.options.by_position
                && let Some(marked) = was_text =>
            {
                vec![String::new(); marked.width.max(usual_width(found, laid_out.first_row))]
            }
            Some(row) if self.sheet.is_some() => {
                // A row of a sheet ends with its last cell; columns without a heading may follow.
                let mut headings = row.row.cells.clone();
                headings.resize(widest.max(headings.len()), String::new());
                headings
            }
            Some(row) => row.row.cells.clone(),
            None if self.options.by_position && self.sheet.is_some() => vec![String::new(); widest],
            None if self.options.by_position => vec![String::new(); usual_width(found, laid_out.first_row)],
            None => Vec::new(),
        };
        let limit = self.options.limits.columns;
        if headings.len() > limit {
            let (path, columns) = (self.path.to_owned(), headings.len());
            return Err(Error::TooManyColumns { path, columns, limit });
        }
        if headings.iter().any(|heading| heading.contains('\0')) {
            let row = heading.map_or(1, |row| row.row.number);
            return Err(Error::NotTable { path: self.path.to_owned(), shape: Shape::Nul(row) });
        }
        Ok(headings)
    }

    /// What is to be said of how the table was read.
    fn notices(&self, stream: &TextStream, looked: &mut Looked, laid_out: &mut Rows) -> Vec<Finding> {
        let unclear = self.sheet.and_then(|sheet| sheet.unclear.clone());
        let template = self.sheet.and_then(|sheet| sheet.template.as_ref());
        looked.facts.extend(template.map(|template| {
            let named = format!("{} {}", template.record, template.version);
            Fact::plain("template", named.trim().to_owned(), "the workbook says so".to_owned())
        }));
        let outdated =
            template.zip(self.schema).and_then(|(template, schema)| layout::outdated(template, schema));
        let told = layout::findings(&looked.facts).chain(laid_out.notices.drain(..));
        let mut notices: Vec<_> = told.chain(unclear).chain(outdated).collect();
        notices.extend(doubt(stream).filter(|_| self.sheet.is_none()));
        for notice in &mut notices {
            let row = looked.found.rows.iter().find(|row| Some(row.row.number) == notice.row);
            notice.line = row.map(|row| row.line);
        }
        notices
    }

    fn opened(self, looked: Looked, laid_out: Rows, headings: Vec<String>, notices: Vec<Finding>) -> Opened {
        let (options, sheet) = (self.options, self.sheet);
        let Looked { bytes, found, dialect, facts, .. } = looked;
        let heading = laid_out.heading.and_then(|at| found.rows.get(at));
        let is_data = |row: &&FirstRow| {
            row.number >= laid_out.first_row && row.filled() > 0 && Some(row.number) != laid_out.example_row
        };
        let data = found.rows.iter().map(|row| &row.row).filter(is_data);
        let (start, line) = beginning_of(&found, laid_out.first_row, bytes.len());
        Opened {
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
                medium: sheet.map_or(Medium::Text, |sheet| Medium::Sheet(sheet.name.clone())),
                sample: data.map(|row| row.cells.clone()).take(SHOWN).collect(),
                headings_may_be_data: laid_out.is_like_data,
                padded: heading.map(|row| padded(&bytes, row, dialect)).unwrap_or_default(),
                texts_are_own: sheet.is_some_and(|sheet| sheet.marked.as_ref().is_some_and(Marked::was_text)),
                decided: sheet.map(|sheet| sheet.decided.clone()).unwrap_or_default(),
                record_lines: None,
            },
            heading_bytes: heading.and_then(|row| bytes.get(row.start..row.end)).unwrap_or_default().to_vec(),
            start,
            line,
            facts,
        }
    }
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
