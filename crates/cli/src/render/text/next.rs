//! The next steps, drawn.

use super::words::{part, typed};
use crate::render::story::Story;
use crate::terminal::{columns, shown};

pub(super) fn lines(story: &Story, width: usize) -> Vec<String> {
    let mut lines = part("Next", "").to_vec();
    let wrapped = |text: &str| -> Vec<String> {
        textwrap::wrap(text, width.saturating_sub(3)).iter().map(|line| format!("   {line}")).collect()
    };
    for (number, path) in story.written.iter().enumerate() {
        lines.extend(wrapped(&format!("{} {path}", if number == 0 { "Written:" } else { "        " })));
    }
    for step in &story.next {
        lines.extend(wrapped(&step.text));
        lines.extend(step.command.iter().flat_map(|command| command_lines(&shown(command), width)));
    }
    lines
}

/// A command that can be typed or copied as it stands: where it is too long for a line, it goes on behind a
/// backslash, as shells take it; no word is cut.
pub(crate) fn command_lines(command: &str, width: usize) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in command.split(" --") {
        let word = if lines.is_empty() { word.to_owned() } else { format!("--{word}") };
        match lines.last_mut() {
            // Room is kept for the indent and for the backslash.
            Some(line) if columns(line) + columns(&word) + 8 <= width => line.push_str(&format!(" {word}")),
            Some(line) => {
                line.push_str(" \\");
                lines.push(format!("  {word}"));
            }
            None => lines.push(word),
        }
    }
    lines.iter().map(|line| format!("     {}", typed(line))).collect()
}
