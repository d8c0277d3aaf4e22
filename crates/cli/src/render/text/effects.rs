//! What loading would do, drawn: the records, then the fields with their most frequent changes.

use super::words::part;
use super::{next, report};
use crate::render::story::{Context, Story};
use crate::render::words::counted;
use crate::terminal::{FAINT, HEAD, VALUE, columns, cut, padded, paint, shown};
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
    if let Some(missing) = effects.missing {
        lines.push(format!("   {}  {}", paint(&padded("unmentioned", 11), FAINT), right(missing)));
    }
    if let Some(of_lines) = &effects.lines {
        lines.extend(part("Lines", "of records that are there"));
        for (name, count) in
            [("added", of_lines.added), ("changed", of_lines.changed), ("as they are", of_lines.unchanged)]
        {
            lines.push(format!("   {}  {}", paint(&padded(name, 11), FAINT), right(count)));
        }
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
    let changes = |field: &&FieldEffects| field.filled + field.overwritten + field.emptied + field.kept > 0;
    let (told, same): (Vec<_>, Vec<_>) = effects.fields.iter().partition(changes);
    let same: Vec<String> =
        same.iter().filter(|field| field.unchanged > 0).map(|field| shown(&field.field)).collect();
    if told.is_empty() && same.is_empty() {
        return Vec::new();
    }
    let mut lines = part("Fields", "of records that are there").to_vec();
    let as_they_are = format!("as they are: {}", same.join(", "));
    let as_they_are = textwrap::wrap(&as_they_are, width.saturating_sub(5)).into_iter();
    let as_they_are = as_they_are.filter(|_| !same.is_empty());
    let as_they_are = as_they_are.map(|line| format!("   {}", paint(&line, FAINT))).collect::<Vec<_>>();
    if told.is_empty() {
        lines.extend(as_they_are);
        return lines;
    }
    let widest = told.iter().map(|field| columns(&cut(&field.field, 28))).max().unwrap_or_default().max(8);
    let has_kept = told.iter().any(|field| field.kept > 0);
    let mut heads = vec!["filled", "overwritten", "emptied", "unchanged"];
    heads.extend(has_kept.then_some("kept"));
    let head: String = heads.iter().map(|head| format!("  {head:>11}")).collect();
    lines.push(paint(&format!("   {}{head}", " ".repeat(widest)), FAINT));
    for field in told {
        let mut counts = vec![field.filled, field.overwritten, field.emptied, field.unchanged];
        counts.extend(has_kept.then_some(field.kept));
        let number = |count: &u64| {
            let text = format!("  {:>11}", grouped(*count));
            if *count == 0 { paint(&text, FAINT) } else { text }
        };
        let counts: String = counts.iter().map(number).collect();
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
    lines.extend(as_they_are);
    lines
}

fn change(change: &Change, width: usize) -> String {
    let most = (width.saturating_sub(24) / 2).max(8);
    let value = |value: &Option<String>| match value {
        Some(value) => paint(&format!("\"{}\"", cut(value, most)), VALUE),
        None => "blank".to_owned(),
    };
    format!("     {} → {}  {}", value(&change.from), value(&change.to), grouped(change.count))
}
