//! What a record is, what a finding is, and how rows are judged.
//!
//! Nothing here prints, reads a file, asks the clock or knows a terminal: bytes come in as blocks of rows,
//! the day of the run comes in as a value, and what goes out is data.

pub mod block;
pub mod catalogue;
pub mod column_texts;
pub mod condition;
pub mod decided;
pub mod draft;
pub mod export;
pub mod fault;
pub mod fields;
pub mod finding;
pub mod gate;
pub mod headings;
pub mod letters;
pub mod likeness;
pub mod matching;
pub mod misfire;
pub mod mode;
pub mod numerals;
pub mod order;
pub mod peek;
pub mod plan;
pub mod profile;
pub mod report;
mod rows;
pub mod run;
pub mod schema;
pub mod table;
pub mod template;
mod toml_shape;
pub mod value;

pub use tidy_gate_scan as scan;
