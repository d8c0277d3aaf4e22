//! What can be typed: the commands and their options.

mod layout;

use clap::{Args, Parser, Subcommand, ValueEnum};
use encoding_rs::Encoding;
use std::path::PathBuf;
use tidy_gate_core::mode::Mode;

/// Checks prepared import files against a record schema, before any load runs.
#[derive(Debug, Parser)]
#[command(name = "tidy-gate", version, max_term_width = 100, arg_required_else_help = true)]
#[command(after_help = "Exit codes: 0 the gate is open, 1 the gate is shut, 2 the work could not be done, \
                        130 interrupted.\nStart with: tidy-gate demo")]
pub(crate) struct Cli {
    #[command(subcommand)]
    pub(crate) command: Command,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// May this file go through? The verdict, the reasons, the ready rows and the held rows
    Check(CheckArgs),
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
    /// Write the demo data into a folder and walk through a check on it
    Demo(DemoArgs),
}

const CHECK_EXAMPLES: &str = "\
Examples, on the demo data (`tidy-gate demo` writes it):
  tidy-gate check ward-7-survey.csv --record tree.record.toml
  tidy-gate check ward-7-survey.csv --record tree.record.toml --ready ready.csv --held held.csv";

/// How the file is laid out.
#[derive(Debug, Clone, Default, Args)]
#[command(next_help_heading = "How the file is laid out (what is not stated is read off the file, and said)")]
pub(crate) struct LayoutArgs {
    /// The sheet of a workbook, by its name or its number
    #[arg(long, value_name = "SHEET")]
    pub(crate) sheet: Option<String>,

    /// The array of records in a JSON file, as a JSON Pointer such as /data/trees
    #[arg(long, value_name = "POINTER")]
    pub(crate) at: Option<String>,

    /// The row that holds the headings, as a spreadsheet counts
    #[arg(long, value_name = "ROW", value_parser = clap::value_parser!(u64).range(1..), conflicts_with = "by_position")]
    pub(crate) heading_row: Option<u64>,

    /// The first row of the data; rows between it and the headings are passed over
    #[arg(long, value_name = "ROW", value_parser = clap::value_parser!(u64).range(1..))]
    pub(crate) first_row: Option<u64>,

    /// The last row of the data; what follows is passed over
    #[arg(long, value_name = "ROW", value_parser = clap::value_parser!(u64).range(1..))]
    pub(crate) last_row: Option<u64>,

    /// What stands between cells: comma, semicolon, tab, pipe, space or any other character
    #[arg(long, value_name = "CHARACTER", value_parser = layout::delimiter, allow_hyphen_values = true)]
    pub(crate) delimiter: Option<u8>,

    /// The encoding, such as windows-1252, utf-16le or shift_jis
    #[arg(long, value_name = "NAME", value_parser = layout::encoding)]
    pub(crate) encoding: Option<&'static Encoding>,

    /// The file has no headings: its columns are the record's fields, in their order
    #[arg(long)]
    pub(crate) by_position: bool,

    /// What a row is whose last cells are missing: held, or filled up with blank cells, as some programs drop those
    /// [default: hold]
    #[arg(long, value_enum)]
    pub(crate) short_rows: Option<ShortRowsArg>,

    /// The longest row, and so the largest cell [default: 32MiB, at most 1GiB]
    #[arg(long, value_name = "SIZE", value_parser = layout::row_size)]
    pub(crate) max_row: Option<usize>,

    /// The most columns [default: 16384, at most 65534]
    #[arg(long, value_name = "N", value_parser = layout::columns)]
    pub(crate) max_columns: Option<usize>,

    /// How many times its size a packed file may unpack to, beyond 256 MiB [default: 200]; the text of a sheet a tenth of
    /// that, beyond 4 GiB
    #[arg(long, value_name = "TIMES", value_parser = clap::value_parser!(u64).range(1..))]
    pub(crate) max_expansion: Option<u64>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, ValueEnum)]
pub(crate) enum ShortRowsArg {
    /// The row is held: its cells may stand under the wrong headings
    #[default]
    Hold,
    /// The missing cells are blank
    Blank,
}

#[derive(Debug, Args)]
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

    /// The day that "today" means, as yyyy-MM-dd [default: the local date]
    #[arg(long, value_name = "DATE")]
    pub(crate) today: Option<String>,

    /// Write every finding to this file: .csv or .ndjson
    #[arg(long, value_name = "FILE", help_heading = "Outputs")]
    pub(crate) findings: Option<PathBuf>,

    /// Write the rows that may load, in the target's form: .csv, .xlsx, .json or .ndjson
    #[arg(long, value_name = "FILE", help_heading = "Outputs")]
    pub(crate) ready: Option<PathBuf>,

    /// Write the other rows as they came, each with its row and reasons; the same forms
    #[arg(long, value_name = "FILE", help_heading = "Outputs")]
    pub(crate) held: Option<PathBuf>,

    /// The form of the report on standard output
    #[arg(long, value_enum, default_value_t = FormatArg::Text, help_heading = "Outputs")]
    pub(crate) format: FormatArg,

    /// Overwrite existing outputs; never the input
    #[arg(long, help_heading = "Outputs")]
    pub(crate) force: bool,

    /// How many threads to use [default: one for each processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=256))]
    pub(crate) threads: Option<u16>,

    #[command(flatten)]
    pub(crate) layout: LayoutArgs,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ModeArg {
    /// Every row becomes a new record
    Add,
    /// Every row changes a record that is there
    Update,
    /// What is new is added, the rest updated
    Both,
}

impl From<ModeArg> for Mode {
    fn from(mode: ModeArg) -> Self {
        match mode {
            ModeArg::Add => Self::Add,
            ModeArg::Update => Self::Update,
            ModeArg::Both => Self::Both,
        }
    }
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum FormatArg {
    /// For people
    Text,
    /// For programs: the report of format 1
    Json,
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
    /// SQL with CREATE TABLE, CSVW metadata, or a JSON Schema
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

    /// What the sheet is for: which fields are required depends on it
    #[arg(long, value_enum, default_value_t = ModeArg::Add)]
    pub(crate) mode: ModeArg,

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
  tidy-gate match ward-7-survey.csv --record tree.record.toml --leave-out Surveyor --save ward-7.plan.toml";

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
    /// The code of a finding, such as date-bad; all codes are listed without one
    #[arg(value_name = "CODE")]
    pub(crate) code: Option<String>,
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
