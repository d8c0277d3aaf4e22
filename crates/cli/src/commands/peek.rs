//! `peek`: what a file holds, before anything is asked of it.

use super::check::{facts, tool};
use super::setup::{local_date, read_schema};
use crate::Ended;
use crate::args::{FormatArg, PeekArgs};
use crate::interrupt::INTERRUPTED;
use crate::progress::Progress;
use crate::render::{self, json, text};
use encoding_rs::Encoding;
use tidy_gate_core::block::Block;
use tidy_gate_core::gate::{Gate, Mode, Settings};
use tidy_gate_core::headings::Paired;
use tidy_gate_core::plan::PlanFile;
use tidy_gate_core::profile::{
    LayoutReport, PeekColumn, PeekReport, PeekRow, PeekRows, Profiler, RowLook, SheetReport,
};
use tidy_gate_core::report::{RecordFacts, columns};
use tidy_gate_core::run::{BlockSource, Watch};
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_files::{Error, Fact, How, Input, ReadOptions, Sheet, TextFile};

/// So many bytes of text are looked at, unless all are asked for.
const SAMPLE: u64 = 4 << 20;

pub(crate) fn run(args: &PeekArgs) -> anyhow::Result<Ended> {
    let report = look(args)?;
    let text = match args.format {
        FormatArg::Json => json::peek(&report)?,
        FormatArg::Text => text::peek::report(&report, &text::peek::named(args), crate::terminal::width()),
    };
    render::to_stdout(&text)?;
    Ok(Ended::Well)
}

fn look(args: &PeekArgs) -> anyhow::Result<PeekReport> {
    let schema = args.record.as_deref().map(read_schema).transpose()?.map(|read| read.0);
    let mut options = args.layout.options(&PlanFile::default());
    let read = loop {
        match read(args, &options, schema.as_ref()) {
            // The file began with ASCII alone; now that more is known of it, it is read anew.
            Err(Error::OtherEncoding { encoding, .. }) if options.turned_to.is_none() => {
                options.turned_to = Encoding::for_label(encoding.as_bytes());
            }
            read => break read?,
        }
    };
    let Read { file, gate, profiler, is_whole, text_read, total_row } = read;
    let record = schema.as_ref().map(RecordFacts::of);
    let (profiles, rows) = profiler.finish();
    let is_sensitive = |column: usize| match gate.pairing().columns.get(column) {
        Some(Paired::Field { field, .. }) => {
            gate.schema().fields.get(*field).is_some_and(|field| field.sensitive)
        }
        _ => false,
    };
    let filled: Vec<u64> = profiles.iter().map(|profile| profile.filled).collect();
    let estimated = estimate(&file, is_whole, rows.rows, text_read);
    let first_rows = rows.first.iter().map(|(row, cells)| {
        let cell = |(column, cell): (usize, &String)| match is_sensitive(column) && !cell.is_empty() {
            true => tidy_gate_core::finding::MASK.to_owned(),
            false => cell.clone(),
        };
        PeekRow { row: *row, cells: cells.iter().enumerate().map(cell).collect() }
    });
    Ok(PeekReport {
        format: 1,
        tool: tool(),
        file: facts(&args.file, &file),
        record,
        layout: file.facts().iter().map(layout).chain(total_row.map(left_out)).collect(),
        sheets: file.sheets().iter().map(|sheet| sheet_report(sheet, &file, &rows, is_whole)).collect(),
        first_rows: first_rows.collect(),
        rows: PeekRows::new(&rows, is_whole, estimated),
        columns: columns(&gate, &filled)
            .into_iter()
            .zip(profiles)
            .enumerate()
            .map(|(number, (column, profile))| PeekColumn::new(column, profile, is_sensitive(number)))
            .collect(),
    })
}

/// A file and what was seen of it.
struct Read {
    file: TextFile,
    gate: Gate,
    profiler: Profiler,
    is_whole: bool,
    /// How many bytes of text were looked at.
    text_read: u64,
    /// The last row, if it looks like a total.
    total_row: Option<u64>,
}

fn read(args: &PeekArgs, options: &ReadOptions, schema: Option<&RecordSchema>) -> Result<Read, Error> {
    let input = Input::open(&args.file)?;
    let sheet = args.layout.sheet.as_deref();
    let file = TextFile::open_sheet(input, sheet, options, schema, false, &INTERRUPTED)?;
    let table = file.table();
    let profiler = Profiler::new(table.headings.len(), table.dialect, usize::from(args.rows), local_date());
    let profiler = profiler.filling_short_rows(table.short_rows_are_blank);
    let progress = Progress::new(file.size());
    let settings = Settings::plain(Mode::Add, local_date());
    let gate = Gate::new(schema.cloned().unwrap_or_else(RecordSchema::empty), settings, table.clone());
    let mut read = Read { profiler, is_whole: true, text_read: 0, total_row: None, file, gate };
    let (mut block, mut is_ascii) = (Block::default(), true);
    while read.file.next(&mut block)? {
        if is_ascii && !block.content().is_ascii() {
            is_ascii = false;
            if std::str::from_utf8(block.content()).is_err()
                && let Some(error) = read.file.other_encoding(&block.extent())
            {
                return Err(error);
            }
        }
        if read.gate.may_be_total(&block) {
            read.total_row = Some(block.first_row);
        } else {
            read.profiler.look_at(&block);
        }
        read.text_read = block.offset + block.len as u64;
        progress.judged(read.profiler.rows(), read.text_read);
        if !args.all && read.text_read >= SAMPLE && !block.last {
            read.is_whole = false;
            break;
        }
    }
    Ok(read)
}

/// A sheet; of the one that was read to its end, its rows and columns too.
fn sheet_report(sheet: &Sheet, file: &TextFile, rows: &RowLook, is_whole: bool) -> SheetReport {
    let is_read = is_whole && file.table().sheet.as_ref() == Some(&sheet.name);
    SheetReport {
        name: sheet.name.clone(),
        hidden: sheet.hidden,
        rows: is_read.then_some(rows.rows),
        columns: is_read.then_some(file.table().headings.len() as u64),
    }
}

fn layout(fact: &Fact) -> LayoutReport {
    LayoutReport {
        what: fact.what.to_owned(),
        choice: fact.choice.clone(),
        evidence: fact.evidence.clone(),
        guessed: fact.how == How::Guessed,
    }
}

/// The last row, which looks like a total.
fn left_out(row: u64) -> LayoutReport {
    LayoutReport {
        what: "left out".to_owned(),
        choice: format!("row {row}, a total"),
        evidence: "its key is blank or a word for a total; a check adds up the columns".to_owned(),
        guessed: true,
    }
}

/// About how many rows there are: as many in each byte as in those that were looked at.
#[expect(
    clippy::cast_precision_loss,
    clippy::cast_possible_truncation,
    clippy::cast_sign_loss,
    reason = "an estimate of what is positive"
)]
fn estimate(file: &TextFile, is_whole: bool, rows: u64, text_read: u64) -> Option<u64> {
    let size = file.size().filter(|_| !is_whole && text_read > 0)?;
    let estimate = rows as f64 * (size as f64 / text_read as f64);
    // Two digits of it can be trusted.
    let step = 10_f64.powf(estimate.log10().floor() - 1.0);
    Some(((estimate / step).round() * step) as u64)
}
