//! Which column is which field, for people: each with how it was paired, then what is still open, then what to do.

use super::next::command_lines;
use super::values;
use super::words::part;
use crate::args::MatchArgs;
use crate::render::words::{counted, form, program, size};
use crate::shell::quoted;
use crate::shell::quoted_path;
use crate::terminal::{BAD, CARE, FAINT, GOOD, HEAD, VALUE, columns, cut, padded, paint, shown};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::gate::Taken;
use tidy_gate_core::headings::How;
use tidy_gate_core::matching::{FieldValues, MatchColumn, MatchReport, OpenField};
use tidy_gate_core::mode::Mode;

/// So many fields without a column that are not needed are named one by one.
const MOST_FIELDS: usize = 12;

/// Draws the report for a width in columns.
pub(crate) fn report(report: &MatchReport, args: &MatchArgs, width: usize) -> String {
    let mut lines = head(report, args, width);
    for finding in &report.findings {
        lines.extend(told(finding, width));
    }
    lines.extend(columns_of(report, width));
    lines.extend(fields(report, width));
    lines.extend(values::tables(&report.values, width));
    lines.extend(next(report, args, width));
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}

fn head(report: &MatchReport, args: &MatchArgs, width: usize) -> Vec<String> {
    let facts = &report.file;
    let where_headings = facts.heading_row.map(|row| format!(", headings in row {row}")).unwrap_or_default();
    let form = format!("{}, {}{where_headings}", size(facts.bytes), form(facts));
    let version = report.record.version.as_ref().map(|version| format!(" {version}")).unwrap_or_default();
    let record = format!("{} ({}{version})", report.record.label, report.record.name);
    let plan = report.plan.as_ref().map(|plan| format!("plan {}", shown(plan))).unwrap_or_default();
    vec![
        String::new(),
        format!(
            " {}  {}",
            paint(&cut(&args.file.display().to_string(), width / 2), HEAD),
            paint(&form, FAINT)
        ),
        format!(" {}  {}", shown(&record), paint(&plan, FAINT)),
    ]
}

fn told(finding: &Finding, width: usize) -> Vec<String> {
    let suggestion =
        finding.suggestion.as_ref().map(|suggestion| format!("; perhaps {suggestion}")).unwrap_or_default();
    let text = format!("{}: {}{suggestion}", finding.code, finding.sentence());
    let style = super::level_style(finding.level);
    textwrap::wrap(&shown(&text), width.saturating_sub(2))
        .iter()
        .enumerate()
        .flat_map(|(number, line)| {
            let air = (number == 0).then(String::new);
            air.into_iter().chain([format!(" {}", paint(line, style))])
        })
        .collect()
}

/// How a pairing came about, in words.
fn why(column: &MatchColumn) -> (&'static str, String) {
    let column = &column.column.column;
    let why = |how: How| match how {
        How::Name => "its name",
        How::Label => "its label",
        How::Also => "another heading",
        How::Plan => "the plan says so",
        How::Position => "its place",
        How::LeftOut => "left out on purpose",
        How::Likeness | How::Content | How::None => "",
    };
    if column.field.is_some() {
        let how = why(column.how).to_owned();
        return (
            "→",
            match &column.but_for {
                Some(but_for) => format!("{how}, but for {but_for}"),
                None => how,
            },
        );
    }
    match (column.how, column.proposals.first()) {
        (How::LeftOut, _) => ("×", why(How::LeftOut).to_owned()),
        (_, Some(proposal)) => ("?", proposal.why.clone()),
        (_, None) if column.filled == 0 => ("×", "holds nothing".to_owned()),
        (_, None) => ("×", "no field is like it".to_owned()),
    }
}

fn columns_of(report: &MatchReport, width: usize) -> Vec<String> {
    let there = report.columns.iter().filter(|column| {
        let column = &column.column.column;
        !column.heading.is_empty() || column.filled > 0 || column.field.is_some()
    });
    let there: Vec<&MatchColumn> = there.collect();
    let count = |mark: &str| there.iter().filter(|column| why(column).0 == mark).count() as u64;
    let counts = [
        (count("→"), "paired", "paired"),
        (count("?"), "to decide", "to decide"),
        (count("×"), "left out", "left out"),
    ];
    let counts = counts.iter().filter(|count| count.0 > 0);
    let aside: Vec<_> = counts.map(|(count, one, several)| counted(*count, one, several)).collect();
    let mut lines = part("Columns", &aside.join(", ")).to_vec();
    let drawn = Drawn::of(&there, width);
    there.iter().for_each(|column| drawn.column(column, &mut lines));
    lines
}

