//! The report for people: the verdict first, then what was read, the columns, the findings by code and
//! field, and the next step. A screen or two, whatever the number of findings.

mod columns;
pub(crate) mod draft;
pub(crate) mod fields;
mod groups;
pub(crate) mod matching;
mod next;
pub(crate) mod peek;
pub(crate) mod template;

pub(crate) use next::command_lines;

use crate::args::CheckArgs;
use crate::terminal::{self, BAD, CARE, FAINT, GOOD, HEAD, OPEN, QUIET, SHUT, cut, paint};
use anstyle::Style;
use std::io::Write as _;
use std::path::PathBuf;
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::gate::{Mode, grouped};
use tidy_gate_core::report::{FileFacts, Report, Verdict};

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
}

impl Context {
    pub(crate) fn new(args: &CheckArgs, written: &[PathBuf]) -> Self {
        let file = args.file.display().to_string();
        let mut arguments = vec![quoted(&file)];
        arguments.extend(
            args.record.iter().map(|record| format!("--record {}", quoted(&record.display().to_string()))),
        );
        arguments
            .extend(args.plan.iter().map(|plan| format!("--plan {}", quoted(&plan.display().to_string()))));
        arguments.extend(args.mode.map(|mode| format!("--mode {}", Mode::from(mode).name())));
        arguments.extend(args.layout.typed());
        arguments.extend(args.dates.iter().map(|dates| format!("--dates {}", quoted(dates))));
        arguments
            .extend(args.references.iter().map(|reference| format!("--reference {}", quoted(reference))));
        arguments.extend(args.today.iter().map(|today| format!("--today {today}")));
        let is_written = |path: &Option<PathBuf>| path.as_ref().is_some_and(|path| written.contains(path));
        Self {
            program: program(),
            file,
            arguments: arguments.join(" "),
            written: written.iter().map(|path| path.display().to_string()).collect(),
            wrote_ready: is_written(&args.ready),
            wrote_held: is_written(&args.held),
            wrote_findings: is_written(&args.findings),
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
    if same { "tidy-gate".to_owned() } else { quoted(&own.display().to_string()) }
}

/// A word as a shell takes it.
pub(crate) fn quoted(word: &str) -> String {
    let plain = |c: char| c.is_alphanumeric() || "-_./:=,+@%".contains(c);
    if !word.is_empty() && word.chars().all(plain) {
        word.to_owned()
    } else {
        format!("'{}'", word.replace('\'', r"'\''"))
    }
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

/// What was read off the file of its layout, and which rows were left out; never silently.
fn laid_out(report: &Report, width: usize) -> Vec<String> {
    let is_layout =
        |code| matches!(code, Code::LayoutGuessed | Code::FormGuessed | Code::ExampleRow | Code::TotalRow);
    let mut lines = Vec::new();
    for finding in report.findings.iter().filter(|finding| is_layout(finding.code)) {
        let row = finding.row.unwrap_or_default();
        let text = match finding.code {
            Code::TotalRow => format!("left out: row {row} is a total; its numbers sum their columns"),
            Code::ExampleRow => format!("left out: row {row} is the template's example"),
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

/// The verdict in a sentence.
fn verdict(report: &Report) -> String {
    let counts = &report.counts;
    let row_stops = report.totals.iter().any(|total| total.level == Level::Stop && total.first.row.is_some());
    match report.gate {
        Verdict::Open if counts.warns > 0 => format!(
            "The file may be loaded: all {} are ready. {} to look at.",
            counted(counts.rows, "row", "rows"),
            counted(counts.warns, "warning", "warnings")
        ),
        Verdict::Open => {
            format!("The file may be loaded: all {} are ready.", counted(counts.rows, "row", "rows"))
        }
        Verdict::Shut if counts.rows == counts.left_out => {
            "The file may not be loaded: it holds no rows.".to_owned()
        }
        Verdict::Shut if counts.ready == 0 && !row_stops => {
            format!(
                "The file may not be loaded: what is wrong with it holds all {}.",
                counted(counts.rows, "row", "rows")
            )
        }
        Verdict::Shut if counts.ready == 0 => {
            format!(
                "The file may not be loaded: every one of its {} is held.",
                counted(counts.rows, "row", "rows")
            )
        }
        Verdict::Shut => {
            let are = if counts.held == 1 { "is" } else { "are" };
            format!(
                "The file may not be loaded: {} of {} {are} held.",
                grouped(counts.held),
                counted(counts.rows, "row", "rows")
            )
        }
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
