//! What `receipt` takes.

use super::words::FormatArg;
use clap::Args;
use std::path::PathBuf;

const RECEIPT_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate receipt ward-7-ready.csv --with ward-7-receipt.json
  tidy-gate receipt ward-7-ready.csv --with ward-7-receipt.json \\
    --input ward-7-answer.xlsx --plan ward-7-words.plan.toml --format json

Exit codes: 0 nothing that was judged differs, 1 something differs, 2 the work could not be done.";

#[derive(Debug, Args)]
#[command(after_help = RECEIPT_EXAMPLES)]
pub(crate) struct ReceiptArgs {
    /// The ready rows that are about to be loaded
    #[arg(value_name = "READY")]
    pub(crate) file: PathBuf,

    /// The receipt that the check wrote with --receipt
    #[arg(long = "with", value_name = "RECEIPT.json")]
    pub(crate) with: PathBuf,

    /// The public key that the receipt must be signed with: Ed25519, in PEM
    #[arg(long, value_name = "PUBLIC.pem")]
    pub(crate) trust: Option<PathBuf>,

    /// The file that was checked
    #[arg(long, value_name = "FILE")]
    pub(crate) input: Option<PathBuf>,

    /// The record schema, with the lists that it names
    #[arg(long, short, value_name = "RECORD")]
    pub(crate) record: Option<PathBuf>,

    /// The plan; the record schema that it names is judged too
    #[arg(long, short, value_name = "PLAN")]
    pub(crate) plan: Option<PathBuf>,

    /// The records that the target holds, as for a check; the record schema or the plan is needed to read them
    #[arg(long, value_name = "SOURCE")]
    pub(crate) existing: Option<String>,

    /// Ready rows that were handed over before and counted as there; may be given several times
    #[arg(long, value_name = "FILE")]
    pub(crate) released: Vec<PathBuf>,

    /// Where the keys of a record come from that fields refer to, as for a check; may be given several times
    #[arg(long = "reference", value_name = "NAME=FILE:COLUMN")]
    pub(crate) references: Vec<String>,

    /// The form of what is told on standard output
    #[arg(long, value_enum, default_value_t = FormatArg::Text)]
    pub(crate) format: FormatArg,
}
