//! The verdict in a sentence, and what stands behind it.

use super::since::sentence;
use crate::render::words::{are, counted};
use tidy_gate_core::catalogue::{Level, Tag};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::{Report, Total, Verdict};

/// Whether a stop holds every row, whatever is in it.
pub(super) fn holds_all(report: &Report, total: &Total) -> bool {
    let is_of_file = match total.first.row {
        None => true,
        Some(row) => report.file.heading_row == Some(row),
    };
    total.level == Level::Stop && is_of_file
}

/// Whether the work ended before any row was judged.
pub(super) fn ended_early(report: &Report) -> bool {
    report.totals.iter().any(|total| total.code.is(Tag::EndsWork) && holds_all(report, total))
}

/// The verdict in a sentence.
pub(super) fn verdict(report: &Report) -> String {
    let verdict = of_file(report);
    match &report.since {
        Some(since) => format!("{verdict} {}", sentence(since)),
        None => verdict,
    }
}

/// What is said of the file as it is.
fn of_file(report: &Report) -> String {
    match report.effects.as_ref().and_then(|effects| effects.beyond.as_ref()) {
        Some(beyond) if report.counts.stops == 0 => format!("The file may not be loaded: {beyond}."),
        // What the ready rows would do is a reason beside the stops.
        Some(beyond) => format!("{} Besides, {beyond}.", of_rows(report)),
        None => of_rows(report),
    }
}

/// What the rows come to.
fn of_rows(report: &Report) -> String {
    let counts = &report.counts;
    let row_stops = report.totals.iter().any(|total| total.level == Level::Stop && !holds_all(report, total));
    let (rows, records) = (counted(counts.rows, "row", "rows"), counts.rows - counts.left_out);
    let look = if counts.warns > 0 {
        format!(" {} to look at.", counted(counts.warns, "warning", "warnings"))
    } else {
        String::new()
    };
    match report.gate {
        Verdict::Open if counts.ready == 0 => {
            format!("There is nothing to load: of {rows}, none is ready.{look}")
        }
        Verdict::Open if counts.held > 0 => format!(
            "The ready rows may be loaded: {} of {} {} held, which the plan tolerates ({}).{look}",
            grouped(counts.held),
            counted(records, "row", "rows"),
            are(counts.held),
            report.tolerate.as_deref().unwrap_or("0%")
        ),
        Verdict::Open => {
            let all = match counts.ready {
                1 => "its 1 row is ready".to_owned(),
                ready => format!("all {} are ready", counted(ready, "row", "rows")),
            };
            let what = if why_not_the_file(report).is_empty() { "file" } else { "ready rows" };
            format!("The {what} may be loaded: {all}.{look}")
        }
        Verdict::Shut if ended_early(report) => {
            "The file may not be loaded: what is wrong with it ended the work before its rows were judged."
                .to_owned()
        }
        Verdict::Shut if counts.rows == 0 => "The file may not be loaded: it holds no rows.".to_owned(),
        Verdict::Shut if records == 0 => {
            format!("The file may not be loaded: {rows}, and none of them a record.")
        }
        Verdict::Shut if counts.ready == 0 && counts.held > 0 && !row_stops => {
            let all = if counts.held == 1 { "its 1 row".to_owned() } else { format!("all {rows}") };
            format!("The file may not be loaded: what is wrong with it holds {all}.")
        }
        Verdict::Shut if counts.ready == 0 && counts.held > 0 => {
            let all = match counts.held {
                1 => "its 1 row is held".to_owned(),
                held => format!("every one of its {} is held", counted(held, "row", "rows")),
            };
            format!("The file may not be loaded: {all}.")
        }
        Verdict::Shut if counts.held == 0 => {
            "The file may not be loaded: a stop of the file as a whole shuts the gate, though no row is held."
                .to_owned()
        }
        Verdict::Shut => format!(
            "The file may not be loaded: {} of {rows} {} held.",
            grouped(counts.held),
            are(counts.held)
        ),
    }
}

/// Why the ready rows are to be loaded, and not the file: nothing where the two are the same.
pub(super) fn why_not_the_file(report: &Report) -> Vec<String> {
    let (counts, rewrite) = (&report.counts, &report.to_rewrite);
    let mut why = Vec::new();
    if counts.held > 0 {
        why.push(format!("{} {} held", counted(counts.held, "row", "rows"), are(counts.held)));
    }
    if counts.left_out > 0 {
        why.push(format!("{} {} left out", counted(counts.left_out, "row", "rows"), are(counts.left_out)));
    }
    let mut unlike = Vec::new();
    for (count, one, several) in
        [(rewrite.headings, "heading", "headings"), (rewrite.values, "value", "values")]
    {
        if count > 0 {
            unlike.push(counted(count, one, several));
        }
    }
    if !unlike.is_empty() {
        let many = rewrite.headings + rewrite.values;
        why.push(format!("{} {} not as the target writes them", unlike.join(" and "), are(many)));
    }
    if rewrite.columns > 0 {
        why.push(format!(
            "{} {} left out",
            counted(rewrite.columns, "column", "columns"),
            are(rewrite.columns)
        ));
    }
    let defaults = report.filled.len() as u64;
    if defaults > 0 {
        let fill = if defaults == 1 { "a default fills 1 field" } else { "defaults fill" };
        why.push(match defaults {
            1 => fill.to_owned(),
            _ => format!("{fill} {}", counted(defaults, "field", "fields")),
        });
    }
    why
}
