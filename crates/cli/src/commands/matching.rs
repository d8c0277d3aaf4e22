//! `match`: which column is which field, and the plan that keeps it.

mod ask;
mod options;

use super::check::{facts, tool};
use super::look::{Look, Profiled};
use super::setup::{Stated, read_schema, text_of};
use crate::Ended;
use crate::args::{FormatArg, MatchArgs};
use crate::failure::Failure;
use crate::render::{self, faults, json, text};
use std::path::{Path, PathBuf};
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::gate::{Gate, Mode, Settings};
use tidy_gate_core::matching::{MatchReport, columns, open_fields};
use tidy_gate_core::plan::{EMPTY, Plan, PlanEdit, PlanText, edited};
use tidy_gate_core::report::RecordFacts;
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_files::{Error, Outputs};

pub(crate) fn run(args: &MatchArgs) -> anyhow::Result<Ended> {
    let report = match_columns(args)?;
    let text = match args.format {
        FormatArg::Json => json::pretty(&report)?,
        FormatArg::Text => text::matching::report(&report, args, crate::terminal::width()),
    };
    render::to_stdout(&text)?;
    Ok(if report.complete { Ended::Well } else { Ended::Shut })
}

/// The plan while it is made.
struct Draft {
    /// Where its text came from, for messages.
    name: String,
    text: String,
    schema: RecordSchema,
    record: PathBuf,
}

impl Draft {
    /// The plan of the text.
    fn plan(&self) -> Result<Plan, Failure> {
        PlanText::read(&self.text)
            .against(&self.schema)
            .map_err(|found| Failure::Faults(faults::draw(&self.name, &self.text, &found)))
    }

    fn change(&mut self, edit: &PlanEdit) -> anyhow::Result<()> {
        if !edit.is_empty() {
            let changed = edited(&self.text, edit);
            self.text = changed.map_err(|error| Failure::usage(error.to_string(), None))?;
        }
        Ok(())
    }
}

fn match_columns(args: &MatchArgs) -> anyhow::Result<MatchReport> {
    let stated = Stated::read(&[], None)?;
    let base = args.plan.as_deref().or(args.save.as_deref().filter(|path| path.exists()));
    let mut draft = begin(args, base)?;
    let plan = draft.plan()?;
    let settings = |plan: Plan| {
        let mode = args.mode.map(Mode::from).or(plan.mode).unwrap_or_default();
        Settings { dates: plan.dates.clone(), plan, ..Settings::plain(mode, stated.today()) }
    };
    let begun = settings(plan);
    let look = Look {
        file: &args.file,
        layout: &args.layout,
        schema: Some(&draft.schema),
        settings: &begun,
        all: args.all,
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
    let columns = columns(&gate, &seen.contents, seen.columns(&gate));
    let Profiled { file, rows, .. } = seen;
    let fields_without_column = open_fields(&gate);
    let is_told = |code| {
        matches!(
            code,
            Code::PlanOutdated | Code::HeadingShared | Code::FieldOutOfScope | Code::ModeOutOfScope
        )
    };
    let findings: Vec<_> = gate.opening().iter().filter(|finding| is_told(finding.code)).cloned().collect();
    let mut saved = None;
    if let Some(path) = &args.save {
        draft.change(&kept(args, &gate, &file, &draft, path)?)?;
        save(args, path, base, &draft)?;
        saved = Some(path.display().to_string());
    }
    let is_stop = findings.iter().any(|finding| finding.level == Level::Stop);
    // What was gone has been forgotten.
    let is_forgotten = saved.is_some() && findings.iter().all(|finding| finding.code == Code::PlanOutdated);
    let complete = !fields_without_column.iter().any(|field| field.needed)
        && (!is_stop || is_forgotten)
        && columns.iter().all(|column| column.misfit.is_none());
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
        findings,
    })
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

/// What a plan keeps beside what was decided: its record schema, where the table lies, and no column that is gone.
fn kept(
    args: &MatchArgs,
    gate: &Gate,
    file: &tidy_gate_files::TextFile,
    draft: &Draft,
    path: &Path,
) -> anyhow::Result<PlanEdit> {
    let plan = PlanText::read(&draft.text);
    let beside = relative(path, &draft.record);
    let is_moved = plan.record().is_none_or(|named| {
        let folder = path.parent().unwrap_or(Path::new(""));
        folder.join(named).canonicalize().ok() != draft.record.canonicalize().ok()
    });
    let table = gate.table();
    let planned = gate.settings().plan.file.clone();
    let is_guessed = |what: &str| {
        file.facts().iter().any(|fact| fact.what == what && fact.how != tidy_gate_files::How::Plain)
    };
    let by_position =
        table.heading_row.is_none() && !table.headings.is_empty() && planned.by_position.is_none();
    let heading_row = table.heading_row.filter(|row| {
        planned.heading_row.is_some_and(|planned| planned != *row)
            || planned.heading_row.is_none() && is_guessed("headings")
    });
    Ok(PlanEdit {
        record: is_moved.then_some(beside),
        mode: args.mode.map(Mode::from),
        sheet: table.sheet.clone().filter(|_| file.sheets().len() > 1 && planned.sheet.is_none()),
        heading_row: heading_row.filter(|_| !table.is_records),
        by_position,
        forget: gate.pairing().gone.iter().map(|gone| gone.name.clone()).collect(),
        ..PlanEdit::default()
    })
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

/// The path of a file as it is named from beside another.
fn relative(from: &Path, to: &Path) -> String {
    let folder = from.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let (Ok(folder), Ok(target)) = (folder.canonicalize(), to.canonicalize()) else {
        return to.display().to_string();
    };
    let shared = folder.components().zip(target.components()).take_while(|(a, b)| a == b).count();
    let up = folder.components().count() - shared;
    // Files far from each other are named in full.
    if up > 3 {
        return target.display().to_string();
    }
    let mut path: PathBuf = std::iter::repeat_n("..", up).collect();
    path.extend(target.components().skip(shared));
    path.to_string_lossy().replace('\\', "/")
}
