//! Whether a file is one of held rows, as an earlier check wrote it: known by its two first columns, whatever is stated
//! of the file from which its rows came.

use crate::text::Package;
use crate::{Error, Input, ReadOptions, TextFile};
use std::path::Path;
use std::sync::atomic::AtomicBool;
use tidy_gate_core::headings::{OWN_HEADINGS, is_own};
use tidy_gate_core::schema::RecordSchema;

/// A file of held rows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct HeldFile {
    /// What stands between its cells, if it is a text.
    pub delimiter: Option<u8>,
}

/// What is known of a file of held rows; nothing where it is none, or is standard input.
///
/// # Errors
/// When it cannot be read.
pub fn held_file(path: &Path, schema: &RecordSchema) -> Result<Option<HeldFile>, Error> {
    static NEVER: AtomicBool = AtomicBool::new(false);
    if path == Path::new("-") || !path.is_file() {
        return Ok(None);
    }
    let mut input = Input::open(path)?;
    let head = input.head()?;
    if Package::of(&head) == Some(Package::Archive) {
        let opened = TextFile::open_sheet(input, None, &ReadOptions::default(), Some(schema), false, &NEVER);
        let is_held = opened.is_ok_and(|file| is_own(&file.table().headings));
        return Ok(is_held.then_some(HeldFile { delimiter: None }));
    }
    let text = head.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(&head).trim_ascii_start();
    if text.starts_with(b"[") || text.starts_with(b"{") {
        let own = format!("\"{}\"", OWN_HEADINGS[0]);
        let is_held = memchr::memmem::find(text, own.as_bytes()).is_some();
        return Ok(is_held.then_some(HeldFile { delimiter: None }));
    }
    let unquoted = |text: &'_ [u8], word: &str| -> Option<usize> {
        let quoted = format!("\"{word}\"");
        let found = [quoted.as_str(), word].into_iter().find(|word| text.starts_with(word.as_bytes()))?;
        Some(found.len())
    };
    let [row, reasons] = OWN_HEADINGS;
    let Some(at) = unquoted(text, row) else { return Ok(None) };
    let Some((delimiter, rest)) = text.get(at..).and_then(|rest| rest.split_first()) else { return Ok(None) };
    Ok(unquoted(rest, reasons).map(|_| HeldFile { delimiter: Some(*delimiter) }))
}
