//! The next step to take.

use super::{Context, counted, part, typed};
use crate::terminal::{columns, shown};
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::gate::grouped;
use tidy_gate_core::report::{Report, Total, Verdict};

pub(super) fn lines(report: &Report, context: &Context, width: usize) -> Vec<String> {
    let mut steps = Vec::new();
    let written: Vec<_> = context.written.iter().map(|path| shown(path)).collect();
    for (number, path) in written.iter().enumerate() {
        steps.push((format!("{} {path}", if number == 0 { "Written:" } else { "        " }), None));
    }
    let again = |outputs: &str| Some(format!("{} check {}{outputs}", context.program, context.arguments));
    let counts = &report.counts;
    match report.gate {
        Verdict::Open if context.wrote_ready => steps.push(("Load the ready rows.".to_owned(), None)),
        Verdict::Open => {
            steps.push((
                "Load the file, or have its rows written in the target's form:".to_owned(),
                again(" --ready ready.csv"),
            ));
        }
        Verdict::Shut if counts.rows == counts.left_out => {
            steps.push(("Ask for the file with its rows.".to_owned(), None))
        }
        Verdict::Shut => {
            let explain = worst(report).map(|total| format!("{} explain {}", context.program, total.code));
            let whole_file = counts.ready == 0
                && report.totals.iter().any(|total| {
                    total.level == Level::Stop
                        && total.first.row.is_none_or(|row| report.file.heading_row == Some(row))
                });
            if whole_file {
                steps.push((
                    "First put right what holds the whole file. What it means and what to do:".to_owned(),
                    explain,
                ));
            } else {
                let which = if is_alone(report) { "the most frequent" } else { "the first" };
                steps.push((format!("What {which} stop means and how to put it right:"), explain));
            }
            if let Some(form) = worst(report)
                .filter(|total| total.code == Code::DateBad)
                .and_then(|total| form_of(report, total))
            {
                steps.push((
                    format!("If the file writes its dates as {form}, say so:"),
                    again(&format!(" --dates {form}")),
                ));
            }
            if !context.wrote_held && counts.ready > 0 {
                let text = format!(
                    "Take the {} apart from the held ones, which go back with their reasons:",
                    counted(counts.ready, "ready row", "ready rows")
                );
                steps.push((text, again(" --ready ready.csv --held held.csv")));
            }
        }
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

/// The most frequent stop, the first of several; one that holds the whole file before others.
fn worst(report: &Report) -> Option<&Total> {
    let stops = report.totals.iter().rev().filter(|total| total.level == Level::Stop);
    stops.max_by_key(|total| (total.first.row.is_none(), total.count))
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
