//! The gate: a record schema, a file's headings and the settings of a run, compiled once; then every block
//! of rows is judged by it, in any order and on any thread.

mod alike;
pub(crate) mod cells;
mod content;
mod dates;
mod decided;
mod defaults;
mod describe;
mod evidence;
mod fast;
mod judge;
mod keyset;
mod lines;
mod memo;
mod numbers;
mod opening;
mod passed;
mod program;
mod quick;
mod repeat;
mod row_rules;
mod rows;
mod total;
mod ways;
mod wording;
mod words;
mod wordset;
mod writing;

pub(crate) use content::is_of_another_kind;
pub use content::{Contents, FieldProbe, Fit};
pub use decided::{DECIDED, Decided, DecidedField};
pub use evidence::Votes;
pub use judge::{Counted, Judge, Judged, Rewriting, Tallies, Tally};
pub(crate) use judge::{FIRST_OF_EACH, MOST_KEPT};
pub(crate) use keyset::Confirm;
pub use keyset::{RepeatGroup, Repeats, SuspectRow, Suspects};
pub use lines::RecordRows;
pub(crate) use opening::at_heading;
pub use rows::{ReadyField, RowView, RowsOf};
pub(crate) use total::Ending;
pub use wording::grouped;
pub use words::Words;

use crate::catalogue::{Code, Level, entry};
use crate::condition::Condition;
use crate::finding::Finding;
use crate::headings::{Paired, Pairing, by_position, is_own, pair};
use crate::plan::{Plan, PlanPairing, Reading};
use crate::scan::Dialect;
use crate::schema::{Field, RecordSchema, References, Required, Rule};
use crate::value::{Date, DatePattern};
use keyset::KeySet;
pub(crate) use passed::Passed;
use program::Program;
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::BTreeMap;
use std::sync::Arc;
use wordset::WordSet;

/// What loading the file would do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Mode {
    /// Every row becomes a new record.
    #[default]
    Add,
    /// Every row changes a record that is there.
    Update,
    /// What is new is added, the rest updated.
    Both,
}

impl Mode {
    /// The word for it.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Add => "add",
            Self::Update => "update",
            Self::Both => "both",
        }
    }

    /// Whether a row is judged as an addition.
    #[must_use]
    pub const fn adds(self) -> bool {
        !matches!(self, Self::Update)
    }
}

/// What a run states beside the record schema.
#[derive(Debug, Clone)]
pub struct Settings {
    /// What loading would do.
    pub mode: Mode,
    /// Date forms stated for the file.
    pub dates: Vec<DatePattern>,
    /// The day of the run.
    pub today: Date,
    /// The plan; an empty one where there is none.
    pub plan: Plan,
    /// The keys that references are held against, by the name of their record.
    pub references: BTreeMap<String, Arc<References>>,
}

impl Settings {
    /// Without a plan and without stated forms.
    #[must_use]
    pub fn plain(mode: Mode, today: Date) -> Self {
        Self { mode, dates: Vec::new(), today, plan: Plan::default(), references: BTreeMap::new() }
    }
}

/// The headings of a table, where they stand and how they were found.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Table {
    /// The headings, trimmed; blank ones where there is no heading row.
    pub headings: Vec<String>,
    /// The row that holds them; nothing where columns pair by their position.
    pub heading_row: Option<u64>,
    /// The physical line on which that row begins.
    pub heading_line: u64,
    /// The first row that can be a record.
    pub first_row: u64,
    /// How its cells are marked.
    pub dialect: Dialect,
    /// What is to be said of how the table was read.
    pub notices: Vec<Finding>,
    /// How many rows below the headings are no records.
    pub left_out: u64,
    /// A row below the first that is an example, as a plan says, and no record.
    pub example_row: Option<u64>,
    /// Whether the last row is left out if it is a total.
    pub seeks_total: bool,
    /// Whether cells that are missing at a row's end are blank; else the row is held.
    pub short_rows_are_blank: bool,
    /// The sheet, where the table was made from one: its rows end with their last cell, and have no physical lines.
    pub sheet: Option<String>,
    /// The cells of some of the first rows, trimmed: they show how columns are written.
    pub sample: Vec<Vec<String>>,
    /// Whether the rows are records without a sheet: they count from 1 and have no letters.
    pub is_records: bool,
    /// Whether the heading row is like the rows below it.
    pub headings_may_be_data: bool,
    /// Headings with spaces around them in the file.
    pub padded: Vec<bool>,
    /// What was decided of the file of which these rows are a part.
    pub decided: Decided,
    /// Of records that stand one a line: the rows at which the line is another than counting on would give.
    pub record_lines: Option<Arc<[(u64, u64)]>>,
}

