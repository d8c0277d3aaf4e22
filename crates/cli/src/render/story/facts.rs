//! What was read, how, and what became of it.

use super::context::Context;
use super::effects::in_one_line;
use crate::render::words::{counted, form, size};
use crate::terminal::{cut, shown};
use tidy_gate_core::catalogue::{Code, Tag};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::{FilledReport, Report, ReportCounts, TranslatedReport};

/// One fact.
#[derive(Debug)]
pub(crate) struct Fact {
    /// What it is about; several facts one behind the other may be about the same.
    pub(crate) name: &'static str,
    /// The fact.
    pub(crate) text: String,
    /// What may be passed over, with the mark that parts it from the text.
    pub(crate) aside: String,
    /// How it is set.
    pub(crate) flow: Flow,
}

/// How a fact is set.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Flow {
    /// On one line, which is never broken: it may be copied.
    Line,
    /// Broken into lines as it must be.
    Text,
    /// On one line, cut to the room there is; it deserves a look.
    Care,
}

pub(super) fn facts(report: &Report, context: &Context) -> Vec<Fact> {
    let mut facts = read(report, context);
    facts.extend(laid_out(report));
    facts.extend(filled(report));
    facts.extend(translated(report));
    facts.extend(unjudged(report));
    facts
}

/// The file, the record, and how much there is.
fn read(report: &Report, context: &Context) -> Vec<Fact> {
    let (counts, file) = (&report.counts, &report.file);
    let where_headings = file.heading_row.map(|row| format!(", headings in row {row}")).unwrap_or_default();
    let form = format!("  {}, {}{where_headings}", size(file.bytes), form(file));
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
    let as_what = format!("  mode {}, today {}", report.mode.name(), report.today);
    let line = |name, text, aside| Fact { name, text, aside, flow: Flow::Line };
    let facts = [
        line("File", shown(&context.file), form),
        line("Record", shown(&record), as_what),
        line("Rows", rows, String::new()),
        line("Records", records, String::new()),
        line("Findings", findings(counts), String::new()),
        line("Effects", report.effects.as_ref().map(in_one_line).unwrap_or_default(), String::new()),
    ];
    facts.into_iter().filter(|fact| !fact.text.is_empty()).collect()
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

/// What was read off the file of its layout, and which rows were left out; never silently.
fn laid_out(report: &Report) -> impl Iterator<Item = Fact> {
    let told = report.findings.iter().filter(|finding| finding.code.is(Tag::Layout));
    told.map(|finding| {
        let text = shown(&layout_said(finding));
        // What was chosen stands out, the evidence behind it does not.
        let chosen = text.find(';').unwrap_or(text.len());
        let (text, aside) = text.split_at(chosen);
        Fact { name: "Layout", text: text.to_owned(), aside: aside.to_owned(), flow: Flow::Text }
    })
}

fn layout_said(finding: &Finding) -> String {
    let row = finding.row.unwrap_or_default();
    match finding.code {
        Code::TotalRow => format!("left out: row {row} is a total; its numbers sum their columns"),
        Code::FooterRow => format!("left out: row {row} is a note below the table"),
        Code::ExampleRow => format!("left out: row {row} is an example"),
        Code::FormGuessed => {
            let heading = finding.heading.as_deref().or(finding.field.as_deref()).unwrap_or_default();
            format!("{heading}: {}", finding.sentence().replacen(": ", "; ", 1))
        }
        _ => finding.sentence().into_owned(),
    }
}

/// The fields that defaults fill.
fn filled(report: &Report) -> Option<Fact> {
    let one = |filled: &FilledReport| {
        let (field, value) = (shown(&filled.field), cut(&filled.value, 30));
        format!("{field} \"{value}\" in {}", counted(filled.rows, "row", "rows"))
    };
    let all: Vec<String> = report.filled.iter().map(one).collect();
    let fact = |text| Fact { name: "Defaults", text, aside: String::new(), flow: Flow::Text };
    (!all.is_empty()).then(|| fact(all.join(", ")))
}

/// So many replaced words are shown.
const MOST_WORDS: usize = 4;

/// Words that the plan replaces.
fn translated(report: &Report) -> Option<Fact> {
    let one = |word: &TranslatedReport| {
        let to = if word.to.is_empty() { "blank".to_owned() } else { cut(&word.to, 30) };
        format!("{} \"{}\" → {to} {}", shown(&word.field), cut(&word.from, 30), times(word.count))
    };
    let mut all: Vec<String> = report.translated.iter().take(MOST_WORDS).map(one).collect();
    let more = report.translated.len().saturating_sub(MOST_WORDS);
    all.extend((more > 0).then(|| format!("{} more", grouped(more as u64))));
    let fact = |text| Fact { name: "Words", text, aside: String::new(), flow: Flow::Text };
    (!all.is_empty()).then(|| fact(all.join(", ")))
}

fn times(count: u64) -> String {
    if count == 1 { "once".to_owned() } else { format!("{} times", grouped(count)) }
}

/// The fields that are not judged yet.
fn unjudged(report: &Report) -> Option<Fact> {
    let fields = report.unjudged.iter().map(|field| format!("{} ({})", field.field, field.why));
    let text = format!("not judged: {}", fields.collect::<Vec<_>>().join(", "));
    let fact = |text| Fact { name: "Not yet", text, aside: String::new(), flow: Flow::Care };
    (!report.unjudged.is_empty()).then(|| fact(text))
}
