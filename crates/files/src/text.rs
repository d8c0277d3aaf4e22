//! Delimited text, read as blocks of whole rows.

pub(crate) mod blocks;
mod delimiter;
pub(crate) mod encoding;
pub(crate) mod input;
pub(crate) mod opening;
pub(crate) mod options;
mod recode;
pub(crate) mod stream;
pub(crate) mod table;
pub(crate) mod unpack;

pub use delimiter::delimiter_name;
pub use input::Input;
pub use options::{Limits, ReadOptions};
pub use unpack::Packing;
