//! Whether a sheet holds a record.

use super::first_rows::{FirstRow, LOOKED_AT};
use tidy_gate_core::headings::{PlanPairing, pair};
use tidy_gate_core::schema::{Field, RecordSchema, Required};

/// Whether a sheet that begins with these rows holds the record's key and half of the fields that it needs; without a
/// key, two fields at least.
pub(crate) fn fits(rows: &[FirstRow], schema: &RecordSchema) -> bool {
    let best = rows.iter().take(LOOKED_AT).max_by_key(|row| {
        let paired = pair(&row.cells, &schema.fields, &PlanPairing::default());
        paired.column_of.iter().flatten().count()
    });
    let Some(best) = best else { return false };
    let column_of = pair(&best.cells, &schema.fields, &PlanPairing::default()).column_of;
    let has = |field: usize| column_of.get(field).is_some_and(Option::is_some);
    let is_needed =
        |field: &Field| matches!(field.required, Required::Always | Required::Filled | Required::WhenAdding);
    let needed: Vec<usize> = schema
        .fields
        .iter()
        .enumerate()
        .filter(|(_, field)| is_needed(field))
        .map(|(number, _)| number)
        .collect();
    let there = needed.iter().filter(|field| has(**field)).count();
    let named = column_of.iter().flatten().count();
    schema.key.iter().all(|field| has(*field))
        && there * 2 >= needed.len()
        && (named > 1 || !schema.key.is_empty())
}
