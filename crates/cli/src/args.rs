//! What can be typed: the commands and their options.

mod check;
mod layout;
mod mend;
mod receipt;
mod reconcile;
mod words;

use clap::{Args, Parser, Subcommand, ValueEnum};
use std::path::PathBuf;

pub(crate) use check::{CheckArgs, EffectsArgs};
pub(crate) use layout::{LayoutArgs, ShortRowsArg};
pub(crate) use mend::MendArgs;
pub(crate) use receipt::ReceiptArgs;
pub(crate) use reconcile::ReconcileArgs;
pub(crate) use words::{CheckFormatArg, ColorArg, FormatArg, ModeArg};

/// Checks prepared import files against a record schema, before any load runs.
#[derive(Debug, Parser)]
#[command(name = "tidy-gate", version, max_term_width = 100, arg_required_else_help = true)]
#[command(after_help = "Exit codes: 0 the gate is open, 1 the gate is shut, 2 the work could not be done, \
                        130 interrupted.\nStart with: tidy-gate demo")]
pub(crate) struct Cli {
    #[command(subcommand)]
    pub(crate) command: Command,

    /// Say nothing on standard output, and one line on standard error when the gate is shut
    #[arg(long, short, global = true, help_heading = "What is said")]
    pub(crate) quiet: bool,

    /// Say on standard error what is done and how long it takes; twice for more
    #[arg(long, short, global = true, action = clap::ArgAction::Count, help_heading = "What is said")]
    pub(crate) verbose: u8,

    /// When to use colours: auto, always or never; auto means on a terminal, unless NO_COLOR is set
    #[arg(long, global = true, value_enum, value_name = "WHEN", default_value_t = ColorArg::Auto, hide_possible_values = true, help_heading = "What is said")]
    pub(crate) color: ColorArg,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// May this file go through? The verdict, the reasons, the ready rows and the held rows
    Check(CheckArgs),
    /// Write a copy in which all is mended that needs no guess, and a log of it
    Mend(MendArgs),
    /// What loading the ready rows would do to the records that are there, field by field
    Effects(EffectsArgs),
    /// Whether these are the very rows that passed: held against the receipt of the check
    Receipt(ReceiptArgs),
    /// Whether all that was handed over has arrived: ready rows held against the records after the load
    Reconcile(ReconcileArgs),
    /// Draft a record schema from an export, a data dictionary, SQL, CSVW or JSON Schema
    Draft(DraftArgs),
    /// List or search the fields of a record schema, or hand it to other systems
    Fields(FieldsArgs),
    /// Write a sheet to fill: headings, help, drop-downs, the right formats
    Template(TemplateArgs),
    /// What a file holds: its layout, its columns, a few rows
    Peek(PeekArgs),
    /// Which column is which field, how sure that is, and a plan that keeps it
    Match(MatchArgs),
    /// What a finding means, why it matters, how to put it right
    Explain(ExplainArgs),
    /// Completions of commands and options for a shell, or the man pages
    Completions(CompletionsArgs),
    /// Write the demo data into a folder and walk through a check on it
    Demo(DemoArgs),
}

const PEEK_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate peek ward-7-survey.csv
  tidy-gate peek ward-7-survey.csv --record tree.record.toml --format json";

#[derive(Debug, Args)]
#[command(after_help = PEEK_EXAMPLES)]
pub(crate) struct PeekArgs {
    /// The file to look at: delimited text (also .gz or .zst), a workbook (XLSX, XLSB, XLS, ODS) or JSON; - reads
    /// standard input
    #[arg(value_name = "FILE")]
    pub(crate) file: PathBuf,

    /// A record schema: its headings help to find the table
    #[arg(long, short, value_name = "RECORD")]
    pub(crate) record: Option<PathBuf>,

    /// Read all of a large file instead of its beginning
    #[arg(long)]
    pub(crate) all: bool,

    /// How many of the first rows to show
    #[arg(long, value_name = "N", default_value_t = 5, value_parser = clap::value_parser!(u16).range(0..=100))]
    pub(crate) rows: u16,

    /// The form of what is shown
    #[arg(long, value_enum, default_value_t = FormatArg::Text)]
    pub(crate) format: FormatArg,

    #[command(flatten)]
    pub(crate) layout: LayoutArgs,
}

const DRAFT_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate draft ward-3-survey.csv --name tree -o tree-draft.record.toml
  tidy-gate draft register.sql --table tree -o tree-draft.record.toml";

#[derive(Debug, Args)]
#[command(after_help = DRAFT_EXAMPLES)]
pub(crate) struct DraftArgs {
    /// What to draft from: a sample or export (delimited text, workbook, JSON), a data dictionary with one row a field,
    /// SQL with CREATE TABLE, CSVW metadata, a JSON Schema, or a table of a database: FILE#TABLE of SQLite,
    /// env:VARIABLE#TABLE of PostgreSQL
    #[arg(value_name = "SOURCE")]
    pub(crate) source: PathBuf,

