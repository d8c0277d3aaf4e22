//! Records that the target already holds. Where they live (an export, a database) is no matter of whoever asks.

mod kept;
mod known;
mod row;

pub use kept::{Kept, Wanted};
pub use known::Existing;
pub use row::ExistingRow;
