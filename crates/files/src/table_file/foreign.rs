//! Options that are meant for files of another form.

use crate::error::Error;
use crate::text::input::Input;
use crate::text::options::ReadOptions;

/// Options that say nothing of a file of its form are refused, not passed over.
pub(super) fn refuse(
    input: &Input,
    options: &ReadOptions,
    is_json: bool,
    is_book: bool,
) -> Result<(), Error> {
    let (form, foreign): (&'static str, &[&str]) = match (is_json, is_book) {
        (true, _) => (
            "JSON",
            &["heading-row", "first-row", "last-row", "delimiter", "encoding", "by-position", "short-rows"],
        ),
        (_, true) => ("a workbook", &["delimiter", "encoding", "short-rows", "at"]),
        _ => ("delimited text", &["at"]),
    };
    match options.typed.iter().find(|option| foreign.contains(option)) {
        Some(option) => Err(Error::NotForForm { path: input.path().to_owned(), option, form }),
        None => Ok(()),
    }
}
