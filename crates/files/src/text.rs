//! Delimited text, read as blocks of whole rows.

mod delimiter;
mod encoding;
pub(crate) mod input;
pub(crate) mod opening;
pub(crate) mod options;
mod recode;
pub(crate) mod source;
mod stream;
mod table;
mod unpack;

pub use delimiter::delimiter_name;
pub use input::Input;
pub use options::{Limits, ReadOptions};
pub use source::TextFile;
pub use unpack::Packing;
