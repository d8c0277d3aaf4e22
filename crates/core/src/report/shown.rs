//! Which findings a report shows.

use crate::finding::Finding;
use crate::gate::{FIRST_OF_EACH, MOST_KEPT};
use std::collections::BTreeMap;

/// The findings to show: the first of each code and field, then the first of all.
pub(super) fn shown(mut kept: Vec<Finding>) -> Vec<Finding> {
    kept.sort_by(|a, b| {
        a.order()
            .cmp(&b.order())
            .then(a.level.cmp(&b.level))
            .then_with(|| a.fields.cmp(&b.fields))
            .then_with(|| a.field.cmp(&b.field))
    });
    if kept.len() <= MOST_KEPT {
        return kept;
    }
    let group = |finding: &Finding| (finding.code, finding.field.clone(), finding.rule.clone());
    let mut pairs: BTreeMap<_, usize> = BTreeMap::new();
    for finding in &kept {
        *pairs.entry(group(finding)).or_default() += 1;
    }
    let of_each = (MOST_KEPT / pairs.len().max(1)).min(FIRST_OF_EACH as usize);
    let mut seen: BTreeMap<_, usize> = BTreeMap::new();
    let mut is_first: Vec<bool> = Vec::with_capacity(kept.len());
    for finding in &kept {
        let count = seen.entry(group(finding)).or_default();
        *count += 1;
        is_first.push(*count <= of_each);
    }
    let mut room = MOST_KEPT.saturating_sub(is_first.iter().filter(|first| **first).count());
    let mut first = is_first.into_iter();
    kept.retain(|_| {
        first.next().unwrap_or_default() || {
            let fits = room > 0;
            room = room.saturating_sub(1);
            fits
        }
    });
    kept.truncate(MOST_KEPT);
    kept
}
