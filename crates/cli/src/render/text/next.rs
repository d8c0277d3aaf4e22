//! The next step to take.

use super::context::Context;
use super::verdict::{ended_early, holds_all, why_not_the_file};
use super::words::{counted, part, typed};
use crate::terminal::{columns, shown};
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::{Report, Total, Verdict};

pub(super) fn lines(report: &Report, context: &Context, width: usize) -> Vec<String> {
    let mut steps = Vec::new();
    let written: Vec<_> = context.written.iter().map(|path| shown(path)).collect();
    for (number, path) in written.iter().enumerate() {
        steps.push((format!("{} {path}", if number == 0 { "Written:" } else { "        " }), None));
    }
    if report.held_replaced > 0 {
        let rows = counted(report.held_replaced, "held row", "held rows");
        let text = "with bytes that are no text: they stand there as U+FFFD, the sender's file has them as they were";
        steps.push((format!("{rows} {text}"), None));
    }
    let again = |outputs: &str| Some(format!("{} check {}{outputs}", context.program, context.arguments));
    let counts = &report.counts;
    if !context.not_written.is_empty() {
        let names: Vec<_> = context.not_written.iter().map(|path| shown(path)).collect();
        steps.push((format!("Not written, since there is no judged row: {}", names.join(", ")), None));
    }
    match report.gate {
        Verdict::Open => steps.extend(loading(report, context)),
        Verdict::Shut => steps.extend(mending(report, context)),
    }
    if let Some(again) = &context.held_again {
        let text = "When the held rows are mended, check them again:".to_owned();
        steps.push((text, Some(format!("{} check {again}", context.program))));
    }
    let total = counts.stops + counts.warns + counts.notes;
    if total > 20 && !context.wrote_findings {
        steps.push((
            format!("All {} findings, one a line:", grouped(total)),
            again(" --findings findings.csv"),
        ));
    }
    let mut lines = part("Next", "").to_vec();
    for (text, command) in steps {
        lines.extend(textwrap::wrap(&text, width.saturating_sub(3)).iter().map(|line| format!("   {line}")));
        lines.extend(command.iter().flat_map(|command| command_lines(&shown(command), width)));
    }
    lines
}

/// A command that can be typed or copied as it stands: where it is too long for a line, it goes on behind a
/// backslash, as shells take it; no word is cut.
pub(crate) fn command_lines(command: &str, width: usize) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in command.split(" --") {
        let word = if lines.is_empty() { word.to_owned() } else { format!("--{word}") };
        match lines.last_mut() {
            // Room is kept for the indent and for the backslash.
            Some(line) if columns(line) + columns(&word) + 8 <= width => line.push_str(&format!(" {word}")),
            Some(line) => {
                line.push_str(" \\");
                lines.push(format!("  {word}"));
            }
            None => lines.push(word),
        }
    }
    lines.iter().map(|line| format!("     {}", typed(line))).collect()
}

type Step = (String, Option<String>);

/// How the rows get to the target.
fn loading(report: &Report, context: &Context) -> Vec<Step> {
    let again = |outputs: &str| Some(format!("{} check {}{outputs}", context.program, context.arguments));
    let why = why_not_the_file(report);
    let held = if report.counts.held > 0 && !context.wrote_held { " --held held.csv" } else { "" };
    let why = if why.is_empty() { String::new() } else { format!("; {}", why.join("; ")) };
    if report.counts.ready == 0 {
        return vec![(format!("Load nothing: no row is ready{why}."), None)];
    }
    if context.wrote_ready {
        let file = if why.is_empty() { "" } else { ", not the file" };
        return vec![(format!("Load the ready rows{file}{why}."), None)];
    }
    if why.is_empty() {
        let text = "Load the file, or have its rows written in the target's form:";
        return vec![(text.to_owned(), again(" --ready ready.csv"))];
    }
    let text = format!("Load the ready rows, not the file{why}. To have them written:");
    vec![(text, again(&format!(" --ready ready.csv{held}")))]
}

/// Stops that pairing the columns puts right.
const OF_PAIRING: [Code; 6] = [
    Code::FieldMissing,
    Code::HeadingShared,
    Code::HeadingUnpaired,
    Code::ColumnMisfit,
    Code::DefaultOverColumn,
    Code::PlanOutdated,
];

