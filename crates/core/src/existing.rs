//! Records that the target already holds. Where they live (an export, a database) is no matter of whoever asks.

mod batch;
mod former;
mod kept;
mod keys;
mod known;
mod line_index;
mod probe;
mod row;
mod wanted;

pub use batch::Batch;
pub use former::{Former, Plainly};
pub(crate) use kept::NEAR_ROWS;
pub use kept::{Kept, KeptOf};
pub use keys::Keys;
pub use known::Existing;
pub use probe::Probe;
pub use row::ExistingRow;
pub use wanted::Wanted;
