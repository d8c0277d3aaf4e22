//! The findings by code and field: how many, where first, and one true example.

use super::words::{counted, level_style, part};
use crate::terminal::{FAINT, HEAD, QUIET, VALUE, columns, cut, padded, paint, shown};
use anstyle::Style;
use tidy_gate_core::catalogue::{Code, Level, entry};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::{Report, Total};

/// So many rows are named.
const MOST_ROWS: usize = 6;

/// The groups, in at most `room` lines (but never fewer than a few).
pub(super) fn lines(report: &Report, width: usize, room: usize) -> Vec<String> {
    // How the file is laid out stands above.
    let mut totals: Vec<&Total> = report
        .totals
        .iter()
        .filter(|total| !matches!(total.code, Code::LayoutGuessed | Code::FormGuessed))
        .collect();
    if totals.is_empty() {
        return Vec::new();
    }
    totals.sort_by_key(|total| (total.level, total.first.row.is_some(), std::cmp::Reverse(total.count)));
    let mut lines = part("Findings", "by code and field, what holds rows first").to_vec();
    let mut left = totals.as_slice();
    let widest =
        totals.iter().take(room.max(8) / 3).map(|total| total.code.name().len()).max().unwrap_or_default();
    // More than find room are not laid out: there may be one for each of thousands of columns.
    let shown = totals.iter().take(room.max(8));
    let groups: Vec<_> = shown.map(|total| group(report, total, width, widest.clamp(16, 21))).collect();
    // Air between the groups where there is room for it.
    let with_air = groups.len() == totals.len()
        && groups.iter().map(|group| group.len() + 1).sum::<usize>() + lines.len() <= room;
    if !with_air && !groups.is_empty() {
        lines.push(String::new());
    }
    let mut groups = groups.into_iter();
    while let (Some((_, rest)), Some(mut group)) = (left.split_first(), groups.next()) {
        if with_air {
            group.insert(0, String::new());
        }
        // Lines are kept for those that find no room.
        let needed = group.len() + if rest.is_empty() { 0 } else { 4 };
        if lines.len() + needed > room.max(8) {
            break;
        }
        lines.extend(group);
        left = rest;
    }
    lines.extend(unshown(left, width));
    lines
}

/// What found no room, in two lines.
fn unshown(totals: &[&Total], width: usize) -> Vec<String> {
    if totals.is_empty() {
        return Vec::new();
    }
    let count = totals.iter().map(|total| total.count).sum();
    let mut codes: Vec<_> = totals.iter().map(|total| total.code.name()).collect();
    codes.dedup();
    let head = format!(
        "and {} of {} more",
        counted(count, "finding", "findings"),
        counted(totals.len() as u64, "kind", "kinds")
    );
    let text = format!("{head}: {}", codes.join(", "));
    let mut lines = vec![String::new()];
    // Codes stay whole.
    let options =
        textwrap::Options::new(width.saturating_sub(4)).word_splitter(textwrap::WordSplitter::NoHyphenation);
    lines.extend(textwrap::wrap(&text, options).iter().map(|line| format!("   {line}")));
    if lines.len() > 4 {
        lines.truncate(4);
        let last = lines.pop().unwrap_or_default();
        lines.push(format!("{} …", last.trim_end_matches(',')));
    }
    lines
}

fn group(report: &Report, total: &Total, width: usize, code_width: usize) -> Vec<String> {
    let is_of_group = |finding: &&Finding| {
        finding.code == total.code
            && finding.level == total.level
            && finding.field == total.field
            && finding.rule == total.rule
            && (total.rule.is_some() || finding.fields == total.fields)
    };
    let examples: Vec<&Finding> = report.findings.iter().filter(is_of_group).collect();
    let mut lines = vec![headline(report, total, &examples, (width, code_width))];
    let indent = "         ";
    let width = width.saturating_sub(indent.len());
    let Some(example) = examples.first() else { return lines };
    let rows = places(report, total, &examples).map(|rows| cut(&rows, width));
    let mut texts = match sample(example, width) {
        Some(texts) => texts,
        None => textwrap::wrap(&sentence(example), width)
            .into_iter()
            .map(|line| (line.clone().into_owned(), columns(&line)))
            .collect(),
    };
    if total.words.len() > 1 {
        texts.push(words(total, width));
    }
    if let (Some((text, used)), Some(rows), true) = (texts.last_mut(), &rows, example.value.is_some())
        && *used + 4 + columns(rows) <= width.min(150)
    {
        text.push_str(&format!("    {}", paint(rows, FAINT)));
        lines.extend(texts.into_iter().map(|(text, _)| format!("{indent}{text}")));
        return lines;
    }
    lines.extend(texts.into_iter().map(|(text, _)| format!("{indent}{text}")));
    lines.extend(rows.map(|rows| format!("{indent}{}", paint(&rows, FAINT))));
    lines
}

/// The most frequent of several wrong words.
fn words(total: &Total, width: usize) -> (String, usize) {
    let words = total.words.iter().map(|word| format!("\"{}\" {}", shown(&word.value), grouped(word.count)));
    let text = cut(&format!("most frequent: {}", words.collect::<Vec<_>>().join(", ")), width);
    let used = columns(&text);
    (paint(&text, QUIET), used)
}

