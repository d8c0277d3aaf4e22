//! A record schema, a file's headings and the settings of a run, compiled once and never changed while rows are judged.

use super::fixed_columns::{FixedColumn, fixed_columns};
use super::form::Form;
use super::guard::Guard;
use super::keyset::KeySet;
use super::kinds::Program;
use super::settings::Settings;
use super::wordset::WordSet;
use super::{alike, keysets};
use crate::catalogue::{Code, Level, entry};
use crate::condition::Condition;
use crate::finding::Finding;
use crate::headings::{Paired, Pairing, PlanPairing, by_position, is_own, pair};
use crate::mode::Mode;
use crate::plan::Reading;
use crate::schema::{Field, RecordSchema, Required, Rule};
use crate::table::Table;
use crate::value::DatePattern;

/// Everything a block is judged by.
#[derive(Debug)]
pub struct Compiled {
    pub(super) schema: RecordSchema,
    pub(super) settings: Settings,
    pub(super) table: Table,
    pub(super) pairing: Pairing,
    pub(super) columns: Vec<Column>,
    pub(super) keysets: Vec<KeySet>,
    /// A column that is seldom blank.
    pub(super) probe: usize,
    /// The level that the plan gives to each code, in the order of codes.
    pub(super) levels: Vec<Option<Level>>,
    /// The columns by which likely duplicates are suspected.
    pub(super) alike_probes: Vec<usize>,
    /// The same of the combination that tells whole rows.
    pub(super) row_probes: Vec<usize>,
    /// What reads values of each field that stand in the target's own form; none where none are compared.
    pub(super) own_programs: Vec<Program>,
    /// The columns that must not change what is there, where that is known.
    pub(super) unchangeable: Vec<FixedColumn>,
    /// Whether only those columns are looked at whose cells decide how they are written.
    is_for_votes: bool,
}

/// A column and what is asked of it.
#[derive(Debug)]
pub(super) struct Column {
    pub(super) field: Option<usize>,
    pub(super) program: Program,
    /// What a blank cell is, if it is a finding.
    pub(super) blank: Option<(Code, Level)>,
    /// Suspicions that are not wanted.
    pub(super) ignore: Vec<Code>,
    /// How its cells are read.
    pub(super) reading: Reading,
    /// Whether a cell may empty the field.
    pub(super) may_clear: bool,
    /// Cells that may be blank or emptying words.
    pub(super) guard: Option<Guard>,
    /// In what form its values are handed on.
    pub(super) form: Form,
    /// Of the words that are known without a closer look, those that stand so in the target.
    pub(super) standing: Option<WordSet>,
    /// Whether what is plainly sound stands in another form than the target's.
    pub(super) fast_is_unlike: bool,
    /// What fills its blank cells, in standard form.
    pub(super) default: Option<String>,
    /// Whether conditions ask for its values.
    pub(super) is_asked: bool,
}

impl Compiled {
    /// Compiles what needs no look at the cells.
    pub(super) fn new(schema: RecordSchema, settings: Settings, table: Table) -> Self {
        let schema = as_it_is_loaded(settings.plan.onto(schema), settings.mode);
        let settings = settings.with_decided(&table.decided, &schema);
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
        if is_own(&table.headings) || table.is_records() || table.texts_are_own {
            // Texts in a workbook of ours are what they were before.
            columns.iter_mut().for_each(|column: &mut Column| column.ignore.push(Code::NumberAsText));
        }
        let varies = |column: usize| columns.get(column).is_some_and(|column| column.program.varies());
        let existing = settings.existing.as_deref().filter(|_| settings.mode.updates());
        let keysets = keysets::keysets(&schema, settings.mode, &pairing.column_of, &varies, existing);
        let compared = schema.fields.iter().filter(|_| settings.existing.is_some());
        let own_programs = compared.map(|field| Program::own(field, &schema, &settings)).collect();
        let unchangeable = fixed_columns(&schema, &settings, &pairing);
        for one in &unchangeable {
            if let Some(column) = columns.get_mut(one.number) {
                let read = Column::reading(one.field, &schema, &settings);
                *column = match one.is_set_at_first {
                    true => read,
                    false => Column { blank: None, default: None, ..read },
                };
            }
        }
        let probe = columns.iter().position(|column| matches!(column.blank, Some((Code::KeyBlank, _))));
        let probe = probe.or_else(|| columns.iter().position(|column| column.blank.is_some())).unwrap_or(0);
        let stated = &settings.plan.levels;
        let level = |code: &Code| stated.iter().find(|stated| stated.0 == *code).map(|stated| stated.1);
        let levels = Code::ALL.iter().map(level).collect();
        let mut compiled = Self {
            schema,
            settings,
            table,
            pairing,
            columns,
            keysets,
            probe,
            levels,
            alike_probes: Vec::new(),
            is_for_votes: false,
            row_probes: Vec::new(),
            own_programs,
            unchangeable,
        };
        compiled.alike_probes = compiled.telling_columns(KeySet::is_alike);
        compiled.row_probes = compiled.telling_columns(KeySet::takes_blanks);
        compiled
    }

