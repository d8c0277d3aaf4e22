//! Every finding the gate knows: its code, its level, what it means and how to put it right.
//!
//! Codes are stable. One ordered slice, [`entries`], feeds `explain`, the documentation page and the
//! machine reports; the files of this folder hold the entries of one scope each.

mod all;
mod code;
mod entry;
mod file;
mod headings;
mod keys;
mod level;
mod lines;
mod rows;
mod sheets;
mod values;
mod words;
mod writing;

pub use all::{entries, entry, least};
pub use code::Code;
pub use entry::{Entry, Scope, Tag};
pub use level::Level;
pub use words::{WORDS, Word};
