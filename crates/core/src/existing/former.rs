//! What reads the cells of existing records.

use std::borrow::Cow;
use std::fmt::Debug;

/// Reads the cells of existing records, each when it is asked for.
pub trait Former: Debug + Send + Sync {
    /// The value of a cell in the target's own form, or as it stands where it cannot be read; nothing where it is blank.
    fn formed<'a>(&'a self, field: usize, raw: &'a [u8]) -> Option<Cow<'a, str>>;

    /// Whether a cell holds a value.
    fn is_filled(&self, field: usize, raw: &[u8]) -> bool {
        self.formed(field, raw).is_some_and(|value| !value.is_empty())
    }

    /// How cells of a field are read, in full: two that are the same read equal cells as equal values. Nothing where the
    /// field has no column.
    fn way(&self, field: usize) -> Option<String>;
}

/// Cells that hold their values.
#[derive(Debug)]
pub struct Plainly;

impl Former for Plainly {
    fn formed<'a>(&'a self, _: usize, raw: &'a [u8]) -> Option<Cow<'a, str>> {
        Some(String::from_utf8_lossy(raw))
    }

    fn way(&self, _: usize) -> Option<String> {
        None
    }
}
