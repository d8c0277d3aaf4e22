//! The different values of a column, each with what it is read as: which were taken, and how, and which are open.

use super::compiled::{Column, Compiled};
use super::seen::Seen;
use super::verdict::{Given, Verdict};
use crate::block::Block;
use crate::catalogue::{Code, Tag};
use crate::rows::{Cells, text_of};
use crate::schema::{Field, Kind};
use crate::value::{Match, truth, truth_words};
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::HashMap;

/// So many different values of a column are counted.
const MOST: usize = 100_000;

/// The different values of some columns, as they stand.
#[derive(Debug)]
pub struct ValueCounts {
    columns: Vec<(usize, Values)>,
    cells: Cells,
    /// Cells with values beyond those that are counted.
    uncounted: u64,
}

/// Different values with how many cells hold each, and the first of them as it stands.
type Values = HashMap<String, (u64, Box<[u8]>)>;

/// How a value is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Taken {
    /// The plan puts another in its place.
    Plan,
    /// It is a code of the list, or a key.
    Code,
    /// It is the label of a code.
    Label,
    /// It is another word of the list, or of the record that it refers to.
    Also,
    /// It is one of these but for case or spaces.
    Loosely,
    /// It is a word for a blank cell.
    Blank,
    /// It empties the field.
    Clear,
    /// It is a value as it stands.
    Value,
    /// It is none.
    Open,
}

/// A value of a column, and what it is read as.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct ValueTold {
    /// The value, as it stands, trimmed.
    pub value: String,
    /// In how many cells.
    pub count: u64,
    /// How it is read.
    pub how: Taken,
    /// What it is read as; nothing where it is open or blank.
    pub code: Option<String>,
    /// Where it is open: what it may be, the likeliest first.
    pub likely: Vec<String>,
    /// Where it is open: what is wrong with it.
    pub finding: Option<Code>,
}

impl ValueCounts {
    /// Nothing counted yet, of these columns.
    #[must_use]
    pub fn new(columns: &[usize]) -> Self {
        let columns = columns.iter().map(|column| (*column, HashMap::new())).collect();
        Self { columns, cells: Cells::default(), uncounted: 0 }
    }

    /// Counts the values of a block.
    pub fn look_at(&mut self, gate: &Compiled, block: &Block) {
        self.cells.short_rows_are_blank = gate.table.short_rows_are_blank;
        self.cells.lay_out(block, gate.table.dialect, gate.width(), gate.probe);
        for (column, values) in &mut self.columns {
            for row in 0..self.cells.len() {
                let raw = self.cells.stored(block, row, *column);
                let Ok(text) = text_of(raw, gate.table.dialect) else { continue };
                let separator = gate.separator(*column).filter(|separator| text.contains(separator));
                let Some(separator) = separator else {
                    self.uncounted += count(values, text.trim(), raw);
                    continue;
                };
                for part in text.split(separator).map(str::trim) {
                    self.uncounted += count(values, part, part.as_bytes());
                }
            }
        }
    }

    /// How many cells hold further values.
    #[must_use]
    pub fn uncounted(&self) -> u64 {
        self.uncounted
    }

    /// The values of a column with what each is read as: those that are open first, then the most frequent.
    #[must_use]
    pub fn told(&self, gate: &Compiled, column: usize) -> Vec<ValueTold> {
        let Some((_, values)) = self.columns.iter().find(|one| one.0 == column) else { return Vec::new() };
        let told =
            |(text, (count, raw)): (&String, &(u64, Box<[u8]>))| gate.value_told(column, text, raw, *count);
        let mut all: Vec<ValueTold> = values.iter().filter_map(told).collect();
        all.sort_by(|one, other| {
            let key = |told: &ValueTold| (told.how != Taken::Open, std::cmp::Reverse(told.count));
            key(one).cmp(&key(other)).then_with(|| one.value.cmp(&other.value))
        });
        all
    }
}

/// Counts a value; gives 1 where there are too many to count it.
fn count(values: &mut Values, text: &str, raw: &[u8]) -> u64 {
    if let Some(known) = values.get_mut(text) {
        known.0 += 1;
        return 0;
    }
    if text.is_empty() {
        return 0;
    }
    if values.len() >= MOST {
        return 1;
    }
    values.insert(text.to_owned(), (1, raw.into()));
    0
}