/// The heading of a column as it is shown.
fn heading(column: &MatchColumn) -> String {
    match column.column.column.heading.as_str() {
        "" => "(no heading)".to_owned(),
        heading => cut(heading, 28),
    }
}

/// Its field, or those that are likely.
fn field(column: &MatchColumn) -> String {
    let column = &column.column.column;
    let fields: Vec<_> = column.proposals.iter().map(|proposal| shown(&proposal.field)).collect();
    column.field.as_ref().map_or_else(|| fields.join(" or "), |field| shown(field))
}

/// How wide the parts of a line are.
struct Drawn {
    width: usize,
    letters: usize,
    headings: usize,
    /// Of the fields that are sure.
    fields: usize,
    reasons: usize,
}

impl Drawn {
    fn of(there: &[&MatchColumn], width: usize) -> Self {
        let widest = |of: &dyn Fn(&MatchColumn) -> usize| there.iter().map(|column| of(column)).max();
        let is_sure = |column: &MatchColumn| why(column).0 != "?";
        let reason = |column: &MatchColumn| Some(columns(&why(column).1)).filter(|width| *width <= 28);
        Self {
            width,
            letters: widest(&|column| column.column.column.letter.len()).unwrap_or(1),
            headings: widest(&|column| columns(&heading(column))).unwrap_or(0),
            fields: widest(&|column| if is_sure(column) { columns(&cut(&field(column), 30)) } else { 0 })
                .unwrap_or(0),
            reasons: widest(&|column| reason(column).unwrap_or(0)).unwrap_or(0),
        }
    }

    fn column(&self, column: &MatchColumn, lines: &mut Vec<String>) {
        let (mark, why) = why(column);
        let style = match mark {
            "→" => GOOD,
            "?" => CARE,
            _ => FAINT,
        };
        let facts = &column.column.column;
        let start = format!(
            " {}  {}  {} ",
            paint(&padded(&facts.letter, self.letters), FAINT),
            paint(&padded(&heading(column), self.headings), HEAD),
            paint(mark, style),
        );
        let used = 1 + self.letters + 2 + self.headings + 2 + 2;
        let examples = column.column.examples.iter().map(|example| cut(example, 24));
        let examples = examples.collect::<Vec<_>>().join(" · ");
        let under = self.width.saturating_sub(self.letters + 4);
        let indent = " ".repeat(self.letters + 3);
        // What is only likely has its fields alone on its line, and why on the next.
        if !facts.proposals.is_empty() && facts.field.is_none() {
            let room = self.width.saturating_sub(used);
            lines.push(format!("{start}{}", paint(&cut(&field(column), room), style)));
            let why = cut(&format!("{why}: "), under);
            let rest = cut(&examples, under.saturating_sub(columns(&why)));
            lines.push(format!("{indent}{why}{}", paint(&rest, VALUE)));
            return;
        }
        let start = format!("{start}{}  ", paint(&padded(&cut(&field(column), 30), self.fields), style));
        let profile = profile(column);
        let room = self.width.saturating_sub(used + self.fields + 2);
        let taken = columns(&why).max(self.reasons) + columns(&profile) + 3;
        let profile = if taken <= room { profile } else { String::new() };
        lines.push(format!("{start}{}  {}", padded(&cut(&why, room), self.reasons), paint(&profile, FAINT)));
        let left = facts.field.is_none() && facts.how != How::LeftOut;
        if left && !examples.is_empty() {
            lines.push(format!("{indent}{}", paint(&cut(&examples, under), VALUE)));
        }
        if let Some(misfit) = &column.misfit {
            let misfit = shown(misfit);
            let wrapped = textwrap::wrap(&misfit, under.max(20)).into_iter().map(|line| paint(&line, BAD));
            lines.extend(wrapped.map(|line| format!("{indent}{line}")));
        }
    }
}

