//! Ready and held rows: a second walk over the file, when the verdict on every row is known.

use super::error::Error;
use crate::row_output::{Begin, CellKind, CopiedRows, ReadyRows, RowOutput, RowShape, Rows, record};
use crate::second_walk::second_walk;
use crate::table_file::TableFile;
use tidy_gate_core::block::Block;
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::finding::{Finding, letter};
use tidy_gate_core::gate::{Gate, ReadyField, RowsOf};
use tidy_gate_core::headings::{OWN_HEADINGS, Paired};
use tidy_gate_core::misfire;
use tidy_gate_core::plan::LineEnd;
use tidy_gate_core::run::{Outcome, Watch};
use tidy_gate_core::scan::{SheetMark, walk_row};
use tidy_gate_core::schema::Kind;

/// Where the rows go.
#[derive(Debug, Default)]
pub struct RowWriters {
    /// The rows that may load, in the target's form.
    pub ready: Option<RowOutput>,
    /// The other rows as they came, with their reasons.
    pub held: Option<RowOutput>,
}

/// How many rows were written.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Written {
    /// Ready rows.
    pub ready: u64,
    /// Held rows.
    pub held: u64,
    /// Held rows with bytes that are no text, which became U+FFFD.
    pub replaced: u64,
}

struct Walk<'a> {
    gate: &'a Gate,
    outcome: &'a Outcome,
    fields: Vec<ReadyField>,
    /// The reasons that hold every row.
    file_reasons: Vec<String>,
    delimiter: u8,
    line_break: &'static [u8],
    /// Whether cells may begin with a mark.
    marks: bool,
    ready: RowShape,
    /// Whether ready rows are copied, but for cells that change.
    copies: bool,
    held: RowShape,
    /// Whether held rows keep the marks of their cells, for an output that stores them as they were.
    keeps_marks: bool,
    /// The columns whose cells are read with a comma before the decimals, as the plan states or their texts decided.
    commas: Vec<bool>,
}

/// The rows of one block, written.
struct Part {
    ready: Rows,
    held: Rows,
    written: Written,
}

/// Writes the ready and the held rows of a file that has been judged.
///
/// # Errors
/// When the file cannot be read again, or the rows cannot be written.
pub fn write_rows(
    file: &TableFile,
    gate: &Gate,
    outcome: &Outcome,
    threads: usize,
    watch: &dyn Watch,
    writers: &mut RowWriters,
) -> Result<Written, Error> {
    let (heading_row, line_break) = file.heading_row();
    let (fields, ready) =
        (gate.written_fields(), RowShape::by(writers.ready.as_ref().map(RowOutput::no_rows)));
    let walk = Walk {
        gate,
        outcome,
        copies: ready == RowShape::Text && copies(gate, &fields),
        fields,
        file_reasons: file_reasons(gate, outcome),
        delimiter: gate.table().dialect.delimiter,
        line_break,
        marks: gate.table().dialect.marks,
        ready,
        held: RowShape::by(writers.held.as_ref().map(RowOutput::no_rows)),
        keeps_marks: gate.table().dialect.marks && writers.held.as_ref().is_some_and(RowOutput::keeps_marks),
        commas: commas(gate, outcome),
    };
    walk.write_headings(file, heading_row, writers)?;
    let mut total = Written::default();
    second_walk(
        file,
        (gate, outcome),
        (threads, watch),
        |rows, block, number| walk.part(rows, block, number),
        |part| {
            total.ready += part.written.ready;
            total.held += part.written.held;
            total.replaced += part.written.replaced;
            write_to(writers.ready.as_mut(), &part.ready)?;
            write_to(writers.held.as_mut(), &part.held)
        },
    )?;
    if let (Some(open), Some(held)) =
        (outcome.open.filter(|open| open.row >= gate.table().first_row), &mut writers.held)
    {
        let mut rest = Vec::new();
        file.rest_from(open.offset, &mut |bytes| {
            rest.extend(bytes);
            Ok(())
        })?;
        let mut rows = held.no_rows();
        total.replaced += u64::from(walk.push_held(&mut rows, walk.own_cells(open.row, &[]), &rest, b""));
        held.write(&rows)?;
        total.held += 1;
    }
    Ok(total)
}

/// Whether ready rows are text like that of the file, so that what does not change can be copied.
fn copies(gate: &Gate, fields: &[ReadyField]) -> bool {
    let (write, dialect) = (&gate.settings().plan.write, gate.table().dialect);
    gate.copies_rows(fields)
        && (dialect.delimiter, dialect.quote, dialect.marks) == (write.delimiter, b'"', false)
        && write.line_end == LineEnd::Lf
        && !write.quotes_all
}

