//! Which columns were taken for which fields, and which were not.

use super::words::{counted, part};
use crate::terminal::{CARE, FAINT, cut, paint, shown};
use tidy_gate_core::headings::{How, OWN_HEADINGS, loose};
use tidy_gate_core::report::{ColumnReport, Report};

/// The most lines for paired columns, and for the others.
const MOST_PAIRED: usize = 7;
const MOST_OTHERS: usize = 8;

pub(super) fn lines(report: &Report, width: usize) -> Vec<String> {
    // A column without a heading and without a value is none.
    let is_there =
        |column: &&ColumnReport| !column.heading.is_empty() || column.filled > 0 || column.field.is_some();
    let there = report.columns.iter().filter(is_there);
    let (paired, others): (Vec<_>, Vec<_>) = there.partition(|column| column.field.is_some());
    if paired.is_empty() && others.is_empty() {
        return Vec::new();
    }
    let aside = match others.len() {
        0 => format!("all {} have a field", paired.len()),
        n => format!("{} with a field, {n} without", paired.len()),
    };
    let mut lines = part("Columns", &aside).to_vec();
    lines.extend(flowing(&paired, width));
    let hidden = others.len().saturating_sub(MOST_OTHERS);
    lines.extend(others.iter().take(MOST_OTHERS).map(|column| other(column, width, report.plan.is_some())));
    if hidden > 0 {
        lines.push(format!(
            "   {}",
            paint(
                &format!("and {} more without a field", counted(hidden as u64, "column", "columns")),
                FAINT
            )
        ));
    }
    lines
}

/// The paired columns one behind the other: letter, heading, and the field where it is not plain from it.
fn flowing(paired: &[&ColumnReport], width: usize) -> Vec<String> {
    // Spaces that must not break are put back at the end.
    let item = |column: &&ColumnReport| {
        let field = column.field.as_deref().unwrap_or_default();
        let heading = cut(&column.heading, 28);
        // Where the heading says the field's name in other letters, it says enough.
        let text = if loose(&column.heading) == loose(field) {
            heading
        } else {
            format!("{heading} → {}", cut(field, 28))
        };
        format!("{} {text}", column.letter).replace(' ', "\u{A0}")
    };
    let items: Vec<_> = paired.iter().map(item).collect();
    let options = textwrap::Options::new(width).initial_indent("   ").subsequent_indent("   ");
    let options = options.word_separator(textwrap::WordSeparator::AsciiSpace);
    // The dot stays with what stands before it.
    let joined = items.join("\u{A0}· ");
    let wrapped = textwrap::wrap(&joined, options);
    let shown = if wrapped.len() > MOST_PAIRED { MOST_PAIRED - 1 } else { wrapped.len() };
    let mut lines: Vec<String> = wrapped.iter().take(shown).map(|line| line.replace('\u{A0}', " ")).collect();
    if shown < wrapped.len() {
        let seen = wrapped.iter().take(shown).map(|line| line.matches(" · ").count() + 1).sum::<usize>();
        let rest = paired.len().saturating_sub(seen);
        lines.push(format!(
            "   {}",
            paint(&format!("and {} more", counted(rest as u64, "column", "columns")), FAINT)
        ));
    }
    lines
}

fn other(column: &ColumnReport, width: usize, has_plan: bool) -> String {
    if column.how == How::LeftOut {
        let why = match (OWN_HEADINGS.contains(&column.heading.trim()), has_plan) {
            (true, _) => "left out: written by an earlier check",
            (false, true) => "left out on purpose: the plan says so",
            (false, false) => "left out",
        };
        return format!("   {} {}  {}", column.letter, cut(&column.heading, 30), paint(why, FAINT));
    }
    let heading = if column.heading.is_empty() {
        "(no heading)".to_owned()
    } else {
        format!("\"{}\"", cut(&column.heading, 30))
    };
    let proposals: Vec<_> = column.proposals.iter().map(|proposal| shown(&proposal.field)).collect();
    let near = match proposals.as_slice() {
        [] => "no field has this heading".to_owned(),
        fields => format!("no field; perhaps {}", fields.join(" or ")),
    };
    let near = if column.heading.is_empty() {
        format!("{} filled", counted(column.filled, "cell", "cells"))
    } else {
        near
    };
    let rest = cut(&format!("{near}; left out"), width.saturating_sub(8 + heading.chars().count()));
    format!("   {} {}  {rest}", column.letter, paint(&heading, CARE))
}
