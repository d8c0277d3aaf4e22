//! What the rules of a kind are made of.

use crate::gate::settings::Settings;
use crate::plan::Reading;
use crate::schema::RecordSchema;

/// What a kind is made of, beside its field.
#[derive(Clone, Copy)]
pub(crate) struct From<'a> {
    pub(crate) schema: &'a RecordSchema,
    pub(crate) settings: &'a Settings,
    /// How the cells of the field are read.
    pub(crate) reading: &'a Reading,
}
