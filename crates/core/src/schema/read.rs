//! From the text of a record schema to one that has passed every test of its own.

use super::check;
use super::lists::ListSource;
use super::raw::RawRecord;
use super::record::RecordSchema;
use crate::fault::Fault;
use crate::toml_shape;

impl RecordSchema {
    /// Reads a record schema; long picklists come from `lists`.
    ///
    /// # Errors
    /// Every fault of the text, in the order of their places.
    ///
    /// ```
    /// use tidy_gate_core::schema::{NoLists, RecordSchema};
    /// let text = "format = 1\nrecord = \"tree\"\n[[field]]\nname = \"tag\"\nkind = \"text\"\n";
    /// assert_eq!(RecordSchema::read(text, &mut NoLists).unwrap().fields.len(), 1);
    /// let faults = RecordSchema::read("format = 1\nrecord = \"tree\"\nfeild = 1\n", &mut NoLists).unwrap_err();
    /// assert!(!faults.is_empty());
    /// ```
    pub fn read(text: &str, lists: &mut dyn ListSource) -> Result<Self, Vec<Fault>> {
        let shape = toml_shape::read::<RawRecord>(text);
        let mut faults = Vec::new();
        let schema = check::check(&shape.raw, lists, &mut faults);
        let faults = shape.join(text, faults);
        if faults.is_empty() { Ok(schema) } else { Err(faults) }
    }
}
