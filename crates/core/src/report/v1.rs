//! The report of format 1: keys that never change their meaning, in types that nothing but the report is made of.

pub(crate) mod finding;

use crate::catalogue::{Code, Level};
use crate::causes::Cause;
use crate::effects::Effects;
use crate::finding::Finding;
use crate::gate::WordCount;
use crate::headings::How;
use crate::mode::Mode;
use crate::prints::{Basis, Fingerprints, Since};
use crate::schema::RecordSchema;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

pub use finding::FindingReport;

/// A report of format 1.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct Report {
    /// The version of the report's format: 1.
    pub format: u32,
    /// What made the report.
    pub tool: Tool,
    /// The verdict.
    pub gate: Verdict,
    /// What loading would do.
    pub mode: Mode,
    /// The day of the run, which "today" means.
    pub today: String,
    /// What was read.
    pub file: FileFacts,
    /// The record schema it was judged by.
    pub record: RecordFacts,
    /// The plan, if there was one.
    pub plan: Option<String>,
    /// The held rows with which the gate still opens, where the plan states them: a share or a number.
    pub tolerate: Option<String>,
    /// What the plan asks for that is not done: nothing, since such a plan is refused.
    pub later: Vec<String>,
    /// How many rows and findings there are.
    pub counts: ReportCounts,
    /// Every column and its field.
    pub columns: Vec<ColumnReport>,
    /// Fields that defaults fill.
    pub filled: Vec<FilledReport>,
    /// Words of the file that the plan replaces, and what they became.
    pub translated: Vec<TranslatedReport>,
    /// What of the file is not as the target writes it.
    pub to_rewrite: ToRewrite,
    /// Held rows that were written with U+FFFD where their bytes are no text.
    pub held_replaced: u64,
    /// Explanations that cover many findings.
    pub causes: Vec<Cause>,
    /// How many findings of each of the totals causes explain, in their order.
    #[serde(skip)]
    pub explained: Vec<u64>,
    /// The findings counted, by code, level and field.
    pub totals: Vec<Total>,
    /// The first findings, in the order of row, column and code.
    #[serde(serialize_with = "finding::told")]
    #[schemars(with = "Vec<FindingReport<'static>>")]
    pub findings: Vec<Finding>,
    /// How many findings are not among them.
    pub findings_left_out: u64,
    /// What loading the ready rows would do, where existing records are known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub effects: Option<Effects>,
    /// What became of an earlier report, where one was named.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub since: Option<Since>,
    /// What the file was judged by, where a report file was asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub basis: Option<Basis>,
    /// The marks of findings and rows, by which a later report follows them.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fingerprints: Option<Fingerprints>,
    /// Fields whose values are not judged yet, with the reason.
    pub unjudged: Vec<Unjudged>,
    /// Where the cells of findings stand in a text, by the findings' numbers; where marks are made.
    #[serde(skip)]
    pub regions: BTreeMap<usize, Region>,
    /// Whether the row that was taken for headings may be a record: it fits the fields of columns in their order.
    #[serde(skip)]
    pub headings_may_be_data: bool,
}

/// Where a cell stands in a text, seen from the line on which its row begins.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Region {
    /// How many lines below it begins, and with which character of that line, from 1.
    pub start: (u64, u64),
    /// The same of its end, behind the last character.
    pub end: (u64, u64),
}

/// The program.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Tool {
    /// Its name.
    pub name: String,
    /// Its version.
    pub version: String,
}

/// Whether the file may be loaded.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Verdict {
    /// It may.
    Open,
    /// It may not.
    Shut,
}

/// What was read.
#[derive(Debug, Clone, Default, Serialize, JsonSchema)]
pub struct FileFacts {
    /// The file's name.
    pub name: String,
    /// Its size.
    pub bytes: u64,
    /// The SHA-256 of its bytes in hexadecimal digits, where a report file or a receipt was asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub sha256: Option<String>,
    /// Its form: csv for all delimited text.
    pub form: String,
    /// The sheet, in a workbook.
    pub sheet: Option<String>,
    /// The encoding, by its WHATWG name in lower case.
    pub encoding: Option<String>,
    /// The delimiter.
    pub delimiter: Option<String>,
    /// The row that holds the headings.
    pub heading_row: Option<u64>,
    /// The first row behind them.
    pub first_row: Option<u64>,
}

