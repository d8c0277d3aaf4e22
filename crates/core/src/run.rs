//! A whole check: every block judged, repeats confirmed, the verdict on every row settled.

mod check;
mod columns;
mod ending;
mod existing;
mod extents;
mod held;
mod judging;
mod merge;
mod misfit;
mod outcome;
mod own_references;
mod records;
mod repeated;
mod replay;
mod settling;
mod shared;
mod source;

pub use check::{check, look};
pub use existing::{read_existing, read_released, wanted_by};
pub use extents::Extents;
pub use held::Held;
pub use outcome::{Counts, Outcome};
pub use own_references::OwnReferences;
pub use records::RecordCounts;
pub use repeated::each_repeat;
pub use replay::Replay;
pub use source::{BlockSource, FindingSink, RowsInMemory, Unlisted, Unwatched, Watch};

#[cfg(test)]
mod tests;
