//! The report files of a check, and what became of an earlier round.

use super::begin::begin;
use super::setup::{Setup, threads};
use crate::args::CheckArgs;
use crate::failure::Failure;
use crate::progress::Progress;
use crate::render::report_file::{self, Form, Told};
use crate::render::story::Context;
use std::path::{Path, PathBuf};
use tidy_gate_core::gate::{Gate, Settings};
use tidy_gate_core::overview::Overview;
use tidy_gate_core::prints::{Basis, Salt};
use tidy_gate_core::report::Report;
use tidy_gate_core::rounds::{Earlier, Gatherer};
use tidy_gate_core::run::Outcome;
use tidy_gate_files::{Error, Output, Outputs, TableFile, digest_of, gather};

/// The endings of report files.
const ENDINGS: &str = ".html, .md, .json or .sarif";

/// An earlier report is read up to this size.
const LARGEST: u64 = 1 << 30;

/// The report files that were asked for, and the earlier round that they are held against.
pub(super) struct Reports {
    files: Vec<(Form, Output)>,
    earlier: Option<Earlier>,
}

impl Reports {
    pub(super) fn begin(args: &CheckArgs, outputs: &mut Outputs) -> anyhow::Result<Self> {
        let mut files = Vec::new();
        for path in &args.report {
            let output = begin(outputs, Some(path), "a report", ENDINGS)?;
            files.extend(output.map(|output| (Form::of(output.path()), output)));
        }
        let earlier = args.since.as_deref().map(read_earlier).transpose()?;
        Ok(Self { files, earlier })
    }

    /// Whether findings and rows are followed.
    pub(super) fn follows(&self) -> bool {
        self.earlier.is_some() || self.files.iter().any(|(form, _)| form.tells_marks())
    }

    /// Follows the findings and rows of the file, where a report tells of that.
    pub(super) fn follow(
        &self,
        (args, setup): (&CheckArgs, &Setup),
        (file, gate, outcome): (&TableFile, &Gate, &Outcome),
        report: &mut Report,
    ) -> anyhow::Result<()> {
        if !self.follows() {
            return Ok(());
        }
        if let (Some(earlier), Some(path)) = (&self.earlier, &args.since)
            && earlier.record != setup.schema.record
        {
            let message = format!(
                "{} is of the record {}; this check is of {}",
                path.display(),
                earlier.record,
                setup.schema.record
            );
            let help = "name the report of the round before, of the same record".to_owned();
            return Err(Failure::usage(message, help).into());
        }
        let salt = Salt::of_file(report.file.sha256.as_deref().unwrap_or_default());
        let gatherer = Gatherer::new(gate, outcome, report, salt, self.earlier.as_ref());
        let gathered = gather(file, (gate, outcome), threads(args), &gatherer, &Progress::new(file.size()))?;
        gatherer.finish(gathered, basis(args, setup, gate.settings())?, report);
        file.confirm_unchanged()?;
        Ok(())
    }

    /// Writes the report files.
    pub(super) fn write(
        self,
        args: &CheckArgs,
        (file, gate, outcome): (&TableFile, &Gate, &Outcome),
        report: &Report,
        outputs: &mut Outputs,
    ) -> anyhow::Result<()> {
        if self.files.is_empty() {
            return Ok(());
        }
        let has_page = self.files.iter().any(|(form, _)| *form == Form::Html);
        let overview = if has_page { Overview::of(file, gate, outcome)? } else { Overview::default() };
        let mut written: Vec<PathBuf> = outputs.completed().map(Path::to_owned).collect();
        written.extend(self.files.iter().map(|(_, output)| output.path().to_owned()));
        let mut context = Context::new(args, &written, report.effects.is_some());
        // The report is read elsewhere, where the program stands in another place.
        "tidy-gate".clone_into(&mut context.program);
        let told = Told { report, context: &context, overview: &overview };
        for (form, mut output) in self.files {
            output.write(report_file::render(form, &told)?.as_bytes())?;
            outputs.complete(output)?;
        }
        Ok(())
    }
}

/// Reads the report of an earlier round.
fn read_earlier(path: &Path) -> anyhow::Result<Earlier> {
    let failed = |source| Error::Read { path: path.to_owned(), source };
    let facts = std::fs::metadata(path).map_err(failed)?;
    if facts.is_dir() {
        return Err(Error::Folder { path: path.to_owned() }.into());
    }
    let help = "name a report that an earlier check wrote with --report FILE.json".to_owned();
    if facts.len() > LARGEST {
        let message = format!("{} is larger than a report that is read (1 GiB)", path.display());
        return Err(Failure::usage(message, help).into());
    }
    let text = std::fs::read(path).map_err(failed)?;
    Earlier::read(&text)
        .map_err(|fault| Failure::usage(format!("--since {}: {fault}", path.display()), help).into())
}

/// What the file is judged by.
fn basis(args: &CheckArgs, setup: &Setup, settings: &Settings) -> Result<Basis, Error> {
    let mut basis = Basis::default();
    basis.add_record(&setup.record_text);
    for list in &setup.lists {
        let name = list.file_name().unwrap_or_default().to_string_lossy();
        basis.add("record", &format!("list {name}"), digest_of(list)?.sha256.as_bytes());
    }
    setup.plan_file.iter().for_each(|(_, text)| basis.add_plan(text));
    if !args.dates.is_empty() {
        basis.add("run", "--dates", args.dates.join("\n").as_bytes());
    }
    // Those to the record itself are held against the file, too.
    for (name, keys) in settings.references.iter().filter(|(name, _)| **name != setup.schema.record) {
        basis.add("run", &format!("the keys of {name}"), &keys.key_sum().to_le_bytes());
    }
    if let Some(existing) = &settings.existing {
        basis.add("run", "the existing records", &existing.key_sum().to_le_bytes());
    }
    Ok(basis)
}
