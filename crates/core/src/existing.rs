//! Records that the target already holds. Where they live (an export, a database) is no matter of whoever asks.

mod former;
mod kept;
mod known;
mod probe;
mod row;

pub use former::{Former, Plainly};
pub use kept::{Batch, Kept, KeptOf, Wanted};
pub use known::Existing;
pub use probe::Probe;
pub use row::ExistingRow;
