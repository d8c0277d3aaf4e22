//! The report as one page for a browser: nothing is loaded from elsewhere, nothing runs but the filter of its findings.

use super::charts::{self, Bar};
use super::told::Told;
use crate::render::story::{Story, in_one_line};
use crate::render::words::{counted, place, sentence};
use crate::terminal::{cut, shown};
use askama::Template;
use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use sha2::{Digest, Sha256};
use std::collections::{BTreeMap, BTreeSet};
use tidy_gate_core::catalogue::Level;
use tidy_gate_core::effects::{Effects, FieldEffects};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::overview::{Overview, Stretch};
use tidy_gate_core::profile::{ColumnProfile, Spread};
use tidy_gate_core::report::{Report, Verdict};

const STYLE: &str = include_str!("../../../templates/report.css");
const SCRIPT: &str = include_str!("../../../templates/report.js");
/// So many groups of findings are told whole.
const MOST_GROUPS: usize = 0;
/// So many fields have a bar.
const MOST_BARS: usize = 14;
/// So many columns are shown.
const MOST_COLUMNS: usize = 200;
/// A text in a table has so many characters.
const LONGEST: usize = 240;

#[derive(Template)]
#[template(path = "report.html")]
struct Page<'a> {
    style: &'static str,
    script: &'static str,
    style_hash: String,
    script_hash: String,
    word: &'static str,
    mark: &'static str,
    file: String,
    tool: String,
    story: Story<'a>,
    /// The facts: what about, and of each what, and what may be passed over.
    facts: Vec<(&'a str, Vec<(String, String)>)>,
    /// How many causes there are, and how much they explain.
    causes: String,
    bars: Vec<Bar>,
    more_bars: usize,
    bars_svg: String,
    along: &'a [Stretch],
    along_svg: String,
    /// How many rows one bar stands for.
    step: u64,
    effects: String,
    effect_fields: Vec<EffectRow>,
    listed: String,
    codes: BTreeSet<&'static str>,
    fields: BTreeSet<String>,
    rows: Vec<FindingRow>,
    looked_at: String,
    columns: Vec<ColumnRow>,
    more_columns: usize,
}

/// A finding in the table.
struct FindingRow {
    level: &'static str,
    code: &'static str,
    field: String,
    place: String,
    heading: String,
    value: String,
    is_blank: bool,
    said: String,
    near: String,
    key: String,
}

/// What loading would do to a field.
struct EffectRow {
    name: String,
    counts: [u64; 4],
    changes: String,
}

/// A column of the file.
struct ColumnRow {
    letter: String,
    heading: String,
    field: String,
    filled: String,
    distinct: String,
    lowest: String,
    highest: String,
    spread: String,
    /// The bars in numbers, for those who do not see them.
    numbers: String,
    svg: String,
}

/// The page.
pub(super) fn page(told: &Told<'_>) -> Result<String, askama::Error> {
    let (report, overview) = (told.report, told.overview);
    let story = Story::of(report, told.context, MOST_GROUPS);
    let (word, mark) = match story.gate {
        Verdict::Open => ("Gate open", "open"),
        Verdict::Shut => ("Gate shut", "shut"),
    };
    let (bars, more_bars) = bars(report);
    let rows: Vec<FindingRow> = report.findings.iter().map(|finding| row(report, finding)).collect();
    let held = overview.along.iter().any(|stretch| stretch.held > 0);
    let columns = columns(report, overview);
    Page {
        style: STYLE,
        script: SCRIPT,
        style_hash: STANDARD.encode(Sha256::digest(STYLE)),
        script_hash: STANDARD.encode(Sha256::digest(SCRIPT)),
        word,
        mark,
        file: cut(&report.file.name, LONGEST),
        tool: format!("{} {}", report.tool.name, report.tool.version),
        facts: facts(&story),
        causes: story.causes_said(),
        bars_svg: charts::by_field(&bars),
        bars,
        more_bars,
        along: &overview.along,
        along_svg: if held { charts::along(&overview.along) } else { String::new() },
        step: overview.along.first().map_or(0, |first| first.last + 1 - first.first),
        effects: report.effects.as_ref().map(effects).unwrap_or_default(),
        effect_fields: report.effects.iter().flat_map(|effects| &effects.fields).filter_map(effect).collect(),
        listed: listed(report),
        codes: rows.iter().map(|row| row.code).collect(),
        fields: rows.iter().map(|row| row.field.clone()).filter(|field| !field.is_empty()).collect(),
        rows,
        looked_at: looked_at(overview),
        more_columns: report.columns.len().saturating_sub(columns.len()),
        columns,
        story,
    }
    .render()
}

