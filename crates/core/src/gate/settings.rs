//! What a run states beside the record schema.

use super::circles::Cycles;
use crate::decided::Decided;
use crate::existing::Existing;
use crate::mode::Mode;
use crate::plan::{Plan, Reading};
use crate::schema::{Kind, RecordSchema, References};
use crate::value::{Date, DatePattern, Group, Marks};
use std::collections::BTreeMap;
use std::sync::Arc;

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
    /// The circles that references of the record to itself make, where they were looked for.
    pub cycles: Option<Arc<Cycles>>,
    /// The records that the target already holds, where they are known.
    pub existing: Option<Arc<dyn Existing>>,
}

impl Settings {
    /// Without a plan and without stated forms.
    #[must_use]
    pub fn plain(mode: Mode, today: Date) -> Self {
        Self {
            mode,
            dates: Vec::new(),
            today,
            plan: Plan::default(),
            references: BTreeMap::new(),
            cycles: None,
            existing: None,
        }
    }

    /// These settings with what was decided, where neither they nor the record schema state it.
    pub(super) fn with_decided(mut self, decided: &Decided, schema: &RecordSchema) -> Self {
        for decided in &decided.fields {
            let Some(number) = schema.field(&decided.field) else { continue };
            let plan = &mut self.plan;
            let is_stated = !self.dates.is_empty() || plan.dates_of.contains_key(&number);
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
        self
    }
}
