//! The causes, drawn.

use super::words::{part, typed};
use crate::render::story::CauseTold;
use crate::terminal::{CARE, FAINT, HEAD, QUIET, columns, paint};

/// The causes, each with its remedy.
pub(super) fn lines(causes: &[CauseTold], aside: &str, width: usize) -> Vec<String> {
    if causes.is_empty() {
        return Vec::new();
    }
    let mut lines = part("Causes", aside).to_vec();
    for cause in causes {
        lines.push(String::new());
        lines.extend(one(cause, width));
    }
    lines
}

fn one(cause: &CauseTold, width: usize) -> Vec<String> {
    let indent = "         ";
    let room = width.min(150).saturating_sub(indent.len());
    let used = 3 + columns(cause.code);
    let gap = " ".repeat(width.min(110).saturating_sub(used + columns(&cause.reach)).max(2));
    let mut lines = vec![format!("   {}{gap}{}", paint(cause.code, CARE), paint(&cause.reach, HEAD))];
    let mut put = |text: &str, style: Option<anstyle::Style>| {
        for line in textwrap::wrap(text, room) {
            lines.push(format!(
                "{indent}{}",
                style.map_or_else(|| line.to_string(), |style| paint(&line, style))
            ));
        }
    };
    let explanation = match cause.sample.is_empty() {
        true => format!("{}.", cause.explanation),
        false => format!("{}, {}.", cause.explanation, cause.sample),
    };
    put(&explanation, None);
    if !cause.words.is_empty() {
        put(&cause.words, Some(QUIET));
    }
    let label = format!("{:<7}", cause.place);
    let options = textwrap::Options::new(room).subsequent_indent("       ");
    for (number, line) in textwrap::wrap(&format!("{label}{}", cause.remedy), options).iter().enumerate() {
        let (head, rest) =
            line.split_at_checked(if number == 0 { label.len() } else { 0 }).unwrap_or(("", line));
        lines.push(format!("{indent}{}{rest}", paint(head, HEAD)));
    }
    for line in &cause.lines {
        lines.push(format!("{indent}         {}", typed(line)));
    }
    if cause.more_lines > 0 {
        let text = format!("and {} lines more; --format json has all", cause.more_lines);
        lines.push(format!("{indent}         {}", paint(&text, FAINT)));
    }
    lines
}
