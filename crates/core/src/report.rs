//! The report: what a check found, as data. Every renderer reads this and nothing else; as JSON it is the
//! report of format 1, whose keys never change their meaning.

use crate::catalogue::{Code, Level};
use crate::finding::{Finding, MASK, letter};
use crate::gate::{FIRST_OF_EACH, Gate, MOST_KEPT, ReadyField, WordCount};
use crate::headings::{How, Paired};
use crate::mode::Mode;
use crate::plan::Tolerance;
use crate::run::Outcome;
use crate::schema::RecordSchema;
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::BTreeMap;

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
    /// What of the file is not as the target writes it.
    pub to_rewrite: ToRewrite,
    /// Held rows that were written with U+FFFD where their bytes are no text.
    pub held_replaced: u64,
    /// Explanations that cover many findings.
    pub causes: Vec<CauseReport>,
    /// The findings counted, by code, level and field.
    pub totals: Vec<Total>,
    /// The first findings, in the order of row, column and code.
    pub findings: Vec<Finding>,
    /// How many findings are not among them.
    pub findings_left_out: u64,
    /// Fields whose values are not judged yet, with the reason.
    pub unjudged: Vec<Unjudged>,
    /// Whether the row that was taken for headings may be a record: it fits the fields of columns in their order.
    #[serde(skip)]
    pub headings_may_be_data: bool,
}

/// The program.
#[derive(Debug, Clone, Serialize, JsonSchema)]
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

/// An explanation that covers many findings.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct CauseReport {
    /// What kind of cause it is.
    pub code: String,
    /// The fields concerned.
    pub fields: Vec<String>,
    /// How many findings it covers.
    pub findings: u64,
    /// How many rows they stand in.
    pub rows: u64,
    /// The explanation.
    pub explanation: String,
    /// The one change that removes the findings.
    pub remedy: String,
    /// An example.
    pub sample: Option<String>,
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

impl Report {
    /// The report of a check.
    #[must_use]
    pub fn new(gate: &Gate, outcome: &Outcome, file: FileFacts, plan: Option<&str>, tool: Tool) -> Self {
        let mut kept: Vec<Finding> = outcome.kept.clone();
        kept.extend(gate.opening_of(&outcome.filled));
        let mut totals = totals(gate, outcome);
        // Rows that a plan leaves out are rows.
        let passed =
            outcome.counts.left_out - gate.table().left_out - u64::from(outcome.last_left_out.is_some());
        let is_empty = outcome.counts.records() == 0 && passed == 0;
        if is_empty && !gate.ends_work() {
            let empty = gate.table().placed(empty_file(gate));
            count_finding(&mut totals, &empty, None);
            kept.push(empty);
        }
        let totals: Vec<Total> = totals.into_values().collect();
        let sum = |level| totals.iter().filter(|total| total.level == level).map(|total| total.count).sum();
        let counts = ReportCounts {
            rows: outcome.counts.rows,
            held: outcome.counts.held,
            ready: outcome.counts.records() - outcome.counts.held,
            left_out: outcome.counts.left_out,
            stops: sum(Level::Stop),
            warns: sum(Level::Warn),
            notes: sum(Level::Note),
            records: outcome.records.map(|records| records.all),
            records_held: outcome.records.map(|records| records.held),
        };
        let all = counts.stops + counts.warns + counts.notes;
        let findings = shown(kept);
        let tolerate = gate.settings().plan.tolerate;
        // What holds no row of its own is tolerated by no number of rows.
        let is_of_none = |total: &Total| {
            matches!(total.code, Code::RowBlank | Code::BlankTail) && total.level == Level::Stop
        };
        let is_tolerated = !outcome.all_held
            && !is_empty
            && !totals.iter().any(is_of_none)
            && tolerate.covers(counts.held, outcome.counts.records());
        let is_open = counts.stops == 0 || is_tolerated;
        let schema = gate.schema();
        Self {
            format: 1,
            tool,
            gate: if is_open { Verdict::Open } else { Verdict::Shut },
            tolerate: plan.filter(|_| tolerate != Tolerance::default()).map(|_| tolerate.to_string()),
            mode: gate.settings().mode,
            today: gate.settings().today.to_string(),
            file,
            record: RecordFacts::of(schema),
            plan: plan.map(ToOwned::to_owned),
            later: Vec::new(),
            columns: columns(gate, &outcome.filled),
            filled: filled_by_defaults(gate, outcome),
            to_rewrite: to_rewrite(gate, outcome),
            held_replaced: 0,
            causes: Vec::new(),
            findings_left_out: all - findings.len() as u64,
            totals,
            findings,
            counts,
            unjudged: unjudged(gate),
            headings_may_be_data: gate.headings_may_be_data(),
        }
    }
}

