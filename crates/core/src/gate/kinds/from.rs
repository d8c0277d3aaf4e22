//! What the rules of a kind are made of.

use crate::gate::settings::Settings;
use crate::plan::{Plan, Reading};
use crate::schema::{Field, RecordSchema};
use std::collections::BTreeMap;

/// What a kind is made of, beside its field.
#[derive(Clone, Copy)]
pub(crate) struct From<'a> {
    pub(crate) schema: &'a RecordSchema,
    pub(crate) settings: &'a Settings,
    /// How the cells of the field are read.
    pub(crate) reading: &'a Reading,
    /// Whether values in the target's own form are read, and not the cells of a file.
    pub(crate) is_own: bool,
}

impl From<'_> {
    /// What the plan states for the cells of the file, where it is they that are read.
    pub(super) fn plan(&self) -> Option<&Plan> {
        (!self.is_own).then_some(&self.settings.plan)
    }

    /// The forms in which a field is read, which has forms of its `own` in the target: those that the plan states for it, else
    /// its own, else those that the plan states for all.
    pub(super) fn forms<'f, T>(
        &'f self,
        field: &Field,
        own: &'f Vec<T>,
        of_field: fn(&Plan) -> &BTreeMap<usize, Vec<T>>,
        of_all: fn(&Plan) -> &Vec<T>,
    ) -> &'f Vec<T> {
        let Some(plan) = self.plan() else { return own };
        let planned = self.number(field).and_then(|number| of_field(plan).get(&number));
        planned.unwrap_or(if own.is_empty() { of_all(plan) } else { own })
    }

    /// The number of a field.
    pub(super) fn number(&self, field: &Field) -> Option<usize> {
        self.schema.field(&field.name)
    }
}