impl Compiled {
    /// What stands between several values in the cells of a column.
    pub(super) fn separator(&self, column: usize) -> Option<&str> {
        let field = self.schema.fields.get(self.columns.get(column)?.field?)?;
        Some(field.stated.many.as_ref()?.separator.as_str())
    }

    fn value_told(&self, number: usize, text: &str, raw: &[u8], count: u64) -> Option<ValueTold> {
        let column = self.columns.get(number)?;
        let field = self.schema.fields.get(column.field?)?;
        let told = |how, code| ValueTold {
            value: text.to_owned(),
            count,
            how,
            code,
            likely: Vec::new(),
            finding: None,
        };
        let seen = match column.see(raw, self.table.dialect) {
            Seen::Broken | Seen::Stale => return None,
            Seen::Blank { .. } if column.reading.replaced(text).is_some() => {
                return Some(told(Taken::Plan, None));
            }
            Seen::Blank { .. } => return Some(told(Taken::Blank, None)),
            Seen::Clear(_) => return Some(told(Taken::Clear, None)),
            Seen::Value(seen) => seen,
        };
        let given = Given::of(seen.trim(), raw, self.table.dialect);
        let verdict = column.program.judge(given, &self.schema.picklists);
        let refused = verdict.codes().find(|code| code.is(Tag::NoValue) || is_open(*code));
        if let Some(code) = refused {
            let likely = self.likely_values(column, field, code, seen.trim());
            return Some(ValueTold { likely, finding: Some(code), ..told(Taken::Open, None) });
        }
        let code = self.formed_or_as_it_is(column, &seen, raw).into_owned();
        let how = if column.reading.replaced(text).is_some() {
            Taken::Plan
        } else {
            self.how_taken(column, field, text, &code)
        };
        Some(told(how, Some(code)))
    }

    /// What a value may be that a field does not take.
    pub(super) fn likely_values(
        &self,
        column: &Column,
        field: &Field,
        code: Code,
        text: &str,
    ) -> Vec<String> {
        if matches!(field.kind, Kind::Boolean) {
            let likely = truth_words::likely(text).map(|yes| truth::written(yes).to_owned());
            return likely.into_iter().collect();
        }
        let near = column.program.suggestion(code, text, &self.schema.picklists);
        // One number for another is no slip that anybody could see.
        let near = near.filter(|near| numbers(near) == numbers(text));
        near.map(|near| self.code_of(column, &near)).into_iter().collect()
    }

    /// The code that a word of a list stands for, or the word.
    fn code_of(&self, column: &Column, word: &str) -> String {
        let value = column.program.standard(word, &self.schema.picklists);
        value.map_or_else(|| word.to_owned(), std::borrow::Cow::into_owned)
    }

    fn how_taken(&self, column: &Column, field: &Field, text: &str, code: &str) -> Taken {
        match &field.kind {
            Kind::Picklist(list) => {
                let Some(list) = self.schema.picklists.get(*list) else { return Taken::Value };
                let Match::Value(value) = list.find(text) else { return Taken::Value };
                let Some(value) = list.values.get(value) else { return Taken::Value };
                match value.words().find(|(_, word)| *word == text) {
                    Some((0, _)) => Taken::Code,
                    Some((1, _)) => Taken::Label,
                    Some(_) => Taken::Also,
                    None => Taken::Loosely,
                }
            }
            Kind::Reference(_) if code != text => Taken::Also,
            Kind::Reference(_) => Taken::Code,
            _ => {
                let is_sound = column.program.judge(text, &self.schema.picklists) == Verdict::SOUND;
                if is_sound { Taken::Value } else { Taken::Open }
            }
        }
    }
}

/// The numbers in a text, without the zeros before them.
fn numbers(text: &str) -> Vec<&str> {
    let digits = text.split(|c: char| !c.is_ascii_digit()).filter(|digits| !digits.is_empty());
    digits.map(|digits| digits.trim_start_matches('0')).collect()
}

/// Whether a finding asks for another word.
fn is_open(code: Code) -> bool {
    matches!(
        code,
        Code::OffList
            | Code::OffListRetired
            | Code::ReferenceUnknown
            | Code::ReferenceUnclear
            | Code::BooleanBad
            | Code::PatternBroken
            | Code::CaseWrong
            | Code::ZerosLost
            | Code::ListSeparator
    )
}