impl Table {
    /// A finding with the places that there are in such a table.
    pub(crate) fn placed(&self, mut finding: Finding) -> Finding {
        finding.sheet.clone_from(&self.sheet);
        if self.sheet.is_some() || self.is_records {
            finding.line = finding.row.and_then(|row| self.line_of(row));
        }
        if self.is_records {
            (finding.letter, finding.row) = (None, finding.row.filter(|row| *row > 0));
        }
        finding
    }

    /// The physical line of a record that stands on a line of its own.
    fn line_of(&self, row: u64) -> Option<u64> {
        let lines = self.record_lines.as_ref().filter(|_| row > 0)?;
        let at = lines.partition_point(|known| known.0 <= row);
        let known = at.checked_sub(1).and_then(|at| lines.get(at)).copied().unwrap_or((1, 1));
        Some(known.1 + (row - known.0))
    }

    /// A table with its headings in the first row.
    #[must_use]
    pub fn with_headings(headings: Vec<String>) -> Self {
        Self { headings, heading_row: Some(1), heading_line: 1, first_row: 2, ..Self::default() }
    }
}

/// Everything a block is judged by.
#[derive(Debug)]
pub struct Gate {
    schema: RecordSchema,
    settings: Settings,
    table: Table,
    pairing: Pairing,
    columns: Vec<Column>,
    keysets: Vec<KeySet>,
    /// A column that is seldom blank.
    probe: usize,
    opening: Vec<Finding>,
    /// The level that the plan gives to each code, in the order of codes.
    levels: Vec<Option<Level>>,
    /// What is asked of whole rows, if anything is.
    rules: Option<row_rules::RowRules>,
    /// Rows that are passed over, since another with the same key stands.
    passed: Option<Passed>,
    /// How several rows make a record, where they do.
    lines: Option<lines::Lines>,
    /// The columns by which likely duplicates are suspected.
    alike_probes: Vec<usize>,
}

/// A column and what is asked of it.
#[derive(Debug)]
struct Column {
    field: Option<usize>,
    program: Program,
    /// What a blank cell is, if it is a finding.
    blank: Option<(Code, Level)>,
    /// Suspicions that are not wanted.
    ignore: Vec<Code>,
    /// How its cells are read.
    reading: Reading,
    /// Whether a cell may empty the field.
    may_clear: bool,
    /// Cells that may be blank or emptying words.
    guard: Option<fast::Guard>,
    /// In what form its values are handed on.
    form: rows::Form,
    /// Of the words that are known without a closer look, those that stand so in the target.
    standing: Option<WordSet>,
    /// Whether what is plainly sound stands in another form than the target's.
    fast_is_unlike: bool,
    /// What fills its blank cells, in standard form.
    default: Option<String>,
    /// Whether conditions ask for its values.
    is_asked: bool,
}

