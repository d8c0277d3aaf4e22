//! The different values of a field, each with what it is taken for.

use super::words::part;
use crate::render::words::counted;
use crate::terminal::{BAD, CARE, FAINT, GOOD, VALUE, columns, cut, padded, paint, shown};
use tidy_gate_core::gate::{Taken, ValueTold};
use tidy_gate_core::matching::FieldValues;
use tidy_gate_core::numerals::grouped;

/// So many values of a field are listed.
const MOST: usize = 60;

/// A table of the values of each field.
pub(super) fn tables(values: &[FieldValues], width: usize) -> Vec<String> {
    values.iter().flat_map(|of_field| table(of_field, width)).collect()
}

fn table(of_field: &FieldValues, width: usize) -> Vec<String> {
    let values = &of_field.values;
    let open = values.iter().filter(|value| value.how == Taken::Open).count() as u64;
    let aside = match open {
        0 => format!("{}, all of them taken", counted(values.len() as u64, "value", "values")),
        open => format!("{}, {} open", counted(values.len() as u64, "value", "values"), grouped(open)),
    };
    let mut lines = part(&format!("Values of {}", shown(&of_field.field)), &aside).to_vec();
    let widest = (width / 3).max(12);
    let word = |value: &ValueTold| format!("\"{}\"", cut(&value.value, widest));
    let listed = values.iter().take(MOST);
    let first = listed.clone().map(|value| columns(&word(value))).max().unwrap_or_default();
    let second = listed.clone().map(|value| grouped(value.count).len()).max().unwrap_or_default();
    let becomes = |value: &ValueTold| match (&value.code, value.likely.first()) {
        (Some(code), _) => cut(code, widest),
        (None, Some(likely)) => format!("{}?", cut(likely, widest)),
        (None, None) => String::new(),
    };
    let third = listed.clone().map(|value| columns(&becomes(value))).max().unwrap_or_default();
    for value in listed {
        let (sign, style) = match value.how {
            Taken::Open if value.likely.is_empty() => ("×", BAD),
            Taken::Open => ("?", CARE),
            _ => ("→", GOOD),
        };
        let line = format!(
            "   {}  {:>second$}  {} {}  {}",
            paint(&padded(&word(value), first), VALUE),
            grouped(value.count),
            paint(sign, style),
            padded(&becomes(value), third),
            paint(how(value), FAINT)
        );
        lines.push(line);
    }
    let more = values.len().saturating_sub(MOST) as u64;
    if more > 0 {
        lines.push(format!(
            "   {}",
            paint(&format!("and {} more; --format json lists all", grouped(more)), FAINT)
        ));
    }
    if of_field.uncounted > 0 {
        let text = format!(
            "{} hold further values, which were not counted",
            counted(of_field.uncounted, "cell", "cells")
        );
        lines.push(format!("   {}", paint(&text, CARE)));
    }
    lines
}

/// How a value came to what it is taken for.
fn how(value: &ValueTold) -> &'static str {
    match value.how {
        Taken::Plan if value.code.is_none() => "blank, as the plan says",
        Taken::Plan => "as the plan says",
        Taken::Code => "a code",
        Taken::Label => "a label",
        Taken::Also => "another word for it",
        Taken::Loosely => "but for case or spaces",
        Taken::Blank => "counts as blank",
        Taken::Clear => "empties the field",
        Taken::Value => "a value as it stands",
        Taken::Open if value.likely.is_empty() => "open; nothing is like it",
        Taken::Open => "open",
    }
}
