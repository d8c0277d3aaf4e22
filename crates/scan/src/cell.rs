//! From the bytes between two delimiters to the text of a cell.

use super::dialect::Dialect;
use crate::sheet_mark::mark_of;
use std::borrow::Cow;

/// Whether the raw cell is its own text: no quote to resolve at its start, and no white space to trim at
/// either end. Bytes over 0x7F at an end count as white space here, so that a closer look is taken.
#[inline]
#[must_use]
pub fn is_plain(raw: &[u8], dialect: Dialect) -> bool {
    match (raw.first(), raw.last()) {
        (Some(&first), Some(&last)) => is_ink(first) && is_ink(last) && first != dialect.quote,
        _ => false,
    }
}

/// The text of a raw cell that needs no closer look: as it stands, or between quotes with no quote inside.
#[inline]
#[must_use]
pub fn plain_text(raw: &[u8], dialect: Dialect) -> Option<&[u8]> {
    if is_plain(raw, dialect) {
        return Some(raw);
    }
    let inner = raw.strip_prefix(&[dialect.quote])?.strip_suffix(&[dialect.quote])?;
    (is_plain(inner, dialect) && memchr::memchr(dialect.quote, inner).is_none()).then_some(inner)
}

#[inline]
fn is_ink(byte: u8) -> bool {
    byte.wrapping_sub(0x21) < 0x7F - 0x21
}

/// The content of a raw cell without its mark: the quotes around it taken off, doubled ones made one, text behind the closing
/// quote appended.
///
/// ```
/// use tidy_gate_scan::{Dialect, decode};
/// assert_eq!(&*decode(b"\"5\"\" pot\"", Dialect::default()), b"5\" pot");
/// ```
#[must_use]
pub fn decode(raw: &[u8], dialect: Dialect) -> Cow<'_, [u8]> {
    let quote = dialect.quote;
    let marks = usize::from(mark_of(raw, dialect).is_some());
    let Some(inner) = raw.strip_prefix(&[quote]) else {
        return Cow::Borrowed(raw.get(marks..).unwrap_or_default());
    };
    let inner = inner.get(marks..).unwrap_or_default();
    let Some(first) = memchr::memchr(quote, inner) else { return Cow::Borrowed(inner) };
    if first + 1 == inner.len() {
        return Cow::Borrowed(inner.get(..first).unwrap_or_default());
    }
    let mut text = Vec::with_capacity(inner.len());
    let mut bytes = inner.iter().copied().peekable();
    while let Some(byte) = bytes.next() {
        if byte != quote {
            text.push(byte);
        } else if bytes.next_if_eq(&quote).is_some() {
            text.push(quote);
        } else {
            text.extend(bytes.by_ref());
        }
    }
    Cow::Owned(text)
}