impl Gate {
    /// Compiles the gate.
    #[must_use]
    pub fn new(schema: RecordSchema, settings: Settings, table: Table) -> Self {
        let schema = settings.plan.onto(schema);
        let settings = table.decided.onto(settings, &schema);
        let planned = PlanPairing::new(&settings.plan.columns_in(&table.headings), &table.headings);
        let pairing = match table.heading_row {
            None => by_position(table.headings.len(), schema.fields.len(), &planned),
            Some(_) => pair(&table.headings, &schema.fields, &planned),
        };
        let mut columns: Vec<_> = pairing
            .columns
            .iter()
            .map(|paired| match paired {
                Paired::Field { field, .. } => Column::of(*field, &schema, &settings),
                _ => Column::free(),
            })
            .collect();
        if is_own(&table.headings) || table.is_records {
            // Texts in a workbook of ours are what they were before.
            columns.iter_mut().for_each(|column: &mut Column| column.ignore.push(Code::NumberAsText));
        }
        let varies = |column: usize| {
            let program = columns.get(column).map(|column: &Column| &column.program);
            matches!(
                program,
                Some(
                    Program::Free
                        | Program::Text { places: None, .. }
                        | Program::Email { .. }
                        | Program::Url { .. }
                        | Program::Phone { .. }
                )
            )
        };
        let keysets = keyset::keysets(&schema, settings.mode, &pairing.column_of, &varies);
        let probe = columns.iter().position(|column| matches!(column.blank, Some((Code::KeyBlank, _))));
        let probe = probe.or_else(|| columns.iter().position(|column| column.blank.is_some())).unwrap_or(0);
        let stated = &settings.plan.levels;
        let level = |code: &Code| stated.iter().find(|stated| stated.0 == *code).map(|stated| stated.1);
        let levels = Code::ALL.iter().map(level).collect();
        let mut gate = Self {
            schema,
            settings,
            table,
            pairing,
            columns,
            keysets,
            probe,
            opening: Vec::new(),
            levels,
            rules: None,
            passed: None,
            lines: None,
            alike_probes: Vec::new(),
        };
        let alike = gate.keysets.iter().find(|keyset| keyset.is_alike());
        gate.alike_probes = alike.map(|keyset| alike::probes(keyset, &gate.table.sample)).unwrap_or_default();
        gate.lines = lines::Lines::of(&gate.schema, &gate.pairing.column_of);
        gate.guess_ways();
        gate.drop_unlikely();
        gate.rules = row_rules::RowRules::of(&gate);
        gate.opening = opening::findings(&gate);
        gate
    }

    /// The record schema.
    #[must_use]
    pub fn schema(&self) -> &RecordSchema {
        &self.schema
    }

    /// The settings.
    #[must_use]
    pub fn settings(&self) -> &Settings {
        &self.settings
    }

    /// The headings.
    #[must_use]
    pub fn table(&self) -> &Table {
        &self.table
    }

    /// Which column belongs to which field.
    #[must_use]
    pub fn pairing(&self) -> &Pairing {
        &self.pairing
    }

    /// What is known before any row is judged, in the order of findings.
    #[must_use]
    pub fn opening(&self) -> &[Finding] {
        &self.opening
    }

    /// The same, with how many values stand in columns whose field another column took.
    #[must_use]
    pub fn opening_of(&self, filled: &[u64]) -> Vec<Finding> {
        let told = |finding: &Finding| {
            let mut finding = finding.clone();
            let column = finding.column.and_then(|column| column.checked_sub(1));
            let is_taken =
                |column: &usize| matches!(self.pairing.columns.get(*column), Some(Paired::Taken { .. }));
            if let Some(filled) = column.filter(is_taken).and_then(|column| filled.get(column)) {
                let values = wording::counted(*filled, "value", "values");
                finding.message = format!("{}; it holds {values}", finding.message);
            }
            finding
        };
        self.opening.iter().map(told).collect()
    }

    /// Whether a file must have a column for a field: it belongs to the key, or is needed in this mode and has no
    /// default.
    #[must_use]
    pub fn is_needed(&self, number: usize) -> bool {
        let Some(field) = self.schema.fields.get(number) else { return false };
        let is_stop = blank_level(field, self.settings.mode) == Some(Level::Stop) && !field.read_only;
        self.schema.is_keyed(number) || is_stop
    }