fn write_to(output: Option<&mut RowOutput>, rows: &Rows) -> Result<(), Error> {
    output.map_or(Ok(()), |output| output.write(rows))
}

impl Walk<'_> {
    fn write_headings(
        &self,
        file: &TableFile,
        heading_row: &[u8],
        writers: &mut RowWriters,
    ) -> Result<(), Error> {
        if let Some(ready) = &mut writers.ready {
            ready.begin(Begin {
                sheet: "Ready",
                marks: false,
                widths: &[],
                keys: self.fields.iter().map(|field| self.key(field)).collect(),
                properties: Vec::new(),
                originals: None,
            })?;
            let headings = self.fields.iter().map(|ready| ready.heading.as_str());
            let mut row = ready.no_rows();
            match &mut row {
                Rows::Text(text) => {
                    let mut row = ReadyRows::of(RowShape::Text, &self.gate.settings().plan.write);
                    row.row(headings.map(str::as_bytes));
                    if let Rows::Text(heading) = row.done() {
                        text.extend(heading);
                    }
                }
                Rows::Cells(cells) => {
                    headings.for_each(|heading| cells.text(heading));
                    cells.end_row(0);
                }
            }
            ready.write(&row)?;
        }
        let Some(held) = &mut writers.held else { return Ok(()) };
        let names = self.held_names();
        held.begin(Begin {
            sheet: "Held",
            marks: self.keeps_marks,
            widths: &[14.0, 60.0],
            keys: OWN_HEADINGS
                .into_iter()
                .map(str::to_owned)
                .chain(names)
                .map(|name| (name, CellKind::Text))
                .collect(),
            properties: self.gate.decided(&self.outcome.votes).properties(),
            originals: if held.takes_records() { file.originals()? } else { None },
        })?;
        if file.has_bom() && held.takes_mark() {
            held.write(&Rows::Text(b"\xEF\xBB\xBF".to_vec()))?;
        }
        let mut row = held.no_rows();
        let names;
        let headings = match self.gate.table().heading_row {
            Some(_) => heading_row,
            None => {
                names = record(self.names(), self.delimiter, b"");
                &names
            }
        };
        self.push_held(&mut row, OWN_HEADINGS.map(str::to_owned), headings, self.line_break);
        held.write(&row)
    }

    /// The heading of a column of ready rows, and what it holds.
    fn key(&self, ready: &ReadyField) -> (String, CellKind) {
        let field = self.gate.schema().fields.get(ready.field);
        let has_point = self.gate.settings().plan.write.decimal_mark == '.';
        let kind = field.map_or(CellKind::Text, |field| match (&field.kind, &field.stated.many) {
            (_, Some(many)) => CellKind::Several(many.separator.clone()),
            (Kind::Integer(_), _) => CellKind::Number,
            (Kind::Decimal { .. }, _) if has_point => CellKind::Number,
            (Kind::Boolean, _) => CellKind::Boolean,
            (Kind::Date { dates, .. }, _) if dates.is_empty() => CellKind::Date,
            _ => CellKind::Text,
        });
        (ready.heading.clone(), kind)
    }

    /// What the columns of held rows are called: by their headings, or where they have none by their fields or letters.
    fn held_names(&self) -> Vec<String> {
        let mut names: Vec<String> = Vec::new();
        for (column, (heading, field)) in self.gate.table().headings.iter().zip(self.names()).enumerate() {
            let name = [heading, &field].into_iter().find(|name| !name.is_empty()).cloned();
            let name = name.filter(|name| !names.contains(name));
            names.push(name.unwrap_or_else(|| format!("column {}", letter(column))));
        }
        names
    }

    /// The names of the columns' fields, for a file that has no headings.
    fn names(&self) -> Vec<String> {
        let fields = &self.gate.schema().fields;
        let name = |paired: &Paired| match paired {
            Paired::Field { field, .. } => fields.get(*field).map(|field| field.name.clone()),
            _ => None,
        };
        self.gate.pairing().columns.iter().map(|paired| name(paired).unwrap_or_default()).collect()
    }

    fn part(&self, rows: &mut RowsOf<'_>, block: &Block, number: usize) -> Part {
        misfire::point("rows");
        let outcome = self.outcome;
        let mut part = Part { ready: self.ready.rows(), held: self.held.rows(), written: Written::default() };
        let wants_held = self.held != RowShape::Nothing;
        let any_held = outcome.all_held || outcome.held.any_in(number);
        let is_held =
            |row: u64| outcome.all_held || any_held && outcome.held.is_held(number, row - block.first_row);
        rows.read(block);
        let stops = match wants_held && any_held {
            true => rows.told_of(block, is_held, (&outcome.repeats, &[Level::Stop])),
            false => Vec::new(),
        };
        let mut stops = stops.iter().peekable();
        let write = &self.gate.settings().plan.write;
        let mut ready = ReadyRows::of(self.ready, write);
        let mut copied = self.copies.then(|| CopiedRows::of(block.content(), write.delimiter));
        if self.copies {
            rows.begin_copy(block, &self.fields);
        }
        let mut forms = std::mem::take(&mut rows.forms);
        let wrong_total = outcome.wrong_total.as_ref();
        for row in rows.rows(block).filter(|row| !outcome.is_ending(row.row)) {
            if is_held(row.row) {
                part.written.held += 1;
                if wants_held {
                    let own = std::iter::from_fn(|| stops.next_if(|stop| stop.row == Some(row.row)));
                    let mut reasons: Vec<&Finding> = own.collect();
                    // What is called a total was not judged as a record.
                    if let Some(wrong) = wrong_total.filter(|wrong| wrong.row == Some(row.row)) {
                        reasons = vec![wrong];
                    }
                    let own = self.own_cells(row.row, &reasons);
                    let replaced = self.push_held(&mut part.held, own, row.raw, self.line_break);
                    part.written.replaced += u64::from(replaced);
                }
            } else {
                part.written.ready += 1;
                match &mut copied {
                    Some(copied) => copied.row(&row, &mut forms, &self.fields),
                    None => ready.row(self.fields.iter().map(|field| row.value(field))),
                }
            }
        }
        rows.forms = forms;
        part.ready = copied.map_or_else(|| ready.done(), |copied| Rows::Text(copied.done()));
        part
    }

    /// Adds a held row: the two cells of its own, and the row as it came. Tells whether bytes that are no text were
    /// replaced.
    fn push_held(&self, into: &mut Rows, own: [String; 2], raw: &[u8], line_break: &[u8]) -> bool {
        match into {
            Rows::Text(text) => {
                text.extend(record(own, self.delimiter, b""));
                text.push(self.delimiter);
                let replaced = self.push_text(text, raw);
                text.extend(line_break);
                replaced
            }
            Rows::Cells(cells) => {
                own.iter().for_each(|own| cells.text(own));
                self.each_cell(raw, |column, raw| match self.shown_percent(column, raw) {
                    Some(shown) if !self.keeps_marks => cells.text(&shown),
                    _ => cells.raw(raw, self.gate.table().dialect),
                });
                cells.end_row(if self.marks { own.len() + self.gate.width() } else { 0 });
                !self.marks && std::str::from_utf8(raw).is_err()
            }
        }
    }

    /// Adds a row as it came, as text. One of a sheet loses its marks, and gets the empty cells behind its last one back.
    /// Tells whether bytes that are no text were replaced.
    fn push_text(&self, into: &mut Vec<u8>, raw: &[u8]) -> bool {
        if !self.marks {
            return push_utf8(into, raw);
        }
        let mut count = 0;
        self.each_cell(raw, |column, cell| {
            if column > 0 {
                into.push(self.delimiter);
            }
            let shown = self.shown_percent(column, cell);
            match shown.as_deref().map_or(cell, str::as_bytes) {
                // What a sheet stores as a number is read in a text as the texts of its column are.
                number
                    if self.commas.get(column) == Some(&true)
                        && (shown.is_some() || is_stored_number(cell)) =>
                {
                    let number = String::from_utf8_lossy(number).replace('.', ",");
                    into.extend(record([number], self.delimiter, b""));
                }
                text => into.extend(text.iter().filter(|byte| SheetMark::of(**byte).is_none())),
            }
            count += 1;
        });
        into.extend(std::iter::repeat_n(self.delimiter, self.gate.width().saturating_sub(count)));
        false
    }

    /// A stored number as the percentage that a person sees.
    fn shown_percent(&self, column: usize, raw: &[u8]) -> Option<String> {
        let text = raw.get(1..).and_then(|text| std::str::from_utf8(text).ok()).unwrap_or_default();
        self.gate.as_percent(column, text, raw)
    }

    /// The raw cells of a row; of a record that cannot be read the first one is all there is.
    fn each_cell(&self, raw: &[u8], mut take: impl FnMut(usize, &[u8])) {
        let mut ends = Vec::new();
        walk_row(raw, 0, self.gate.table().dialect, |end| ends.push(end), |_| ());
        let is_unreadable = self.gate.table().is_records() && ends.len() >= self.gate.width();
        let mut raw = raw;
        if let Some(end) = ends.first().copied().filter(|_| is_unreadable) {
            raw = raw.get(..end).unwrap_or_default();
            ends.clear();
        }
        let mut start = 0;
        for (column, end) in ends.into_iter().chain([raw.len()]).enumerate() {
            take(column, raw.get(start..end).unwrap_or_default());
            start = end + 1;
        }
    }

    /// The two cells before a held row: its number and why it is held.
    fn own_cells(&self, row: u64, stops: &[&Finding]) -> [String; 2] {
        let reasons: Vec<_> =
            self.file_reasons.iter().cloned().chain(stops.iter().map(|stop| reason(stop))).collect();
        let with_record =
            reasons.is_empty().then(|| "held with its record: another row of it has a stop".to_owned());
        let reasons: Vec<_> = reasons.into_iter().chain(with_record).collect();
        [row.to_string(), reasons.join("; ")]
    }
}

