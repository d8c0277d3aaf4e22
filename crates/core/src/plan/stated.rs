//! What a plan states, once it fits its record schema.

use crate::catalogue::{Code, Level};
use crate::condition::Condition;
use crate::headings::{ColumnName, OWN_HEADINGS, PlanColumn, is_own};
use crate::mode::Mode;
use crate::numerals::grouped;
use crate::schema::RecordSchema;
use crate::value::{
    DatePattern, FoldedWords, Marks, MomentPattern, MonthNames, PutWords, TimePattern, Truth, Zone,
};
use std::collections::BTreeMap;
use std::str::FromStr;
use std::sync::Arc;

/// A plan that fits its record schema.
#[derive(Debug, Clone, Default)]
pub struct Plan {
    /// What loading would do, where it is stated.
    pub mode: Option<Mode>,
    /// How the file is laid out, as far as it is stated.
    pub file: PlanFile,
    /// How cells are read.
    pub reading: Reading,
    /// The forms of dates, in the order in which they are tried.
    pub dates: Vec<DatePattern>,
    /// The forms of times.
    pub times: Vec<TimePattern>,
    /// The forms of days with times.
    pub moments: Vec<MomentPattern>,
    /// Where the records are that the target already holds.
    pub existing: Option<ExistingPlan>,
    /// Where the values of references come from.
    pub references: Vec<ReferencePlan>,
    /// How the cells of single fields are read, by the number of the field.
    pub reading_of: BTreeMap<usize, Reading>,
    /// The forms of dates of single fields.
    pub dates_of: BTreeMap<usize, Vec<DatePattern>>,
    /// The forms of days with times of single fields.
    pub moments_of: BTreeMap<usize, Vec<MomentPattern>>,
    /// The forms of times of single fields.
    pub times_of: BTreeMap<usize, Vec<TimePattern>>,
    /// The columns that it names.
    pub columns: Vec<PlanColumn>,
    /// Values for blank cells and fields without a column, by the number of the field.
    pub defaults: BTreeMap<usize, String>,
    /// Which of the rows with the same key stands.
    pub stands: Stands,
    /// What the file may change.
    pub scope: Option<ScopeOf>,
    /// How ready files are written.
    pub write: Writing,
    /// How many held rows the gate tolerates.
    pub tolerate: Tolerance,
    /// The levels of findings that it changes.
    pub levels: Vec<(Code, Level)>,
}

/// What holds records, as a plan names it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum SourcePlan {
    /// An export or another file, relative to the plan.
    File(String),
    /// An SQLite database, relative to the plan.
    Sqlite(String),
    /// A PostgreSQL database, by the variable that holds its URL; without a name the environment of its own programs
    /// says which one.
    Postgres(String),
}

impl SourcePlan {
    /// The key under which a plan names it, and the word that it has there.
    #[must_use]
    pub fn written(&self) -> (&'static str, String) {
        match self {
            Self::File(file) => ("file", file.clone()),
            Self::Sqlite(file) => ("sqlite", file.clone()),
            Self::Postgres(variable) if variable.is_empty() => ("postgres", String::new()),
            Self::Postgres(variable) => ("postgres", format!("env:{variable}")),
        }
    }

    /// The same from where files have the names that `name` gives.
    #[must_use]
    pub fn moved(&self, name: impl Fn(&str) -> String) -> Self {
        match self {
            Self::File(file) => Self::File(name(file)),
            Self::Sqlite(file) => Self::Sqlite(name(file)),
            Self::Postgres(variable) => Self::Postgres(variable.clone()),
        }
    }
}

/// Where the records are that the target already holds, and what becomes of rows that meet none.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ExistingPlan {
    /// What holds them.
    pub source: SourcePlan,
    /// The table of a database.
    pub table: Option<String>,
    /// A plan by which an export is read, relative to this one.
    pub plan: Option<String>,
    /// The columns of the source that are fields of another name.
    pub columns: Vec<(String, usize)>,
    /// Whether rows of an update are left out whose record is not there.
    pub leaves_unmatched: bool,
    /// Whether what a record has stays, and only its blank fields are filled.
    pub fills_only: bool,
    /// Files of rows that were handed over earlier and count as there, relative to the plan.
    pub released: Vec<String>,
}

/// Where the values of a reference come from: a column of a table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReferencePlan {
    /// The record.
    pub name: String,
    /// What holds them.
    pub source: SourcePlan,
    /// The sheet of a workbook.
    pub sheet: Option<String>,
    /// The table of a database.
    pub table: Option<String>,
    /// The heading of the column that holds the key.
    pub column: String,
    /// Columns whose values may stand for the key, if they are unique.
    pub also_by: Vec<String>,
}

