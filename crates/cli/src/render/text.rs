//! The report for people: the verdict first, then what was read, the columns, the findings by code and
//! field, and the next step. A screen or two, whatever the number of findings.

mod columns;
pub(crate) mod draft;
pub(crate) mod fields;
mod groups;
pub(crate) mod matching;
mod next;
pub(crate) mod peek;
mod shell;
pub(crate) mod template;

pub(crate) use next::command_lines;

pub(crate) use shell::{quoted, quoted_path};

use crate::args::CheckArgs;
use crate::commands::held_plan;
use crate::terminal::{self, BAD, CARE, FAINT, GOOD, HEAD, OPEN, QUIET, SHUT, cut, paint};
use anstyle::Style;
use std::io::Write as _;
use std::path::PathBuf;
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::gate::{Mode, grouped};
use tidy_gate_core::report::{FileFacts, FilledReport, Report, Total, Verdict};

/// The most lines of a report.
const MOST_LINES: usize = 78;

/// What the report does not know of the run it tells of.
#[derive(Debug, Default)]
pub(crate) struct Context {
    /// The program, as it can be typed.
    pub(crate) program: String,
    /// The file, as it was named.
    pub(crate) file: String,
    /// The arguments of the check besides outputs, as they can be typed.
    pub(crate) arguments: String,
    /// What was written.
    pub(crate) written: Vec<String>,
    pub(crate) wrote_ready: bool,
    pub(crate) wrote_held: bool,
    pub(crate) wrote_findings: bool,
    /// The check of the held rows when they are mended, as it can be typed.
    pub(crate) held_again: Option<String>,
    /// What was asked for and not written, since no row was judged.
    pub(crate) not_written: Vec<String>,
    /// The arguments with which `match` pairs the columns of this file.
    pub(crate) pairing: String,
}

impl Context {
    pub(crate) fn new(args: &CheckArgs, written: &[PathBuf]) -> Self {
        let file = args.file.display().to_string();
        let mut arguments = vec![quoted_path(&args.file)];
        arguments.extend(args.record.iter().map(|record| format!("--record {}", quoted_path(record))));
        arguments.extend(args.plan.iter().map(|plan| format!("--plan {}", quoted_path(plan))));
        arguments.extend(args.mode.map(|mode| format!("--mode {}", Mode::from(mode).name())));
        arguments.extend(args.layout.typed());
        arguments.extend(args.dates.iter().map(|dates| format!("--dates {}", quoted(dates))));
        arguments
            .extend(args.references.iter().map(|reference| format!("--reference {}", quoted(reference))));
        arguments.extend(args.today.iter().map(|today| format!("--today {today}")));
        let is_named = |word: &String| !word.starts_with("--dates") && !word.starts_with("--reference");
        let mut pairing: Vec<String> = arguments.iter().filter(|word| is_named(word)).cloned().collect();
        pairing.retain(|word| !word.starts_with("--today") && !word.starts_with("--short-rows"));
        let held_again = args.held.as_ref().filter(|held| written.contains(held)).map(|held| {
            let file = quoted_path(held);
            let plan = held_plan::path_of(held);
            let how = match written.contains(&plan) {
                true => format!("--plan {}", quoted_path(&plan)),
                // How the file was laid out says nothing of this one.
                false => {
                    let is_kept = |word: &&String| {
                        ["--record", "--plan", "--mode", "--dates", "--reference"]
                            .iter()
                            .any(|kept| word.starts_with(kept))
                    };
                    arguments.iter().filter(is_kept).cloned().collect::<Vec<_>>().join(" ")
                }
            };
            format!("{file} {how}")
        });
        let is_written = |path: &Option<PathBuf>| path.as_ref().is_some_and(|path| written.contains(path));
        Self {
            program: program(),
            file,
            arguments: arguments.join(" "),
            written: written.iter().map(|path| path.display().to_string()).collect(),
            wrote_ready: is_written(&args.ready),
            wrote_held: is_written(&args.held),
            wrote_findings: is_written(&args.findings),
            held_again,
            not_written: [&args.ready, &args.held]
                .into_iter()
                .flatten()
                .filter(|path| !written.contains(path))
                .map(|path| path.display().to_string())
                .collect(),
            pairing: pairing.join(" "),
        }
    }
}

/// The program as it can be typed here: by name where it stands on the search path, else by its path.
pub(crate) fn program() -> String {
    let Ok(own) = std::env::current_exe() else { return "tidy-gate".to_owned() };
    let path = std::env::var_os("PATH").unwrap_or_default();
    let found =
        std::env::split_paths(&path).map(|folder| folder.join("tidy-gate")).find(|file| file.is_file());
    let same = found.is_some_and(|found| found.canonicalize().ok() == own.canonicalize().ok());
    if same { "tidy-gate".to_owned() } else { quoted_path(&own) }
}

/// The style of a level.
pub(crate) const fn level_style(level: Level) -> Style {
    match level {
        Level::Stop => BAD,
        Level::Warn => CARE,
        Level::Note => QUIET,
    }
}

/// How many of something.
fn counted(count: u64, one: &str, several: &str) -> String {
    format!("{} {}", grouped(count), if count == 1 { one } else { several })
}

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

