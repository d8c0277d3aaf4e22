//! The findings by code and field, drawn.

use super::words::{level_style, part};
use crate::render::story::{Cell, Group, Sample};
use crate::render::words::counted;
use crate::terminal::{FAINT, HEAD, QUIET, VALUE, columns, cut, padded, paint, shown};
use anstyle::Style;
use tidy_gate_core::catalogue::Level;
use tidy_gate_core::numerals::grouped;

/// The groups, in at most `room` lines (but never fewer than a few).
pub(super) fn lines(all: &[Group<'_>], (width, room): (usize, usize), has_causes: bool) -> Vec<String> {
    if all.is_empty() {
        return Vec::new();
    }
    let aside = match has_causes {
        true => "that no cause explains, by code and field",
        false => "by code and field, what holds rows first",
    };
    let mut lines = part("Findings", aside).to_vec();
    let mut left = all;
    let widest =
        all.iter().take(room.max(8) / 3).map(|group| group.code.name().len()).max().unwrap_or_default();
    // More than find room are not laid out: there may be one for each of thousands of columns.
    let shown = all.iter().take(room.max(8));
    let groups: Vec<_> = shown.map(|told| group(told, width, widest.clamp(16, 21))).collect();
    // Air between the groups where there is room for it.
    let with_air = groups.len() == all.len()
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
fn unshown(groups: &[Group<'_>], width: usize) -> Vec<String> {
    if groups.is_empty() {
        return Vec::new();
    }
    let count = groups.iter().map(|group| group.count).sum();
    let mut codes: Vec<_> = groups.iter().map(|group| group.code.name()).collect();
    codes.dedup();
    let head = format!(
        "and {} of {} more",
        counted(count, "finding", "findings"),
        counted(groups.len() as u64, "kind", "kinds")
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

fn group(group: &Group<'_>, width: usize, code_width: usize) -> Vec<String> {
    let mut lines = vec![headline(group, width, code_width)];
    let indent = "         ";
    let width = width.saturating_sub(indent.len());
    let rows = group.places.as_ref().map(|rows| cut(rows, width));
    let mut texts = match (&group.sample, &group.sentence) {
        (Some(sample), _) => laid_out(sample, width),
        (None, Some(sentence)) => textwrap::wrap(sentence, width)
            .into_iter()
            .map(|line| (line.clone().into_owned(), columns(&line)))
            .collect(),
        (None, None) => return lines,
    };
    if !group.words.is_empty() {
        texts.push(words(group, width));
    }
    if let (Some((text, used)), Some(rows), true) = (texts.last_mut(), &rows, group.sample.is_some())
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
fn words(group: &Group<'_>, width: usize) -> (String, usize) {
    let words = group.words.iter().map(|word| format!("\"{}\" {}", shown(&word.value), grouped(word.count)));
    let text = cut(&format!("most frequent: {}", words.collect::<Vec<_>>().join(", ")), width);
    let used = columns(&text);
    (paint(&text, QUIET), used)
}

/// Level, code, field and column on the left, the count on the right.
fn headline(group: &Group<'_>, width: usize, code_width: usize) -> String {
    let level = match group.level {
        Level::Stop => " STOP ",
        Level::Warn => " WARN ",
        Level::Note => " NOTE ",
    };
    let count = if group.count == 1 { "once".to_owned() } else { format!("{} times", grouped(group.count)) };
    let code = padded(group.code.name(), code_width);
    let place = &group.place;
    let used = 3 + level.len() + columns(&code) + columns(place) + 4;
    let gap = " ".repeat(width.min(110).saturating_sub(used + columns(&count)).max(2));
    format!(
        "  {} {}  {place}{gap}{}",
        paint(level, level_style(group.level)),
        paint(&code, HEAD),
        paint(&count, HEAD)
    )
}

/// The example as lines with their widths. Values are cut where they must be, advice never.
fn laid_out(sample: &Sample, width: usize) -> Vec<(String, usize)> {
    let value = match &sample.cell {
        Cell::Blank => "blank".to_owned(),
        Cell::Text(text) => format!("\"{}\"", cut(text, width * 2 / 3)),
        Cell::Said(text) => text.clone(),
    };
    let expected = sample.expected.as_deref().map(|expected| format!("expected {expected}"));
    let near = sample.near.as_deref().map(|near| format!("nearest: {}", cut(near, width / 2)));
    let parts = [
        Some((value, VALUE)),
        Some((sample.more.clone(), Style::new())).filter(|part| !part.0.is_empty()),
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
    lines
}