fn filled_by_defaults(gate: &Gate, outcome: &Outcome) -> Vec<FilledReport> {
    let fill = |ready: ReadyField| {
        let field = gate.schema().fields.get(ready.field)?;
        let rows = match gate.pairing().column_of.get(ready.field).copied().flatten() {
            Some(column) => outcome.rewriting.get(column).map_or(0, |found| found.defaulted),
            None => outcome.counts.records(),
        };
        let value = ready.default.filter(|_| rows > 0)?;
        let value = if field.sensitive { MASK.to_owned() } else { value };
        Some(FilledReport { field: field.name.clone(), value, rows })
    };
    gate.ready_fields().into_iter().filter_map(fill).collect()
}

fn to_rewrite(gate: &Gate, outcome: &Outcome) -> ToRewrite {
    let mut found = ToRewrite::default();
    if gate.table().heading_row.is_some() {
        for ready in gate.ready_fields() {
            let column = gate.pairing().column_of.get(ready.field).copied().flatten();
            let heading = column.and_then(|column| gate.table().headings.get(column));
            let is_padded =
                column.and_then(|column| gate.table().padded.get(column)).copied().unwrap_or_default();
            found.headings +=
                u64::from(heading.is_some_and(|heading| is_padded || *heading != ready.heading));
        }
    }
    let is_handed_on = |column: usize| match gate.pairing().columns.get(column) {
        Some(Paired::Field { field, .. }) => {
            let is_read_only = gate.schema().fields.get(*field).is_some_and(|field| field.read_only);
            !is_read_only && gate.settings().plan.is_in_scope(*field)
        }
        _ => false,
    };
    for (column, rewriting) in outcome.rewriting.iter().enumerate() {
        if is_handed_on(column) {
            found.values += rewriting.unlike;
        } else {
            found.columns += u64::from(outcome.filled.get(column).is_some_and(|filled| *filled > 0));
        }
    }
    found
}

/// The fields that are not judged yet.
fn unjudged(gate: &Gate) -> Vec<Unjudged> {
    let fields = gate.schema().fields.iter();
    fields
        .filter_map(|field| Some(Unjudged { field: field.name.clone(), why: field.unjudged.clone()? }))
        .collect()
}

fn empty_file(gate: &Gate) -> Finding {
    let message = match gate.width() {
        0 => "the file holds no headings and no rows",
        _ => "the file holds headings, but no rows below them",
    };
    Finding::new(Code::FileEmpty, Level::Stop, message.to_owned())
}

type Totals = BTreeMap<Group, Total>;

/// Findings that are counted together: of one level, code, field, rule, and of the same several fields.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
struct Group {
    level: Level,
    code: Code,
    number: Option<usize>,
    field: Option<String>,
    rule: Option<String>,
    fields: Vec<String>,
}

fn totals(gate: &Gate, outcome: &Outcome) -> Totals {
    let mut totals = Totals::new();
    for (counted, tally) in outcome.tallies.iter() {
        let at = counted.column.checked_sub(1);
        let number = at.and_then(|column| match gate.pairing().columns.get(column) {
            Some(Paired::Field { field, .. }) => Some(*field),
            _ => None,
        });
        let first = Place {
            row: Some(tally.first).filter(|row| *row > 0),
            column: at.map(|column| column + 1),
            letter: at.filter(|_| !gate.table().is_records).map(letter),
        };
        let field = number.and_then(|field| gate.schema().fields.get(field)).map(|field| field.name.clone());
        let (rule, fields) = gate.made_by(&counted);
        let group = Group { level: counted.level, code: counted.code, number, field, rule, fields };
        add(&mut totals, group.clone(), tally.count, tally.rows, first);
        let words =
            at.filter(|column| !gate.is_sensitive(*column)).and_then(|column| outcome.words.get(column));
        if let (Some(words), Some(total)) = (words, totals.get_mut(&group)) {
            total.words = words.most_frequent(counted.code);
        }
    }
    for finding in gate.opening() {
        let number = finding.field.as_deref().and_then(|name| gate.schema().field(name));
        count_finding(&mut totals, finding, number);
    }
    totals
}

fn count_finding(totals: &mut Totals, finding: &Finding, number: Option<usize>) {
    let first = Place { row: finding.row, column: finding.column, letter: finding.letter.clone() };
    let group = Group {
        level: finding.level,
        code: finding.code,
        number,
        field: finding.field.clone(),
        rule: finding.rule.clone(),
        fields: finding.fields.clone(),
    };
    add(totals, group, 1, u64::from(finding.row.is_some()), first);
}