/// What the column holds, in a few words.
fn profile(column: &MatchColumn) -> String {
    let column = &column.column;
    match (&column.kind, column.distinct) {
        (None, _) => String::new(),
        (Some(kind), Some(distinct)) => format!("{kind}, {}", counted(distinct, "value", "values")),
        (Some(kind), None) => format!("{kind}, over 1,000 values"),
    }
}

fn fields(report: &MatchReport, width: usize) -> Vec<String> {
    let open = &report.fields_without_column;
    if open.is_empty() {
        return Vec::new();
    }
    let (needed, others): (Vec<&OpenField>, Vec<&OpenField>) = open.iter().partition(|field| field.needed);
    let aside = match needed.len() {
        0 => "none of them is needed".to_owned(),
        n => format!("{} needed", counted(n as u64, "is", "are")),
    };
    let mut lines = part("Fields without a column", &aside).to_vec();
    let widest = open.iter().map(|field| columns(&cut(&field.field, 28))).max().unwrap_or(0);
    let likely = |field: &OpenField| {
        let first = |column: &&MatchColumn| {
            let proposal = column.column.column.proposals.first();
            proposal.is_some_and(|proposal| proposal.field == field.field)
        };
        report.columns.iter().find(first).map(|column| &column.column.column.letter)
    };
    for field in &needed {
        lines.push(format!(
            " {} {}  {}",
            paint("!", BAD),
            paint(&padded(&cut(&field.field, 28), widest), BAD),
            cut(
                &match likely(field) {
                    Some(letter) => format!("{}, likely in column {letter}", field.label),
                    None => format!("{}: a record cannot be loaded without it", field.label),
                },
                width.saturating_sub(widest + 6)
            )
        ));
    }
    let shown_ones = if others.len() > MOST_FIELDS { MOST_FIELDS - 1 } else { others.len() };
    for field in others.iter().take(shown_ones) {
        let mut about = field.label.clone();
        about.extend(likely(field).map(|letter| format!(", likely in column {letter}")));
        about.extend(field.default.iter().map(|default| format!(", filled with {default}")));
        if field.required == "advised" {
            about.push_str(", advised");
        }
        let about = cut(&about, width.saturating_sub(widest + 6));
        lines.push(format!("   {}  {}", padded(&cut(&field.field, 28), widest), paint(&about, FAINT)));
    }
    let hidden = others.len() - shown_ones;
    if hidden > 0 {
        let text = format!("and {}; --format json has all", counted(hidden as u64, "more", "more"));
        lines.push(format!("   {}", paint(&text, FAINT)));
    }
    lines
}

/// The options that decide what is open.
fn decisions(report: &MatchReport) -> Vec<String> {
    let mut decisions = Vec::new();
    // Without its key no record can be told from another: what may hold it is not to be left out.
    let is_likely = |field: &OpenField| {
        let proposals = report.columns.iter().filter_map(|column| column.column.column.proposals.first());
        proposals.into_iter().any(|proposal| proposal.field == field.field)
    };
    let mut open = report.fields_without_column.iter();
    let keys_open = open.any(|field| field.needed && field.key && !is_likely(field));
    let columns = || report.columns.iter().map(|column| &column.column.column);
    let mut given: Vec<&str> = Vec::new();
    for column in &report.columns {
        let column = &column.column.column;
        if column.field.is_some() || column.how == How::LeftOut || column.filled == 0 {
            continue;
        }
        let repeats = columns().filter(|other| other.heading == column.heading).count() > 1;
        let name = match column.heading.as_str() {
            heading if heading.is_empty() || repeats => format!("@{}", column.letter),
            heading => heading.to_owned(),
        };
        // A field is for one column alone: of those with the same heading the next one gets the next field of that name.
        let proposed = column.proposals.iter().map(|proposal| proposal.field.as_str());
        let first = proposed.clone().next();
        let alike = report.fields_without_column.iter().map(|field| field.field.as_str());
        let alike = alike.filter(|field| repeats && first.is_some_and(|first| is_next_of(first, field)));
        let field = proposed.chain(alike).find(|field| !given.contains(field));
        given.extend(field);
        decisions.push(match field {
            Some(field) => format!("--set {}", quoted(&format!("{name}={field}"))),
            None if keys_open => continue,
            None => format!("--leave-out {}", quoted(&name)),
        });
    }
    decisions
}

