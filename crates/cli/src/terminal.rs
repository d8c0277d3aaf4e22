//! What is known of the terminal, and text made safe for it.

use anstyle::{AnsiColor, Style};
use std::borrow::Cow;
use std::fmt::Write as _;
use tidy_gate_core::letters::is_odd;
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

/// For what is wrong.
pub(crate) const BAD: Style = AnsiColor::Red.on_default().bold();
/// For what deserves a look.
pub(crate) const CARE: Style = AnsiColor::Yellow.on_default().bold();
/// For what is well.
pub(crate) const GOOD: Style = AnsiColor::Green.on_default().bold();
/// For notes and for what can be typed.
pub(crate) const QUIET: Style = AnsiColor::Cyan.on_default();
/// For values as they stand in the file.
pub(crate) const VALUE: Style = AnsiColor::Yellow.on_default();
/// For headings.
pub(crate) const HEAD: Style = Style::new().bold();
/// For what may be passed over.
pub(crate) const FAINT: Style = Style::new().dimmed();
/// The verdict, shut and open: reversed, so that it stands out on light and dark alike.
pub(crate) const SHUT: Style = AnsiColor::Red.on_default().bold().invert();
pub(crate) const OPEN: Style = AnsiColor::Green.on_default().bold().invert();

/// The text in a style. Streams that show no colour strip it.
pub(crate) fn paint(text: &str, style: Style) -> String {
    format!("{style}{text}{style:#}")
}

/// The width to write for: that of the terminal, else `COLUMNS`, else 80.
pub(crate) fn width() -> usize {
    let terminal = terminal_size::terminal_size().map(|(width, _)| usize::from(width.0));
    let stated = || std::env::var("COLUMNS").ok().and_then(|columns| columns.parse().ok());
    terminal.or_else(stated).unwrap_or(80).clamp(40, 200)
}

/// Text from outside as it may be shown: line breaks and tabs as marks, other control characters, direction
/// marks and invisible characters as their code points.
pub(crate) fn shown(text: &str) -> String {
    let mut safe = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\n' => safe.push('⏎'),
            '\t' => safe.push('⇥'),
            '\r' => {}
            c if is_odd(c) => {
                // Writing to a string cannot fail.
                let _ = write!(safe, "<U+{:04X}>", u32::from(c));
            }
            c => safe.push(c),
        }
    }
    safe
}

/// A text that was made for the terminal, with whatever of it may command one as code points: what comes from outside is
/// shown by `shown`, and this is for what was forgotten. Line breaks, tabs and colours stay.
pub(crate) fn safe(text: &str) -> Cow<'_, str> {
    let may_command = |c: char| is_odd(c) && !matches!(c, '\n' | '\t');
    if !text.contains(may_command) {
        return Cow::Borrowed(text);
    }
    let mut safe = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(c) = rest.chars().next() {
        let length = if c == '\u{1b}' { colour(rest) } else { None };
        match length {
            Some(length) => safe.push_str(rest.get(..length).unwrap_or_default()),
            // Writing to a string cannot fail.
            None if may_command(c) => _ = write!(safe, "<U+{:04X}>", u32::from(c)),
            None => safe.push(c),
        }
        rest = rest.get(length.unwrap_or(c.len_utf8())..).unwrap_or_default();
    }
    Cow::Owned(safe)
}

/// The length of an order to change colours, with which the text begins (ECMA-48, SGR).
fn colour(text: &str) -> Option<usize> {
    let end = text.strip_prefix("\u{1b}[")?.find(|c: char| !(c.is_ascii_digit() || c == ';'))? + 2;
    text.get(end..)?.starts_with('m').then_some(end + 1)
}

/// How many columns the text takes.
pub(crate) fn columns(text: &str) -> usize {
    text.width()
}

/// The text, safe to show, cut to so many columns.
pub(crate) fn cut(text: &str, most: usize) -> String {
    let text = shown(text);
    if columns(&text) <= most {
        return text;
    }
    let (mut short, mut used) = (String::new(), 1);
    for c in text.chars() {
        used += c.width().unwrap_or(0);
        if used > most {
            break;
        }
        short.push(c);
    }
    short.push('…');
    short
}

/// The text filled up with spaces to so many columns.
pub(crate) fn padded(text: &str, width: usize) -> String {
    format!("{text}{}", " ".repeat(width.saturating_sub(columns(text))))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hostile_text_is_made_visible_and_cut_to_columns() {
        assert_eq!(shown("a\u{1b}[31mb\nc\u{202E}d\te"), "a<U+001B>[31mb⏎c<U+202E>d⇥e");
        assert_eq!(cut("Mill Lane", 6), "Mill …");
        assert_eq!(cut("東京都", 4), "東…");
        assert_eq!(padded("東", 4), "東  ");
    }
}