/// How a file is laid out, as far as a plan states it.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct PlanFile {
    /// The sheet of a workbook.
    pub sheet: Option<String>,
    /// Where the array of records of a JSON file stands, as a JSON Pointer.
    pub at: Option<String>,
    /// The row that holds the headings.
    pub heading_row: Option<u64>,
    /// The first row of the data.
    pub first_row: Option<u64>,
    /// The last row of the data.
    pub last_row: Option<u64>,
    /// A row of the data that is an example, and no record.
    pub example_row: Option<u64>,
    /// What stands between cells: one character, or a word for it.
    pub delimiter: Option<String>,
    /// The encoding.
    pub encoding: Option<String>,
    /// Whether the file has no headings.
    pub by_position: Option<bool>,
    /// Whether cells missing at a row's end are blank.
    pub short_rows_are_blank: Option<bool>,
}

/// How the cells of a field are read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Reading {
    /// Words that count as blank, beside the empty cell.
    pub blank: FoldedWords,
    /// The word that empties a field.
    pub clear: Option<String>,
    /// The words for yes and no.
    pub truth: Truth,
    /// The marks of numbers, where they are stated.
    pub marks: Option<Marks>,
    /// Whether outer spaces are no matter.
    pub trim: bool,
    /// The names of months, where another language than English is stated.
    pub months: Option<Arc<MonthNames>>,
    /// The time zone of datetimes without an offset.
    pub zone: Option<Zone>,
    /// Words of the sender's, and what stands in their place.
    pub put: Option<Arc<PutWords>>,
}

impl Default for Reading {
    fn default() -> Self {
        Self {
            blank: FoldedWords::default(),
            clear: None,
            truth: Truth::default(),
            marks: None,
            trim: true,
            months: None,
            zone: None,
            put: None,
        }
    }
}

impl Reading {
    /// Whether the trimmed text is the word that empties a field.
    #[must_use]
    pub fn clears(&self, trimmed: &str) -> bool {
        self.clear.as_ref().is_some_and(|word| word.to_lowercase() == trimmed.to_lowercase())
    }

    /// What a plan puts in the place of a trimmed text.
    #[must_use]
    pub fn replaced(&self, trimmed: &str) -> Option<String> {
        self.put.as_ref()?.of(trimmed)
    }

    /// Whether a trimmed text counts as blank.
    #[must_use]
    pub fn is_blank(&self, trimmed: &str) -> bool {
        trimmed.is_empty() || !self.blank.is_empty() && self.blank.holds(trimmed)
    }
}

/// Which of the rows with the same key stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Stands {
    /// None: all are held.
    #[default]
    None,
    /// The first; the others are left out.
    First,
    /// The last.
    Last,
}

/// What a file may change.
#[derive(Debug, Clone, Default)]
pub struct ScopeOf {
    /// The fields, the key among them; nothing where all are.
    pub fields: Option<Vec<usize>>,
    /// The modes; nothing where all are.
    pub modes: Option<Vec<Mode>>,
    /// The condition on the records, and as it is written.
    pub condition: Option<(Condition, String)>,
    /// Whether rows outside are left out; else they are held.
    pub leaves_out: bool,
}

/// How ready files are written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Writing {
    /// Whether the headings are labels.
    pub labels: bool,
    /// Whether picklist values are labels.
    pub value_labels: bool,
    /// The form of dates, where it is stated.
    pub dates: Option<DatePattern>,
    /// What begins decimals.
    pub decimal_mark: char,
    /// What stands between cells.
    pub delimiter: u8,
    /// The encoding, by its name.
    pub encoding: String,
    /// An export of the target from which is taken over what is not stated, relative to the plan.
    pub like: Option<String>,
    /// The columns, where they are stated: the heading of each, and its field; a blank one has none.
    pub columns: Option<Vec<WrittenColumn>>,
    /// The words for yes and no, where they are others than `true` and `false`.
    pub truth: Option<(String, String)>,
    /// What ends a line.
    pub line_end: LineEnd,
    /// Whether every cell stands in quotes.
    pub quotes_all: bool,
    /// The keys that are stated, which no export overrides.
    pub stated: Vec<&'static str>,
}

/// A column of ready files.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct WrittenColumn {
    /// Its heading, where it is another than the field's.
    pub heading: Option<String>,
    /// Its field.
    pub field: Option<usize>,
}

/// What ends a line.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
#[expect(missing_docs, reason = "the names say it")]
pub enum LineEnd {
    #[default]
    Lf,
    CrLf,
    Cr,
}

impl Default for Writing {
    fn default() -> Self {
        Self {
            labels: false,
            value_labels: false,
            dates: None,
            decimal_mark: '.',
            delimiter: b',',
            encoding: "utf-8".to_owned(),
            like: None,
            columns: None,
            truth: None,
            line_end: LineEnd::Lf,
            quotes_all: false,
            stated: Vec::new(),
        }
    }
}

/// How many held rows the gate tolerates, ends included.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Tolerance {
    /// So many rows.
    Rows(u64),
    /// So many of a million rows.
    PerMillion(u64),
}

impl Default for Tolerance {
    fn default() -> Self {
        Self::Rows(0)
    }
}