    /// Whether every row is held, whatever is in it.
    #[must_use]
    pub fn holds_all(&self) -> bool {
        self.opening.iter().any(|finding| finding.level == Level::Stop)
    }

    /// Whether rows are compared with each other.
    #[must_use]
    pub fn compares_rows(&self) -> bool {
        !self.keysets.is_empty()
    }

    /// The number of columns.
    #[must_use]
    pub fn width(&self) -> usize {
        self.columns.len()
    }

    /// The heading of a column, in a table that has some.
    pub(crate) fn heading(&self, column: usize) -> Option<String> {
        self.table.heading_row.and_then(|_| self.table.headings.get(column).cloned())
    }

    /// The column of a field.
    fn column_of(&self, field: usize) -> Option<usize> {
        self.pairing.column_of.get(field).copied().flatten()
    }

    /// The field of a column.
    fn field(&self, column: usize) -> Option<&Field> {
        self.columns
            .get(column)
            .and_then(|column| column.field)
            .and_then(|field| self.schema.fields.get(field))
    }

    /// The level that a code has in a column.
    fn level(&self, code: Code, column: usize) -> Level {
        let natural = entry(code).level;
        let Some(column) = self.columns.get(column) else { return self.told_level(code, natural) };
        let natural = match (code, &column.program) {
            (Code::OffList, program) => {
                let list = program.list().and_then(|list| self.schema.picklists.get(list));
                if list.is_some_and(|list| list.open) { Level::Warn } else { natural }
            }
            // What is left out of the load holds nothing back.
            (Code::EncodingDoubt, _) if column.field.is_none() => Level::Warn,
            _ => natural,
        };
        self.told_level(code, natural)
    }

    /// The level at which a finding is told: the plan may raise it, and lower some.
    pub(crate) fn told_level(&self, code: Code, natural: Level) -> Level {
        match self.levels.get(code as usize).copied().flatten() {
            // The gravest level is the least of the three.
            Some(stated) if stated < entry(code).level => natural.min(stated),
            Some(stated) if stated > entry(code).level => natural.max(stated),
            _ => natural,
        }
    }

    /// A finding at the level at which it is told.
    pub(crate) fn told(&self, finding: Finding) -> Finding {
        Finding { level: self.told_level(finding.code, finding.level), ..finding }
    }

    /// What makes a row one that the file may change, if the plan says so.
    fn scope_condition(&self) -> Option<&Condition> {
        self.settings.plan.scope.as_ref()?.condition.as_ref().map(|condition| &condition.0)
    }

    /// Whether rows that the file may not change are left out.
    fn leaves_out(&self) -> bool {
        self.settings.plan.scope.as_ref().is_some_and(|scope| scope.condition.is_some() && scope.leaves_out)
    }

    /// Whether the row that was taken for headings may be a record: it names no field, and is like those below it.
    #[must_use]
    pub fn headings_may_be_data(&self) -> bool {
        let is_paired = |paired: &Paired| matches!(paired, Paired::Field { .. } | Paired::Shared { .. });
        self.table.headings_may_be_data && !self.pairing.columns.iter().any(is_paired)
    }

    /// Whether the work ends before any row is judged.
    #[must_use]
    pub fn ends_work(&self) -> bool {
        let ends = |code| matches!(code, Code::SheetUnclear | Code::FieldOutOfScope | Code::ModeOutOfScope);
        self.opening.iter().any(|finding| ends(finding.code))
    }

    /// Whether the column's values are masked.
    pub(crate) fn is_sensitive(&self, column: usize) -> bool {
        self.field(column).is_some_and(|field| field.sensitive)
    }
}

impl Gate {
    /// The columns of which one must hold a value: in a record without a key those that have a field, so that what
    /// stands beside them makes no empty record. None where any will do.
    pub(crate) fn needed_columns(&self) -> Vec<usize> {
        let all = || self.columns.iter().enumerate();
        if !self.schema.key.is_empty() || all().all(|(_, column)| column.field.is_some()) {
            return Vec::new();
        }
        all().filter(|(_, column)| column.field.is_some()).map(|(number, _)| number).collect()
    }
}

