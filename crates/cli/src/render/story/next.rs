//! The next steps to take.

use super::context::Context;
use super::verdict::{ended_early, holds_all, why_not_the_file};
use crate::free_name::free;
use crate::render::words::counted;
use crate::terminal::shown;
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::causes::{Cause, CauseCode, RemedyKind};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::{Report, Total, Verdict};
use tidy_gate_files::is_mended_anew;

/// What a plan is called that the report proposes to write.
const NEW_PLAN: &str = "new.plan.toml";

/// One thing to do.
#[derive(Debug)]
pub(crate) struct Step {
    /// What to do, or what was done.
    pub(crate) text: String,
    /// The command that does it, as it can be typed.
    pub(crate) command: Option<String>,
}

impl Step {
    fn said(text: impl Into<String>) -> Self {
        Self { text: text.into(), command: None }
    }

    fn run(text: impl Into<String>, command: String) -> Self {
        Self { text: text.into(), command: Some(command) }
    }
}

/// What was written, and what to do next.
pub(super) fn steps(report: &Report, context: &Context) -> Vec<Step> {
    let mut steps = Vec::new();
    if report.held_replaced > 0 {
        let rows = counted(report.held_replaced, "held row", "held rows");
        let text = "with bytes that are no text: they stand there as U+FFFD, the sender's file has them as they were";
        steps.push(Step::said(format!("{rows} {text}")));
    }
    let counts = &report.counts;
    if !context.not_written.is_empty() {
        let names: Vec<_> = context.not_written.iter().map(|path| shown(path)).collect();
        let text = format!("Not written, since there is no judged row: {}", names.join(", "));
        steps.push(Step::said(text));
    }
    if context.lacks_receipt {
        let why = if report.gate == Verdict::Shut { "the gate is shut" } else { "no ready rows were" };
        steps.push(Step::said(format!("No receipt was written, since {why}.")));
    }
    let is_beyond = report.effects.as_ref().is_some_and(|effects| effects.beyond.is_some());
    if is_beyond {
        let text = "Look at every cell that would change; if it is meant, permit more:";
        let command =
            format!("{} effects {} --rows {}", context.program, context.arguments, free("changes.csv"));
        steps.push(Step::run(text, command));
    }
    match report.gate {
        Verdict::Shut if is_beyond && counts.stops == 0 => {}
        Verdict::Open => steps.extend(loading(report, context)),
        Verdict::Shut => steps.extend(mending(report, context)),
    }
    // Where nothing is wrong, nobody has anything to send back.
    if let Some((marked, again)) = context.marked_again.as_ref().filter(|_| counts.stops + counts.warns > 0) {
        let text =
            format!("Send {} to whoever prepared the file; when it comes back, check it:", shown(marked));
        steps.push(Step::run(text, format!("{} check {again}", context.program)));
    }
    if let Some(again) = context.held_again.as_ref().filter(|_| counts.held > 0) {
        let text = "When the held rows are mended, check them again:";
        steps.push(Step::run(text, format!("{} check {again}", context.program)));
    }
    let total = counts.stops + counts.warns + counts.notes;
    if total > 20 && !context.wrote_findings {
        let text = format!("All {} findings, one a line:", grouped(total));
        steps.push(Step::run(text, context.again(&format!(" --findings {}", free("findings.csv")))));
    }
    steps
}

/// How the rows get to the target.
fn loading(report: &Report, context: &Context) -> Vec<Step> {
    let again = |outputs: &str| context.again(outputs);
    let why = why_not_the_file(report);
    let takes_held = report.counts.held > 0 && !context.wrote_held;
    let held = if takes_held { format!(" --held {}", free("held.csv")) } else { String::new() };
    let ready = free("ready.csv");
    let why = if why.is_empty() { String::new() } else { format!("; {}", why.join("; ")) };
    if report.counts.ready == 0 {
        return vec![Step::said(format!("Load nothing: no row is ready{why}."))];
    }
    if report.effects.as_ref().is_some_and(|effects| effects.records.added + effects.records.changed == 0) {
        let text = "Nothing needs to be loaded: the records that are there are as the ready rows have them.";
        return vec![Step::said(text)];
    }
    if context.wrote_ready {
        let file = if why.is_empty() { "" } else { ", not the file" };
        let mut steps = vec![Step::said(format!("Load the ready rows{file}{why}."))];
        if let Some(receipt) = &context.receipt {
            let text = "Whoever loads them sees first whether they are the very rows that passed:";
            steps.push(Step::run(text, format!("{} receipt {receipt}", context.program)));
        }
        return steps;
    }
    if why.is_empty() {
        let text = "Load the file, or have its rows written in the target's form:";
        return vec![Step::run(text, again(&format!(" --ready {ready}")))];
    }
    let text = format!("Load the ready rows, not the file{why}. To have them written:");
    vec![Step::run(text, again(&format!(" --ready {ready}{held}")))]
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
    let again = |outputs: &str| context.again(outputs);
    let counts = &report.counts;
    let mut steps = Vec::new();
    let worst = worst(report);
    if counts.rows == counts.left_out && !ended_early(report) {
        return vec![Step::said("Ask for the file with its rows.")];
    }
    let explain = worst.map(|total| format!("{} explain {}", context.program, total.code));
    let of_causes = of_causes(report, context);
    let has_causes = !of_causes.is_empty();
    steps.extend(of_causes);
    if worst.is_some_and(|total| holds_all(report, total)) {
        if report.totals.iter().any(|total| holds_all(report, total) && OF_PAIRING.contains(&total.code)) {
            if let Some(names) = headless(report) {
                let text = format!("If the first row holds no headings but a record, {names}:");
                steps.push(Step::run(text, again(" --by-position")));
            }
            let is_planned = context.pairing.contains("--plan ");
            let save = if is_planned { String::new() } else { format!(" --save {}", free(NEW_PLAN)) };
            steps.push(Step::run(
                "Decide which column is which field, and keep it in a plan:",
                format!("{} match {}{save}", context.program, context.pairing),
            ));
        }
        if worst.is_some_and(|total| total.code == Code::SheetUnclear) {
            steps.push(Step::run("Name the sheet:", again(" --sheet NAME")));
        }
        if worst.is_some_and(|total| total.code == Code::FieldOutOfScope) {
            let columns = columns_of(report, Code::FieldOutOfScope);
            let text =
                format!("Leave {columns} out in the plan (false under [columns]), or widen its scope.");
            steps.push(Step::said(text));
        }
        let text = "First put right what holds the whole file. What it means and what to do:";
        steps.push(Step { text: text.to_owned(), command: explain });
    } else if !has_causes {
        let which = if is_alone(report) { "the most frequent" } else { "the first" };
        let text = format!("What {which} stop means and how to put it right:");
        steps.push(Step { text, command: explain });
    }
    if let Some(form) = worst
        .filter(|total| total.code == Code::DateBad && !has_causes)
        .and_then(|total| form_of(report, total))
    {
        let text = format!("If the file writes its dates as {form}, say so:");
        steps.push(Step::run(text, again(&format!(" --dates {form}"))));
    }
    steps.extend(handing_back(report, context));
    steps
}

