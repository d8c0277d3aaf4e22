//! How texts for the terminal are set.

use crate::terminal::{self, BAD, CARE, FAINT, GOOD, HEAD, QUIET, paint};
use anstyle::Style;
use std::io::Write as _;
use tidy_gate_core::catalogue::Level;

/// The style of a level.
pub(crate) const fn level_style(level: Level) -> Style {
    match level {
        Level::Stop => BAD,
        Level::Warn => CARE,
        Level::Note => QUIET,
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
pub(super) fn part(title: &str, aside: &str) -> [String; 2] {
    let aside = if aside.is_empty() { String::new() } else { format!("  {}", paint(aside, FAINT)) };
    [String::new(), format!(" {}{aside}", paint(title, HEAD))]
}

/// Words that can be typed.
pub(super) fn typed(words: &str) -> String {
    paint(words, GOOD)
}
