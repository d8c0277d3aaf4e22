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
    pub fn read(text: &str, lists: &mut dyn ListSource) -> Result<Self, Vec<Fault>> {
        let shape = toml_shape::read::<RawRecord>(text);
        let mut faults = Vec::new();
        let schema = check::check(&shape.raw, lists, &mut faults);
        let faults = shape.join(text, faults);
        if faults.is_empty() { Ok(schema) } else { Err(faults) }
    }
}
