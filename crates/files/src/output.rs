//! Outputs: each written to a temporary file beside its place, and all moved there at the end, or none.

mod leftovers;
pub(crate) mod one;
mod outputs;
mod placing;

pub use one::Output;
pub use outputs::Outputs;
pub use placing::other_names;
