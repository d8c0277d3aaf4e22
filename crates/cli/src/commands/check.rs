//! `check`: the gate itself.

use super::begin::begin;
use super::existing::{self, ExistingOf};
use super::input_digest::InputDigest;
use super::lists::Lists;
use super::proof::Proof;
use super::reports::Reports;
use super::setup::{Setup, layout_of, threads};
use super::stated::Stated;
use super::{held_plan, limits, references};
use crate::args::{CheckArgs, CheckFormatArg};
use crate::ended::Ended;
use crate::failure::Failure;
use crate::interrupt::INTERRUPTED;
use crate::manner::Stages;
use crate::progress::Progress;
use crate::render::story::{self, Context};
use crate::render::words::counted;
use crate::render::{self, front, json, text};
use encoding_rs::Encoding;
use std::path::{Path, PathBuf};
use tidy_gate_core::causes::causes;
use tidy_gate_core::effects::Effects;
use tidy_gate_core::gate::{Gate, Settings};
use tidy_gate_core::report::{FileFacts, Report, Tool, Verdict};
use tidy_gate_core::run::{self, Outcome};
use tidy_gate_files::{
    DigestSoFar, Error, FindingsFile, Input, MARKED_ENDINGS, MarkSum, Output, Outputs, ReadOptions,
    RowOutput, RowWriters, TableFile, mark, marked_ending, write_rows,
};

pub(crate) fn run(args: &CheckArgs) -> anyhow::Result<Ended> {
    let streams = args.format == CheckFormatArg::Ndjson && !render::is_quiet();
    let (report, written) = check(args, Listed { streams, ..Listed::default() })?;
    let text = match args.format {
        CheckFormatArg::Json => json::pretty(&report)?,
        CheckFormatArg::Ndjson => json::head(report.clone())?,
        CheckFormatArg::Text => {
            let context = Context::new(args, &written, report.effects.is_some());
            text::report(&report, &context, crate::terminal::width())
        }
    };
    render::to_stdout_beside(&text, &written)?;
    if report.gate == Verdict::Open {
        return Ok(Ended::Well);
    }
    render::aside_when_quiet(&story::said_shut(&report, &args.file));
    Ok(Ended::Shut)
}

/// What is listed of effects, and where.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct Listed<'a> {
    /// Cells that would change.
    pub(crate) changes: Option<&'a Path>,
    /// Records that the file does not speak of.
    pub(crate) missing: Option<&'a Path>,
    /// Whether all findings go to standard output.
    pub(crate) streams: bool,
}

/// Checks the file and writes the outputs asked for; gives the report and the files written.
pub(crate) fn check(args: &CheckArgs, listed: Listed<'_>) -> anyhow::Result<(Report, Vec<PathBuf>)> {
    let mut stages = Stages::begin();
    let stated = Stated::read(&args.dates, args.today.as_ref())?;
    let mut setup = Setup::read(args.record.as_deref(), args.plan.as_deref(), &args.file)?;
    setup.follow_sheet(&args.file, args.mode)?;
    let (options, sheet) = layout_of(&args.file, &args.layout, &setup.plan, &setup.schema)?;
    stages.done("record schema and plan read");
    let known = known(args, &setup, &stated, (&options, sheet), listed.missing.is_some())?;
    stages.done("existing records and references read");
    let sources = known.references.iter().map(|file| (file, "a file of references"));
    let existing_files = known.existing.iter().map(|file| (file, "a source of existing records"));
    let earlier = args.since.iter().map(|file| (file, "the earlier report"));
    let mut outputs = guarded(args, &setup, sources.chain(existing_files).chain(earlier));
    let mut wanted = Wanted::begin((args, &setup), listed, &mut outputs)?;
    let settings = known.settings;
    let is_listed = wanted.changes.is_some() || wanted.missing.is_some();
    limits::refuse_without_existing(args, &settings, is_listed)?;

    let threads = threads(args);
    let wants = (wanted.findings.as_ref(), listed.streams, wanted.digest.stream());
    let judged = |options: &ReadOptions| judge(args, &setup, &settings, (options, sheet), wants);
    let (file, gate, lists, mut outcome) = options.reading(judged, Error::itself)?;
    file.confirm_unchanged()?;
    let plan = args.plan.as_deref().map(|plan| plan.display().to_string());
    log::debug!(
        "{} as {}, {} blocks, {} threads, {} findings kept",
        args.file.display(),
        file.form(),
        outcome.extents.blocks().len(),
        threads,
        outcome.kept.len()
    );
    stages.done(&format!("{} judged", counted(outcome.counts.rows, "row", "rows")));
    let mut report = Report::new(&gate, &outcome, facts(&args.file, &file), plan.as_deref(), tool());

    report.take_causes(&gate, causes(&gate, &file, &mut outcome, threads)?);
    stages.done("causes looked for");
    if let Some(lists) = lists {
        lists.write(wanted.findings.as_mut(), (&file, &gate, &outcome), &report)?;
    }
    stages.done("findings listed");
    refuse_loss(args, &gate, wanted.ready.is_some() && outcome.counts.records() > 0)?;
    // A file without rows ends the work: there are none to be handed on.
    if outcome.counts.records() > 0 {
        let rows = (&mut report, wanted.ready.take(), wanted.held.take());
        hand_on(args, &setup, (&file, &gate, &outcome), rows, &mut outputs)?;
    }
    stages.done("ready and held rows written");
    report.take_effects(effects(&file, &gate, &outcome, threads, (wanted.changes.take(), &mut outputs))?);
    list_missing(wanted.missing.take(), &gate, &mut outputs)?;
    limits::limit(args, &mut report);
    stages.done("effects compared");
    wanted.tell((args, &setup), (&file, &gate, &outcome), &mut report, (&mut outputs, &mut stages))?;
    let written = outputs.persist()?;
    stages.done("reports written");
    stages.end();
    Ok((report, written))
}