/// Whether a field is the second or a further one of a name, as drafts call them (`name_2`).
fn is_next_of(name: &str, field: &str) -> bool {
    let number = field.strip_prefix(name).and_then(|rest| rest.strip_prefix('_'));
    number.is_some_and(|number| !number.is_empty() && number.bytes().all(|byte| byte.is_ascii_digit()))
}

fn next(report: &MatchReport, args: &MatchArgs, width: usize) -> Vec<String> {
    let mut lines = part("Next", "").to_vec();
    let program = program();
    let file = quoted_path(&args.file);
    if let Some(saved) = &report.saved {
        lines.push(format!("   Written: {}", shown(saved)));
    }
    let decisions = decisions(report);
    let base = plan_words(args);
    let mut step = |text: &str, command: String| {
        lines.extend(textwrap::wrap(text, width.saturating_sub(3)).iter().map(|line| format!("   {line}")));
        if !command.is_empty() {
            lines.extend(command_lines(&shown(&command), width));
        }
    };
    if !decisions.is_empty() {
        let save = args.save.as_ref().map_or_else(|| default_plan(args), |path| path.display().to_string());
        let is_likely = decisions.iter().any(|decision| decision.starts_with("--set"));
        let text = match is_likely {
            true => {
                "Look at what is likely; if it is right, keep it in a plan (or go through it with --ask):"
            }
            false => "If nobody asks for what has no field, leave it out on purpose and keep that in a plan:",
        };
        step(text, format!("{program} match {file}{base} {} --save {}", decisions.join(" "), quoted(&save)));
    }
    if let Some((text, command)) = words_step(report, args, &base) {
        step(&text, command);
    }
    match &report.saved {
        Some(saved) => {
            step("Check the file by its plan:", format!("{program} check {file} --plan {}", quoted(saved)))
        }
        None if decisions.is_empty() => {
            let is_misfit = report.columns.iter().any(|column| column.misfit.is_some());
            let text = match (report.complete, is_misfit) {
                (true, _) => "Every column is decided. Check the file:",
                (false, true) => {
                    "Look at the column whose values do not fit before anything else. To check the file all the same:"
                }
                (false, false) => "A needed field is still open; a check says what that holds:",
            };
            step(text, format!("{program} check {file}{base}"));
        }
        None => {}
    }
    lines
}

/// What to do about words that are open.
fn words_step(report: &MatchReport, args: &MatchArgs, base: &str) -> Option<(String, String)> {
    let open: Vec<&str> =
        report.values.iter().filter(|of| has_open(of)).map(|of| of.field.as_str()).collect();
    if open.is_empty() {
        return None;
    }
    if let Some(saved) = &report.saved {
        let text = format!(
            "The words that are open stand in {} as comments that begin with LOOK: decide each, and take the # away from \
             what is right.",
            shown(saved)
        );
        return Some((text, String::new()));
    }
    let (program, file, save) = (program(), quoted_path(&args.file), default_plan(args));
    let command =
        format!("{program} match {file}{base} --values {} --save {}", open.join(","), quoted(&save));
    Some(("Write the words that are open into a plan, to decide there what each means:".to_owned(), command))
}

/// Whether a value of a field is open.
fn has_open(of_field: &FieldValues) -> bool {
    of_field.values.iter().any(|value| value.how == Taken::Open)
}

/// The name of a plan for the file, beside it.
fn default_plan(args: &MatchArgs) -> String {
    let stem = args.file.file_stem().unwrap_or_default().to_string_lossy().into_owned();
    args.file.with_file_name(format!("{stem}.plan.toml")).display().to_string()
}

/// The record schema and the plan as they were named.
fn plan_words(args: &MatchArgs) -> String {
    let named = [("record", &args.record), ("plan", &args.plan)];
    let word = |(option, path): &(&str, &Option<std::path::PathBuf>)| {
        path.as_ref().map(|path| format!(" --{option} {}", quoted_path(path)))
    };
    let mut words: String = named.iter().filter_map(word).collect();
    words.extend(args.mode.map(|mode| format!(" --mode {}", Mode::from(mode).name())));
    words.extend(args.layout.typed().iter().map(|option| format!(" {option}")));
    words.extend(args.references.iter().map(|reference| format!(" --reference {}", quoted(reference))));
    words
}
