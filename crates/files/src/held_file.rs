//! Whether a file is one of held rows, as an earlier check wrote it: known by its two first columns, whatever is stated
//! of the file from which its rows came.

use super::error::Error;
use crate::table_file::TableFile;
use crate::text::input::Input;
use crate::text::input::Package;
use crate::text::options::ReadOptions;
use std::path::{Path, PathBuf};
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
        let opened = TableFile::open_sheet(input, None, &ReadOptions::default(), Some(schema), false, &NEVER);
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

/// The name of the plan that goes with a file of held rows.
#[must_use]
pub fn plan_of_held(held: &Path) -> PathBuf {
    let stem = held.file_stem().unwrap_or_default().to_string_lossy().into_owned();
    let is_called_so = stem == "held" || stem.ends_with(".held");
    held.with_file_name(if is_called_so {
        format!("{stem}.plan.toml")
    } else {
        format!("{stem}.held.plan.toml")
    })
}