/// The record schema.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct RecordFacts {
    /// The record's technical name.
    pub name: String,
    /// The name people use.
    pub label: String,
    /// The schema's version.
    pub version: Option<String>,
}

/// How many there are.
#[derive(Debug, Clone, Default, Serialize, JsonSchema)]
pub struct ReportCounts {
    /// Rows read.
    pub rows: u64,
    /// Rows that may load.
    pub ready: u64,
    /// Rows with a stop.
    pub held: u64,
    /// Rows that are no records.
    pub left_out: u64,
    /// Findings that hold.
    pub stops: u64,
    /// Findings to look at.
    pub warns: u64,
    /// Findings to know of.
    pub notes: u64,
    /// Records, where several rows make one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub records: Option<u64>,
    /// Records with a stop in any of their rows, where several rows make one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub records_held: Option<u64>,
}

/// One column of the file.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct ColumnReport {
    /// Its number, from 1.
    pub index: usize,
    /// Its letter, as a spreadsheet shows it.
    pub letter: String,
    /// Its heading.
    pub heading: String,
    /// The name of its field.
    pub field: Option<String>,
    /// By what it was paired.
    pub how: How,
    /// Whether the pairing is sure.
    pub sure: bool,
    /// In what the heading differs from the word it was paired by, where the target may mind.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub but_for: Option<String>,
    /// Likely fields of a column without one.
    pub proposals: Vec<Proposal>,
    /// How many of its cells hold something.
    pub filled: u64,
}

/// A field that a default fills.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct FilledReport {
    /// The field's name.
    pub field: String,
    /// The default.
    pub value: String,
    /// In how many rows.
    pub rows: u64,
}

/// A word that the plan replaces.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct TranslatedReport {
    /// The field's name.
    pub field: String,
    /// The word, as it stands in the file.
    pub from: String,
    /// What stands in its place; nothing where the cell is blank then.
    pub to: String,
    /// How often.
    pub count: u64,
}

/// What of the file is not as the target writes it: ready rows carry it otherwise.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct ToRewrite {
    /// Headings of paired columns that are other words than the target's.
    pub headings: u64,
    /// Values in another form: labels and other words of picklists, dates, marks of numbers, words for yes and blank.
    pub values: u64,
    /// Columns that are left out.
    pub columns: u64,
}

impl ToRewrite {
    /// Whether the file is as the target writes it.
    #[must_use]
    pub const fn is_nothing(&self) -> bool {
        self.headings == 0 && self.values == 0 && self.columns == 0
    }
}

/// A field that a column may belong to.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct Proposal {
    /// The field's name.
    pub field: String,
    /// Why it is likely.
    pub why: String,
}

/// The findings of one code, level and field.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Total {
    /// The code.
    pub code: Code,
    /// The level.
    pub level: Level,
    /// The field's name.
    pub field: Option<String>,
    /// The names of the fields, where several are concerned.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub fields: Vec<String>,
    /// The name of the rule, block or combination that made the findings.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rule: Option<String>,
    /// How many findings there are.
    pub count: u64,
    /// How many rows they stand in.
    pub rows: u64,
    /// Where the first one stands.
    pub first: Place,
    /// The most frequent of the wrong words, where the code is about words and there are several.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub words: Vec<WordCount>,
}

/// A place in the file.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Place {
    /// The row.
    pub row: Option<u64>,
    /// The column, from 1.
    pub column: Option<usize>,
    /// The column's letter.
    pub letter: Option<String>,
}

/// A field that is not judged yet.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct Unjudged {
    /// The field's name.
    pub field: String,
    /// What of it is not judged.
    pub why: String,
}

impl RecordFacts {
    /// Of a record schema.
    #[must_use]
    pub fn of(schema: &RecordSchema) -> Self {
        let RecordSchema { record, label, version, .. } = schema;
        Self { name: record.clone(), label: label.clone(), version: version.clone() }
    }
}
