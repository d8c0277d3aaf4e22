//! The report for a mail or a merge request: readable as it stands, and rendered.

use crate::render::story::{CauseTold, Context, SinceTold, Story};
use crate::render::words::{counted, place, sentence};
use crate::terminal::{cut, shown};
use tidy_gate_core::catalogue::Level;
use tidy_gate_core::finding::Finding;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::{Report, Verdict};

/// So many findings are listed.
const MOST_FINDINGS: usize = 40;
/// So many groups of findings of an earlier round are listed.
const MOST_GROUPS: usize = 12;
/// A cell of a table holds so many characters.
const WIDEST: usize = 60;

pub(super) fn markdown(report: &Report, context: &Context) -> String {
    let story = Story::of(report, context, 0);
    let mut text = String::new();
    let word = if story.gate == Verdict::Open { "Gate open" } else { "Gate shut" };
    text.push_str(&format!("# {word}: {}\n\n", plain(&cut(&report.file.name, 100))));
    text.push_str(&format!("**{}**\n\n", plain(&story.verdict)));
    for fact in &story.facts {
        let aside = fact.aside.replacen("  ", ", ", 1);
        let said = format!("{}{aside}", fact.text);
        text.push_str(&format!("- {}: {}\n", fact.name, plain(&cut(said.trim(), 300))));
    }
    story.since.iter().for_each(|told| since(&mut text, told));
    let causes = &story.causes.0;
    if !causes.is_empty() {
        text.push_str(&format!("\n## Causes\n\n{}.\n", plain(&story.causes_said())));
        causes.iter().enumerate().for_each(|(number, told)| cause(&mut text, number + 1, told));
    }
    findings(&mut text, report);
    if !story.next.is_empty() {
        text.push_str("\n## Next\n\n");
        for step in &story.next {
            text.push_str(&format!("- {}\n", plain(&step.text)));
            if let Some(command) = &step.command {
                text.push_str(&format!("\n  ```sh\n  {}\n  ```\n\n", shown(command)));
            }
        }
    }
    text.push_str(&format!("\n{} {}\n", report.tool.name, report.tool.version));
    text
}

fn since(text: &mut String, since: &SinceTold) {
    text.push_str(&format!("\n## Since {}\n\n", plain(&since.head)));
    let lines = since.changed.iter().map(|changed| format!("**Changed** in the {changed}"));
    let lines = lines.chain([format!("Held rows: {}", since.rows), format!("Findings: {}", since.findings)]);
    let lines = lines.chain((!since.new.is_empty()).then(|| format!("New in {}", since.new)));
    let lines = lines.chain(since.causes.iter().cloned());
    lines.for_each(|line| text.push_str(&format!("- {}\n", bold_kept(&line))));
    if since.groups.is_empty() {
        return;
    }
    text.push_str("\n| Finding | About | Settled | Open | New |\n| --- | --- | ---: | ---: | ---: |\n");
    for group in since.groups.iter().take(MOST_GROUPS) {
        let counts = [group.settled, group.open, group.new].map(grouped).join(" | ");
        text.push_str(&format!("| {} | {} | {counts} |\n", cell(&group.code), cell(&group.what)));
    }
    let more = since.groups.len().saturating_sub(MOST_GROUPS);
    if more > 0 {
        text.push_str(&format!("\nand {more} kinds more.\n"));
    }
}

/// Plain text behind a word that is set bold here.
fn bold_kept(line: &str) -> String {
    match line.strip_prefix("**Changed**") {
        Some(rest) => format!("**Changed**{}", plain(rest)),
        None => plain(line),
    }
}

fn cause(text: &mut String, number: usize, cause: &CauseTold) {
    let fields = if cause.fields.is_empty() { "whole rows" } else { &cause.fields };
    text.push_str(&format!("\n{number}. **{}** ({}), {}\n\n", cause.code, plain(fields), cause.reach));
    let example = [&cause.words, &cause.sample].into_iter().find(|text| !text.is_empty());
    let example = example.map(|example| format!(" {}.", sentence(example))).unwrap_or_default();
    text.push_str(&format!("   {}.{}\n\n", plain(cause.explanation.trim_end_matches('.')), plain(&example)));
    text.push_str(&format!("   {}: {}\n", cause.place, plain(&cause.remedy)));
    if !cause.lines.is_empty() {
        let form = if cause.place == "Plan" { "toml" } else { "text" };
        let lines: String = cause.lines.iter().map(|line| format!("   {line}\n")).collect();
        let fence = fence(&lines);
        text.push_str(&format!("\n   {fence}{form}\n{lines}   {fence}\n"));
    }
    if cause.more_lines > 0 {
        text.push_str(&format!(
            "\n   and {} more; the report in JSON has all.\n",
            counted(cause.more_lines as u64, "line", "lines")
        ));
    }
}