    /// Write the draft here, NAME.record.toml; without it, it goes to standard output
    #[arg(long, short, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,

    /// What the source is, where it is taken for something else
    #[arg(long = "as", value_enum, value_name = "SOURCE")]
    pub(crate) source_is: Option<SourceArg>,

    /// The table or record, where the source describes several
    #[arg(long, value_name = "NAME")]
    pub(crate) table: Option<String>,

    /// The technical name of the record [default: from the source]
    #[arg(long, value_name = "NAME")]
    pub(crate) name: Option<String>,

    /// Overwrite existing outputs; never the source
    #[arg(long)]
    pub(crate) force: bool,

    /// How many threads to use [default: one for each processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=256))]
    pub(crate) threads: Option<u16>,

    #[command(flatten)]
    pub(crate) layout: LayoutArgs,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum SourceArg {
    /// Rows of records
    Sample,
    /// One row a field
    Dictionary,
    /// SQL data definitions
    Sql,
    /// W3C CSVW metadata
    Csvw,
    /// JSON Schema of an object
    JsonSchema,
}

const FIELDS_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate fields tree.record.toml
  tidy-gate fields tree.record.toml girth
  tidy-gate fields tree.record.toml --format csvw -o tree.csv-metadata.json";

#[derive(Debug, Args)]
#[command(after_help = FIELDS_EXAMPLES)]
pub(crate) struct FieldsArgs {
    /// The record schema
    #[arg(value_name = "RECORD")]
    pub(crate) record: PathBuf,

    /// Words to search for in names, labels, other headings, help and permitted values; spelling may be near
    #[arg(value_name = "WORDS")]
    pub(crate) words: Vec<String>,

    /// The form of what is shown
    #[arg(long, value_enum, default_value_t = FieldsFormatArg::Text)]
    pub(crate) format: FieldsFormatArg,

    /// Write it to this file instead of standard output
    #[arg(long, short, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,

    /// Overwrite an existing output; never the record schema
    #[arg(long)]
    pub(crate) force: bool,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum FieldsFormatArg {
    /// For people; one field alone is shown whole
    Text,
    /// For programs: every field with all that is known of it
    Json,
    /// A table, one row a field; `draft` reads it again
    Csv,
    /// A page for people
    Markdown,
    /// W3C CSVW metadata of a table
    Csvw,
    /// JSON Schema of an object
    JsonSchema,
}

const TEMPLATE_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate template tree.record.toml -o tree-template.xlsx
  tidy-gate template tree.record.toml -o inspections.xlsx --fields tag_no,condition,inspected_on --mode update";

#[derive(Debug, Args)]
#[command(after_help = TEMPLATE_EXAMPLES)]
pub(crate) struct TemplateArgs {
    /// The record schema
    #[arg(value_name = "RECORD")]
    pub(crate) record: PathBuf,

    /// The sheet to write: .xlsx, or .csv with the headings alone
    #[arg(long, short, value_name = "FILE")]
    pub(crate) output: PathBuf,

    /// The fields of the sheet, by name, in this order [default: all that can be loaded]
    #[arg(long, value_name = "FIELDS", value_delimiter = ',')]
    pub(crate) fields: Vec<String>,

    /// What the sheet is for: which fields are required depends on it [default: add, or update with --existing]
    #[arg(long, value_enum)]
    pub(crate) mode: Option<ModeArg>,

    /// Fill the sheet with records that are there, to be changed: an export, FILE#TABLE of an SQLite database or
    /// env:VARIABLE#TABLE of PostgreSQL
    ///
    /// Keys are protected; a check of the sheet that comes back knows its mode, its fields and the condition.
    #[arg(long, value_name = "SOURCE")]
    pub(crate) existing: Option<String>,

    /// Of those records the ones for which this condition holds, such as "ward = 'W07'"
    #[arg(long = "where", value_name = "CONDITION", requires = "existing")]
    pub(crate) condition: Option<String>,

    /// Where the keys of a record come from that fields refer to, for drop-downs; may be given several times
    #[arg(long = "reference", value_name = "NAME=FILE:COLUMN")]
    pub(crate) references: Vec<String>,

    /// Put the examples of the record schema into the first row; a check leaves it out
    #[arg(long)]
    pub(crate) example: bool,

    /// Overwrite an existing output; never the record schema
    #[arg(long)]
    pub(crate) force: bool,
}

const MATCH_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate match ward-9-survey.csv --record tree.record.toml
  tidy-gate match ward-7-survey.csv --record tree.record.toml --leave-out Surveyor --save ward-7.plan.toml
  tidy-gate match ward-9-survey.csv --record tree.record.toml --values species";

#[derive(Debug, Args)]
#[command(after_help = MATCH_EXAMPLES)]
pub(crate) struct MatchArgs {
    /// The file whose columns are paired: delimited text, a workbook or JSON
    #[arg(value_name = "FILE")]
    pub(crate) file: PathBuf,