fn add(totals: &mut Totals, group: Group, count: u64, rows: u64, first: Place) {
    let Group { level, code, field, rule, fields, .. } = group.clone();
    totals
        .entry(group)
        .and_modify(|total| {
            total.count += count;
            total.rows += rows;
            if (first.row, first.column) < (total.first.row, total.first.column) {
                total.first = first.clone();
            }
        })
        .or_insert_with(|| Total { code, level, field, fields, rule, count, rows, first, words: Vec::new() });
}

/// The findings to show: the first of each code and field, then the first of all.
fn shown(mut kept: Vec<Finding>) -> Vec<Finding> {
    kept.sort_by(|a, b| {
        a.order()
            .cmp(&b.order())
            .then(a.level.cmp(&b.level))
            .then_with(|| a.fields.cmp(&b.fields))
            .then_with(|| a.field.cmp(&b.field))
    });
    if kept.len() <= MOST_KEPT {
        return kept;
    }
    let group = |finding: &Finding| (finding.code, finding.field.clone(), finding.rule.clone());
    let mut pairs: BTreeMap<_, usize> = BTreeMap::new();
    for finding in &kept {
        *pairs.entry(group(finding)).or_default() += 1;
    }
    let of_each = (MOST_KEPT / pairs.len().max(1)).min(FIRST_OF_EACH as usize);
    let mut seen: BTreeMap<_, usize> = BTreeMap::new();
    let mut is_first: Vec<bool> = Vec::with_capacity(kept.len());
    for finding in &kept {
        let count = seen.entry(group(finding)).or_default();
        *count += 1;
        is_first.push(*count <= of_each);
    }
    let mut room = MOST_KEPT.saturating_sub(is_first.iter().filter(|first| **first).count());
    let mut first = is_first.into_iter();
    kept.retain(|_| {
        first.next().unwrap_or_default() || {
            let fits = room > 0;
            room = room.saturating_sub(1);
            fits
        }
    });
    kept.truncate(MOST_KEPT);
    kept
}

/// In what a heading differs from the word by which it was paired.
fn but_for(gate: &Gate, column: usize) -> Option<String> {
    let Some(Paired::Field { field, how, exact }) = gate.pairing().columns.get(column) else { return None };
    let is_padded = gate.table().padded.get(column).copied().unwrap_or_default();
    if *exact {
        return is_padded.then(|| "a space beside it".to_owned());
    }
    let heading = gate.table().headings.get(column)?;
    let field = gate.schema().fields.get(*field)?;
    let words: Vec<&String> = match how {
        How::Name => vec![&field.name],
        How::Label => vec![&field.label],
        _ => field.also.iter().collect(),
    };
    let is_cased = words.iter().any(|word| word.to_lowercase() == heading.to_lowercase());
    Some(if is_cased { "case" } else { "punctuation" }.to_owned())
}

/// The columns and their fields; `filled` says how many cells of each hold something.
#[must_use]
pub fn columns(gate: &Gate, filled: &[u64]) -> Vec<ColumnReport> {
    let name =
        |field: &usize| gate.schema().fields.get(*field).map(|field| field.name.clone()).unwrap_or_default();
    let describe = |(index, paired): (usize, &Paired)| {
        let (field, how) = match paired {
            Paired::Field { field, how, .. } => (Some(name(field)), *how),
            Paired::Own | Paired::LeftOut => (None, How::LeftOut),
            Paired::Unknown { nearest } if !nearest.is_empty() => (None, How::Likeness),
            _ => (None, How::None),
        };
        let propose = |fields: &[usize], why: &str| {
            fields.iter().map(|field| Proposal { field: name(field), why: why.to_owned() }).collect()
        };
        let proposals = match paired {
            Paired::Unknown { nearest } => propose(nearest, "a heading like this one"),
            Paired::Unclear { fields } => propose(fields, "nearly this heading"),
            Paired::Shared { field, .. } => propose(&[*field], "claimed by several columns"),
            _ => Vec::new(),
        };
        ColumnReport {
            index: index + 1,
            letter: letter(index),
            heading: gate.table().headings.get(index).cloned().unwrap_or_default(),
            but_for: but_for(gate, index),
            sure: !matches!(how, How::None | How::Likeness | How::Content),
            field,
            how,
            proposals,
            filled: filled.get(index).copied().unwrap_or_default(),
        }
    };
    gate.pairing().columns.iter().enumerate().map(describe).collect()
}
