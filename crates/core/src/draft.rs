//! Drafting a record schema from what there is already: an export, a data dictionary, SQL, CSVW, JSON Schema. A draft
//! says of everything on what evidence it stands, so that a person confirms instead of typing.

mod csvw;
mod dictionary;
mod guess;
mod json_schema;
mod model;
mod names;
mod sample;
mod settle;
mod sql;
mod together;
mod types;
mod write;

pub use csvw::from_csvw;
pub use dictionary::{Dictionary, Lists, Role};
pub use json_schema::from_json_schema;
pub use model::{Draft, DraftFault, DraftField, DraftList, DraftRequired, DraftRule};
pub use sample::{SampleLook, Sampled};
pub use sql::from_sql;

#[cfg(test)]
mod tests;
