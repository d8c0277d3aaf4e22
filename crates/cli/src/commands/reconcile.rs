//! `reconcile`: whether what was handed over has arrived.

use super::begin::begin;
use super::existing::{self, ExistingOf};
use super::setup::Setup;
use super::stated::Stated;
use crate::args::{FormatArg, ReconcileArgs};
use crate::ended::Ended;
use crate::failure::Failure;
use crate::interrupt::INTERRUPTED;
use crate::progress::Progress;
use crate::render::words::program;
use crate::render::{self, json, text};
use crate::shell::{quoted, quoted_path};
use std::path::PathBuf;
use tidy_gate_core::catalogue::Level;
use tidy_gate_core::gate::{Gate, Settings};
use tidy_gate_core::mode::Mode;
use tidy_gate_core::plan::Plan;
use tidy_gate_core::run::{self, Outcome, Unlisted};
use tidy_gate_files::{Error, Input, Outputs, ReadOptions, RowOutput, TableFile, reconcile};

pub(crate) fn run(args: &ReconcileArgs) -> anyhow::Result<Ended> {
    let mut setup = Setup::read(args.record.as_deref(), args.plan.as_deref(), &args.file)?;
    // Ready rows are in the form in which the plan writes them.
    let ready = setup.plan.of_ready_rows();
    let mode = args.mode.map(Mode::from).or(setup.plan.mode).unwrap_or_default();
    setup.plan = Plan { existing: setup.plan.existing.take(), mode: setup.plan.mode, ..ready };
    let stated = Stated::read(&[], None)?;
    // What is blank is blank: no default fills it, and what the target numbers is found by its key.
    let mut settings = setup.settings(None, &stated)?;
    settings.mode = Mode::Update;
    let processors = || std::thread::available_parallelism().map_or(1, usize::from);
    let threads = args.threads.map_or_else(processors, usize::from);
    let of = ExistingOf {
        file: &args.file,
        existing: args.existing.as_deref(),
        released: &[],
        threads,
        lists: false,
    };
    let options = ReadOptions::default();
    let (existing, files) = existing::read(&of, &setup, &settings, (&options, None))?;
    settings.existing = existing;
    let Some(source) = settings.existing.as_ref().map(|existing| existing.source().to_owned()) else {
        let message = format!("{}: no records are named to look for its rows in", args.file.display());
        let help = "name the records after the load with --existing SOURCE".to_owned();
        return Err(Failure::usage(message, help).into());
    };
    let mut outputs = Outputs::new(args.force);
    outputs.guard(&args.file, "the ready rows");
    setup.guard(&mut outputs);
    files.iter().for_each(|file| outputs.guard(file, "a source of existing records"));
    let list = begin(&mut outputs, args.rows.as_deref(), "what did not arrive", RowOutput::ENDINGS)?;
    let judged = |options: &ReadOptions| judge(args, &setup, &settings, options, threads);
    let (file, gate, outcome) = options.reading(judged, Error::itself)?;
    refuse_other_files(args, &setup, &gate)?;
    let mut list = list.map(|output| RowOutput::new(output, encoding_rs::UTF_8));
    let watch = Progress::new(file.size());
    let reconciled =
        reconcile(&file, (&gate, mode), &outcome, (threads, &watch), &mut list)?.unwrap_or_default();
    file.confirm_unchanged()?;
    list.map(|list| outputs.complete_rows(list)).transpose()?;
    let written: Vec<PathBuf> = outputs.persist()?;
    let drawn = match args.format {
        FormatArg::Json => json::pretty(&reconciled)?,
        FormatArg::Text => {
            let name = args.file.display().to_string();
            text::reconciled(
                &reconciled,
                (&name, &source),
                (&written, &again(args)),
                crate::terminal::width(),
            )
        }
    };
    render::to_stdout_beside(&drawn, &written)?;
    Ok(if reconciled.is_whole() { Ended::Well } else { Ended::Shut })
}

/// A file whose columns are not the record's is none of ready rows.
fn refuse_other_files(args: &ReconcileArgs, setup: &Setup, gate: &Gate) -> Result<(), Failure> {
    if !gate.ends_work() {
        return Ok(());
    }
    let why = gate.opening().iter().find(|finding| finding.level == Level::Stop);
    let why = why.map(|finding| finding.sentence()).unwrap_or_default();
    let message =
        format!("{} is no file of ready rows of {}: {why}", args.file.display(), setup.schema.record);
    Err(Failure::usage(message, "name the record schema and the plan by which they were written".to_owned()))
}

/// The same command once more, as it is typed.
fn again(args: &ReconcileArgs) -> String {
    let mut words = vec![format!("{} reconcile {}", program(), quoted_path(&args.file))];
    words.extend(args.record.iter().map(|record| format!("--record {}", quoted_path(record))));
    words.extend(args.plan.iter().map(|plan| format!("--plan {}", quoted_path(plan))));
    words.extend(args.mode.map(|mode| format!("--mode {}", Mode::from(mode).name())));
    words.extend(args.existing.iter().map(|existing| format!("--existing {}", quoted(existing))));
    words.join(" ")
}

/// Opens the ready rows and judges them, so that it is known how they are written.
fn judge(
    args: &ReconcileArgs,
    setup: &Setup,
    settings: &Settings,
    options: &ReadOptions,
    threads: usize,
) -> Result<(TableFile, Gate, Outcome), Error> {
    let input = Input::open(&args.file)?;
    let file = TableFile::open_sheet(input, None, options, Some(&setup.schema), true, &INTERRUPTED)?;
    // What may only be set at first has to have arrived as well.
    let schema = setup.schema.clone().as_it_stands();
    let mut gate = Gate::new(schema, settings.clone(), file.table().clone());
    let progress = Progress::new(file.size());
    let mut unlisted = || Ok(None::<Unlisted>);
    let (outcome, _) = run::check(&mut gate, &file, threads, &progress, &mut unlisted)?;
    Ok((file, gate, outcome))
}