/// The columns that are read with a comma before the decimals.
fn commas(gate: &Gate, outcome: &Outcome) -> Vec<bool> {
    let decided = gate.decided(&outcome.votes);
    let has_comma = |number: usize| {
        let Some(field) = gate.schema().fields.get(number) else { return false };
        let is_number =
            matches!(field.kind, Kind::Decimal { .. } | Kind::Integer { .. } | Kind::Duration { .. });
        let stated = gate.settings().plan.reading(number).marks.map(|marks| marks.decimal);
        let of_field = decided.fields.iter().find(|decided| decided.field == field.name);
        is_number && stated.or(of_field.and_then(|decided| decided.decimal_mark)) == Some(',')
    };
    let of_column = |paired: &Paired| matches!(paired, Paired::Field { field, .. } if has_comma(*field));
    gate.pairing().columns.iter().map(of_column).collect()
}

/// Whether the cell of a sheet is a number that it stores: a text that looks like one begins with a mark.
fn is_stored_number(cell: &[u8]) -> bool {
    cell.first().is_some_and(|byte| byte.is_ascii_digit() || b"-+".contains(byte))
        && cell.iter().all(|byte| byte.is_ascii_digit() || b"-+.eE".contains(byte))
}

/// Adds bytes as text: what is no UTF-8 becomes U+FFFD. Tells whether there was any.
fn push_utf8(into: &mut Vec<u8>, raw: &[u8]) -> bool {
    let mut replaced = false;
    for chunk in raw.utf8_chunks() {
        into.extend(chunk.valid().as_bytes());
        if !chunk.invalid().is_empty() {
            into.extend("\u{FFFD}".as_bytes());
            replaced = true;
        }
    }
    replaced
}

