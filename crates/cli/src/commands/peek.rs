//! `peek`: what a file holds, before anything is asked of it.

use super::check::{facts, tool};
use super::look::{Look, Profiled};
use super::setup::read_schema;
use super::stated::local_date;
use crate::args::{FormatArg, PeekArgs};
use crate::ended::Ended;
use crate::render::{self, json, text};
use tidy_gate_core::gate::Settings;
use tidy_gate_core::mode::Mode;
use tidy_gate_core::peek::{LayoutReport, PeekReport, PeekRow, PeekRows, SheetReport};
use tidy_gate_core::profile::RowLook;
use tidy_gate_core::report::RecordFacts;
use tidy_gate_files::{Fact, How, Sheet, TableFile};

pub(crate) fn run(args: &PeekArgs) -> anyhow::Result<Ended> {
    let report = look(args)?;
    let text = match args.format {
        FormatArg::Json => json::pretty(&report)?,
        FormatArg::Text => text::peek::report(&report, &text::peek::named(args), crate::terminal::width()),
    };
    render::to_stdout(&text)?;
    Ok(Ended::Well)
}

fn look(args: &PeekArgs) -> anyhow::Result<PeekReport> {
    let schema = args.record.as_deref().map(read_schema).transpose()?.map(|read| read.0);
    let settings = Settings::plain(Mode::Add, local_date());
    let look = Look {
        file: &args.file,
        layout: &args.layout,
        schema: schema.as_ref(),
        settings: &settings,
        all: args.all,
        rows: usize::from(args.rows),
    };
    let seen = look.look()?.profiled();
    let columns = seen.columns(&seen.gate);
    let Profiled { file, gate, rows, is_whole, text_read, total_row, .. } = seen;
    let record = schema.as_ref().map(RecordFacts::of);
    let estimated = estimate(&file, is_whole, rows.rows, text_read);
    let first_rows = rows.first.iter().map(|(row, cells)| {
        let cell = |(column, cell): (usize, &String)| match gate.is_sensitive(column) && !cell.is_empty() {
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
        sheets: file.sheets().map(|sheet| sheet_report(sheet, &file, &rows, is_whole)).collect(),
        first_rows: first_rows.collect(),
        rows: PeekRows::new(&rows, is_whole, estimated),
        columns,
    })
}

/// A sheet; of the one that was read to its end, its rows and columns too.
fn sheet_report(sheet: &Sheet, file: &TableFile, rows: &RowLook, is_whole: bool) -> SheetReport {
    let is_read = is_whole && file.table().sheet() == Some(&sheet.name);
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
fn estimate(file: &TableFile, is_whole: bool, rows: u64, text_read: u64) -> Option<u64> {
    let size = file.size().filter(|_| !is_whole && text_read > 0)?;
    let estimate = rows as f64 * (size as f64 / text_read as f64);
    // Two digits of it can be trusted.
    let step = 10_f64.powf(estimate.log10().floor() - 1.0);
    Some(((estimate / step).round() * step) as u64)
}
