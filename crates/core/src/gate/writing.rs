//! How a cell was written: a spreadsheet's errors, and suspicions that stand beside what its program says.

pub(super) mod words;

use super::program::{Given, Program, Verdict};
use crate::catalogue::Code;
use crate::scan::{Dialect, MARK_TEXT, mark_of};
use crate::schema::TextRules;
use crate::value::{Date, Picklist, sheet_error, suspicion};

/// The content of a cell and how it stands in the file.
#[derive(Debug, Clone, Copy)]
pub(super) struct Cell<'a> {
    /// Not trimmed.
    pub(super) text: &'a str,
    /// Whether it stands in quotes.
    pub(super) is_quoted: bool,
    /// Whether a sheet keeps it as text though it looks like a number.
    pub(super) is_text: bool,
    /// Whether a sheet keeps it, and not as text.
    pub(super) is_stored: bool,
    /// Whether it is a stored number that is shown as a percentage.
    is_percent: bool,
}

impl<'a> Cell<'a> {
    /// The cell of this text, which was decoded from these bytes.
    pub(super) fn of(text: &'a str, raw: &[u8], dialect: Dialect) -> Self {
        let is_text = mark_of(raw, dialect) == Some(MARK_TEXT);
        // In a sheet no cell stands in quotes: what it holds was typed so.
        let is_quoted = dialect.marks || raw.first() == Some(&dialect.quote);
        let Given { is_stored, is_percent, .. } = Given::of(text, raw, dialect);
        Cell { text, is_quoted, is_text, is_stored, is_percent }
    }
}

/// Judges a cell that is not blank: by its program, and by how it was written.
pub(super) fn judge(program: &Program, picklists: &[Picklist], cell: Cell<'_>) -> Verdict {
    let trimmed = cell.text.trim();
    if matches!(program, Program::Free) {
        return Verdict::SOUND;
    }
    if sheet_error::is_one(trimmed) {
        return Verdict::one(Code::SpreadsheetError);
    }
    let given = Given { text: trimmed, is_stored: cell.is_stored, is_percent: cell.is_percent };
    let mut verdict = program.judge(given, picklists);
    if !verdict.codes().any(leaves_no_value) {
        suspect(program, cell, trimmed, &mut verdict);
    }
    verdict
}

/// A cell whose value cannot be read gets one code and is judged no further.
fn leaves_no_value(code: Code) -> bool {
    matches!(
        code,
        Code::IntegerBad
            | Code::DecimalBad
            | Code::DecimalMark
            | Code::NumberUnclear
            | Code::BooleanBad
            | Code::DateBad
            | Code::DateImpossible
            | Code::DateUnclear
            | Code::DateAsNumber
            | Code::EmailBad
            | Code::TimeBad
            | Code::PhoneBad
            | Code::UrlBad
            | Code::UuidBad
            | Code::SpreadsheetError
    )
}

fn suspect(program: &Program, cell: Cell<'_>, trimmed: &str, verdict: &mut Verdict) {
    let is_text = matches!(program, Program::Text { .. });
    // A picklist takes its words with spaces aside.
    let is_listed = matches!(program, Program::Picklist { .. });
    if is_listed && *verdict == Verdict::SOUND {
        return;
    }
    let mut add = |is_so: bool, code: Code| {
        if is_so {
            verdict.add(code);
        }
    };
    let outer = trimmed.len() < cell.text.len();
    add(!is_listed && (outer || is_text && suspicion::has_stray_space(trimmed)), Code::SpaceStray);
    add(suspicion::control(trimmed, cell.is_quoted).is_some(), Code::ControlCharacters);
    if !trimmed.is_ascii() {
        add(suspicion::invisible(trimmed).is_some(), Code::CharactersInvisible);
        add(suspicion::lookalike(trimmed).is_some(), Code::CharactersLookalike);
        add(suspicion::before_double_encoding(trimmed).is_some(), Code::EncodingDoubt);
    }
    let is_number = matches!(program, Program::Integer { .. } | Program::Decimal { .. });
    add(is_number && cell.is_text, Code::NumberAsText);
    add(is_text && suspicion::is_formula_like(trimmed), Code::FormulaLike);
    add(
        matches!(program, Program::Text { .. } | Program::Integer { .. })
            && suspicion::has_lost_precision(trimmed),
        Code::PrecisionLost,
    );
    add(holds_the_place(program, trimmed), Code::Placeholder);
}

/// Days that only hold the place of one.
pub(super) const PLACEHOLDER_DAYS: [(u16, u8, u8); 2] = [(1900, 1, 1), (9999, 12, 31)];

fn holds_the_place(program: &Program, trimmed: &str) -> bool {
    match program {
        // What fits a stated pattern is meant.
        Program::Text { rules: TextRules { pattern: None, .. }, .. } => suspicion::is_placeholder(trimmed),
        Program::Integer { .. } | Program::Decimal { .. } => {
            suspicion::is_nines(trimmed.strip_prefix('-').unwrap_or(trimmed))
        }
        Program::Date(dates) => dates.day(trimmed).is_some_and(is_placeholder_day),
        _ => false,
    }
}

fn is_placeholder_day(day: Date) -> bool {
    PLACEHOLDER_DAYS.contains(&(day.year(), day.month(), day.day()))
}
