//! Blocks of fields that are filled as a whole or not at all.

use super::row_seen::RowSeen;
use crate::finding::Finding;

/// The blocks that a row fills in part, by number.
pub(super) fn incomplete(row: &RowSeen<'_>) -> impl Iterator<Item = usize> {
    let blocks = row.gate.schema.blocks.iter().enumerate();
    blocks.filter(|(_, block)| !row.missing(block).is_empty()).map(|(number, _)| number)
}

/// Puts an incomplete block into words.
pub(super) fn describe(row: &RowSeen<'_>, number: usize, finding: &mut Finding) -> Option<()> {
    let together = row.gate.schema.blocks.get(number)?;
    finding.fields = row.names(&row.missing(together));
    finding.message = format!("{} is filled in part", together.name);
    finding.rule = Some(together.name.clone());
    finding.expect(format!("{} too, or none of it", finding.fields.join(" and ")));
    Some(())
}