    /// The record schema with the fields
    #[arg(long, short, value_name = "RECORD")]
    pub(crate) record: Option<PathBuf>,

    /// The plan to begin with
    #[arg(long, short, value_name = "PLAN")]
    pub(crate) plan: Option<PathBuf>,

    /// Write the plan here, NAME.plan.toml; one that is there is changed, its comments and order stay
    #[arg(long, value_name = "PLAN")]
    pub(crate) save: Option<PathBuf>,

    /// Pair a column with a field; the column by its heading, or as @K by its letter
    #[arg(long = "set", value_name = "HEADING=FIELD", help_heading = "What to decide")]
    pub(crate) sets: Vec<String>,

    /// Leave a column out on purpose; by its heading, or as @K by its letter
    #[arg(long, value_name = "HEADING", help_heading = "What to decide")]
    pub(crate) leave_out: Vec<String>,

    /// A value for the blank cells of a field, or for a field without a column, when adding
    #[arg(long = "default", value_name = "FIELD=VALUE", help_heading = "What to decide")]
    pub(crate) defaults: Vec<String>,

    /// The keys that references are held against, NAME=FILE:COLUMN
    #[arg(long = "reference", value_name = "NAME=FILE:COLUMN", help_heading = "What to decide")]
    pub(crate) references: Vec<String>,

    /// List each different value of a field with what it is taken for; --save writes what is open into the plan
    #[arg(long, value_name = "FIELD", help_heading = "What to decide")]
    pub(crate) values: Vec<String>,

    /// Ask, column by column, what is not sure; on a terminal only
    #[arg(long, help_heading = "What to decide")]
    pub(crate) ask: bool,

    /// What loading the file would do to the target [default: the plan's, else add]
    #[arg(long, value_enum)]
    pub(crate) mode: Option<ModeArg>,

    /// Look at all of a large file instead of its beginning
    #[arg(long)]
    pub(crate) all: bool,

    /// The form of what is shown
    #[arg(long, value_enum, default_value_t = FormatArg::Text)]
    pub(crate) format: FormatArg,

    /// Overwrite a file at --save that is not the plan to begin with
    #[arg(long)]
    pub(crate) force: bool,

    #[command(flatten)]
    pub(crate) layout: LayoutArgs,
}

const EXPLAIN_EXAMPLES: &str = "\
Examples:
  tidy-gate explain               (lists every code)
  tidy-gate explain date-bad";

#[derive(Debug, Args)]
#[command(after_help = EXPLAIN_EXAMPLES)]
pub(crate) struct ExplainArgs {
    /// The code of a finding, such as date-bad, or a word of reports, such as round; all are listed without one
    #[arg(value_name = "CODE")]
    pub(crate) code: Option<String>,
}

const COMPLETIONS_EXAMPLES: &str = "\
Examples:
  tidy-gate completions bash > ~/.local/share/bash-completion/completions/tidy-gate
  tidy-gate completions man --to ~/.local/share/man/man1";

#[derive(Debug, Args)]
#[command(after_help = COMPLETIONS_EXAMPLES)]
pub(crate) struct CompletionsArgs {
    /// For which shell; `man` for the man pages
    #[arg(value_enum, value_name = "SHELL")]
    pub(crate) shell: ShellArg,

    /// The folder to write the man pages into
    #[arg(long, value_name = "FOLDER", required_if_eq("shell", "man"))]
    pub(crate) to: Option<PathBuf>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ShellArg {
    Bash,
    Zsh,
    Fish,
    #[value(name = "powershell")]
    PowerShell,
    /// Pages for `man`, one a command
    Man,
}

const DEMO_EXAMPLES: &str = "\
Examples:
  tidy-gate demo                  (writes into the folder tidy-gate-demo)
  tidy-gate demo trees";

#[derive(Debug, Args)]
#[command(after_help = DEMO_EXAMPLES)]
pub(crate) struct DemoArgs {
    /// The folder to write into
    #[arg(value_name = "FOLDER", default_value = "tidy-gate-demo")]
    pub(crate) folder: PathBuf,

    /// Overwrite files in the folder that are not the demo's own
    #[arg(long)]
    pub(crate) force: bool,
}

#[cfg(test)]
mod tests {
    use clap::CommandFactory;

    #[test]
    fn every_option_has_help_and_every_command_two_examples() {
        let command = super::Cli::command();
        command.clone().debug_assert();
        for sub in command.get_subcommands() {
            let examples = sub.get_after_help().map(ToString::to_string).unwrap_or_default();
            assert!(examples.matches("  tidy-gate ").count() >= 2, "{}", sub.get_name());
            for arg in sub.get_arguments() {
                assert!(
                    arg.get_help().is_some() || arg.is_global_set(),
                    "{} {}",
                    sub.get_name(),
                    arg.get_id()
                );
            }
        }
    }
}
