//! What `mend` takes.

use super::check::CheckArgs;
use super::layout::LayoutArgs;
use super::words::{CheckFormatArg, FormatArg, ModeArg};
use clap::Args;
use std::path::PathBuf;

const MEND_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate mend ward-7-survey.csv --record tree.record.toml -o ward-7-mended.csv
  tidy-gate mend ward-5-survey.xlsx --record tree.record.toml --dry-run";

#[derive(Debug, Args)]
#[command(after_help = MEND_EXAMPLES)]
pub(crate) struct MendArgs {
    /// The file to mend: delimited text, or a workbook (XLSX, XLSM, ODS), which is patched in place
    #[arg(value_name = "FILE")]
    file: PathBuf,

    /// The record schema to mend by
    #[arg(long, short, value_name = "RECORD")]
    record: Option<PathBuf>,

    /// The plan for the file
    #[arg(long, short, value_name = "PLAN")]
    plan: Option<PathBuf>,

    /// Where the mended copy goes, in the same form
    #[arg(long, short, value_name = "FILE", required_unless_present = "dry_run")]
    pub(crate) output: Option<PathBuf>,

    /// Mend findings of these codes alone, with commas between them
    #[arg(long, value_name = "CODE,…", value_delimiter = ',')]
    pub(crate) only: Vec<String>,

    /// Say what would be mended, and write no copy
    #[arg(long)]
    pub(crate) dry_run: bool,

    /// Where the log of all that was mended goes: .csv, .json, .ndjson or .xlsx [default: beside the copy]
    #[arg(long, value_name = "FILE")]
    pub(crate) log: Option<PathBuf>,

    /// What loading the file would do to the target [default: the plan's, else add]
    #[arg(long, value_enum)]
    mode: Option<ModeArg>,

    /// A form in which the file writes dates, such as dd/MM/yyyy; may be given several times
    #[arg(long, value_name = "PATTERN")]
    dates: Vec<String>,

    /// Where the keys of a record come from that fields refer to; may be given several times
    #[arg(long = "reference", value_name = "NAME=FILE:COLUMN")]
    references: Vec<String>,

    /// The records that the target already holds, as `check` takes them
    #[arg(long, value_name = "SOURCE")]
    existing: Option<String>,

    /// Ready rows that were handed over earlier; may be given several times
    #[arg(long, value_name = "FILE")]
    released: Vec<PathBuf>,

    /// The day that "today" means, as yyyy-MM-dd [default: the local date]
    #[arg(long, value_name = "DATE")]
    today: Option<String>,

    /// The form of what is said on standard output
    #[arg(long, value_enum, default_value_t = FormatArg::Text)]
    pub(crate) format: FormatArg,

    /// Overwrite an existing copy or log; never the input
    #[arg(long)]
    pub(crate) force: bool,

    #[command(flatten)]
    layout: LayoutArgs,
}

impl MendArgs {
    /// The check of this file, or of a copy of it.
    pub(crate) fn check(&self, copy: Option<&std::path::Path>) -> CheckArgs {
        CheckArgs {
            file: copy.unwrap_or(&self.file).to_owned(),
            record: self.record.clone(),
            plan: self.plan.clone(),
            mode: self.mode,
            dates: self.dates.clone(),
            references: self.references.clone(),
            existing: self.existing.clone(),
            released: self.released.clone(),
            today: self.today.clone(),
            most_changes: None,
            most_emptied: None,
            findings: None,
            ready: None,
            held: None,
            marked: None,
            report: Vec::new(),
            receipt: None,
            signed_by: None,
            since: None,
            format: CheckFormatArg::Text,
            force: self.force,
            threads: None,
            // As a check takes where nothing is stated.
            memory: bytesize::GIB,
            layout: self.layout.clone(),
        }
    }
}
