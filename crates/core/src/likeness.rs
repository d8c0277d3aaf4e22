//! How alike two words are: the basis of every "did you mean". A likeness proposes; it never decides.

mod index;
mod words;

pub use index::{Index, Likening};
pub use words::{bare_name, is_slip, likeness, nearest, nearest_name};
pub(crate) use words::{slip_form, slip_forms, unaccented};
