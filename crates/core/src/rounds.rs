//! Rounds: what became of a file's findings since an earlier report of it.
//!
//! Rows are followed by their key, and by the cells that were sound where there is none, never by their number. A report
//! carries [marks](crate::prints) of its findings and rows, so that a later one is exact beyond the findings that it lists.

mod compare;
mod content;
mod earlier;
mod gather;
mod row_sets;

pub use earlier::{Earlier, EarlierFault};
pub use gather::{Gathered, Gatherer, PartOfRounds};
