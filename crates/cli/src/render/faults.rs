//! The faults of a record schema, each with its source line and the place marked.

use crate::terminal::cut;
use annotate_snippets::{AnnotationKind, Group, Level, Renderer, Snippet};
use std::io::IsTerminal;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::schema::Fault;

/// So many faults are drawn.
const MOST: usize = 100;

/// Draws the faults.
pub(crate) fn draw(path: &str, source: &str, faults: &[Fault]) -> String {
    let plain = anstream::AutoStream::choice(&std::io::stderr()) == anstream::ColorChoice::Never;
    let renderer =
        if plain || !std::io::stderr().is_terminal() { Renderer::plain() } else { Renderer::styled() };
    let renderer = renderer.term_width(crate::terminal::width());
    let mut drawn: Vec<String> =
        faults.iter().take(MOST).map(|fault| renderer.render(&[group(path, source, fault)])).collect();
    let count = match faults.len() {
        1 => "1 fault".to_owned(),
        n if n > MOST => format!("{} faults, of which the first {MOST} are shown,", grouped(n as u64)),
        n => format!("{n} faults"),
    };
    drawn.push(format!("{count} in {path}; nothing was checked"));
    drawn.join("\n\n")
}

fn group<'a>(path: &'a str, source: &'a str, fault: &'a Fault) -> Group<'a> {
    let place = Place::of(source, fault);
    let primary = AnnotationKind::Primary.span(place.mark);
    let primary = match (&fault.label, place.column) {
        (Some(label), None) => primary.label(label.as_str()),
        (label, Some(column)) => {
            let label = label.as_deref().unwrap_or("here");
            primary.label(format!("{label} (character {} of the line)", grouped(column as u64)))
        }
        (None, None) => primary,
    };
    let snippet = Snippet::source(place.text).line_start(place.line).path(path).annotation(primary);
    let group = Level::ERROR.primary_title(cut(&fault.message, LONGEST)).element(snippet);
    match &fault.help {
        Some(help) => group.element(Level::HELP.message(cut(help, LONGEST))),
        None => group,
    }
}

/// So much of a sentence is shown, which may quote a word of any length.
const LONGEST: usize = 600;

/// What is shown of a source: the line that is marked, or a part of a long one.
struct Place<'a> {
    text: &'a str,
    /// The number of the line, from 1.
    line: usize,
    /// The bytes of the text to mark: at least one character.
    mark: std::ops::Range<usize>,
    /// The character at which the mark begins, where the line is not shown from its start.
    column: Option<usize>,
}

/// So much of a line is shown before and behind a mark.
const AROUND: usize = 400;

impl<'a> Place<'a> {
    fn of(source: &'a str, fault: &Fault) -> Self {
        // Whole characters: a place may lie within one.
        let start = source.floor_char_boundary(fault.span.start);
        let before = source.get(..start).unwrap_or_default();
        let begin = before.rfind('\n').map_or(0, |at| at + 1);
        let rest = source.get(start..).unwrap_or_default();
        let line_end = start + rest.find('\n').unwrap_or(rest.len());
        let end = source.ceil_char_boundary(fault.span.end).clamp(start, line_end);
        let end = if end > start { end } else { source.ceil_char_boundary(start + 1).min(source.len()) };
        let from =
            if start - begin > 4 * AROUND { source.floor_char_boundary(start - AROUND) } else { begin };
        let to = source.ceil_char_boundary(line_end.min(start + AROUND)).max(end.min(start + AROUND));
        let to = source.ceil_char_boundary(to);
        let line = source.get(begin..start).unwrap_or_default();
        Self {
            text: source.get(from..to).unwrap_or_default(),
            line: before.bytes().filter(|byte| *byte == b'\n').count() + 1,
            mark: start - from..end.min(to) - from,
            column: (from > begin).then(|| line.chars().count() + 1),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn any_place_of_any_text_can_be_marked() {
        let long = format!("a = 1\nvalues = [{}]\nb = 2\n", "\"é\", ".repeat(2_000));
        for source in ["", "a", "é", "record = \"t\"é\n日本 = 1\n\n", &long] {
            for start in (0..source.len() + 3).step_by(if source.len() > 100 { 37 } else { 1 }) {
                for length in [0, 1, 2, 5, 100, 5_000] {
                    let fault = Fault::new(start..start + length, "wrong").label("this");
                    let place = Place::of(source, &fault);
                    assert!(place.text.get(place.mark.clone()).is_some(), "{start} {length} {source:?}");
                    assert!(place.text.trim_end_matches('\n').lines().count() <= 1, "{start} {length}");
                    let drawn = draw("r.record.toml", source, &[fault]);
                    assert!(drawn.contains("wrong") && drawn.len() < 3_000, "{drawn}");
                }
            }
        }
        let place = Place::of(&long, &Fault::new(9_000..9_003, ""));
        assert_eq!((place.line, place.column.is_some(), place.text.len() < 900), (2, true, true));
    }

    #[test]
    fn very_many_faults_are_counted_and_the_first_are_drawn() {
        let faults: Vec<Fault> = (0..250).map(|at| Fault::new(at..at + 1, format!("fault {at}."))).collect();
        let drawn = draw("r.record.toml", &"x".repeat(300), &faults);
        assert!(drawn.contains("fault 99.") && !drawn.contains("fault 100."), "{drawn}");
        assert!(drawn.ends_with(
            "250 faults, of which the first 100 are shown, in r.record.toml; nothing was checked"
        ));
    }
}