impl Tolerance {
    /// Whether so many held rows of so many records are tolerated.
    #[must_use]
    pub fn covers(self, held: u64, records: u64) -> bool {
        match self {
            Self::Rows(most) => held <= most,
            Self::PerMillion(share) => {
                u128::from(held) * 1_000_000 <= u128::from(share) * u128::from(records)
            }
        }
    }
}

/// `2%` or `0.5 %`, with up to four digits after the point; a text without a percent sign is a number of rows.
impl FromStr for Tolerance {
    type Err = &'static str;

    fn from_str(text: &str) -> Result<Self, &'static str> {
        let fault = "neither a number such as 20 nor a share such as 2%";
        let text = text.trim();
        let Some(percent) = text.strip_suffix('%') else {
            return text.parse().map(Self::Rows).map_err(|_| fault);
        };
        let (whole, part) = percent.trim().split_once('.').unwrap_or((percent.trim(), ""));
        let is_plain = part.len() <= 4 && part.bytes().all(|byte| byte.is_ascii_digit());
        let share = is_plain.then(|| format!("{whole}{part:0<4}").parse().ok()).flatten();
        share.filter(|share| *share <= 1_000_000).map(Self::PerMillion).ok_or(fault)
    }
}

impl std::fmt::Display for Tolerance {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Rows(1) => f.write_str("1 row"),
            Self::Rows(rows) => write!(f, "{} rows", grouped(*rows)),
            Self::PerMillion(share) => {
                let text = format!("{}.{:04}", share / 10_000, share % 10_000);
                write!(f, "{}%", text.trim_end_matches('0').trim_end_matches('.'))
            }
        }
    }
}

impl Plan {
    /// The reading of a field's cells.
    #[must_use]
    pub fn reading(&self, field: usize) -> &Reading {
        self.reading_of.get(&field).unwrap_or(&self.reading)
    }

    /// The columns that it names, as they stand in a file of these headings: in one of held rows two of our own come
    /// first, and fields without a heading of their own are called by their names.
    #[must_use]
    pub fn columns_in(&self, headings: &[String]) -> Vec<PlanColumn> {
        if !is_own(headings) {
            return self.columns.clone();
        }
        if self.file.by_position == Some(true) {
            return Vec::new();
        }
        let moved = |column: &PlanColumn| match column.name {
            ColumnName::Place(place) => {
                PlanColumn { name: ColumnName::Place(place + OWN_HEADINGS.len()), ..column.clone() }
            }
            ColumnName::Heading(_) => column.clone(),
        };
        self.columns.iter().map(moved).collect()
    }

    /// How an export of the target is read that has no plan of its own: the words for yes and no may be the usual ones, or
    /// those of this plan.
    #[must_use]
    pub fn of_exports(&self) -> Self {
        let mut truth = Truth::default();
        truth.yes.join(&self.reading.truth.yes);
        truth.no.join(&self.reading.truth.no);
        if let Some((yes, no)) = &self.write.truth {
            truth.yes.join(&FoldedWords::new([yes]));
            truth.no.join(&FoldedWords::new([no]));
        }
        Self { reading: Reading { truth, ..Reading::default() }, ..Self::default() }
    }

    /// How ready rows that were written by this plan are read.
    #[must_use]
    pub fn of_ready_rows(&self) -> Self {
        let marks = Marks { decimal: self.write.decimal_mark, ..Marks::default() };
        let mut reading =
            Reading { clear: self.reading.clear.clone(), marks: Some(marks), ..Reading::default() };
        if let Some((yes, no)) = &self.write.truth {
            reading.truth = Truth { yes: FoldedWords::new([yes]), no: FoldedWords::new([no]) };
        }
        let columns = self.write.columns.iter().flatten().filter_map(|column| {
            let name = ColumnName::Heading(column.heading.clone().filter(|heading| !heading.is_empty())?);
            Some(PlanColumn { name, field: Some(column.field?) })
        });
        let columns = columns.collect();
        Self { reading, columns, dates: self.write.dates.iter().cloned().collect(), ..Self::default() }
    }

    /// Whether a field is in scope.
    #[must_use]
    pub fn is_in_scope(&self, field: usize) -> bool {
        let fields = self.scope.as_ref().and_then(|scope| scope.fields.as_ref());
        fields.is_none_or(|fields| fields.contains(&field))
    }

    /// The record schema as this plan has it: with its defaults.
    #[must_use]
    pub fn onto(&self, mut schema: RecordSchema) -> RecordSchema {
        for (field, default) in &self.defaults {
            if let Some(field) = schema.fields.get_mut(*field) {
                field.default = Some(default.clone());
            }
        }
        schema
    }

    /// The record schema with the plan's headings among those of its fields, for finding a table by its headings.
    #[must_use]
    pub fn widened(&self, mut schema: RecordSchema) -> RecordSchema {
        for column in &self.columns {
            if let (ColumnName::Heading(heading), Some(field)) = (&column.name, column.field)
                && let Some(field) = schema.fields.get_mut(field)
            {
                field.also.push(heading.clone());
            }
        }
        schema
    }
}