/// `code: heading: message`, with what would fit and the other rows of a repeat.
fn reason(finding: &Finding) -> String {
    let said = said(finding);
    match finding.heading.as_deref().filter(|heading| !heading.is_empty()) {
        Some(heading) => format!("{}: {heading}: {said}", finding.code),
        None => format!("{}: {said}", finding.code),
    }
}

/// What a finding says, with what would fit and the other rows of a repeat. What a rule says is for people, its condition
/// is not.
pub(crate) fn said(finding: &Finding) -> String {
    let message = match finding.code {
        Code::RuleBroken | Code::RowOutOfScope => finding.message.as_str().into(),
        _ => finding.sentence(),
    };
    let mut said = message.trim_end_matches('.').to_owned();
    if let Some(near) = &finding.suggestion {
        said.push_str(&format!(" (nearest: {near})"));
    }
    let others: Vec<String> =
        finding.places.iter().filter(|row| Some(**row) != finding.row).map(u64::to_string).collect();
    if !others.is_empty() {
        let more = match finding.places_left_out {
            0 => String::new(),
            more => format!(" and {more} more"),
        };
        said.push_str(&format!(
            " (also in {} {}{more})",
            if others.len() == 1 { "row" } else { "rows" },
            others.join(", ")
        ));
    }
    said
}

fn file_reasons(gate: &Gate, outcome: &Outcome) -> Vec<String> {
    let stops = gate.opening().iter().chain(&outcome.late).filter(|finding| finding.level == Level::Stop);
    stops.filter(|finding| finding.code != Code::TotalWrong).map(reason).collect()
}
