//! What was mended, drawn.

use super::next::command_lines;
use super::words::part;
use crate::render::mended::Mended;
use crate::render::story::Context;
use crate::render::words::{are, counted};
use crate::terminal::{FAINT, HEAD, OPEN, SHUT, columns, cut, padded, paint, shown};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::report::Verdict;

/// Draws what was mended, and what is left, for a width in columns.
pub(crate) fn mended(told: &Mended, context: &Context, width: usize) -> String {
    let is_dry = told.output.is_none();
    let mut lines = gate_line(told, is_dry, width);
    lines.push(String::new());
    let fact = |name: &str, text: &str| format!("   {}  {text}", paint(&padded(name, 8), FAINT));
    lines.push(fact("File", &shown(&told.file)));
    lines.extend(told.output.iter().map(|output| fact("Copy", &shown(output))));
    if told.written_anew {
        let text = "written anew as XLSX, with the one sheet: formats, formulas and other sheets stay in the file alone";
        let room = width.saturating_sub(13).max(20);
        for (number, line) in textwrap::wrap(text, room).iter().enumerate() {
            lines.push(fact(if number == 0 { "Anew" } else { "" }, line));
        }
    }
    lines.extend(told.log.iter().map(|log| fact("Log", &shown(log))));
    if !told.mended.is_empty() {
        lines.extend(part("Mended", "by code and column"));
        let widest = told.mended.iter().map(|one| one.code.name().len()).max().unwrap_or_default();
        let names: Vec<String> = told
            .mended
            .iter()
            .map(|one| one.heading.as_deref().map_or_else(|| "rows".to_owned(), |heading| cut(heading, 40)))
            .collect();
        let second = names.iter().map(|name| columns(name)).max().unwrap_or_default();
        for (one, name) in told.mended.iter().zip(&names) {
            let count = grouped(one.count);
            lines.push(format!(
                "   {}  {}  {count:>9}",
                padded(one.code.name(), widest),
                padded(name, second)
            ));
        }
    }
    lines.extend(part("Next", ""));
    let mut step = |text: &str, command: String| {
        lines.extend(textwrap::wrap(text, width.saturating_sub(3)).iter().map(|line| format!("   {line}")));
        lines.extend(command_lines(&shown(&command), width));
    };
    let check = format!("{} check {}", context.program, context.arguments);
    match (is_dry, told.cells + told.rows) {
        (true, 0) => step("See what holds its rows:", check),
        (true, _) => {
            step(
                "Write the mended copy:",
                format!("{} mend {} -o mended{}", context.program, context.arguments, ending(&told.file)),
            );
        }
        (false, _) => step("Check the copy; what is left is for whoever knows:", check),
    }
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}

/// What was mended and what is left, in a sentence.
fn gate_line(told: &Mended, is_dry: bool, width: usize) -> Vec<String> {
    let (word, style) = match told.gate {
        Verdict::Open => (" GATE OPEN ", OPEN),
        Verdict::Shut => (" GATE SHUT ", SHUT),
    };
    let would = if is_dry { "would be " } else { "" };
    let cells = counted(told.cells, "cell", "cells");
    let rows = match told.rows {
        0 => String::new(),
        rows => format!(", {} taken out", counted(rows, "row", "rows")),
    };
    let left = match (told.gate, told.held) {
        (Verdict::Open, 0) => "nothing is left that holds a row".to_owned(),
        (_, held) => format!("{} {} held still", counted(held, "row", "rows"), are(held)),
    };
    let sentence = match told.cells + told.rows {
        0 => format!("Nothing can be mended without a guess; {left}."),
        _ => format!("{cells} {would}mended{rows}; {left}."),
    };
    let mut lines = vec![String::new()];
    for (number, line) in textwrap::wrap(&sentence, width.saturating_sub(14)).iter().enumerate() {
        let word = if number == 0 { paint(word, style) } else { " ".repeat(word.len()) };
        lines.push(format!(" {word}  {}", paint(line, HEAD)));
    }
    lines
}

/// The ending of a file's name, with its point.
fn ending(file: &str) -> String {
    let ending =
        std::path::Path::new(file).extension().map(|ending| format!(".{}", ending.to_string_lossy()));
    ending.unwrap_or_else(|| ".csv".to_owned())
}
