//! What the cells of a file decided of how its columns are written, to be kept: a part of the file that comes back alone
//! no longer shows it.

use super::evidence::{FORMS, Votes, Way, form_words};
use super::program::Program;
use super::{Gate, Settings};
use crate::plan::Reading;
use crate::schema::{Kind, RecordSchema};
use crate::value::{DatePattern, Group, Marks};
use serde::{Deserialize, Serialize};

/// The property of a workbook that holds it.
pub const DECIDED: &str = "tidy-gate-decided";

/// What was decided of some fields.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Decided {
    /// The fields, in the order of their columns.
    pub fields: Vec<DecidedField>,
}

/// How the column of a field is written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct DecidedField {
    /// The field's name.
    pub field: String,
    /// The forms of its dates, in Unicode LDML patterns.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub dates: Vec<String>,
    /// What begins its decimals.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub decimal_mark: Option<char>,
    /// On what evidence, in words.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub why: String,
}

impl Decided {
    /// As properties of a workbook; none where nothing was decided.
    #[must_use]
    pub fn properties(&self) -> Vec<(String, String)> {
        if self.fields.is_empty() {
            return Vec::new();
        }
        let short: Vec<DecidedField> =
            self.fields.iter().map(|field| DecidedField { why: String::new(), ..field.clone() }).collect();
        let text = serde_json::to_string(&Self { fields: short }).unwrap_or_default();
        vec![(DECIDED.to_owned(), text)]
    }

    /// What a property of a workbook says; what it does not understand says nothing.
    #[must_use]
    pub fn of_property(text: &str) -> Self {
        serde_json::from_str(text).unwrap_or_default()
    }

    /// The settings with what was decided, where neither they nor the record schema state it.
    pub(super) fn onto(&self, mut settings: Settings, schema: &RecordSchema) -> Settings {
        for decided in &self.fields {
            let Some(number) = schema.field(&decided.field) else { continue };
            let plan = &mut settings.plan;
            let is_stated = !settings.dates.is_empty() || plan.dates_of.contains_key(&number);
            if let Some(Kind::Date { dates, .. }) = schema.fields.get(number).map(|field| &field.kind)
                && dates.is_empty()
                && !is_stated
            {
                let forms = decided.dates.iter().filter_map(|form| DatePattern::new(form).ok());
                let forms: Vec<DatePattern> = forms.collect();
                if !forms.is_empty() {
                    plan.dates_of.insert(number, forms);
                }
            }
            let reading = plan.reading(number);
            if let (None, Some(mark @ ('.' | ','))) = (reading.marks, decided.decimal_mark) {
                let group = Group::Mark(if mark == ',' { '.' } else { ',' });
                let marks = Some(Marks { decimal: mark, group });
                let reading = Reading { marks, ..reading.clone() };
                plan.reading_of.insert(number, reading);
            }
        }
        settings
    }
}

impl Gate {
    /// What the cells decided, by all their votes.
    #[must_use]
    pub fn decided(&self, votes: &[Votes]) -> Decided {
        let one = |(number, votes): (usize, &Votes)| {
            let column = self.columns.get(number)?;
            let field = self.field_name(number)?;
            let why = self.told_way(number, *votes).map(|finding| finding.message).unwrap_or_default();
            match &column.program {
                Program::Date(dates) if dates.orders.is_some() && !dates.has_twins() => {
                    let orders = votes.orders();
                    let is_there = |form: &usize| {
                        let cells = votes.forms.get(*form).map_or(0, |poll| poll.cells());
                        cells > 0 && orders.of(*form) != Way::Undecided
                    };
                    let decided = (0..FORMS).filter(is_there).map(|form| form_words(form, orders.of(form)));
                    let decided: Vec<String> = decided.collect();
                    if decided.is_empty() {
                        return None;
                    }
                    // What needs no deciding is read as before.
                    let others = dates.forms.iter().map(|form| form.source().to_owned());
                    let dates = decided.into_iter().chain(others).collect();
                    Some(DecidedField { field, dates, decimal_mark: None, why })
                }
                Program::Decimal { way: Some(_), .. } if !why.is_empty() => {
                    let mark = match votes.mark() {
                        Way::First => '.',
                        Way::Second => ',',
                        Way::Undecided => return None,
                    };
                    Some(DecidedField { field, dates: Vec::new(), decimal_mark: Some(mark), why })
                }
                _ => None,
            }
        };
        Decided { fields: votes.iter().enumerate().filter_map(one).collect() }
    }
}
