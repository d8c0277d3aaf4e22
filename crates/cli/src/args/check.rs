//! What a check takes, and a look at its effects.

use super::layout::{LayoutArgs, memory};
use super::words::{CheckFormatArg, ModeArg};
use clap::Args;
use std::path::PathBuf;
use tidy_gate_core::plan::Tolerance;

const CHECK_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate check ward-7-survey.csv --record tree.record.toml
  tidy-gate check ward-7-survey.csv --record tree.record.toml --ready ready.csv --held held.csv";

#[derive(Debug, Clone, Args)]
#[command(after_help = CHECK_EXAMPLES)]
pub(crate) struct CheckArgs {
    /// The file to check: delimited text (also .gz or .zst), a workbook (XLSX, XLSB, XLS, ODS) or JSON; - reads
    /// standard input
    #[arg(value_name = "FILE")]
    pub(crate) file: PathBuf,

    /// The record schema to check against
    #[arg(long, short, value_name = "RECORD")]
    pub(crate) record: Option<PathBuf>,

    /// The plan for the file: how it is read and paired, and what it may change
    #[arg(long, short, value_name = "PLAN")]
    pub(crate) plan: Option<PathBuf>,

    /// What loading the file would do to the target [default: the plan's, else add]
    #[arg(long, value_enum)]
    pub(crate) mode: Option<ModeArg>,

    /// A form in which the file writes dates, such as dd/MM/yyyy; may be given several times
    ///
    /// Days are d, months M, years y, as in spreadsheets: d MMM yyyy reads 3 Mar 2024. ISO dates are read
    /// beside the stated forms. A field that names its own forms in the record schema keeps to those.
    #[arg(long, value_name = "PATTERN")]
    pub(crate) dates: Vec<String>,

    /// Where the keys of a record come from that fields refer to; may be given several times
    ///
    /// Such as site=sites.csv:site_code: the column site_code of the file holds the keys of the record site.
    #[arg(long = "reference", value_name = "NAME=FILE:COLUMN")]
    pub(crate) references: Vec<String>,

    /// The records that the target already holds: an export, FILE#TABLE of an SQLite database or env:VARIABLE#TABLE of
    /// PostgreSQL
    ///
    /// Keys are held against them: what is added must not be there, what is updated must. Where the file leaves a cell
    /// blank, rules see what the record has. A sheet of a workbook is named the same way. The variable holds the URL of the
    /// database.
    #[arg(long, value_name = "SOURCE")]
    pub(crate) existing: Option<String>,

    /// Ready rows that were handed over earlier, which count as there; may be given several times
    #[arg(long, value_name = "FILE")]
    pub(crate) released: Vec<PathBuf>,

    /// The day that "today" means, as yyyy-MM-dd [default: the local date]
    #[arg(long, value_name = "DATE")]
    pub(crate) today: Option<String>,

    /// Shut the gate where more records would be added or changed: a number, or a share of those that are there
    #[arg(long, value_name = "N|P%", help_heading = "Limits")]
    pub(crate) most_changes: Option<Tolerance>,

    /// Shut the gate where more values would be emptied
    #[arg(long, value_name = "N", help_heading = "Limits")]
    pub(crate) most_emptied: Option<u64>,

    /// Write every finding to this file: .csv or .ndjson
    #[arg(long, value_name = "FILE", help_heading = "Outputs")]
    pub(crate) findings: Option<PathBuf>,

    /// Write the rows that may load, in the target's form: .csv, .xlsx, .json or .ndjson
    #[arg(long, value_name = "FILE", help_heading = "Outputs")]
    pub(crate) ready: Option<PathBuf>,

    /// Write the other rows as they came, each with its row and reasons; the same forms
    #[arg(long, value_name = "FILE", help_heading = "Outputs")]
    pub(crate) held: Option<PathBuf>,

    /// Write the sender's own workbook with the faulty cells filled and noted, the reasons beside the rows, and a sheet
    /// in front that says what to do: .xlsx, or .xlsm where it has macros
    ///
    /// A text becomes such a workbook. When it comes back, it is checked as the file would be: nobody needs to take the
    /// marks away.
    #[arg(long, value_name = "FILE.xlsx", help_heading = "Outputs")]
    pub(crate) marked: Option<PathBuf>,

    /// Write the report to this file: .html, a page for a browser; .md, for a mail; .json, for programs and for --since;
    /// .sarif, for code review tools; may be given several times
    #[arg(long, value_name = "FILE", help_heading = "Outputs")]
    pub(crate) report: Vec<PathBuf>,

    /// Say what became of the findings of an earlier round: a report that --report wrote as .json
    ///
    /// Rows are followed by their key, or by their sound cells where there is none, never by their number.
    #[arg(long, value_name = "EARLIER.json")]
    pub(crate) since: Option<PathBuf>,

    /// Write a receipt for the ready rows, if the gate is open: which bytes passed, and by what they were judged
    #[arg(long, value_name = "FILE.json", requires = "ready", help_heading = "Outputs")]
    pub(crate) receipt: Option<PathBuf>,

    /// Sign the receipt with this private key: Ed25519, in PEM
    #[arg(long, value_name = "KEY.pem", requires = "receipt", help_heading = "Outputs")]
    pub(crate) signed_by: Option<PathBuf>,

    /// The form of the report on standard output
    #[arg(long, value_enum, default_value_t = CheckFormatArg::Text, help_heading = "Outputs")]
    pub(crate) format: CheckFormatArg,

    /// Overwrite existing outputs; never the input
    #[arg(long, help_heading = "Outputs")]
    pub(crate) force: bool,

    /// How many threads to use [default: one for each processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=256))]
    pub(crate) threads: Option<u16>,

    /// About how much memory to use, such as 64MiB: of files with very many rows, what is kept of each goes to the
    /// temporary folder beyond that
    #[arg(long, value_name = "SIZE", value_parser = memory, default_value = "1GiB")]
    pub(crate) memory: u64,

    #[command(flatten)]
    pub(crate) layout: LayoutArgs,
}

const EFFECTS_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate effects ward-3-survey.csv --record tree.record.toml --mode both \\
    --existing registry.db#tree
  tidy-gate effects ward-3-survey.csv --record tree.record.toml --mode both \\
    --existing registry.db#tree --rows changes.csv --most-changes 5%";

#[derive(Debug, Args)]
#[command(after_help = EFFECTS_EXAMPLES)]
pub(crate) struct EffectsArgs {
    #[command(flatten)]
    pub(crate) check: CheckArgs,

    /// Write every cell that would change, with its key, the old and the new value: .csv, .xlsx, .json or .ndjson
    #[arg(long, value_name = "FILE", help_heading = "Outputs")]
    pub(crate) rows: Option<PathBuf>,

    /// Write the keys of the records that are there and that the file does not speak of, of those the plan lets it change:
    /// the same forms
    #[arg(long, value_name = "FILE", help_heading = "Outputs")]
    pub(crate) missing: Option<PathBuf>,
}
