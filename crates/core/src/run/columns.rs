//! What only all rows tell of columns.

use super::outcome::Outcome;
use crate::block::OpenRow;
use crate::catalogue::{Code, entry};
use crate::finding::{Finding, letter};
use crate::gate::{Gate, at_heading};
use crate::headings::Paired;
use crate::numerals::counted;

/// Columns without a heading are findings when they hold values; so are a quote that never closes, and the ways of
/// writing that columns were seen to have.
pub(super) fn settle_columns(gate: &Gate, outcome: &mut Outcome) {
    for (column, paired) in gate.pairing().columns.iter().enumerate() {
        let filled = outcome.filled.get(column).copied().unwrap_or_default();
        if *paired != Paired::Blank || filled == 0 {
            continue;
        }
        let values = counted(filled, "value", "values");
        let message = format!("the column has no heading but holds {values}; it is left out");
        let finding = gate.told(at_heading(gate, Code::HeadingBlank, column, message));
        outcome.tell(gate.table().placed(finding));
    }
    if let Some(open) = outcome.open {
        outcome.tell(open_quote(gate, open));
    }
    for (number, votes) in outcome.votes.clone().into_iter().enumerate() {
        if let Some(finding) = gate.told_way(number, votes) {
            outcome.tell(gate.table().placed(finding));
        }
    }
    outcome.late.sort_by_key(Finding::order);
}

fn open_quote(gate: &Gate, open: OpenRow) -> Finding {
    let message = if open.cell_line > open.line {
        format!(
            "the quoted cell that begins on line {} never closes; all that follows was swallowed",
            open.cell_line
        )
    } else {
        "the quoted cell never closes; all that follows was swallowed".to_owned()
    };
    let mut finding = Finding::new(Code::QuoteOpen, entry(Code::QuoteOpen).level, message);
    finding.row = Some(open.row);
    finding.line = Some(open.line);
    finding.column = Some(open.column + 1);
    finding.letter = Some(letter(open.column));
    finding.heading = gate.heading(open.column);
    finding.expect("a closing quote".to_owned());
    finding
}
