//! The text of a plan: its shape first, then what its record schema tells of it.

use super::check;
use super::raw::RawPlan;
use super::stated::Plan;
use crate::fault::Fault;
use crate::schema::RecordSchema;
use crate::toml_shape::{self, Shape};

/// The text of a plan, its shape read; what names fields waits for the record schema.
#[derive(Debug)]
pub struct PlanText {
    text: String,
    shape: Shape<RawPlan>,
}

impl PlanText {
    /// Reads the shape of a plan.
    #[must_use]
    pub fn read(text: &str) -> Self {
        Self { text: text.to_owned(), shape: toml_shape::read(text) }
    }

    /// The path of the record schema, relative to the plan.
    #[must_use]
    pub fn record(&self) -> Option<&str> {
        self.shape.raw.record.as_ref().map(|record| record.get_ref().as_str())
    }

    /// The plan, checked against its record schema.
    ///
    /// # Errors
    /// Every fault, in the order of their places.
    ///
    /// ```
    /// use tidy_gate_core::plan::PlanText;
    /// use tidy_gate_core::schema::{NoLists, RecordSchema};
    /// let schema = "format = 1\nrecord = \"tree\"\n[[field]]\nname = \"tag\"\nkind = \"text\"\n";
    /// let schema = RecordSchema::read(schema, &mut NoLists).unwrap();
    /// let plan = PlanText::read("format = 1\nrecord = \"tree\"\n[columns]\n\"Tree no.\" = \"tag\"\n");
    /// let plan = plan.against(&schema).unwrap();
    /// assert_eq!(plan.columns_in(&["Tree no.".to_owned()]).len(), 1);
    /// ```
    pub fn against(self, schema: &RecordSchema) -> Result<Plan, Vec<Fault>> {
        let mut faults = Vec::new();
        let plan = check::check(&self.shape.raw, schema, &mut faults);
        let faults = self.shape.join(&self.text, faults);
        if faults.is_empty() { Ok(plan) } else { Err(faults) }
    }

    /// The faults that can be told without a record schema.
    #[must_use]
    pub fn faults(self) -> Vec<Fault> {
        let mut faults = Vec::new();
        check::head(&self.shape.raw, &mut faults);
        self.shape.join(&self.text, faults)
    }
}
