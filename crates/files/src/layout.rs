//! How a table is laid out: where its headings stand, which rows below them are no records. Read off the
//! first rows, by evidence, and said; whatever is stated comes first.
//!
//! The rows are texts here: delimited text and workbooks are laid out by the same rules.

mod between;
mod fact;
mod first_rows;
mod fits;
mod headings;
mod lay_out;
mod template_of;
mod units;

pub(crate) use fact::findings;
pub use fact::{Fact, How};
pub(crate) use first_rows::{FirstRow, LOOKED_AT, Rows, StatedRows};
pub(crate) use fits::fits;
pub(crate) use lay_out::lay_out;
pub(crate) use template_of::{TemplateOf, outdated};

#[cfg(test)]
mod tests;