fn head(report: &Report, context: &Context, width: usize) -> Vec<String> {
    let counts = &report.counts;
    let (word, style) = match report.gate {
        Verdict::Open => (" GATE OPEN ", OPEN),
        Verdict::Shut => (" GATE SHUT ", SHUT),
    };
    let verdict = verdict(report);
    let mut lines = vec![String::new()];
    for (i, line) in textwrap::wrap(&verdict, width.saturating_sub(14)).iter().enumerate() {
        let word = if i == 0 { paint(word, style) } else { " ".repeat(word.len()) };
        lines.push(format!(" {word}  {}", paint(line, HEAD)));
    }
    lines.push(String::new());
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
    let findings = [
        (counts.stops, "stop", "stops"),
        (counts.warns, "warning", "warnings"),
        (counts.notes, "note", "notes"),
    ];
    let findings: Vec<_> =
        findings.iter().filter(|kind| kind.0 > 0).map(|kind| counted(kind.0, kind.1, kind.2)).collect();
    let findings = if findings.is_empty() { "none".to_owned() } else { findings.join(", ") };
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
        ("Findings", findings),
    ] {
        if text.is_empty() {
            continue;
        }
        lines.push(format!("   {}  {text}", paint(&terminal::padded(name, 8), FAINT)));
    }
    lines.extend(laid_out(report, width));
    lines.extend(filled(report, width));
    if !report.unjudged.is_empty() {
        let fields: Vec<_> =
            report.unjudged.iter().map(|field| format!("{} ({})", field.field, field.why)).collect();
        let text = format!(
            "{}  {}",
            paint("Not yet ", CARE),
            cut(&format!("not judged: {}", fields.join(", ")), width.saturating_sub(14))
        );
        lines.push(format!("   {text}"));
    }
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
    let is_layout = |code| {
        matches!(
            code,
            Code::LayoutGuessed | Code::FormGuessed | Code::ExampleRow | Code::TotalRow | Code::FooterRow
        )
    };
    let mut lines = Vec::new();
    for finding in report.findings.iter().filter(|finding| is_layout(finding.code)) {
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

/// The form of a text: what it is, its encoding, what stands between its cells.
fn form(file: &FileFacts) -> String {
    if let Some(sheet) = &file.sheet {
        return format!("{}, sheet {}", file.form.to_uppercase(), terminal::shown(sheet));
    }
    let encoding = file.encoding.as_deref().unwrap_or_default();
    let encoding = encoding
        .strip_prefix("windows-")
        .map_or_else(|| encoding.to_uppercase(), |page| format!("Windows-{page}"));
    let delimiter = file.delimiter.as_deref().and_then(|text| text.bytes().next()).map(|delimiter| {
        let name = tidy_gate_files::delimiter_name(delimiter);
        if name.len() > 1 && !name.contains(' ') {
            format!(", {name}s")
        } else {
            format!(", {name} between cells")
        }
    });
    format!("{} in {encoding}{}", file.form.to_uppercase(), delimiter.unwrap_or_default())
}

/// "is" or "are".
fn are(count: u64) -> &'static str {
    if count == 1 { "is" } else { "are" }
}

/// Whether a stop holds every row, whatever is in it.
fn holds_all(report: &Report, total: &Total) -> bool {
    let is_of_file = match total.first.row {
        None => true,
        Some(row) => report.file.heading_row == Some(row),
    };
    total.level == Level::Stop && is_of_file
}

/// Whether the work ended before any row was judged.
fn ended_early(report: &Report) -> bool {
    let ends = [Code::SheetUnclear, Code::FieldOutOfScope, Code::ModeOutOfScope];
    report.totals.iter().any(|total| total.level == Level::Stop && ends.contains(&total.code))
}

/// The verdict in a sentence.
fn verdict(report: &Report) -> String {
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
            let what = if next::why_not_the_file(report).is_empty() { "file" } else { "ready rows" };
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

/// A size as people say it.
#[expect(clippy::cast_precision_loss, reason = "shown with one decimal")]
fn size(bytes: u64) -> String {
    match bytes {
        0..=999 => counted(bytes, "byte", "bytes"),
        1_000..=999_949 => format!("{:.1} KB", bytes as f64 / 1e3),
        1_000_000..=999_949_999 => format!("{:.1} MB", bytes as f64 / 1e6),
        999_950..=999_999 => "1.0 MB".to_owned(),
        _ => format!("{:.1} GB", bytes as f64 / 1e9),
    }
}

/// Says some things on standard error.
pub(crate) fn say_aside(title: &str, lines: &[String]) {
    if lines.is_empty() {
        return;
    }
    let mut stream = anstream::stderr();
    // There is nobody left to tell when this fails.
    let _ = writeln!(stream, "{}", paint(title, CARE));
    for line in lines {
        let _ = writeln!(stream, "  {}", terminal::shown(line));
    }
}

/// A heading of a part.
fn part(title: &str, aside: &str) -> [String; 2] {
    let aside = if aside.is_empty() { String::new() } else { format!("  {}", paint(aside, FAINT)) };
    [String::new(), format!(" {}{aside}", paint(title, HEAD))]
}

/// Words that can be typed.
fn typed(words: &str) -> String {
    paint(words, GOOD)
}
