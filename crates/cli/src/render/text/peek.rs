//! What a file holds, for people: how it is laid out and why, its columns, its first rows.

use super::words::part;
use crate::args::PeekArgs;
use crate::render::words::{counted, form, size};
use crate::terminal::{CARE, FAINT, GOOD, HEAD, QUIET, VALUE, columns, cut, padded, paint, shown};
use comfy_table::{ContentArrangement, Table, presets};
use tidy_gate_core::catalogue::entry;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::peek::{PeekColumn, PeekReport};

/// So many columns are shown.
const MOST_COLUMNS: usize = 120;

/// The file as it was named.
pub(crate) fn named(args: &PeekArgs) -> String {
    args.file.display().to_string()
}

/// Draws the report for a width in columns.
pub(crate) fn report(report: &PeekReport, file: &str, width: usize) -> String {
    let mut lines = head(report, file, width);
    lines.extend(sheets(report, width));
    lines.extend(layout(report, width));
    lines.extend(columns_of(report, width));
    lines.extend(first_rows(report, width));
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}

fn head(report: &PeekReport, file: &str, width: usize) -> Vec<String> {
    let facts = &report.file;
    let rows = &report.rows;
    let about = match (rows.all, rows.estimated) {
        (true, _) => counted(rows.read, "row", "rows"),
        (false, Some(estimated)) => format!("about {}", counted(estimated, "row", "rows")),
        (false, None) => format!("more than {}", counted(rows.read, "row", "rows")),
    };
    let columns = counted(report.columns.len() as u64, "column", "columns");
    let mut lines = vec![
        String::new(),
        format!(
            " {}  {}",
            paint(&cut(file, width / 2), HEAD),
            paint(&format!("{}, {}", size(facts.bytes), form(facts)), FAINT)
        ),
        format!(" {about}, {columns}"),
    ];
    if !rows.all {
        let text = format!(
            "What follows is read off the first {}; --all reads everything.",
            counted(rows.read, "row", "rows")
        );
        lines.push(format!(" {}", paint(&text, CARE)));
    }
    let others = [
        (
            rows.of_other_width,
            "row has more or fewer cells than there are columns",
            "rows have more or fewer cells than there are columns",
        ),
        (rows.blank, "row holds nothing", "rows hold nothing"),
        (rows.stray_quotes, "cell has a stray quote", "cells have a stray quote"),
    ];
    for (seen, one, several) in others {
        if let Some(first) = seen.first_row {
            let text = format!("{}, first in row {first}", counted(seen.count, one, several));
            lines.push(format!(" {}", paint(&text, CARE)));
        }
    }
    lines
}

/// The sheets of a workbook, the one that was read marked.
fn sheets(report: &PeekReport, width: usize) -> Vec<String> {
    if report.sheets.is_empty() {
        return Vec::new();
    }
    let mut lines = part("Sheets", "the one that was read is marked; --sheet chooses another").to_vec();
    for (number, sheet) in report.sheets.iter().enumerate() {
        let mark =
            if report.file.sheet.as_ref() == Some(&sheet.name) { paint(">", GOOD) } else { " ".to_owned() };
        let hidden = if sheet.hidden { "  hidden" } else { "" };
        let name = cut(&sheet.name, width.saturating_sub(20));
        lines.push(format!(" {mark} {} {}{}", number + 1, paint(&name, HEAD), paint(hidden, CARE)));
    }
    lines
}

fn layout(report: &PeekReport, width: usize) -> Vec<String> {
    let mut lines =
        part("Layout", "what is marked was read off the file; options state it otherwise").to_vec();
    let widest = report.layout.iter().map(|fact| columns(&fact.choice)).max().unwrap_or(0).min(30);
    for fact in &report.layout {
        let mark = if fact.guessed { paint("?", QUIET) } else { " ".to_owned() };
        let start = format!(" {mark} {}  {}  ", padded(&fact.what, 9), padded(&shown(&fact.choice), widest));
        let used = 3 + 9 + 2 + widest.max(columns(&fact.choice)) + 2;
        let evidence = textwrap::wrap(&fact.evidence, width.saturating_sub(used).max(20));
        for (number, line) in evidence.iter().enumerate() {
            let before = if number == 0 { start.clone() } else { " ".repeat(used) };
            lines.push(format!("{before}{}", paint(&shown(line), FAINT)));
        }
    }
    lines
}

/// Two lines a column, and a third for what is odd.
fn columns_of(report: &PeekReport, width: usize) -> Vec<String> {
    if report.columns.is_empty() {
        return Vec::new();
    }
    let aside = "likely kind, how full, how many different values, how long";
    let mut lines = part("Columns", aside).to_vec();
    let heading = |column: &PeekColumn| match column.column.heading.as_str() {
        "" => "(no heading)".to_owned(),
        heading => cut(heading, 28),
    };
    let seen = report.columns.iter().take(MOST_COLUMNS);
    let widest = seen.clone().map(|column| columns(&heading(column))).max().unwrap_or(0);
    let letters = report.columns.iter().map(|column| column.column.letter.len()).max().unwrap_or(1);
    for column in seen {
        let letter = padded(&column.column.letter, letters);
        let kind = column.kind.clone().unwrap_or_else(|| "empty".to_owned());
        let line = format!(
            " {} {}  {}  {}",
            paint(&letter, FAINT),
            paint(&padded(&heading(column), widest), HEAD),
            paint(&padded(&kind, 8), GOOD),
            facts(column)
        );
        lines.push(line);
        let indent = " ".repeat(letters + 4);
        let room = width.saturating_sub(indent.len());
        if let Some(values) = values(column, room) {
            lines.push(format!("{indent}{values}"));
        }
        let odd = odd(column);
        for line in textwrap::wrap(&odd, room.max(20)).iter().filter(|_| !odd.is_empty()) {
            lines.push(format!("{indent}{}", paint(&shown(line), CARE)));
        }
    }
    if let Some(more) = report.columns.len().checked_sub(MOST_COLUMNS).filter(|more| *more > 0) {
        let text = format!(
            " and {}; --format json has all of them",
            counted(more as u64, "column more", "columns more")
        );
        lines.push(paint(&text, CARE));
    }
    lines
}

