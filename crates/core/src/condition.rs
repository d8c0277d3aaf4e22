//! Conditions between the fields of one record: a subset of the search conditions of SQL (ISO/IEC 9075-2, "search
//! condition"), checked for kinds when they are read, with the three truths of SQL.

mod eval;
mod fault;
mod like;
mod literals;
pub(crate) mod model;
mod parse;
mod words;

pub use eval::{Cells, Held, Holds};
pub use fault::ConditionFault;
pub(crate) use like::Pattern;
pub(crate) use model::{Arithmetic, Function, Node, Order};
pub use model::{Condition, Scalar, Type};
pub use parse::parse;

#[cfg(test)]
mod tests;
