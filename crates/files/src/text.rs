//! Delimited text, read as blocks of whole rows.

mod delimiter;
mod encoding;
mod input;
mod opening;
mod options;
mod recode;
mod source;
mod stream;
mod table;
mod unpack;

pub use delimiter::delimiter_name;
pub use input::Input;
pub(crate) use input::Package;
pub(crate) use opening::first_rows;
pub use options::{Limits, ReadOptions};
pub use source::TextFile;
pub use unpack::Packing;