impl Column {
    /// Whether a trimmed text counts as blank: so does one of separators alone, where there may be several values.
    fn is_blank(&self, trimmed: &str) -> bool {
        self.reading.is_blank(trimmed) || self.program.holds_no_value(trimmed)
    }

    /// A column that is left out: nothing is asked of it.
    fn free() -> Self {
        Self {
            field: None,
            program: Program::Free,
            blank: None,
            ignore: Vec::new(),
            reading: Reading::default(),
            may_clear: true,
            guard: None,
            form: rows::Form::Standard,
            standing: None,
            fast_is_unlike: false,
            default: None,
            is_asked: false,
        }
    }

    fn of(number: usize, schema: &RecordSchema, settings: &Settings) -> Self {
        let Some(field) = schema.fields.get(number).filter(|field| !field.read_only) else {
            return Self::free();
        };
        let is_key = schema.is_keyed(number);
        let blank = if is_key {
            Some((Code::KeyBlank, Level::Stop))
        } else {
            blank_level(field, settings.mode).map(|level| (Code::RequiredBlank, level))
        };
        let reading = settings.plan.reading(number).clone();
        let program = Program::of(field, schema, settings, &reading);
        let clear = reading.clear.as_ref().map(|word| word.to_lowercase());
        let form = rows::Form::of(field, &settings.plan.write);
        let standing = match &program {
            Program::Boolean { truth, .. } => {
                let words = ["true", "false"].into_iter().filter(|word| truth.read(word).is_some());
                Some(WordSet::new(words))
            }
            Program::Picklist { list, .. } => schema.picklists.get(*list).map(|list| {
                let stands = |code| match form {
                    rows::Form::Labelled(_) => list.label_of(code).unwrap_or(code),
                    _ => code,
                };
                let current = list.values.iter().filter(|value| !value.retired);
                WordSet::new(current.map(|value| stands(&value.code)))
            }),
            _ => None,
        };
        let fast_is_unlike = match &program {
            Program::Date(dates) => !dates.forms.first().is_some_and(|form_read| match &form {
                rows::Form::Dated(written) if dates.own.is_empty() => form_read == written,
                _ => dates
                    .written_form()
                    .map_or_else(|| *form_read == DatePattern::iso(), |written| form_read == written),
            }),
            _ => false,
        };
        let scope = settings.plan.scope.as_ref().and_then(|scope| scope.condition.as_ref());
        let asks = |condition: &Condition| condition.fields.contains(&number);
        Self {
            form,
            standing,
            fast_is_unlike,
            default: field.default.as_deref().filter(|_| settings.mode.adds()).and_then(|default| {
                let plain = Program::of(field, schema, settings, &Reading::default());
                plain.standard(default, &schema.picklists).map(std::borrow::Cow::into_owned)
            }),
            is_asked: scope.is_some_and(|scope| asks(&scope.0))
                || schema.rules.iter().flat_map(Rule::conditions).any(asks),
            field: Some(number),
            program,
            blank,
            ignore: field.ignore.clone(),
            // What a record must always have cannot be taken from it, and a new one has nothing to be emptied.
            may_clear: !settings.mode.adds() && !is_key && field.required != Required::Always,
            guard: fast::Guard::new(reading.blank.iter().chain(clear.as_deref())),
            reading,
        }
    }
}

/// The level of a blank cell, if it is a finding at all.
fn blank_level(field: &Field, mode: Mode) -> Option<Level> {
    let filled_later = field.default.is_some() && mode.adds();
    match field.required {
        Required::Always | Required::WhenAdding if mode.adds() && !filled_later => Some(Level::Stop),
        // When updating, a blank cell leaves the record as it is.
        Required::Advised if mode.adds() && !filled_later => Some(Level::Warn),
        _ => None,
    }
}

#[cfg(test)]
mod tests;

#[cfg(test)]
mod wording_tests;

#[cfg(test)]
mod written_tests;
