//! Headings: how they are compared, and which field each one belongs to.

mod alike;
mod key_words;
pub(crate) mod loose;
mod pair;
mod planned;

pub(crate) use key_words::calls_a_key;
pub use loose::loose;
pub use pair::{
    HeadingWords, How, Likely, MARK_HEADINGS, OWN_HEADINGS, Paired, Pairing, by_position, is_ours, is_own,
    pair,
};
pub use planned::{ColumnName, PlanColumn, PlanPairing};
