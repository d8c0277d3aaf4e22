//! `match`: which column is which field, and the plan that keeps it.

mod ask;
mod draft;
mod options;
mod values;

use super::check::{facts, tool};
use super::look::{Look, Profiled};
use super::references;
use super::setup::{read_schema, relative, text_of};
use super::stated::Stated;
use crate::args::{FormatArg, MatchArgs, ShortRowsArg};
use crate::ended::Ended;
use crate::failure::Failure;
use crate::render::{self, json, text};
use draft::Draft;
use std::path::Path;
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::gate::{Contents, Gate, Settings};
use tidy_gate_core::headings::ColumnName;
use tidy_gate_core::headings::Paired;
use tidy_gate_core::matching::{MatchColumn, MatchReport, OpenField, columns, looked_up, open_fields};
use tidy_gate_core::mode::Mode;
use tidy_gate_core::plan::{EMPTY, Plan, PlanEdit, PlanText};
use tidy_gate_core::report::RecordFacts;
use tidy_gate_files::{Error, Outputs, TableFile};

pub(crate) fn run(args: &MatchArgs) -> anyhow::Result<Ended> {
    let report = match_columns(args)?;
    let text = match args.format {
        FormatArg::Json => json::pretty(&report)?,
        FormatArg::Text => text::matching::report(&report, args, crate::terminal::width()),
    };
    render::to_stdout_beside(&text, args.save.as_slice())?;
    Ok(if report.complete { Ended::Well } else { Ended::Shut })
}

fn match_columns(args: &MatchArgs) -> anyhow::Result<MatchReport> {
    let stated = Stated::read(&[], None)?;
    let base = args.plan.as_deref().or(args.save.as_deref().filter(|path| path.exists()));
    let mut draft = begin(args, base)?;
    let plan = draft.plan()?;
    let mode = args.mode.map(Mode::from).or(plan.mode).unwrap_or_default();
    refuse_defaults(args, mode)?;
    let (references, _) = references::read(&args.references, &draft.schema, &plan, base)?;
    let settings = |plan: Plan| {
        let plain = Settings::plain(mode, stated.today());
        Settings { dates: plan.dates.clone(), plan, references: references.clone(), ..plain }
    };
    let begun = settings(plan);
    let look = Look {
        file: &args.file,
        layout: &args.layout,
        schema: Some(&draft.schema),
        settings: &begun,
        // What is kept must be true of all rows.
        all: args.all || args.save.is_some(),
        rows: 0,
    };
    let seen = look.look()?.profiled();
    let table = seen.gate.table().clone();
    let by_position = table.heading_row.is_none() && !table.headings.is_empty();
    let edit = options::edit(args, &table, &draft.schema, by_position)?;
    draft.change(&edit)?;
    let mut gate = Gate::new(draft.schema.clone(), settings(draft.plan()?), table.clone());
    if args.ask {
        ask::walk(&mut draft, &mut gate, &seen.contents, &settings)?;
    }
    gate.settle_ways(seen.contents.votes());
    let columns = columns(&gate, &seen.contents, seen.columns(&gate));
    let Profiled { file, rows, contents, .. } = seen;
    let fields_without_column = open_fields(&gate);
    let findings = told(&gate);
    let values = values::of(args, &draft.schema, gate.settings())?;
    let mut saved = None;
    if let Some(path) = &args.save {
        draft.change(&kept(args, &gate, &file, &draft, path, &contents)?)?;
        draft.text = looked_up(&draft.text, &values);
        save(args, path, base, &draft)?;
        saved = Some(path.display().to_string());
    }
    let complete = is_complete(&fields_without_column, &findings, &columns, saved.is_some());
    Ok(MatchReport {
        format: 1,
        tool: tool(),
        file: facts(&args.file, &file),
        record: RecordFacts::of(&draft.schema),
        plan: base.map(|path| path.display().to_string()),
        saved,
        complete,
        rows: rows.rows,
        columns,
        fields_without_column,
        values,
        findings,
    })
}

/// Whether every column is decided, and every needed field has one.
fn is_complete(open: &[OpenField], findings: &[Finding], columns: &[MatchColumn], is_saved: bool) -> bool {
    let is_stop = findings.iter().any(|finding| finding.level == Level::Stop);
    // What was gone has been forgotten.
    let is_forgotten = is_saved && findings.iter().all(|finding| finding.code == Code::PlanOutdated);
    !open.iter().any(|field| field.needed)
        && (!is_stop || is_forgotten)
        && columns.iter().all(|column| column.misfit.is_none())
}

/// A default fills what is added.
fn refuse_defaults(args: &MatchArgs, mode: Mode) -> Result<(), Failure> {
    let Some(default) = args.defaults.first().filter(|_| mode == Mode::Update) else { return Ok(()) };
    let message =
        format!("--default \"{default}\": a default fills what is added, and this file only updates");
    let help = "leave it out, or use --mode add or both; a blank cell leaves the record as it is".to_owned();
    Err(Failure::usage(message, help))
}

/// What is known of the headings that is no column's own.
fn told(gate: &Gate) -> Vec<Finding> {
    let is_told = |code| {
        matches!(
            code,
            Code::PlanOutdated | Code::HeadingShared | Code::FieldOutOfScope | Code::ModeOutOfScope
        )
    };
    gate.opening().iter().filter(|finding| is_told(finding.code)).cloned().collect()
}

