//! Ranges in words.

use crate::schema::Range;

/// A range in words; nothing where both ends are open.
pub(super) fn between<T>(range: &Range<T>, write: impl Fn(&T) -> String) -> Option<String> {
    match (&range.min, &range.max) {
        (Some(min), Some(max)) => Some(format!("between {} and {}", write(min), write(max))),
        (Some(min), None) => Some(format!("{} or more", write(min))),
        (None, Some(max)) => Some(format!("{} or less", write(max))),
        (None, None) => None,
    }
}