/// The outputs that were asked for, begun.
struct Wanted {
    findings: Option<Output>,
    ready: Option<Output>,
    held: Option<Output>,
    marked: Option<Output>,
    changes: Option<Output>,
    missing: Option<Output>,
    reports: Reports,
    proof: Option<Proof>,
    digest: InputDigest,
}

impl Wanted {
    /// Follows the findings, and writes what tells of the whole: the marked workbook, the receipt, the reports.
    fn tell(
        self,
        (args, setup): (&CheckArgs, &Setup),
        (file, gate, outcome): (&TableFile, &Gate, &Outcome),
        report: &mut Report,
        (outputs, stages): (&mut Outputs, &mut Stages),
    ) -> anyhow::Result<()> {
        let digest = self.digest.done()?;
        // The digest was taken beside the check, of the same bytes.
        file.confirm_unchanged()?;
        report.file.sha256 = digest.as_ref().map(|digest| digest.sha256.clone());
        self.reports.follow((args, setup), (file, gate, outcome), report)?;
        stages.done("findings followed");
        if let Some(output) = self.findings {
            outputs.complete(output)?;
        }
        if let Some(output) = self.marked {
            write_marked(args, (file, gate, outcome), report, output, outputs)?;
            file.confirm_unchanged()?;
            stages.done("marked workbook written");
        }
        if let Some(proof) = self.proof {
            proof.write((args, setup), (gate, report), digest.as_ref(), outputs)?;
        }
        self.reports.write(args, (file, gate, outcome), report, outputs)
    }

    fn begin(
        (args, setup): (&CheckArgs, &Setup),
        listed: Listed<'_>,
        outputs: &mut Outputs,
    ) -> anyhow::Result<Self> {
        const UNSPOKEN: &str = "records that the file does not speak of";
        let (reports, proof) = (Reports::begin(args, outputs)?, Proof::begin(args, setup, outputs)?);
        let mut one = |path: Option<&Path>, what, endings| begin(outputs, path, what, endings);
        Ok(Self {
            findings: one(args.findings.as_deref(), "findings", FindingsFile::ENDINGS)?,
            ready: one(args.ready.as_deref(), "ready rows", RowOutput::ENDINGS)?,
            held: one(args.held.as_deref(), "held rows", RowOutput::ENDINGS)?,
            marked: one(args.marked.as_deref(), "a marked workbook", MARKED_ENDINGS)?,
            changes: one(listed.changes, "changed cells", RowOutput::ENDINGS)?,
            missing: one(listed.missing, UNSPOKEN, RowOutput::ENDINGS)?,
            digest: InputDigest::begin(&args.file, proof.is_some() || reports.follows()),
            reports,
            proof,
        })
    }
}

