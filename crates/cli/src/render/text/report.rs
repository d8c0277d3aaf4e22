//! The report for people: the verdict first, then what was read, the columns, the findings by code and
//! field, and the next step. A screen or two, whatever the number of findings.

use super::context::Context;
use super::verdict::verdict;
use super::words::{counted, form, size};
use super::{columns, groups, next};
use crate::terminal::{self, CARE, FAINT, HEAD, OPEN, SHUT, cut, paint};
use tidy_gate_core::catalogue::{Code, Tag};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::{FilledReport, Report, ReportCounts, Verdict};

/// The most lines of a report.
const MOST_LINES: usize = 78;

/// Draws the report for a width in columns.
pub(crate) fn report(report: &Report, context: &Context, width: usize) -> String {
    let mut lines = head(report, context, width);
    lines.extend(columns::lines(report, width));
    let next = next::lines(report, context, width);
    let room = MOST_LINES.saturating_sub(lines.len() + next.len());
    lines.extend(groups::lines(report, width, room));
    lines.extend(next);
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}

/// The verdict.
fn gate_line(report: &Report, width: usize) -> Vec<String> {
    let (word, style) = match report.gate {
        Verdict::Open => (" GATE OPEN ", OPEN),
        Verdict::Shut => (" GATE SHUT ", SHUT),
    };
    let sentence = verdict(report);
    let mut lines = vec![String::new()];
    for (i, line) in textwrap::wrap(&sentence, width.saturating_sub(14)).iter().enumerate() {
        let word = if i == 0 { paint(word, style) } else { " ".repeat(word.len()) };
        lines.push(format!(" {word}  {}", paint(line, HEAD)));
    }
    lines.push(String::new());
    lines
}

/// How many findings there are of each level.
fn findings(counts: &ReportCounts) -> String {
    let findings = [
        (counts.stops, "stop", "stops"),
        (counts.warns, "warning", "warnings"),
        (counts.notes, "note", "notes"),
    ];
    let findings: Vec<_> =
        findings.iter().filter(|kind| kind.0 > 0).map(|kind| counted(kind.0, kind.1, kind.2)).collect();
    if findings.is_empty() { "none".to_owned() } else { findings.join(", ") }
}

/// The fields that are not judged yet.
fn unjudged(report: &Report, width: usize) -> Option<String> {
    if report.unjudged.is_empty() {
        return None;
    }
    let fields: Vec<_> =
        report.unjudged.iter().map(|field| format!("{} ({})", field.field, field.why)).collect();
    let text = format!(
        "{}  {}",
        paint("Not yet ", CARE),
        cut(&format!("not judged: {}", fields.join(", ")), width.saturating_sub(14))
    );
    Some(format!("   {text}"))
}

fn head(report: &Report, context: &Context, width: usize) -> Vec<String> {
    let counts = &report.counts;
    let mut lines = gate_line(report, width);
    let file = &report.file;
    let where_headings = file.heading_row.map(|row| format!(", headings in row {row}")).unwrap_or_default();
    let form = format!("{}, {}{where_headings}", size(file.bytes), form(file));
    let version = report.record.version.as_ref().map(|version| format!(" {version}")).unwrap_or_default();
    let record = format!("{} ({}{version})", report.record.label, report.record.name);
    let left_out =
        if counts.left_out > 0 { format!(", {} left out", grouped(counts.left_out)) } else { String::new() };
    let rows = format!(
        "{}: {} ready, {} held{left_out}",
        counted(counts.rows, "row", "rows"),
        grouped(counts.ready),
        grouped(counts.held)
    );
    let records = match (counts.records, counts.records_held) {
        (Some(all), Some(held)) => format!(
            "{}: {} ready, {} held",
            counted(all, "record", "records"),
            grouped(all.saturating_sub(held)),
            grouped(held)
        ),
        _ => String::new(),
    };
    for (name, text) in [
        ("File", format!("{}  {}", terminal::shown(&context.file), paint(&form, FAINT))),
        (
            "Record",
            format!(
                "{}  {}",
                terminal::shown(&record),
                paint(&format!("mode {}, today {}", report.mode.name(), report.today), FAINT)
            ),
        ),
        ("Rows", rows),
        ("Records", records),
        ("Findings", findings(counts)),
    ] {
        if text.is_empty() {
            continue;
        }
        lines.push(format!("   {}  {text}", paint(&terminal::padded(name, 8), FAINT)));
    }
    lines.extend(laid_out(report, width));
    lines.extend(filled(report, width));
    lines.extend(unjudged(report, width));
    lines
}

/// The fields that defaults fill.
fn filled(report: &Report, width: usize) -> Vec<String> {
    let one = |filled: &FilledReport| {
        let (field, value) = (terminal::shown(&filled.field), terminal::cut(&filled.value, 30));
        format!("{field} \"{value}\" in {}", counted(filled.rows, "row", "rows"))
    };
    let all: Vec<String> = report.filled.iter().map(one).collect();
    if all.is_empty() {
        return Vec::new();
    }
    let text = all.join(", ");
    let wrapped = textwrap::wrap(&text, width.saturating_sub(15));
    let name = |at: usize| paint(&terminal::padded(if at == 0 { "Defaults" } else { "" }, 8), FAINT);
    wrapped.iter().enumerate().map(|(at, line)| format!("   {}  {line}", name(at))).collect()
}

/// What was read off the file of its layout, and which rows were left out; never silently.
fn laid_out(report: &Report, width: usize) -> Vec<String> {
    let mut lines = Vec::new();
    for finding in report.findings.iter().filter(|finding| finding.code.is(Tag::Layout)) {
        let row = finding.row.unwrap_or_default();
        let text = match finding.code {
            Code::TotalRow => format!("left out: row {row} is a total; its numbers sum their columns"),
            Code::FooterRow => format!("left out: row {row} is a note below the table"),
            Code::ExampleRow => format!("left out: row {row} is an example"),
            Code::FormGuessed => {
                let heading = finding.heading.as_deref().or(finding.field.as_deref()).unwrap_or_default();
                format!("{heading}: {}", finding.message.replacen(": ", "; ", 1))
            }
            _ => finding.message.clone(),
        };
        // What was chosen stands out, the evidence behind it does not.
        let chosen = text.find(';').unwrap_or(text.len());
        let mut at = 0;
        for line in textwrap::wrap(&terminal::shown(&text), width.saturating_sub(15)) {
            let name = if lines.is_empty() { "Layout" } else { "" };
            let (choice, evidence) = line.split_at_checked(chosen.saturating_sub(at)).unwrap_or((&line, ""));
            at += line.len() + 1;
            let name = paint(&terminal::padded(name, 8), FAINT);
            lines.push(format!("   {name}  {choice}{}", paint(evidence, FAINT)));
        }
    }
    lines
}