/// What is taken apart and what goes back.
fn handing_back(report: &Report, context: &Context) -> Vec<Step> {
    let (counts, mut steps) = (&report.counts, Vec::new());
    if !context.wrote_held && counts.ready > 0 {
        let text = format!(
            "Take the {} apart from the held ones, which go back with their reasons:",
            counted(counts.ready, "ready row", "ready rows")
        );
        let outputs = format!(" --ready {} --held {}", free("ready.csv"), free("held.csv"));
        steps.push(Step::run(text, context.again(&outputs)));
    }
    if context.marked_again.is_none() && counts.rows > 0 {
        let ending = if report.file.name.to_lowercase().ends_with(".xlsm") { "xlsm" } else { "xlsx" };
        let text = "Give the sender a workbook in which every faulty cell is marked:";
        steps.push(Step::run(
            text,
            context.again(&format!(" --marked {}", free(&format!("marked.{ending}")))),
        ));
    }
    steps
}

/// What to do about the causes: one step for all that `mend` does, one for all words, one for what else the plan may say.
fn of_causes(report: &Report, context: &Context) -> Vec<Step> {
    let mut steps = Vec::new();
    let of = |kind: RemedyKind| report.causes.iter().filter(move |cause| cause.remedy.kind == kind);
    let mut codes: Vec<&str> =
        of(RemedyKind::Mend).flat_map(|cause| &cause.remedy.codes).map(|code| code.name()).collect();
    codes.sort_unstable();
    codes.dedup();
    let form = report.file.form.as_str();
    let can_mend = matches!(form, "csv" | "xlsx" | "ods" | "json" | "ndjson") || is_mended_anew(form);
    if !codes.is_empty() && can_mend {
        let ending = std::path::Path::new(&report.file.name).extension();
        let ending =
            ending.map_or_else(|| "csv".to_owned(), |ending| ending.to_string_lossy().to_lowercase());
        let ending = match ending.as_str() {
            "gz" | "zst" => "csv".to_owned(),
            _ if is_mended_anew(form) => "xlsx".to_owned(),
            _ => ending,
        };
        let copy = free(&format!("mended.{ending}"));
        let command = format!("{} mend {} -o {copy}", context.program, context.arguments);
        steps.push(Step::run("Have all mended that needs no guess:", command));
    }
    let (words, others): (Vec<&Cause>, Vec<&Cause>) = of(RemedyKind::Plan)
        .partition(|cause| matches!(cause.code, CauseCode::WordsOffList | CauseCode::YesNoWords));
    let fields: Vec<&str> = words.iter().flat_map(|cause| &cause.fields).map(String::as_str).collect();
    let save = context.plan.clone().unwrap_or_else(|| free(NEW_PLAN));
    if !fields.is_empty() {
        let text = "Have the words written into a plan with what they may mean, and decide each there:";
        let command = format!(
            "{} match {} --values {} --save {save}",
            context.program,
            context.pairing,
            fields.join(",")
        );
        steps.push(Step::run(text, command));
    } else if let Some(first) = others.first() {
        let text = format!("Put the lines of {} into {save}, and check the file by it.", first.code);
        match context.plan {
            Some(_) => steps.push(Step::said(text)),
            None => {
                let command = format!("{} match {} --save {save}", context.program, context.pairing);
                steps.push(Step::run(format!("Have a plan written. {text}"), command));
            }
        }
    }
    if let Some(first) = report.causes.first() {
        let command = format!("{} explain {}", context.program, first.code);
        steps.push(Step::run("How the first cause comes about and what removes it:", command));
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