/// Writes the ready and the held rows.
fn hand_on(
    args: &CheckArgs,
    setup: &Setup,
    (file, gate, outcome): (&TableFile, &Gate, &Outcome),
    (report, ready, held): (&mut Report, Option<Output>, Option<Output>),
    outputs: &mut Outputs,
) -> anyhow::Result<()> {
    let encoding = Encoding::for_label(setup.plan.write.encoding.as_bytes()).unwrap_or(encoding_rs::UTF_8);
    let mut writers = RowWriters {
        ready: ready.map(|ready| RowOutput::new(ready, encoding)),
        held: held.map(|held| RowOutput::new(held, encoding_rs::UTF_8)),
    };
    if writers.ready.is_some() || writers.held.is_some() {
        let progress = Progress::new(file.size());
        let written = write_rows(file, gate, outcome, threads(args), &progress, &mut writers)?;
        report.held_replaced = written.replaced;
        file.confirm_unchanged()?;
    }
    for output in [writers.ready, writers.held].into_iter().flatten() {
        outputs.complete_rows(output)?;
    }
    if let Some(held) = &args.held {
        held_plan::write(args, setup, gate, outcome, held, outputs)?;
    }
    Ok(())
}

/// Writes the sender's own workbook with marks on it.
fn write_marked(
    args: &CheckArgs,
    (file, gate, outcome): (&TableFile, &Gate, &Outcome),
    report: &Report,
    mut output: Output,
    outputs: &mut Outputs,
) -> anyhow::Result<()> {
    let ending = marked_ending(&args.file, file);
    let place = output.path().to_owned();
    if !place.extension().is_some_and(|own| own.eq_ignore_ascii_case(ending)) {
        let what = match ending {
            "xlsm" => "its macros stay in it",
            _ => "it has no macros",
        };
        let message = format!(
            "{}: the marked copy of {} ends in .{ending}: {what}",
            place.display(),
            args.file.display()
        );
        return Err(Failure::usage(message, format!("end its name in .{ending}")).into());
    }
    let mut lines = |sum: &MarkSum| front::lines(report, sum);
    mark(file, (gate, outcome), &args.file, &mut lines, &mut output, &Progress::new(file.size()))?;
    outputs.complete(output)?;
    Ok(())
}

/// A file that was checked for what it holds, with all that was read for it.
pub(super) struct Checked {
    pub(super) file: TableFile,
    pub(super) gate: Gate,
    pub(super) outcome: Outcome,
    /// What no output may overwrite.
    pub(super) outputs: Outputs,
}

/// Checks the file; writes nothing.
pub(super) fn checked(args: &CheckArgs) -> anyhow::Result<Checked> {
    let stated = Stated::read(&args.dates, args.today.as_ref())?;
    let mut setup = Setup::read(args.record.as_deref(), args.plan.as_deref(), &args.file)?;
    setup.follow_sheet(&args.file, args.mode)?;
    let (options, sheet) = layout_of(&args.file, &args.layout, &setup.plan, &setup.schema)?;
    let known = known(args, &setup, &stated, (&options, sheet), false)?;
    let files = known.references.iter().chain(&known.existing).map(|file| (file, "a file that is read"));
    let outputs = guarded(args, &setup, files);
    let judged =
        |options: &ReadOptions| judge(args, &setup, &known.settings, (options, sheet), (None, false, None));
    let (file, gate, _, outcome) = options.reading(judged, Error::itself)?;
    file.confirm_unchanged()?;
    Ok(Checked { file, gate, outcome, outputs })
}

/// What is known beside the file, and the files that it was read from.
struct Known {
    settings: Settings,
    references: Vec<PathBuf>,
    existing: Vec<PathBuf>,
}

/// Reads the keys of references and the existing records.
fn known(
    args: &CheckArgs,
    setup: &Setup,
    stated: &Stated,
    layout: (&ReadOptions, Option<&str>),
    lists_missing: bool,
) -> anyhow::Result<Known> {
    let mut settings = setup.settings(args.mode, stated)?;
    let plan_path = setup.plan_file.as_ref().map(|(path, _)| path.as_path());
    let (found, references) = references::read(&args.references, &setup.schema, &setup.plan, plan_path)?;
    settings.references = found;
    let of = ExistingOf { lists: lists_missing, ..ExistingOf::check(args) };
    let (found, existing) = existing::read(&of, setup, &settings, layout)?;
    settings.existing = found;
    if let Some((own, cycles)) = existing::own_references(&of, setup, &settings, layout)? {
        settings.references.extend(own.map(|own| (setup.schema.record.clone(), own)));
        settings.cycles = Some(cycles);
    }
    Ok(Known { settings, references, existing })
}

