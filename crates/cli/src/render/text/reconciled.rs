//! What has arrived, drawn: the sum, the fields, then the records that are missing and the values that differ.

use super::next::command_lines;
use super::words::part;
use crate::render::words::counted;
use crate::terminal::{FAINT, HEAD, OPEN, SHUT, VALUE, columns, cut, padded, paint, shown};
use std::path::PathBuf;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::reconcile::{Difference, Reconciled};

/// So many missing records and differences are shown.
const MOST: usize = 10;

/// Draws what became of the rows of a file among the records of a source, for a width in columns.
pub(crate) fn reconciled(
    found: &Reconciled,
    (file, source): (&str, &str),
    (written, again): (&[PathBuf], &str),
    width: usize,
) -> String {
    let (word, style) = if found.is_whole() { (" ARRIVED ", OPEN) } else { (" NOT ALL ", SHUT) };
    let rows = counted(found.rows, "row", "rows");
    let sentence = match (found.rows, found.is_whole()) {
        (0, _) => "There are no ready rows.".to_owned(),
        (1, true) => "The only row has arrived as it was handed over.".to_owned(),
        (1, false) => "The only row has not arrived as it was handed over.".to_owned(),
        (_, true) => format!("All of the {rows} have arrived as they were handed over."),
        _ => format!("{} of {rows} have arrived as they were handed over.", grouped(found.arrived)),
    };
    let mut lines = vec![String::new(), format!(" {}  {}", paint(word, style), paint(&sentence, HEAD))];
    lines.push(String::new());
    for (name, text) in [("File", file), ("Records", source)] {
        lines.push(format!("   {}  {}", paint(&padded(name, 9), FAINT), shown(text)));
    }
    for (name, count) in
        [("arrived", found.arrived), ("different", found.different), ("missing", found.missing)]
    {
        lines.push(format!("   {}  {:>9}", paint(&padded(name, 9), FAINT), grouped(count)));
    }
    lines.extend(fields(found));
    lines.extend(missing(found, width));
    lines.extend(differences(found, width));
    if !written.is_empty() {
        let names: Vec<String> = written.iter().map(|path| path.display().to_string()).collect();
        lines.extend(part("Next", ""));
        lines.push(format!("   Written: {}", shown(&names.join(", "))));
    } else if !found.is_whole() {
        lines.extend(part("Next", ""));
        lines.push("   List all of it; load again what is missing, once it is known why:".to_owned());
        lines.extend(command_lines(&shown(&format!("{again} --rows not-arrived.csv")), width));
    }
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}

/// The fields in which anything is told.
fn fields(found: &Reconciled) -> Vec<String> {
    let told: Vec<_> = found.fields.iter().filter(|field| field.different + field.defaulted > 0).collect();
    if told.is_empty() {
        return Vec::new();
    }
    let mut lines = part("Fields", "").to_vec();
    let widest = told.iter().map(|field| columns(&cut(&field.field, 28))).max().unwrap_or_default().max(8);
    let has_defaults = told.iter().any(|field| field.defaulted > 0);
    let mut heads = vec!["different", "arrived"];
    heads.extend(has_defaults.then_some("defaulted"));
    let head: String = heads.iter().map(|head| format!("  {head:>10}")).collect();
    lines.push(paint(&format!("   {}{head}", " ".repeat(widest)), FAINT));
    for field in told {
        let mut counts = vec![field.different, field.arrived];
        counts.extend(has_defaults.then_some(field.defaulted));
        let counts: String = counts.iter().map(|count| format!("  {:>10}", grouped(*count))).collect();
        lines.push(format!("   {}{counts}", paint(&padded(&cut(&field.field, 28), widest), HEAD)));
    }
    lines
}

fn missing(found: &Reconciled, width: usize) -> Vec<String> {
    if found.missing == 0 {
        return Vec::new();
    }
    let mut lines = part("Missing", "ready rows without their record").to_vec();
    for one in found.missing_records.iter().take(MOST) {
        let key = match &one.key {
            Some(key) => paint(&cut(key, width.saturating_sub(24)), HEAD),
            None => "without a key, which the target was to give".to_owned(),
        };
        lines.push(format!("   {key}  {}", paint(&format!("row {}", grouped(one.row)), FAINT)));
    }
    lines.extend(more(found.missing, found.missing_records.len().min(MOST), "record", "records"));
    lines
}

fn differences(found: &Reconciled, width: usize) -> Vec<String> {
    let count: u64 = found.fields.iter().map(|field| field.different).sum();
    if count == 0 {
        return Vec::new();
    }
    let mut lines = part("Different", "handed over → found").to_vec();
    let most = (width.saturating_sub(48) / 2).max(10);
    let value = |value: &Option<String>| match value {
        Some(value) => paint(&format!("\"{}\"", cut(value, most)), VALUE),
        None => "blank".to_owned(),
    };
    let one = |one: &Difference| {
        format!(
            "   {}  {}  {} → {}  {}",
            paint(&cut(&one.key, 20), HEAD),
            cut(&one.field, 24),
            value(&one.wanted),
            value(&one.found),
            paint(&format!("row {}", grouped(one.row)), FAINT)
        )
    };
    lines.extend(found.differences.iter().take(MOST).map(one));
    lines.extend(more(count, found.differences.len().min(MOST), "value", "values"));
    lines
}

fn more(all: u64, told: usize, one: &str, several: &str) -> Option<String> {
    let rest = all.saturating_sub(told as u64);
    (rest > 0).then(|| format!("   {}", paint(&format!("and {} more", counted(rest, one, several)), FAINT)))
}
