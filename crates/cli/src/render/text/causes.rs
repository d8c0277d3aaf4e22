//! The causes, drawn.

use super::words::{part, typed};
use crate::render::story::CauseTold;
use crate::terminal::{CARE, FAINT, HEAD, QUIET, columns, cut, paint};

/// So many causes are named beyond them.
const MOST_NAMED: usize = 8;

/// The causes, each with its remedy, in so many lines; of those that find no room what they are alone.
pub(super) fn lines(causes: &[CauseTold], aside: &str, (width, room): (usize, usize)) -> Vec<String> {
    if causes.is_empty() {
        return Vec::new();
    }
    let mut lines = part("Causes", aside).to_vec();
    let mut rest = causes;
    while let Some((cause, others)) = rest.split_first() {
        let drawn = one(cause, width);
        let named = others.len().min(MOST_NAMED + 1);
        if lines.len() + drawn.len() + named + 1 > room && rest.len() < causes.len() {
            break;
        }
        lines.push(String::new());
        lines.extend(drawn);
        rest = others;
    }
    if !rest.is_empty() {
        lines.push(String::new());
    }
    lines.extend(rest.iter().take(MOST_NAMED).map(|cause| headline(cause, width)));
    if let Some(more) = rest.len().checked_sub(MOST_NAMED).filter(|more| *more > 0) {
        lines.push(format!("   {}", paint(&format!("and {more} more; --format json has all"), FAINT)));
    }
    lines
}

fn headline(cause: &CauseTold, width: usize) -> String {
    let fields = match cause.fields.is_empty() {
        true => String::new(),
        false => format!("  {}", cut(&cause.fields, 34)),
    };
    let used = 3 + columns(cause.code) + columns(&fields);
    let gap = " ".repeat(width.min(110).saturating_sub(used + columns(&cause.reach) + 2).max(2));
    format!("   {}{}{gap}{}", paint(cause.code, CARE), paint(&fields, FAINT), paint(&cause.reach, HEAD))
}

fn one(cause: &CauseTold, width: usize) -> Vec<String> {
    let indent = "         ";
    let room = width.min(150).saturating_sub(indent.len());
    let mut lines = vec![headline(cause, width)];
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
