//! A record schema in the forms of other systems. What a form cannot say is listed, never dropped silently.

mod csvw;
mod exported;
mod json_schema;
mod table;

pub use csvw::csvw;
pub use exported::Exported;
pub use json_schema::json_schema;
pub use table::{COLUMNS, markdown, table};