/// A number as people read it.
#[expect(clippy::trivially_copy_pass_by_ref, reason = "a template hands over references")]
fn number(count: &u64) -> String {
    grouped(*count)
}

fn facts<'a>(story: &Story<'_>) -> Vec<(&'a str, Vec<(String, String)>)> {
    let mut facts: Vec<(&str, Vec<(String, String)>)> = Vec::new();
    for fact in &story.facts {
        let aside = match fact.aside.strip_prefix(';') {
            Some(_) => fact.aside.clone(),
            None if fact.aside.trim().is_empty() => String::new(),
            None => format!(", {}", fact.aside.trim()),
        };
        let said = (cut(&fact.text, LONGEST), cut(&aside, LONGEST));
        match facts.last_mut().filter(|(name, _)| *name == fact.name) {
            Some((_, all)) => all.push(said),
            None => facts.push((fact.name, vec![said])),
        }
    }
    facts
}

/// The findings by field, most first.
fn bars(report: &Report) -> (Vec<Bar>, usize) {
    let mut bars: BTreeMap<String, Bar> = BTreeMap::new();
    for total in &report.totals {
        let field = total.field.clone().or_else(|| total.rule.clone().map(|rule| format!("rule {rule}")));
        let name = match field {
            Some(field) => cut(&field, 24),
            None if !total.fields.is_empty() => cut(&total.fields.join(" + "), 24),
            None => "file and rows".to_owned(),
        };
        let bar = Bar { name: name.clone(), stops: 0, warns: 0, notes: 0 };
        let bar = bars.entry(name).or_insert(bar);
        match total.level {
            Level::Stop => bar.stops += total.count,
            Level::Warn => bar.warns += total.count,
            Level::Note => bar.notes += total.count,
        }
    }
    let mut bars: Vec<Bar> = bars.into_values().collect();
    bars.sort_by_key(|bar| std::cmp::Reverse((bar.stops, bar.warns, bar.notes)));
    let more = bars.len().saturating_sub(MOST_BARS);
    bars.truncate(MOST_BARS);
    (bars, more)
}

fn listed(report: &Report) -> String {
    let all = report.counts.stops + report.counts.warns + report.counts.notes;
    let all_told = counted(all, "finding", "findings");
    match report.findings_left_out {
        0 => format!("{all_told}, by row."),
        left_out => format!(
            "The first {} of {all_told}, by row; {} more are counted, and --findings writes all.",
            grouped(report.findings.len() as u64),
            grouped(left_out)
        ),
    }
}

fn row(report: &Report, finding: &Finding) -> FindingRow {
    let cell = place(finding).unwrap_or_else(|| "file".to_owned());
    let field = finding.field.clone().unwrap_or_else(|| finding.fields.join(" + "));
    let heading = finding.heading.clone().filter(|heading| !heading.is_empty());
    let places = finding.places.iter().filter(|row| Some(**row) != finding.row).map(u64::to_string);
    let places: Vec<String> = places.collect();
    let places =
        if places.is_empty() { String::new() } else { format!("; also in row {}", places.join(", ")) };
    let is_cell = report.file.sheet.is_some() && finding.letter.is_some() && finding.row.is_some();
    let sheet = finding.sheet.as_deref().filter(|_| is_cell).map(|sheet| format!("{}!", cut(sheet, 24)));
    FindingRow {
        level: finding.level.name(),
        code: finding.code.name(),
        place: format!("{}{cell}", sheet.unwrap_or_default()),
        heading: cut(heading.as_deref().unwrap_or(&field), 80),
        field: cut(&field, 80),
        is_blank: finding.value.as_deref() == Some(""),
        value: cut(finding.value.as_deref().unwrap_or_default(), LONGEST),
        said: cut(&format!("{}{places}", finding.sentence()), 2 * LONGEST),
        near: cut(finding.suggestion.as_deref().unwrap_or_default(), 100),
        key: cut(finding.key.as_deref().unwrap_or_default(), 100),
    }
}

