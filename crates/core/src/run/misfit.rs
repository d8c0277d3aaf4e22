//! Columns whose values do not fit their heading's field, while another column's do: swapped or shifted.

use super::outcome::Outcome;
use super::source::BlockSource;
use crate::block::Block;
use crate::catalogue::{Code, Tag};
use crate::finding::Finding;
use crate::gate::{Contents, Gate, at_heading};

/// Adds the findings. The rows are looked at again only where most cells of a column were found not to fit.
pub(super) fn settle<S: BlockSource>(gate: &Gate, source: &S, outcome: &mut Outcome) -> Result<(), S::Error> {
    let mut bad = vec![0; gate.width()];
    for (counted, tally) in outcome.tallies.iter() {
        if let Some(slot) = counted.column.checked_sub(1).and_then(|column| bad.get_mut(column))
            && is_of_kind(counted.code)
        {
            *slot += tally.count;
        }
    }
    let suspects: Vec<usize> = bad
        .iter()
        .zip(&outcome.filled)
        .enumerate()
        // A few cells of many rows prove nothing.
        .filter(|(_, (bad, filled))| {
            **bad * 2 > **filled && (**filled >= 5 || **filled * 2 >= outcome.counts.records())
        })
        .map(|found| found.0)
        .collect();
    let hidden = gate.fields_behind_defaults();
    let is_asked = !suspects.is_empty() || !hidden.is_empty();
    let Some(extent) = outcome.extents.blocks().first().filter(|_| is_asked) else {
        return Ok(());
    };
    let mut block = Block::default();
    source.again(extent, &mut block)?;
    let mut contents = Contents::new(gate);
    contents.look_at(gate, &block);
    let mut found = Vec::new();
    for (column, other) in contents.misfits(gate, &suspects) {
        outcome.misfits.push((column, other));
        let message = gate.misfit_message(column, other);
        let finding = at_heading(gate, Code::ColumnMisfit, column, message);
        found.push(Finding { field: gate.field_name(column), ..finding });
    }
    found.extend(contents.behind_defaults(gate, &hidden));
    for finding in found {
        let finding = gate.told(gate.table().placed(finding));
        outcome.tell(finding);
    }
    outcome.late.sort_by_key(Finding::order);
    Ok(())
}

/// Whether a code says that a value is none of its kind, list or form, or not which of two days.
fn is_of_kind(code: Code) -> bool {
    code.is(Tag::OtherKind) || code == Code::DateUnclear
}
