//! The report for people: the verdict first, then what was read, the columns, the findings by code and
//! field, and the next step. A screen or two, whatever the number of findings.

use super::{causes, columns, groups, next, since};
use crate::render::story::{Context, Fact, Flow, Story};
use crate::terminal::{self, CARE, FAINT, HEAD, OPEN, SHUT, cut, paint};
use tidy_gate_core::report::{Report, Verdict};

/// The most lines of a report.
const MOST_LINES: usize = 78;

/// The same where causes are told.
const MOST_WITH_CAUSES: usize = 98;

/// Draws the report for a width in columns.
pub(crate) fn report(report: &Report, context: &Context, width: usize) -> String {
    let story = Story::of(report, context, MOST_LINES);
    let mut lines = head(&story, width);
    lines.extend(since::lines(story.since.as_ref(), width));
    let next = next::lines(&story, width);
    let columns = columns::lines(&story.columns, width);
    let has_causes = !story.causes.0.is_empty();
    let most = if has_causes { MOST_WITH_CAUSES } else { MOST_LINES };
    // Some lines are kept for what no cause explains.
    let room = most.saturating_sub(lines.len() + next.len() + columns.len() + 16);
    lines.extend(causes::lines(&story.causes.0, &story.causes.1, (width, room)));
    lines.extend(columns);
    let room = most.saturating_sub(lines.len() + next.len());
    lines.extend(groups::lines(&story.groups, (width, room), has_causes));
    lines.extend(next);
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}

/// The verdict and the facts.
pub(super) fn head(story: &Story<'_>, width: usize) -> Vec<String> {
    let mut lines = gate_line(story, width);
    lines.extend(facts(&story.facts, width));
    lines
}

/// The verdict.
fn gate_line(story: &Story<'_>, width: usize) -> Vec<String> {
    let (word, style) = match story.gate {
        Verdict::Open => (" GATE OPEN ", OPEN),
        Verdict::Shut => (" GATE SHUT ", SHUT),
    };
    let mut lines = vec![String::new()];
    for (i, line) in textwrap::wrap(&story.verdict, width.saturating_sub(14)).iter().enumerate() {
        let word = if i == 0 { paint(word, style) } else { " ".repeat(word.len()) };
        lines.push(format!(" {word}  {}", paint(line, HEAD)));
    }
    lines.push(String::new());
    lines
}

/// The facts, each behind what it is about; that stands once for several of one kind.
fn facts(facts: &[Fact], width: usize) -> Vec<String> {
    let mut lines = Vec::new();
    let mut before = "";
    for fact in facts {
        let mut name = if fact.name == before { "" } else { fact.name };
        before = fact.name;
        let mut push = |text: &str| {
            let style = if fact.flow == Flow::Care { CARE } else { FAINT };
            lines.push(format!("   {}  {text}", paint(&terminal::padded(name, 8), style)));
            name = "";
        };
        match fact.flow {
            Flow::Line if fact.aside.is_empty() => push(&fact.text),
            Flow::Line => push(&format!("{}  {}", fact.text, paint(fact.aside.trim_start(), FAINT))),
            Flow::Care => push(&cut(&fact.text, width.saturating_sub(14))),
            Flow::Text => {
                let whole = format!("{}{}", fact.text, fact.aside);
                let (chosen, mut at) = (fact.text.len(), 0);
                for line in textwrap::wrap(&whole, width.saturating_sub(15)) {
                    let (choice, aside) =
                        line.split_at_checked(chosen.saturating_sub(at)).unwrap_or((&line, ""));
                    at += line.len() + 1;
                    let aside = if aside.is_empty() { String::new() } else { paint(aside, FAINT) };
                    push(&format!("{choice}{aside}"));
                }
            }
        }
    }
    lines
}
