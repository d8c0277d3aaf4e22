//! `explain`: what a finding means.

use crate::args::ExplainArgs;
use crate::ended::Ended;
use crate::failure::Failure;
use crate::render;
use crate::terminal::{self, CARE, FAINT, HEAD, QUIET, paint};
use comfy_table::{ContentArrangement, Table, presets};
use tidy_gate_core::catalogue::{Code, Entry, Scope, WORDS, Word, entries, entry};
use tidy_gate_core::causes::{CauseCode, CauseEntry, cause_entries, cause_entry};
use tidy_gate_core::likeness;

pub(crate) fn run(args: &ExplainArgs) -> anyhow::Result<Ended> {
    let text = match &args.code {
        None => list(),
        Some(code) => one(code)?,
    };
    render::to_stdout(&text)?;
    Ok(Ended::Well)
}

fn one(code: &str) -> Result<String, Failure> {
    let word = code.trim().to_lowercase();
    let cause = word.parse::<CauseCode>().ok().and_then(cause_entry);
    let Ok(code) = word.parse::<Code>() else {
        if let Some(cause) = cause {
            return Ok(of_cause(cause));
        }
        let asked = word.replace(' ', "-");
        if let Some(word) = WORDS.iter().find(|word| word.name == asked) {
            return Ok(of_word(word));
        }
        let causes = CauseCode::ALL.iter().map(|code| (code.name(), code.name()));
        let words = WORDS.iter().map(|word| (word.name, word.name));
        let near = likeness::nearest(
            &word,
            Code::ALL.iter().map(|code| (code.name(), code.name())).chain(causes).chain(words),
        );
        let help = match near {
            Some(near) => format!("did you mean `{near}`? `tidy-gate explain` lists all codes"),
            None => "`tidy-gate explain` lists all codes".to_owned(),
        };
        return Err(Failure::usage(format!("there is no finding, cause or word `{code}`"), help));
    };
    let entry = entry(code);
    let style = render::text::level_style(entry.level);
    let level = match entry.otherwise {
        Some(otherwise) => format!("{}, {otherwise}", entry.level.name()),
        None => entry.level.name().to_owned(),
    };
    let rows = [
        ("Why it matters", entry.why),
        ("How to put it right", entry.remedy),
        ("Not so", entry.bad),
        ("But so", entry.good),
    ];
    let mut text = format!("{}  {}\n{}\n", paint(code.name(), HEAD), paint(&level, style), entry.title);
    text.push_str(&parts(&rows));
    if let Some(cause) = cause {
        text.push_str(&format!("\n{}", of_cause(cause)));
    }
    Ok(text)
}

/// What is known of a cause.
fn of_cause(cause: &CauseEntry) -> String {
    let rows = [
        ("How it comes about", cause.why),
        ("What removes it", cause.remedy),
        ("What the sender can do", cause.ask),
        ("For example", cause.example),
    ];
    format!(
        "{}  {}\n{}\n{}",
        paint(cause.code.name(), HEAD),
        paint("a cause", CARE),
        cause.title,
        parts(&rows)
    )
}

/// What is meant by a word of reports.
fn of_word(word: &Word) -> String {
    let rows = [("What hangs on it", word.more), ("To see it, on the demo data", word.example)];
    format!("{}  {}\n{}\n{}", paint(word.name, HEAD), paint("a word", QUIET), word.title, parts(&rows))
}

fn parts(rows: &[(&str, &str)]) -> String {
    let width = terminal::width().min(100);
    let part = |(heading, words): &(&str, &str)| {
        let options = textwrap::Options::new(width).initial_indent("  ").subsequent_indent("  ");
        format!("\n{}\n{}\n", paint(heading, HEAD), textwrap::fill(words, options))
    };
    rows.iter().map(part).collect()
}

/// An empty table, as wide as it may be.
fn table() -> Table {
    let mut table = Table::new();
    let width = u16::try_from(terminal::width().min(110)).unwrap_or(80);
    table.load_style(presets::NOTHING).set_content_arrangement(ContentArrangement::Dynamic).set_width(width);
    table
}

fn list() -> String {
    let mut text = String::new();
    for scope in Scope::ALL {
        let mut table = table();
        let here: Vec<&Entry> = entries().filter(|entry| entry.scope == scope).collect();
        for entry in &here {
            table.add_row([entry.code.name(), entry.level.name(), entry.title]);
        }
        text.push_str(&format!("{}\n{}\n\n", paint(scope.title(), HEAD), table.to_string().trim_end()));
    }
    let causes = cause_entries().map(|cause| [cause.code.name(), cause.title]).collect();
    let words = WORDS.iter().map(|word| [word.name, word.title]).collect();
    for (title, rows) in [("Causes of many findings at once", causes), ("Words of reports", words)] {
        let rows: Vec<[&str; 2]> = rows;
        let mut table = table();
        table.add_rows(rows);
        text.push_str(&format!("{}\n{}\n\n", paint(title, HEAD), table.to_string().trim_end()));
    }
    text.push_str(&paint(
        "tidy-gate explain CODE tells why a finding matters, how a cause comes about and how to put it right, what a word means.",
        FAINT,
    ));
    text.push('\n');
    text
}
