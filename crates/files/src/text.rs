//! Delimited text, read as blocks of whole rows.

mod input;
mod opening;
mod source;

pub use input::Input;
pub use source::TextFile;
