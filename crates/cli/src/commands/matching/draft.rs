//! The plan while it is made.

use crate::failure::Failure;
use crate::render::faults;
use std::path::PathBuf;
use tidy_gate_core::plan::{Plan, PlanEdit, PlanText, edited};
use tidy_gate_core::schema::RecordSchema;

/// The plan while it is made.
pub(super) struct Draft {
    /// Where its text came from, for messages.
    pub(super) name: String,
    pub(super) text: String,
    pub(super) schema: RecordSchema,
    pub(super) record: PathBuf,
}

impl Draft {
    /// The plan of the text.
    pub(super) fn plan(&self) -> Result<Plan, Failure> {
        PlanText::read(&self.text)
            .against(&self.schema)
            .map_err(|found| Failure::Faults(faults::draw(&self.name, &self.text, &found)))
    }

    pub(super) fn change(&mut self, edit: &PlanEdit) -> anyhow::Result<()> {
        if !edit.is_empty() {
            let changed = edited(&self.text, edit);
            self.text = changed.map_err(|error| Failure::usage(error.to_string(), None))?;
        }
        Ok(())
    }
}