/// The text to begin with, and the record schema.
fn begin(args: &MatchArgs, base: Option<&Path>) -> anyhow::Result<Draft> {
    let text = base.map(|path| text_of(path, "a plan")).transpose()?;
    let named = text.as_deref().and_then(|text| PlanText::read(text).record().map(ToOwned::to_owned));
    let record = match (&args.record, named, base) {
        (Some(record), ..) => record.clone(),
        (None, Some(named), Some(base)) => base.parent().unwrap_or(Path::new("")).join(named),
        _ => return Err(super::setup::nothing_named(&args.file).into()),
    };
    let (schema, _) = read_schema(&record)?;
    let name = base.map_or_else(|| "the new plan".to_owned(), |path| path.display().to_string());
    Ok(Draft { name, text: text.unwrap_or_else(|| EMPTY.to_owned()), schema, record })
}

/// What a plan keeps beside what was decided: its record schema, how the file is laid out and its columns are written,
/// every column, and none that is gone.
fn kept(
    args: &MatchArgs,
    gate: &Gate,
    file: &TableFile,
    draft: &Draft,
    path: &Path,
    contents: &Contents,
) -> anyhow::Result<PlanEdit> {
    let plan = PlanText::read(&draft.text);
    let beside = relative(path, &draft.record);
    let is_moved = plan.record().is_none_or(|named| {
        let folder = path.parent().unwrap_or(Path::new(""));
        folder.join(named).canonicalize().ok() != draft.record.canonicalize().ok()
    });
    let table = gate.table();
    let planned = &gate.settings().plan.file;
    let is_text = file.form() == "csv";
    let by_position =
        table.heading_row.is_none() && !table.headings.is_empty() && planned.by_position.is_none();
    // Rows that were passed over or stated are kept; headings that have moved are followed.
    let heading_row =
        table.heading_row.filter(|row| planned.heading_row.is_none_or(|planned| planned != *row));
    let first_row = args.layout.first_row.filter(|row| planned.first_row != Some(*row));
    let delimiter = char::from(table.dialect.delimiter);
    let delimiter = match delimiter {
        '\t' => "tab".to_owned(),
        other => other.to_string(),
    };
    let short_rows = args.layout.short_rows.filter(|_| planned.short_rows_are_blank.is_none());
    Ok(PlanEdit {
        record: is_moved.then_some(beside),
        mode: Some(gate.settings().mode).filter(|mode| args.mode.is_some() || *mode != Mode::Add),
        sheet: table.sheet().map(str::to_owned).filter(|_| planned.sheet.is_none()),
        at: args.layout.at.clone(),
        heading_row: heading_row.filter(|_| !table.is_records() && !by_position),
        first_row: first_row.filter(|_| !table.is_records()),
        last_row: args.layout.last_row.filter(|row| planned.last_row != Some(*row)),
        delimiter: (is_text && planned.delimiter.is_none()).then_some(delimiter),
        encoding: (is_text && planned.encoding.is_none()).then(|| file.encoding()),
        by_position,
        short_rows: short_rows.map(|rows| if rows == ShortRowsArg::Blank { "blank" } else { "hold" }),
        columns: every_column(gate),
        forget: gate.pairing().gone.iter().map(|gone| gone.name.clone()).collect(),
        reads: gate.decided(contents.votes()).fields,
        references: references::planned(&args.references, &draft.schema, |file| relative(path, file))?,
        ..PlanEdit::default()
    })
}

/// Every column whose field is sure, and those left out on purpose, by heading where that names one alone.
fn every_column(gate: &Gate) -> Vec<(ColumnName, Option<String>)> {
    let table = gate.table();
    let planned = &gate.settings().plan.columns;
    let name = |column: usize, heading: &String| {
        let same = |other: &&String| other.trim() == heading.trim();
        let is_alone = table.headings.iter().filter(same).count() == 1;
        match table.heading_row.is_some()
            && is_alone
            && !heading.trim().is_empty()
            && !heading.starts_with('@')
        {
            true => ColumnName::Heading(heading.clone()),
            false => ColumnName::Place(column),
        }
    };
    let columns = gate.pairing().columns.iter().zip(&table.headings).enumerate();
    let kept = columns.filter_map(|(column, (paired, heading))| match paired {
        Paired::Field { field, .. } => {
            let field = gate.schema().fields.get(*field).filter(|field| !field.read_only)?;
            Some((name(column, heading), Some(field.name.clone())))
        }
        _ => None,
    });
    // What the plan names already stays as it is named there.
    let is_planned = |field: &Option<String>| {
        let number = field.as_ref().and_then(|field| gate.schema().field(field));
        planned.iter().any(|column| column.field.is_some() && column.field == number)
    };
    kept.filter(|(_, field)| !is_planned(field)).collect()
}

fn save(args: &MatchArgs, path: &Path, base: Option<&Path>, draft: &Draft) -> anyhow::Result<()> {
    // What is written is sound.
    draft.plan()?;
    let is_base =
        base.is_some_and(|base| base.canonicalize().ok() == path.canonicalize().ok() && path.exists());
    let mut outputs = Outputs::new(args.force || is_base);
    outputs.guard(&args.file, "the input");
    outputs.guard(&draft.record, "the record schema");
    let mut output = outputs.create(path, "a plan", ".toml")?;
    crate::interrupt::take_away(Some(output.temporary()));
    output.write(draft.text.as_bytes())?;
    outputs.complete(output)?;
    outputs.persist().map(drop).map_err(Error::into)
}
