//! The sheet in front of a marked workbook, for whoever prepared the file: the verdict, the causes with what to do, how to
//! send it back.

use super::story::{CauseTold, Cell, Context, Group, Story};
use super::words::counted;
use tidy_gate_core::catalogue::{Level, entry};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::{Report, Verdict};
use tidy_gate_files::{FrontLine, FrontLook, Limit, MarkSum};

/// So many groups of findings are told that no cause explains.
const MOST_GROUPS: usize = 25;

/// The lines of the sheet in front.
pub(crate) fn lines(report: &Report, sum: &MarkSum) -> Vec<FrontLine> {
    let context = Context::default();
    let story = Story::of(report, &context, MOST_GROUPS);
    let (look, sign) = match story.gate {
        Verdict::Open => (FrontLook::Open, "\u{2713}"),
        Verdict::Shut => (FrontLook::Shut, "\u{25A0}"),
    };
    let mut lines = vec![
        one(FrontLook::Title, format!("What was found in {}", report.file.name)),
        one(look, format!("{sign} {}", story.verdict)),
    ];
    let (causes, aside) = &story.causes;
    if !causes.is_empty() {
        lines.push(one(FrontLook::Heading, format!("Causes: {aside}")));
        lines.extend(causes.iter().map(of_cause));
    }
    let told = || story.groups.iter().filter(|group| group.level != Level::Note);
    if told().next().is_some() {
        let heading = if causes.is_empty() { "What was found" } else { "What else was found" };
        lines.push(one(FrontLook::Heading, heading));
        lines.extend(told().take(MOST_GROUPS).map(of_group));
        let more = told().count().saturating_sub(MOST_GROUPS);
        if more > 0 {
            lines.push(two(
                FrontLook::Line,
                "",
                format!("and {more} more kinds, see the reasons of the rows"),
            ));
        }
    }
    lines.push(one(FrontLook::Heading, "What the marks mean"));
    let held = "The row cannot be loaded as it is. The cell, its note and the column \"tidy-gate reasons\" say why, \
                what was expected, and what comes nearest.";
    lines.push(two(FrontLook::Stop, "\u{25A0} held", held));
    let look = "The row can be loaded; see whether it is meant so.";
    lines.push(two(FrontLook::Warn, "\u{25B2} look at it", look));
    lines.push(one(FrontLook::Heading, "How to send it back"));
    let steps = [
        ("1", format!("Put the filled cells right on the sheet \"{}\"; nothing else needs to be changed. The filter on its headings shows the held rows alone.", sum.sheet)),
        ("2", "Leave the headings as they are. Rows may be added and deleted.".to_owned()),
        ("3", "Save the workbook under its name and send it back to whoever sent it. This sheet, the colours, the notes and the last two columns need not be taken away: nobody reads them then.".to_owned()),
    ];
    lines.extend(steps.into_iter().map(|(number, text)| two(FrontLook::Line, number, text)));
    let limits: Vec<String> = sum.limits.iter().map(limit).collect();
    if !limits.is_empty() {
        lines.push(one(FrontLook::Heading, "To be known"));
        lines.extend(limits.into_iter().map(|text| two(FrontLook::Line, "", text)));
    }
    let marked = format!(
        "{} with reasons, {} with a note. Made by {} {}.",
        counted(sum.rows, "row", "rows"),
        counted(sum.cells, "cell", "cells"),
        report.tool.name,
        report.tool.version
    );
    lines.push(two(FrontLook::Line, "", marked));
    lines
}

fn one(look: FrontLook, text: impl Into<String>) -> FrontLine {
    FrontLine { look, cells: [text.into(), String::new()] }
}

fn two(look: FrontLook, left: impl Into<String>, right: impl Into<String>) -> FrontLine {
    FrontLine { look, cells: [left.into(), right.into()] }
}

/// A cause: where it is, what it is, an example, what to do and who does it.
fn of_cause(cause: &CauseTold) -> FrontLine {
    let left = if cause.fields.is_empty() { "whole rows" } else { cause.fields.as_str() };
    let example = [&cause.words, &cause.sample].into_iter().find(|text| !text.is_empty());
    let example = example.map(|text| format!("\n{text}")).unwrap_or_default();
    let rows = match cause.place {
        "Rows" => cause.lines.first().map(|rows| format!(" ({rows})")).unwrap_or_default(),
        _ => String::new(),
    };
    let ask = cause.ask;
    let said = cause.explanation.trim_end_matches('.');
    let text = format!("{said} ({}).{example}\nTo do: {}{rows}", cause.reach, ask.trim_end_matches('.'));
    two(FrontLook::Line, left, text)
}

/// Findings that no cause explains: where, how many, what, and an example.
fn of_group(group: &Group<'_>) -> FrontLine {
    let look = if group.level == Level::Stop { FrontLook::Stop } else { FrontLook::Warn };
    let sign = if group.level == Level::Stop { "\u{25A0}" } else { "\u{25B2}" };
    let place = if group.place.is_empty() { "the file or whole rows" } else { group.place.as_str() };
    let mut text = format!("{} \u{D7} {}", grouped(group.count), entry(group.code).title);
    if let Some(sample) = &group.sample {
        let cell = match &sample.cell {
            Cell::Blank => "a blank cell".to_owned(),
            Cell::Text(text) => format!("\"{text}\""),
            Cell::Said(said) => said.clone(),
        };
        text.push_str(&format!(", such as {cell}"));
        let parts = [
            ("", Some(&sample.more).filter(|more| !more.is_empty())),
            ("expected ", sample.expected.as_ref()),
            ("nearest: ", sample.near.as_ref()),
        ];
        for (word, part) in parts.into_iter().filter_map(|(word, part)| Some((word, part?))) {
            text.push_str(&format!("; {word}{part}"));
        }
    } else if let Some(sentence) = &group.sentence {
        text = format!("{} \u{D7} {sentence}", grouped(group.count));
    }
    if let Some(places) = &group.places {
        text.push_str(&format!(" ({places})"));
    }
    two(look, format!("{sign} {place}"), text)
}

/// What could not be done, in words.
fn limit(limit: &Limit) -> String {
    match limit {
        Limit::PlainStyles(cells) => format!(
            "{} lost their number format and font for the fill: a workbook has room for 65,430 cell styles, and this one has no more. Put the format back where you change them.",
            counted(*cells, "cell", "cells")
        ),
        Limit::NotesCut(notes) => format!("{} shortened; the reasons beside the rows are whole.", counted(*notes, "note was", "notes were")),
        Limit::NotesLeftOut(cells) => format!(
            "{} no note: more make the programs slow that show them. They are filled, and the reasons stand beside the rows.",
            counted(*cells, "faulty cell has", "faulty cells have")
        ),
        Limit::NoColumns => "The sheet has no room for two more columns: the reasons stand in the notes alone.".to_owned(),
        Limit::OwnFilter => "The sheet had a filter over something else, which stays: no filter shows the held rows.".to_owned(),
        Limit::Protected => "The sheet is protected: take the protection off to change its cells and to use the filter.".to_owned(),
        Limit::ListsLeftOut(columns) => format!("{} no drop-down: the sheet has room for no more.", counted(*columns, "column has", "columns have")),
        Limit::OtherSheetShown => "The workbook opens on the sheet on which it was saved; this one is in front of all.".to_owned(),
        Limit::ReasonsCut(rows) => format!("The reasons of {} cut to what a cell holds.", counted(*rows, "row were", "rows were")),
        Limit::WrittenAnew => "The file was written anew as a workbook of the form XLSX: formats, formulas and other sheets are in the original alone.".to_owned(),
    }
}
