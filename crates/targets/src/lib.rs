//! Records that a target already holds: an export, or a table or view of an SQLite database, read as a table like any
//! other. Nothing here writes: databases are opened for reading alone.

mod error;
mod place;
mod source;
mod sqlite;

pub use error::Error;
pub use place::Place;
pub use source::open;