/// A row of backticks that stands nowhere in the text.
fn fence(text: &str) -> String {
    let longest = text.split(|c| c != '`').map(str::len).max().unwrap_or_default();
    "`".repeat((longest + 1).max(3))
}

/// The first findings, stops before the others.
fn findings(text: &mut String, report: &Report) {
    let mut findings: Vec<&Finding> =
        report.findings.iter().filter(|finding| finding.level != Level::Note).collect();
    findings.sort_by_key(|finding| finding.level);
    let all = report.counts.stops + report.counts.warns;
    findings.truncate(MOST_FINDINGS);
    if findings.is_empty() {
        return;
    }
    let head = match all.saturating_sub(findings.len() as u64) {
        0 => "Findings".to_owned(),
        _ => format!("The first {} of {}", findings.len(), counted(all, "finding", "findings")),
    };
    text.push_str(&format!("\n## {head}\n\n"));
    text.push_str("| Level | Where | Column | Value | What is wrong | Nearest |\n| --- | --- | --- | --- | --- | --- |\n");
    for finding in findings {
        let place = place(finding).unwrap_or_else(|| "file".to_owned());
        let heading = finding.heading.as_deref().or(finding.field.as_deref()).unwrap_or_default();
        let value = match finding.value.as_deref() {
            Some("") => "(blank)".to_owned(),
            Some(value) => cell(value),
            None => String::new(),
        };
        let said = cut(&finding.sentence(), 160);
        text.push_str(&format!(
            "| {} | {} | {} | {value} | {}: {} | {} |\n",
            finding.level.name(),
            cell(&place),
            cell(heading),
            finding.code,
            escaped(&said),
            cell(finding.suggestion.as_deref().unwrap_or_default())
        ));
    }
}

/// A cell of a table.
fn cell(text: &str) -> String {
    escaped(&cut(text, WIDEST))
}

/// Text in which nothing is a mark.
fn plain(text: &str) -> String {
    escaped(&shown(text))
}

/// Text that was made safe to show, with the marks of Markdown and HTML as they stand (CommonMark 0.31, 2.4 and 2.5).
fn escaped(text: &str) -> String {
    let mut escaped = String::with_capacity(text.len());
    for (at, c) in text.char_indices() {
        match c {
            '<' => escaped.push_str("&lt;"),
            '&' => escaped.push_str("&amp;"),
            '\\' | '`' | '*' | '[' | ']' | '|' => escaped.extend(['\\', c]),
            // Within words these are no marks.
            '_' | '~' if !is_within(text, at) => escaped.extend(['\\', c]),
            // Would begin an address that is made a link.
            '@' => escaped.push_str("&#64;"),
            ':' if text.get(at..).is_some_and(|rest| rest.starts_with("://")) => escaped.push_str("&#58;"),
            c => escaped.push(c),
        }
    }
    escaped
}

/// Whether letters or digits stand on both sides of the character at a place.
fn is_within(text: &str, at: usize) -> bool {
    let before = text.get(..at).and_then(|before| before.chars().next_back());
    let after = text.get(at..).and_then(|after| after.chars().nth(1));
    before.is_some_and(char::is_alphanumeric) && after.is_some_and(char::is_alphanumeric)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_from_outside_is_a_mark() {
        let hostile = "<img src=x> [a](javascript:1) **b** | `c` _d_ site_code http://x.example @e\n# f";
        let safe = "&lt;img src=x> \\[a\\](javascript:1) \\*\\*b\\*\\* \\| \\`c\\` \\_d\\_ site_code http&#58;//x.example &#64;e⏎# f";
        assert_eq!(plain(hostile), safe);
        assert_eq!(fence("a ```` b"), "`````");
    }
}
