//! Records that a target already holds: an export, or a table or view of an SQLite or PostgreSQL database, read as a table
//! like any other. Nothing here writes: databases are opened for reading alone.

mod asked;
mod error;
mod place;
mod server;
mod source;
mod sqlite;

pub use asked::Asked;
pub use error::Error;
pub use place::{At, Place};
pub use source::{definition, open};
