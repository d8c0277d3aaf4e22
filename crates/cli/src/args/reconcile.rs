//! What `reconcile` takes.

use super::words::{FormatArg, ModeArg};
use clap::Args;
use std::path::PathBuf;

const RECONCILE_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate reconcile ward-3-ready.csv --record tree.record.toml --mode update \\
    --existing registry-after.csv
  tidy-gate reconcile ward-3-ready.csv --record tree.record.toml --mode update \\
    --existing registry.db#tree --rows not-arrived.csv";

#[derive(Debug, Args)]
#[command(after_help = RECONCILE_EXAMPLES)]
pub(crate) struct ReconcileArgs {
    /// The ready rows that were handed over and loaded
    #[arg(value_name = "READY")]
    pub(crate) file: PathBuf,

    /// The record schema
    #[arg(long, short, value_name = "RECORD")]
    pub(crate) record: Option<PathBuf>,

    /// The plan by which the ready rows were written; it may name the record schema and the records
    #[arg(long, short, value_name = "PLAN")]
    pub(crate) plan: Option<PathBuf>,

    /// What the load did [default: as the plan says, or add]: when adding, a blank cell is a blank field
    #[arg(long, value_enum, value_name = "MODE")]
    pub(crate) mode: Option<ModeArg>,

    /// The records after the load: an export, FILE#TABLE of an SQLite database or env:VARIABLE#TABLE of PostgreSQL
    #[arg(long, value_name = "SOURCE")]
    pub(crate) existing: Option<String>,

    /// Write every record that is missing and every value that differs: .csv, .xlsx, .json or .ndjson
    #[arg(long, value_name = "FILE", help_heading = "Outputs")]
    pub(crate) rows: Option<PathBuf>,

    /// The form of what is told on standard output
    #[arg(long, value_enum, default_value_t = FormatArg::Text, help_heading = "Outputs")]
    pub(crate) format: FormatArg,

    /// Overwrite an existing output; never what is read
    #[arg(long, help_heading = "Outputs")]
    pub(crate) force: bool,

    /// How many threads to use [default: one for each processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=256))]
    pub(crate) threads: Option<u16>,
}
