//! How a cell was written: a spreadsheet's errors, and suspicions that stand beside what its program says.

use super::compiled::{Column, Compiled};
use super::kinds::{Nature, Program};
use super::verdict::{Given, Verdict};
use crate::catalogue::{Code, Tag};
use crate::scan::{Dialect, SheetMark, mark_of};
use crate::value::{Number, Picklist, sheet_error, suspicion};
use rust_decimal::Decimal;

/// The content of a cell and how it stands in the file.
#[derive(Debug, Clone, Copy)]
pub(super) struct Cell<'a> {
    /// Not trimmed.
    pub(super) text: &'a str,
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
        let is_text = mark_of(raw, dialect) == Some(SheetMark::Text);
        let Given { is_stored, is_percent, .. } = Given::of(text, raw, dialect);
        Cell { text, is_text, is_stored, is_percent }
    }
}

/// Judges a cell that is not blank: by its program, and by how it was written.
pub(super) fn judge(program: &Program, picklists: &[Picklist], cell: Cell<'_>) -> Verdict {
    let trimmed = cell.text.trim();
    if matches!(program, Program::Free(_)) {
        return Verdict::SOUND;
    }
    if sheet_error::is_one(trimmed) {
        return Verdict::one(Code::SpreadsheetError);
    }
    let given = Given { text: trimmed, is_stored: cell.is_stored, is_percent: cell.is_percent };
    let mut verdict = program.judge(given, picklists);
    if !verdict.codes().any(|code| code.is(Tag::NoValue)) {
        suspect(program, cell, trimmed, &mut verdict);
    }
    verdict
}

impl Compiled {
    /// Judges a cell of a column: what conditions ask for must be a number that they can hold.
    pub(super) fn judge_cell(&self, column: &Column, cell: Cell<'_>) -> Verdict {
        let mut verdict = judge(&column.program, &self.schema.picklists, cell);
        let is_number = matches!(column.program.nature(), Nature::Whole | Nature::Number);
        if !(column.is_asked && is_number) || verdict.codes().any(|code| code.is(Tag::NoValue)) {
            return verdict;
        }
        let given = Given { text: cell.text.trim(), is_stored: cell.is_stored, is_percent: cell.is_percent };
        let standard = column.program.standard(given, &self.schema.picklists);
        let number = standard.as_deref().and_then(Number::decimal);
        if let Some(number) = number
            && Decimal::from_str_exact(&number.to_string()).is_err()
        {
            let is_large = number.digits().0 > MOST_DIGITS || number.digits().1 == 0;
            let code = if is_large { Code::OutOfRange } else { Code::DigitsTooMany };
            if !verdict.codes().any(|known| known == code) {
                verdict.add(code);
            }
        }
        verdict
    }
}

/// So many digits of a number a sheet stores.
const STORED_DIGITS: usize = 15;

/// So many digits conditions can hold, whatever they are.
pub(super) const MOST_DIGITS: usize = 28;

fn suspect(program: &Program, cell: Cell<'_>, trimmed: &str, verdict: &mut Verdict) {
    let nature = program.nature();
    let is_text = nature == Nature::Text;
    // A picklist takes its words with spaces aside.
    let is_listed = nature == Nature::Listed;
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
    add(suspicion::control(trimmed).is_some(), Code::ControlCharacters);
    if !trimmed.is_ascii() {
        add(suspicion::invisible(trimmed).is_some(), Code::CharactersInvisible);
        add(suspicion::lookalike(trimmed).is_some(), Code::CharactersLookalike);
        add(suspicion::before_double_encoding(trimmed).is_some(), Code::EncodingDoubt);
    }
    let is_number = matches!(nature, Nature::Whole | Nature::Number);
    // A sheet could not store more digits without losing some.
    let digits = trimmed.bytes().filter(u8::is_ascii_digit).count();
    add(is_number && cell.is_text && digits <= STORED_DIGITS, Code::NumberAsText);
    add(is_text && suspicion::is_formula_like(trimmed), Code::FormulaLike);
    add(
        matches!(nature, Nature::Text | Nature::Whole) && suspicion::has_lost_precision(trimmed),
        Code::PrecisionLost,
    );
    let given = Given { text: trimmed, is_stored: cell.is_stored, is_percent: cell.is_percent };
    add(program.holds_the_place(given), Code::Placeholder);
}