/// The form of the kind, how full the column is, how many different values it has and how long they are.
fn facts(column: &PeekColumn) -> String {
    if column.column.filled == 0 {
        return String::new();
    }
    let mut facts = Vec::new();
    facts.extend(column.kind_form.clone());
    let all = column.column.filled + column.blank;
    facts.push(match column.column.filled * 100 / all.max(1) {
        100 => "full".to_owned(),
        0 => format!("{} filled", grouped(column.column.filled)),
        share => format!("{share} % full"),
    });
    facts.push(match column.distinct {
        Some(distinct) if distinct == column.column.filled && distinct > 1 => "all different".to_owned(),
        Some(1) => "1 value".to_owned(),
        Some(distinct) => format!("{} values", grouped(distinct)),
        None => "over 1,000 values".to_owned(),
    });
    facts.push(match (column.shortest, column.longest) {
        (Some(shortest), Some(longest)) if shortest == longest => format!("{shortest} long"),
        (shortest, longest) => {
            format!("{} to {} long", grouped(shortest.unwrap_or(0)), grouped(longest.unwrap_or(0)))
        }
    });
    if let Some(field) = &column.column.field {
        facts.push(format!("→ {}", shown(field)));
    }
    paint(&facts.join(", "), FAINT)
}

/// The lowest and the highest value, and examples.
fn values(column: &PeekColumn, room: usize) -> Option<String> {
    let most = (room / 4).clamp(8, 30);
    let shown = |text: &String| cut(text, most);
    let (low, high) = (column.lowest.as_ref()?, column.highest.as_ref()?);
    let range = if low == high { shown(low) } else { format!("{} … {}", shown(low), shown(high)) };
    let mut text = paint(&range, VALUE);
    let mut used = columns(&range);
    let mut examples = Vec::new();
    for example in column.examples.iter().filter(|example| *example != low && *example != high) {
        let example = shown(example);
        if used + columns(&example) + 12 > room {
            break;
        }
        used += columns(&example) + 3;
        examples.push(example);
    }
    if !examples.is_empty() {
        text.push_str(&paint(&format!("   such as {}", examples.join(" · ")), FAINT));
    }
    Some(text)
}

fn odd(column: &PeekColumn) -> String {
    let mut odd = Vec::new();
    let misfits = column.column.filled - column.fitting.min(column.column.filled);
    if let Some(misfit) = column.first_misfit.as_ref().filter(|_| misfits > 0) {
        let what = column.kind.as_deref().unwrap_or_default();
        odd.push(format!(
            "{} no {what}, first \"{}\" in row {}",
            counted(misfits, "cell is", "cells are"),
            cut(&misfit.value, 24),
            misfit.row
        ));
    }
    for oddity in &column.oddities {
        odd.push(format!(
            "{} in {}, first in row {}",
            entry(oddity.code).title,
            counted(oddity.count, "cell", "cells"),
            oddity.first_row
        ));
    }
    odd.join("; ")
}

/// The first rows, as many columns of them as there is room for.
fn first_rows(report: &PeekReport, width: usize) -> Vec<String> {
    if report.first_rows.is_empty() {
        return Vec::new();
    }
    const MOST: usize = 16;
    let cell = |row: &tidy_gate_core::peek::PeekRow, at: usize| {
        cut(row.cells.get(at).map_or("", String::as_str), MOST)
    };
    let number = report.first_rows.iter().map(|row| row.row.to_string().len()).max().unwrap_or(1);
    let mut room = width.saturating_sub(number + 4);
    let mut fitting = 0;
    for (at, column) in report.columns.iter().enumerate() {
        let cells = report.first_rows.iter().map(|row| columns(&cell(row, at)));
        let widest = cells.chain([columns(&cut(&column.column.heading, MOST))]).max().unwrap_or(0);
        let Some(rest) = room.checked_sub(widest + 2) else { break };
        (room, fitting) = (rest, at + 1);
    }
    let hidden = report.columns.len() - fitting;
    let aside = match hidden {
        0 => String::new(),
        n => format!("{} more on the right", counted(n as u64, "column", "columns")),
    };
    let mut lines = part("First rows", &aside).to_vec();
    let mut table = Table::new();
    table.load_style(presets::NOTHING).set_content_arrangement(ContentArrangement::Disabled);
    let headings = report.columns.iter().take(fitting).map(|column| cut(&column.column.heading, MOST));
    table.set_header(std::iter::once(String::new()).chain(headings));
    for row in &report.first_rows {
        table.add_row(std::iter::once(row.row.to_string()).chain((0..fitting).map(|at| cell(row, at))));
    }
    for (at, line) in table.to_string().lines().enumerate() {
        lines.push(format!(" {}", if at == 0 { paint(line, HEAD) } else { line.to_owned() }));
    }
    lines
}
