//! Which columns were taken for which fields, and which were not.

use crate::render::words::counted;
use crate::terminal::shown;
use tidy_gate_core::headings::{How, is_ours, loose};
use tidy_gate_core::report::{ColumnReport, Report};

/// The columns with a field, and those without.
#[derive(Debug)]
pub(crate) struct Columns {
    /// How many there are of each.
    pub(crate) counts: String,
    /// Those with a field.
    pub(crate) paired: Vec<PairedColumn>,
    /// Those without.
    pub(crate) others: Vec<OtherColumn>,
}

/// A column with a field.
#[derive(Debug)]
pub(crate) struct PairedColumn {
    /// Its letter, as a spreadsheet shows it.
    pub(crate) letter: String,
    /// Its heading.
    pub(crate) heading: String,
    /// The field's name, where the heading does not say it in other letters.
    pub(crate) field: Option<String>,
}

/// A column without a field.
#[derive(Debug)]
pub(crate) struct OtherColumn {
    /// Its letter, as a spreadsheet shows it.
    pub(crate) letter: String,
    /// Its heading, if it has one.
    pub(crate) heading: Option<String>,
    /// Why it has no field.
    pub(crate) why: String,
    /// Whether somebody chose so.
    pub(crate) is_chosen: bool,
}

pub(super) fn columns(report: &Report) -> Columns {
    // A column without a heading and without a value is none.
    let is_there =
        |column: &&ColumnReport| !column.heading.is_empty() || column.filled > 0 || column.field.is_some();
    let there = report.columns.iter().filter(is_there);
    let (paired, others): (Vec<_>, Vec<_>) = there.partition(|column| column.field.is_some());
    let counts = match others.len() {
        0 => format!("all {} have a field", paired.len()),
        n => format!("{} with a field, {n} without", paired.len()),
    };
    Columns {
        counts,
        paired: paired.into_iter().map(with_field).collect(),
        others: others.into_iter().map(|column| without_field(column, report.plan.is_some())).collect(),
    }
}

fn with_field(column: &ColumnReport) -> PairedColumn {
    let field = column.field.as_deref().unwrap_or_default();
    // Where the heading says the field's name in other letters, it says enough.
    let is_said = loose(&column.heading) == loose(field);
    PairedColumn {
        letter: column.letter.clone(),
        heading: shown(&column.heading),
        field: (!is_said).then(|| shown(field)),
    }
}

fn without_field(column: &ColumnReport, has_plan: bool) -> OtherColumn {
    let (letter, heading) = (column.letter.clone(), shown(&column.heading));
    if column.how == How::LeftOut {
        let why = match (is_ours(&column.heading), has_plan) {
            (true, _) => "left out: written by an earlier check",
            (false, true) => "left out on purpose: the plan says so",
            (false, false) => "left out",
        };
        return OtherColumn { letter, heading: Some(heading), why: why.to_owned(), is_chosen: true };
    }
    let proposals: Vec<_> = column.proposals.iter().map(|proposal| shown(&proposal.field)).collect();
    let heading = (!heading.is_empty()).then_some(heading);
    let near = match (&heading, proposals.as_slice()) {
        (None, _) => format!("{} filled", counted(column.filled, "cell", "cells")),
        (_, []) => "no field has this heading".to_owned(),
        (_, fields) => format!("no field; perhaps {}", fields.join(" or ")),
    };
    OtherColumn { letter, heading, why: format!("{near}; left out"), is_chosen: false }
}
