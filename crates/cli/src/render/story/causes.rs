//! The causes: what explains many findings at once, and the one thing to do about each.

use crate::render::words::{counted, sentence};
use crate::terminal::{cut, shown};
use tidy_gate_core::causes::{Cause, CauseWord, RemedyKind, cause_entry};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::Report;

/// So many words are shown.
const MOST_WORDS: usize = 5;
/// So many lines of a plan are shown.
const MOST_LINES: usize = 8;
/// So many runs of rows are named.
const MOST_RUNS: usize = 6;

/// A cause, as people are told of it.
#[derive(Debug)]
pub(crate) struct CauseTold {
    /// Its code.
    pub(crate) code: &'static str,
    /// The fields concerned.
    pub(crate) fields: String,
    /// How much it explains.
    pub(crate) reach: String,
    /// What it is.
    pub(crate) explanation: String,
    /// Words with what they likely stand for; perhaps none.
    pub(crate) words: String,
    /// A true example; perhaps none.
    pub(crate) sample: String,
    /// Where the remedy is applied.
    pub(crate) place: &'static str,
    /// What to do.
    pub(crate) remedy: String,
    /// What whoever prepared the file can do.
    pub(crate) ask: &'static str,
    /// Lines to be put into a plan, or the rows meant.
    pub(crate) lines: Vec<String>,
    /// How many lines more there are.
    pub(crate) more_lines: usize,
}

/// The causes of a report, and how much of it they explain.
pub(super) fn causes(report: &Report) -> (Vec<CauseTold>, String) {
    let explained: u64 = report.explained.iter().sum();
    let all = report.totals.iter().map(|total| total.count).sum::<u64>();
    let aside = match report.causes.len() {
        0 => String::new(),
        1 => format!("1, which explains {} of {}", grouped(explained), counted(all, "finding", "findings")),
        many => {
            format!("{many}, which explain {} of {}", grouped(explained), counted(all, "finding", "findings"))
        }
    };
    (report.causes.iter().map(told).collect(), aside)
}

fn told(cause: &Cause) -> CauseTold {
    let (mut lines, mut more_lines) = (Vec::new(), 0);
    let remedy = &cause.remedy;
    if let Some(plan) = &remedy.plan {
        lines = plan.lines().filter(|line| !line.is_empty()).map(shown).collect();
        more_lines = lines.len().saturating_sub(MOST_LINES);
        lines.truncate(MOST_LINES);
    } else if !remedy.rows.is_empty() {
        lines.push(rows(&remedy.rows));
    }
    let rows =
        if cause.rows == 0 { String::new() } else { format!(" in {}", counted(cause.rows, "row", "rows")) };
    CauseTold {
        code: cause.code.name(),
        fields: shown(&cause.fields.join(", ")),
        reach: format!("{}{rows}", counted(cause.findings, "finding", "findings")),
        explanation: sentence(&shown(&cause.explanation)),
        words: words(&cause.words),
        sample: if cause.words.is_empty() { sample(cause) } else { String::new() },
        place: match remedy.kind {
            RemedyKind::Plan => "Plan",
            RemedyKind::Mend => "Mend",
            RemedyKind::Rows => "Rows",
            RemedyKind::Sender => "Sender",
        },
        remedy: shown(&remedy.text),
        ask: cause_entry(cause.code).map_or("", |entry| entry.ask),
        lines,
        more_lines,
    }
}

fn words(words: &[CauseWord]) -> String {
    let one = |word: &CauseWord| {
        let to = word.likely.as_ref().map(|likely| format!(" → {}", cut(likely, 24))).unwrap_or_default();
        format!("\"{}\"{to} {}", cut(&word.value, 30), grouped(word.count))
    };
    let mut all: Vec<String> = words.iter().take(MOST_WORDS).map(one).collect();
    let more = words.len().saturating_sub(MOST_WORDS);
    all.extend((more > 0).then(|| "…".to_owned()));
    all.join(", ")
}

fn sample(cause: &Cause) -> String {
    // Rows that are named need no example.
    let Some(sample) = cause.sample.as_ref().filter(|_| cause.remedy.rows.is_empty()) else {
        return String::new();
    };
    let place = match &sample.letter {
        Some(letter) => format!("{letter}{}", sample.row),
        None => format!("row {}", sample.row),
    };
    match &sample.value {
        Some(value) if value.is_empty() => format!("first in {place}"),
        Some(value) => format!("such as \"{}\" in {place}", cut(value, 60)),
        None => format!("first in {place}"),
    }
}

fn rows(runs: &[[u64; 2]]) -> String {
    let one = |[first, last]: &[u64; 2]| match first == last {
        true => first.to_string(),
        false => format!("{first} to {last}"),
    };
    let named: Vec<String> = runs.iter().take(MOST_RUNS).map(one).collect();
    let more = runs.len().saturating_sub(MOST_RUNS);
    let more = if more > 0 { format!(" and {} more", grouped(more as u64)) } else { String::new() };
    let name = if runs.len() == 1 && runs.iter().all(|run| run[0] == run[1]) { "row" } else { "rows" };
    format!("{name} {}{more}", named.join(", "))
}
