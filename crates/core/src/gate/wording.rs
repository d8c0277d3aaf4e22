//! The words of a finding: what was found, what was expected, what would fit. Words a steward reads; the
//! message never holds the value, and nothing of a masked value is given away.

use super::cell_words::CellWords;
use super::kinds::Program;
use super::writing::Cell;
use super::writing_words;
use crate::catalogue::{Code, Level, entry};
use crate::schema::Field;
use crate::value::Picklist;

/// The words for a code at a cell; the text is not trimmed.
pub(super) fn of_cell(
    (code, level): (Code, Level),
    field: Option<&Field>,
    program: Option<&Program>,
    picklists: &[Picklist],
    cell: Cell<'_>,
    sensitive: bool,
) -> CellWords {
    if let Some(words) = writing_words::of(code, level, cell) {
        return CellWords { suggestion: words.suggestion.filter(|_| !sensitive), ..words };
    }
    let text = cell.text.trim();
    let mut words = CellWords { message: entry(code).title.to_owned(), ..CellWords::default() };
    let (Some(field), Some(program)) = (field, program) else { return words };
    words.expected = match code {
        Code::RequiredBlank | Code::KeyBlank => Some(match &field.example {
            Some(example) => format!("a value, such as {example}"),
            None => "a value".to_owned(),
        }),
        Code::EncodingDoubt => Some("text in UTF-8".to_owned()),
        _ => program.expected(code, field, picklists),
    };
    words.suggestion = program.suggestion(code, text, picklists).filter(|_| !sensitive);
    if let Some(more) = program.detail(code, text, sensitive) {
        words.message = format!("{}: {more}", words.message);
    }
    words
}