/// Ready rows lose nothing that they carry.
fn refuse_loss(args: &CheckArgs, gate: &Gate, writes: bool) -> Result<(), Failure> {
    if !writes {
        return Ok(());
    }
    let unwritten = gate.unwritten_fields().join(", ");
    if unwritten.is_empty() {
        return Ok(());
    }
    let file = args.file.display();
    let message = format!("{file} would lose values: [write] of the plan has no column for {unwritten}");
    let help = "name them in `columns`, or leave their columns out under [columns]".to_owned();
    Err(Failure::usage(message, help))
}

/// What the ready rows would change; each changed cell is listed where that is wanted.
fn effects(
    file: &TableFile,
    gate: &Gate,
    outcome: &Outcome,
    threads: usize,
    (list, outputs): (Option<Output>, &mut Outputs),
) -> Result<Option<Effects>, Error> {
    let mut list = list.map(|output| RowOutput::new(output, encoding_rs::UTF_8));
    let effects =
        tidy_gate_files::effects(file, gate, outcome, (threads, &Progress::new(file.size())), &mut list)?;
    list.map(|list| outputs.complete_rows(list)).transpose()?;
    Ok(effects)
}

/// Lists the records that the file does not speak of.
fn list_missing(list: Option<Output>, gate: &Gate, outputs: &mut Outputs) -> Result<(), Error> {
    let Some(list) = list else { return Ok(()) };
    let mut list = RowOutput::new(list, encoding_rs::UTF_8);
    tidy_gate_files::missing(gate, &mut list)?;
    outputs.complete_rows(list)
}

/// The outputs, none of which may overwrite what is read.
fn guarded<'a>(
    args: &CheckArgs,
    setup: &Setup,
    sources: impl Iterator<Item = (&'a PathBuf, &'static str)>,
) -> Outputs {
    let mut outputs = Outputs::new(args.force);
    outputs.guard(&args.file, "the input");
    setup.guard(&mut outputs);
    sources.for_each(|(file, what)| outputs.guard(file, what));
    outputs
}

type Run = (TableFile, Gate, Option<Lists>, Outcome);

/// Opens the file and checks it.
fn judge(
    args: &CheckArgs,
    setup: &Setup,
    settings: &Settings,
    (options, sheet): (&ReadOptions, Option<&str>),
    (findings, streams, digest): (Option<&Output>, bool, Option<&DigestSoFar>),
) -> Result<Run, Error> {
    let mut input = Input::open(&args.file)?;
    digest.into_iter().for_each(|so_far| input.digest(so_far));
    let widened = setup.plan.widened(setup.schema.clone());
    let file = TableFile::open_sheet(input, sheet, options, Some(&widened), true, &INTERRUPTED)?
        .within_memory(args.memory);
    let mut gate = Gate::new(setup.schema.clone(), settings.clone(), file.table().clone());
    let progress = Progress::new(file.size());
    let mut begin = || Lists::begin(findings, streams);
    let (outcome, list) = run::check(&mut gate, &file, threads(args), &progress, &mut begin)?;
    Ok((file, gate, list, outcome))
}

pub(super) fn facts(path: &Path, file: &TableFile) -> FileFacts {
    let table = file.table();
    let name = path.file_name().unwrap_or(path.as_os_str()).to_string_lossy().into_owned();
    let is_table = !table.headings.is_empty();
    FileFacts {
        name,
        bytes: file.bytes_read(),
        sha256: None,
        form: file.form().to_owned(),
        sheet: table.sheet().map(str::to_owned),
        encoding: table.sheet().is_none().then(|| file.encoding()),
        delimiter: (file.form() == "csv").then(|| char::from(table.dialect.delimiter).to_string()),
        heading_row: table.heading_row.filter(|row| is_table && *row > 0),
        first_row: is_table.then_some(table.first_row),
    }
}

pub(super) fn tool() -> Tool {
    Tool { name: "tidy-gate".to_owned(), version: env!("CARGO_PKG_VERSION").to_owned() }
}
