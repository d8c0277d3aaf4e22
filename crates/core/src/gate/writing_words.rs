//! The words for how a cell was written.

use super::cell_words::CellWords;
use super::writing::Cell;
use crate::catalogue::{Code, Level, entry};
use crate::value::{sheet_error, suspicion};

/// The words, where the code speaks of how the cell was written.
pub(super) fn of(code: Code, level: Level, cell: Cell<'_>) -> Option<CellWords> {
    let trimmed = cell.text.trim();
    let title = entry(code).title;
    let (message, suggestion) = match code {
        Code::SpaceStray => (spaces(cell.text, trimmed), Some(single_spaced(trimmed))),
        Code::CharactersInvisible => {
            let found = suspicion::invisible(trimmed).map(named_invisible).unwrap_or_default();
            (format!("{title}: {found}"), Some(suspicion::without_invisible(trimmed)))
        }
        Code::CharactersLookalike => {
            let (_, latin) = suspicion::lookalike(trimmed)?;
            (title.to_owned(), latin)
        }
        Code::ControlCharacters => {
            let found = suspicion::control(trimmed).map(code_point).unwrap_or_default();
            (format!("{title}: {found}"), None)
        }
        Code::EncodingDoubt if level == Level::Warn => (
            "the text was encoded twice on its way here".to_owned(),
            suspicion::before_double_encoding(trimmed),
        ),
        Code::SpreadsheetError if sheet_error::is_hashes(trimmed) => {
            ("the column was too narrow in the spreadsheet; the value is not in the file".to_owned(), None)
        }
        Code::SpreadsheetError
        | Code::PrecisionLost
        | Code::Placeholder
        | Code::FormulaLike
        | Code::NumberAsText
        | Code::FormulaStale => (title.to_owned(), None),
        _ => return None,
    };
    Some(CellWords { message, expected: None, suggestion })
}

fn spaces(text: &str, trimmed: &str) -> String {
    let mut kinds = Vec::new();
    if trimmed.len() < text.len() {
        kinds.push("around the value".to_owned());
    }
    if trimmed.contains("  ") {
        kinds.push("doubled".to_owned());
    }
    if let Some(uncommon) = trimmed.chars().find(|&c| suspicion::is_uncommon_space(c)) {
        let name = if uncommon == '\u{A0}' { "no-break, " } else { "" };
        kinds.push(format!("unusual ({name}{})", code_point(uncommon)));
    }
    format!("{}: {}", entry(Code::SpaceStray).title, kinds.join(" and "))
}

/// The text with one plain space wherever spaces stand.
fn single_spaced(trimmed: &str) -> String {
    let mut single = String::with_capacity(trimmed.len());
    for c in trimmed.chars().map(|c| if suspicion::is_uncommon_space(c) { ' ' } else { c }) {
        if c != ' ' || !single.ends_with(' ') {
            single.push(c);
        }
    }
    single
}

fn named_invisible(c: char) -> String {
    let name = match c {
        '\u{200B}' => "a zero-width space, ",
        '\u{200C}' | '\u{200D}' => "a joiner, ",
        '\u{200E}' | '\u{200F}' | '\u{202A}'..='\u{202E}' | '\u{2066}'..='\u{2069}' | '\u{61C}' => {
            "a direction mark, "
        }
        '\u{FEFF}' => "a byte-order mark, ",
        '\u{AD}' => "a soft hyphen, ",
        _ => "",
    };
    format!("{name}{}", code_point(c))
}

fn code_point(c: char) -> String {
    format!("U+{:04X}", u32::from(c))
}