/// What to do about the stops.
fn mending(report: &Report, context: &Context) -> Vec<Step> {
    let again = |outputs: &str| Some(format!("{} check {}{outputs}", context.program, context.arguments));
    let counts = &report.counts;
    let mut steps = Vec::new();
    let worst = worst(report);
    if counts.rows == counts.left_out && !ended_early(report) {
        return vec![("Ask for the file with its rows.".to_owned(), None)];
    }
    let explain = worst.map(|total| format!("{} explain {}", context.program, total.code));
    if worst.is_some_and(|total| holds_all(report, total)) {
        if report.totals.iter().any(|total| holds_all(report, total) && OF_PAIRING.contains(&total.code)) {
            if let Some(names) = headless(report) {
                let text = format!("If the first row holds no headings but a record, {names}:");
                steps.push((text, again(" --by-position")));
            }
            steps.push((
                "Decide which column is which field, and keep it in a plan:".to_owned(),
                Some(format!(
                    "{} match {}{}",
                    context.program,
                    context.pairing,
                    if context.pairing.contains("--plan ") { "" } else { " --save new.plan.toml" }
                )),
            ));
        }
        if worst.is_some_and(|total| total.code == Code::SheetUnclear) {
            steps.push(("Name the sheet:".to_owned(), again(" --sheet NAME")));
        }
        if worst.is_some_and(|total| total.code == Code::FieldOutOfScope) {
            let columns = columns_of(report, Code::FieldOutOfScope);
            let text =
                format!("Leave {columns} out in the plan (false under [columns]), or widen its scope.");
            steps.push((text, None));
        }
        steps.push((
            "First put right what holds the whole file. What it means and what to do:".to_owned(),
            explain,
        ));
    } else {
        let which = if is_alone(report) { "the most frequent" } else { "the first" };
        steps.push((format!("What {which} stop means and how to put it right:"), explain));
    }
    if let Some(form) =
        worst.filter(|total| total.code == Code::DateBad).and_then(|total| form_of(report, total))
    {
        let text = format!("If the file writes its dates as {form}, say so:");
        steps.push((text, again(&format!(" --dates {form}"))));
    }
    if !context.wrote_held && counts.ready > 0 {
        let text = format!(
            "Take the {} apart from the held ones, which go back with their reasons:",
            counted(counts.ready, "ready row", "ready rows")
        );
        steps.push((text, again(" --ready ready.csv --held held.csv")));
    }
    steps
}

/// The columns at whose headings a code stands, as people call them.
fn columns_of(report: &Report, code: Code) -> String {
    let letters = report.findings.iter().filter(|finding| finding.code == code);
    let letters: Vec<_> = letters.filter_map(|finding| finding.letter.as_deref()).collect();
    match letters.as_slice() {
        [] => "them".to_owned(),
        [one] => format!("column {one}"),
        several => format!("columns {}", several.join(", ")),
    }
}

/// Where the row that was taken for headings may be a record: how its columns would pair.
fn headless(report: &Report) -> Option<&'static str> {
    report.headings_may_be_data.then_some("pair the columns by their place")
}

/// The most frequent stop, the first of several; one that holds the whole file before others.
fn worst(report: &Report) -> Option<&Total> {
    let stops = report.totals.iter().rev().filter(|total| total.level == Level::Stop);
    stops.max_by_key(|total| (holds_all(report, total), total.count))
}

/// Whether no other stop is as frequent as the one that is explained.
fn is_alone(report: &Report) -> bool {
    let most = worst(report).map(|total| total.count);
    let stops = report.totals.iter().filter(|total| total.level == Level::Stop);
    stops.filter(|total| Some(total.count) == most).count() == 1
}

/// The form in which the first of these dates seems to be written, where its day and month can be told apart.
fn form_of(report: &Report, total: &Total) -> Option<String> {
    let mut samples =
        report.findings.iter().filter(|finding| finding.code == total.code && finding.field == total.field);
    samples.find_map(|finding| {
        let value = finding.value.as_deref()?;
        let mark = value.chars().find(|c| !c.is_ascii_digit()).filter(|c| "./-".contains(*c))?;
        let parts: Vec<u16> = value.split(mark).map(str::parse).collect::<Result<_, _>>().ok()?;
        match parts.as_slice() {
            [13..=31, 1..=12, 1000..=9999] => Some(format!("dd{mark}MM{mark}yyyy")),
            [1..=12, 13..=31, 1000..=9999] => Some(format!("MM{mark}dd{mark}yyyy")),
            _ => None,
        }
    })
}