    /// The columns by which a combination is looked for first.
    fn telling_columns(&self, is_meant: fn(&KeySet) -> bool) -> Vec<usize> {
        let keyset = self.keysets.iter().find(|keyset| is_meant(keyset));
        let cost = |column: usize, length: usize| self.sum_cost(column, length);
        keyset.map(|keyset| alike::probes(keyset, &self.table.sample, cost)).unwrap_or_default()
    }

    /// Keeps of the columns those whose cells say how they are written, and compares nothing.
    pub(super) fn only_votes(&mut self) {
        self.keysets.clear();
        self.is_for_votes = true;
        for column in self.columns.iter_mut().filter(|column| !column.program.has_vote()) {
            *column = Column { field: column.field, ..Column::free() };
        }
    }

    /// Whether the cells of a column are looked at.
    pub(super) fn looks_at(&self, column: usize) -> bool {
        !self.is_for_votes || self.columns.get(column).is_some_and(|column| column.program.has_vote())
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

    /// Whether a file must have a column for a field: it belongs to the key, or is needed in this mode and has no
    /// default.
    #[must_use]
    pub fn is_needed(&self, number: usize) -> bool {
        let Some(field) = self.schema.fields.get(number) else { return false };
        let is_stop = blank_level(field, self.settings.mode) == Some(Level::Stop) && !field.read_only;
        if self.schema.is_keyed(number) {
            let stands = |field: &usize| self.column_of(*field).is_some();
            let is_found_otherwise = self.settings.existing.is_some()
                && self.settings.mode == Mode::Update
                && self.schema.also_by.iter().any(stands);
            return !(field.numbered && self.settings.mode.adds() || is_found_otherwise);
        }
        // A record that is there may have it: of each row that is asked by itself.
        is_stop && !self.is_asked_by_row(number)
    }

    /// What a sum over a column's cells costs, beside others; cells are usually so long.
    fn sum_cost(&self, column: usize, length: usize) -> usize {
        let Some(column) = self.columns.get(column) else { return usize::MAX };
        match &column.program {
            program if program.is_iso_date() => 2,
            program if program.is_verbatim() => 3 + length / 8,
            Program::Integer(_) => 3,
            // Some of them have to be brought into their form.
            Program::Decimal(_) => 12,
            _ if column.standing.is_some() => 8,
            _ => 60,
        }
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
    pub(crate) fn column_of(&self, field: usize) -> Option<usize> {
        self.pairing.column_of.get(field).copied().flatten()
    }

    /// The field of a column.
    pub(crate) fn field(&self, column: usize) -> Option<&Field> {
        self.columns
            .get(column)
            .and_then(|column| column.field)
            .and_then(|field| self.schema.fields.get(field))
    }

    /// The level that a code has in a column.
    pub(crate) fn level(&self, code: Code, column: usize) -> Level {
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
    pub(crate) fn scope_condition(&self) -> Option<&Condition> {
        self.settings.plan.scope.as_ref()?.condition.as_ref().map(|condition| &condition.0)
    }

    /// Whether rows that the file may not change are left out.
    pub(crate) fn leaves_out(&self) -> bool {
        self.settings.plan.scope.as_ref().is_some_and(|scope| scope.condition.is_some() && scope.leaves_out)
    }

    /// Whether the row that was taken for headings may be a record: it names no field, and is like those below it.
    #[must_use]
    pub fn headings_may_be_data(&self) -> bool {
        let is_paired = |paired: &Paired| matches!(paired, Paired::Field { .. } | Paired::Shared { .. });
        self.table.headings_may_be_data && !self.pairing.columns.iter().any(is_paired)
    }

    /// Whether the values of a column must not be shown.
    #[must_use]
    pub fn is_sensitive(&self, column: usize) -> bool {
        self.field(column).is_some_and(|field| field.sensitive)
    }
}

impl Compiled {
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
    pub(super) fn is_blank(&self, trimmed: &str) -> bool {
        self.reading.is_blank(trimmed) || self.program.holds_no_value(trimmed)
    }

    /// A column that is left out: nothing is asked of it.
    fn free() -> Self {
        Self {
            field: None,
            program: Program::FREE,
            blank: None,
            ignore: Vec::new(),
            reading: Reading::default(),
            may_clear: true,
            guard: None,
            form: Form::Standard,
            standing: None,
            fast_is_unlike: false,
            default: None,
            is_asked: false,
        }
    }

    fn of(number: usize, schema: &RecordSchema, settings: &Settings) -> Self {
        match schema.fields.get(number) {
            Some(field) if !field.read_only => Self::reading(number, schema, settings),
            _ => Self::free(),
        }
    }

    /// A column of a field, whether it is carried or not.
    pub(super) fn reading(number: usize, schema: &RecordSchema, settings: &Settings) -> Self {
        let Some(field) = schema.fields.get(number) else { return Self::free() };
        let is_key = schema.is_keyed(number);
        let blank = if is_key {
            // What the target numbers is blank in a new record.
            let is_given = field.numbered && settings.mode.adds();
            (!is_given).then_some((Code::KeyBlank, Level::Stop))
        } else {
            blank_level(field, settings.mode).map(|level| (Code::RequiredBlank, level))
        };
        let reading = settings.plan.reading(number).clone();
        let program = Program::of(field, schema, settings, &reading);
        let clear = reading.clear.as_ref().map(|word| word.to_lowercase());
        let form = Form::of(field, &settings.plan.write);
        let standing = program.standing(&form, &schema.picklists);
        let fast_is_unlike = match &program {
            Program::Date(dates) => !dates.forms.first().is_some_and(|form_read| match &form {
                Form::Dated(written) if dates.own.is_empty() => form_read == written,
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
                let plain = Program::own(field, schema, settings);
                plain.standard(default, &schema.picklists).map(std::borrow::Cow::into_owned)
            }),
            is_asked: scope.is_some_and(|scope| asks(&scope.0))
                || schema.rules.iter().flat_map(Rule::conditions).any(asks),
            field: Some(number),
            program,
            blank,
            ignore: field.ignore.clone(),
            // What a record must always have cannot be taken from it, and a new one has nothing to be emptied.
            may_clear: !settings.mode.adds()
                && !settings.plan.existing.as_ref().is_some_and(|plan| plan.fills_only)
                && !is_key
                && !matches!(field.required, Required::Always | Required::Filled),
            guard: match &reading.put {
                Some(_) => Some(Guard::of_all()),
                None => Guard::new(reading.blank.iter().chain(clear.as_deref())),
            },
            reading,
        }
    }
}

/// The record schema in a mode: what may be set at first alone is read-only when records are updated.
fn as_it_is_loaded(mut schema: RecordSchema, mode: Mode) -> RecordSchema {
    if mode == Mode::Update {
        schema.fields.iter_mut().for_each(|field| field.read_only |= field.read_only_later);
    }
    schema
}

/// The level of a blank cell, if it is a finding at all.
fn blank_level(field: &Field, mode: Mode) -> Option<Level> {
    let filled_later = field.default.is_some() && mode.adds();
    match field.required {
        Required::Filled if !filled_later => Some(Level::Stop),
        Required::Always | Required::WhenAdding if mode.adds() && !filled_later => Some(Level::Stop),
        // When updating, a blank cell leaves the record as it is.
        Required::Advised if mode.adds() && !filled_later => Some(Level::Warn),
        _ => None,
    }
}