/// Level, code, field and column on the left, the count on the right.
fn headline(
    report: &Report,
    total: &Total,
    examples: &[&Finding],
    (width, code_width): (usize, usize),
) -> String {
    let level = match total.level {
        Level::Stop => " STOP ",
        Level::Warn => " WARN ",
        Level::Note => " NOTE ",
    };
    let column = total
        .field
        .as_ref()
        .and_then(|field| report.columns.iter().find(|c| c.field.as_ref() == Some(field)));
    // Fields by the headings of their columns.
    let named = |name: &String| {
        let column = report.columns.iter().find(|column| column.field.as_ref() == Some(name));
        match column {
            Some(column) if !column.heading.is_empty() => format!("{} ({})", column.heading, column.letter),
            Some(column) => format!("{name} ({})", column.letter),
            None => name.clone(),
        }
    };
    let several = |names: &[String]| cut(&names.iter().map(named).collect::<Vec<_>>().join(" + "), 60);
    let place = match (column, &total.field, examples) {
        (Some(column), _, _) => format!("{} (column {})", cut(&column.heading, 34), column.letter),
        (None, Some(field), _) => cut(field, 34),
        (None, None, _) if !total.fields.is_empty() => several(&total.fields),
        (None, None, [one]) => match (&one.letter, one.fields.as_slice()) {
            (Some(letter), _) => format!("column {letter}"),
            (None, []) => String::new(),
            (None, fields) => several(fields),
        },
        (None, None, [first, ..]) if !first.fields.is_empty() => several(&first.fields),
        _ => String::new(),
    };
    let count = if total.count == 1 { "once".to_owned() } else { format!("{} times", grouped(total.count)) };
    let code = padded(total.code.name(), code_width);
    let used = 3 + level.len() + columns(&code) + columns(&place) + 4;
    let gap = " ".repeat(width.min(110).saturating_sub(used + columns(&count)).max(2));
    format!(
        "  {} {}  {place}{gap}{}",
        paint(level, level_style(total.level)),
        paint(&code, HEAD),
        paint(&count, HEAD)
    )
}

/// The example as lines with their widths: the value, why, what was expected, what would fit; nothing when the finding
/// has no value. Values are cut where they must be, advice never.
fn sample(example: &Finding, width: usize) -> Option<Vec<(String, usize)>> {
    let value = example.value.as_deref()?;
    let value = if example.code == Code::RowWidth {
        value.to_owned()
    } else if value.is_empty() {
        "blank".to_owned()
    } else {
        format!("\"{}\"", cut(value, width * 2 / 3))
    };
    let expected = example.expected.as_deref().map(|expected| format!("expected {}", shown(expected)));
    let more = example.bare_message();
    let more = more.strip_prefix(entry(example.code).title).unwrap_or(more);
    let more = more.trim_start_matches([':', ' ']);
    // Where nothing else is said of the value, the title says it.
    let more = if more.is_empty() && expected.is_none() { entry(example.code).title } else { more };
    let near = example.suggestion.as_deref().map(|near| format!("nearest: {}", cut(near, width / 2)));
    let parts = [
        Some((value, VALUE)),
        Some((shown(more), Style::new())).filter(|part| !part.0.is_empty()),
        expected.map(|expected| (expected, Style::new())),
        near.map(|near| (near, QUIET)),
    ];
    let mut lines: Vec<(String, usize)> = Vec::new();
    for (text, style) in parts.into_iter().flatten() {
        let wide = columns(&text);
        match lines.last_mut() {
            Some((line, used)) if *used + 2 + wide <= width => {
                line.push_str(&format!("  {}", paint(&text, style)));
                *used += 2 + wide;
            }
            _ => lines.extend(textwrap::wrap(&text, width).into_iter().map(|part| {
                let wide = columns(&part);
                (paint(&part, style), wide)
            })),
        }
    }
    Some(lines)
}

/// The finding as a sentence, for those without a value.
fn sentence(example: &Finding) -> String {
    let heading = example.heading.as_deref().filter(|heading| !heading.is_empty() && example.field.is_none());
    let heading = heading.map(|heading| format!("\"{}\": ", cut(heading, 30))).unwrap_or_default();
    let near = example.suggestion.as_deref().map(|near| format!("; perhaps {near}")).unwrap_or_default();
    shown(&format!("{heading}{}{near}", example.message))
}

/// Where the findings stand: the first rows, or the columns whose headings they speak of.
fn places(report: &Report, total: &Total, examples: &[&Finding]) -> Option<String> {
    let first = total.first.row?;
    let is_of_headings = report.file.heading_row == Some(first)
        && examples.iter().all(|finding| finding.row == Some(first) && finding.letter.is_some());
    let (one, several) = if is_of_headings { ("column", "columns") } else { ("row", "rows") };
    let place = |finding: &&Finding| {
        if is_of_headings {
            return finding.letter.clone();
        }
        let row = finding.row?;
        Some(match finding.row_last {
            Some(last) => format!("{row} to {last}"),
            None => row.to_string(),
        })
    };
    let mut places: Vec<_> = examples.iter().filter_map(place).take(MOST_ROWS).collect();
    places.dedup();
    let all = if is_of_headings { total.count } else { total.rows.max(places.len() as u64) };
    let hidden = all.saturating_sub(places.len() as u64);
    let is_run = examples.first().is_some_and(|finding| finding.row_last.is_some());
    let hidden = if is_run { total.count.saturating_sub(places.len() as u64) } else { hidden };
    let name = if places.len() == 1 && hidden == 0 && !is_run { one } else { several };
    let more = if hidden > 0 { format!(" and {} more", grouped(hidden)) } else { String::new() };
    Some(format!("{name} {}{more}", places.join(", ")))
}
