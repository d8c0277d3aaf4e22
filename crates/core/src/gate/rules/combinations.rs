//! Permitted combinations of values.

use super::row_seen::RowSeen;
use crate::finding::Finding;
use crate::numerals::grouped;
use crate::schema::Combination;

/// The combinations that a row breaks, by number.
pub(super) fn broken(row: &RowSeen<'_>) -> impl Iterator<Item = usize> {
    let is_broken = |combination: &Combination| {
        row.combined(combination).is_some_and(|values| !combination.allowed.contains(&values))
    };
    let combinations = row.gate.schema.combinations.iter().enumerate();
    combinations.filter(move |(_, combination)| is_broken(combination)).map(|(number, _)| number)
}

/// Puts a broken combination into words; gives what the row holds.
pub(super) fn describe(row: &RowSeen<'_>, number: usize, finding: &mut Finding) -> Option<String> {
    let combination = row.gate.schema.combinations.get(number)?;
    finding.fields = row.names(&combination.fields);
    finding.message = format!("not permitted together ({})", combination.name);
    finding.rule = Some(combination.name.clone());
    if let Some(values) = row.combined(combination) {
        let permitted = partners(combination, &values, &finding.fields);
        permitted.into_iter().for_each(|permitted| finding.expect(permitted));
    }
    Some(row.shown(&combination.fields))
}

/// So many partners of a value are counted.
const MOST_COUNTED: usize = 1_000;

/// What goes with the first value of a combination.
fn partners(combination: &Combination, values: &[String], names: &[String]) -> Option<String> {
    let ([first, ..], [first_name, other_name, ..]) = (values, names) else { return None };
    let rows = combination.allowed.range(vec![first.clone()]..).take_while(|row| row.first() == Some(first));
    let mut partners: Vec<&str> = Vec::new();
    for partner in rows.filter_map(|row| row.get(1)).map(String::as_str) {
        if partners.last() != Some(&partner) {
            partners.push(partner);
        }
        if partners.len() > MOST_COUNTED {
            return Some(format!(
                "with {first_name} {first}: one of more than {} values of {other_name}",
                grouped(MOST_COUNTED as u64)
            ));
        }
    }
    Some(match partners.as_slice() {
        [] => format!("no {first_name} {first} at all"),
        few if few.len() <= 8 => format!("with {first_name} {first}: {other_name} {}", few.join(" or ")),
        many => format!("with {first_name} {first}: one of {} values of {other_name}", many.len()),
    })
}