fn effects(effects: &Effects) -> String {
    let records = &effects.records;
    let all = format!("{} before, {} after", grouped(records.before), grouped(records.after));
    let missing = effects.missing.map(|missing| format!("; {} not mentioned", grouped(missing)));
    sentence(&format!("{} ({all}{})", in_one_line(effects), missing.unwrap_or_default()))
}

/// A field in which anything is told.
fn effect(field: &FieldEffects) -> Option<EffectRow> {
    let counts = [field.filled, field.overwritten, field.emptied, field.unchanged];
    let value = |value: &Option<String>| match value {
        Some(value) => format!("\u{201C}{}\u{201D}", cut(value, 30)),
        None => "blank".to_owned(),
    };
    let change = |change: &tidy_gate_core::effects::Change| {
        format!("{} \u{2192} {} {}", value(&change.from), value(&change.to), grouped(change.count))
    };
    let changes: Vec<String> = field.changes.iter().take(5).map(change).collect();
    let is_told = field.filled + field.overwritten + field.emptied + field.kept > 0;
    is_told.then(|| EffectRow { name: shown(&field.field), counts, changes: changes.join(", ") })
}

fn looked_at(overview: &Overview) -> String {
    let rows = counted(overview.rows, "row", "rows");
    match overview.is_whole {
        true => format!("What they hold, in {rows}."),
        false => format!(
            "Filled cells are counted in all rows; what else is said of values is of {rows}, evenly spread over the file."
        ),
    }
}

fn columns(report: &Report, overview: &Overview) -> Vec<ColumnRow> {
    let empty = ColumnProfile::default();
    let profiles = overview.columns.iter().chain(std::iter::repeat(&empty));
    let all = report.columns.iter().zip(profiles).take(MOST_COLUMNS);
    all.map(|(column, profile)| {
        let (lowest, highest) = profile.range.clone().unwrap_or_default();
        let distinct = match profile.distinct {
            Some(0) => String::new(),
            Some(distinct) => grouped(distinct),
            None => "over 1,000".to_owned(),
        };
        let (counts, spread, numbers) = spread(&profile.spread);
        ColumnRow {
            letter: column.letter.clone(),
            heading: cut(&column.heading, 80),
            field: column.field.as_deref().map_or_else(|| "left out".to_owned(), |field| cut(field, 80)),
            filled: grouped(column.filled),
            distinct,
            lowest: cut(&lowest, 40),
            highest: cut(&highest, 40),
            svg: if counts.is_empty() { String::new() } else { charts::small(&counts) },
            spread,
            numbers,
        }
    })
    .collect()
}

/// How the values of a column are spread: in bars, in words, and the bars in numbers.
fn spread(spread: &Spread) -> (Vec<u64>, String, String) {
    let parts = |counts: &[u64]| {
        let all: Vec<String> = counts.iter().map(|count| grouped(*count)).collect();
        format!("in {} equal parts: {}", counts.len(), all.join(", "))
    };
    match spread {
        Spread::Values(counts) if !counts.is_empty() => (counts.clone(), String::new(), parts(counts)),
        Spread::Lengths(counts) if !counts.is_empty() => {
            (counts.clone(), " by length".to_owned(), parts(counts))
        }
        Spread::Nothing | Spread::Values(_) | Spread::Lengths(_) => Default::default(),
        Spread::Words(words, others) => {
            let told = words.iter().map(|(word, count)| format!("{} {}", cut(word, 24), grouped(*count)));
            let rest = (*others > 0).then(|| format!("others {}", grouped(*others)));
            let counts = words.iter().map(|word| word.1).chain((*others > 0).then_some(*others));
            let told: Vec<String> = told.chain(rest).collect();
            (counts.collect(), format!(" {}", told.join(", ")), String::new())
        }
    }
}
