//! What loading would do, drawn: the records, then the fields with their most frequent changes.

use super::words::part;
use super::{next, report};
use crate::render::story::{Context, Story};
use crate::render::words::counted;
use crate::terminal::{FAINT, HEAD, VALUE, columns, cut, padded, paint};
use tidy_gate_core::effects::{Change, Effects, FieldEffects};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::Report;

/// So many changes of a field are shown.
const MOST_CHANGES: usize = 5;

/// Draws the effects for a width in columns.
pub(crate) fn effects(checked: &Report, effects: &Effects, context: &Context, width: usize) -> String {
    let story = Story::of(checked, context, 0);
    let mut lines = report::head(&story, width);
    lines.extend(part("Records", ""));
    let records = &effects.records;
    for (name, count) in [
        ("before", records.before),
        ("added", records.added),
        ("changed", records.changed),
        ("as they are", records.unchanged),
        ("after", records.after),
    ] {
        lines.push(format!("   {}  {}", paint(&padded(name, 11), FAINT), right(count)));
    }
    lines.extend(fields(effects, width));
    lines.extend(next::lines(&story, width));
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}

fn right(count: u64) -> String {
    format!("{:>9}", grouped(count))
}

/// A table of the fields in which anything is told, with their most frequent changes below each.
fn fields(effects: &Effects, width: usize) -> Vec<String> {
    let is_told = |field: &&FieldEffects| {
        field.filled + field.overwritten + field.emptied + field.kept + field.unchanged > 0
    };
    let told: Vec<_> = effects.fields.iter().filter(is_told).collect();
    if told.is_empty() {
        return Vec::new();
    }
    let mut lines = part("Fields", "of records that are there").to_vec();
    let widest = told.iter().map(|field| columns(&cut(&field.field, 28))).max().unwrap_or_default().max(8);
    let has_kept = told.iter().any(|field| field.kept > 0);
    let mut heads = vec!["filled", "overwritten", "emptied", "unchanged"];
    heads.extend(has_kept.then_some("kept"));
    let head: String = heads.iter().map(|head| format!("  {head:>11}")).collect();
    lines.push(paint(&format!("   {}{head}", " ".repeat(widest)), FAINT));
    for field in told {
        let mut counts = vec![field.filled, field.overwritten, field.emptied, field.unchanged];
        counts.extend(has_kept.then_some(field.kept));
        let counts: String = counts.iter().map(|count| format!("  {:>11}", grouped(*count))).collect();
        lines.push(format!("   {}{counts}", paint(&padded(&cut(&field.field, 28), widest), HEAD)));
        lines.extend(field.changes.iter().take(MOST_CHANGES).map(|one| change(one, width)));
        let hidden = (field.filled + field.overwritten + field.emptied)
            .saturating_sub(field.changes.iter().take(MOST_CHANGES).map(|change| change.count).sum());
        if hidden > 0 && !field.changes.is_empty() {
            lines.push(format!(
                "     {}",
                paint(&format!("and {} more", counted(hidden, "change", "changes")), FAINT)
            ));
        }
    }
    lines
}

fn change(change: &Change, width: usize) -> String {
    let most = (width.saturating_sub(24) / 2).max(8);
    let shown = |value: &Option<String>| match value {
        Some(value) => paint(&format!("\"{}\"", cut(value, most)), VALUE),
        None => "blank".to_owned(),
    };
    format!("     {} → {}  {}", shown(&change.from), shown(&change.to), grouped(change.count))
}
