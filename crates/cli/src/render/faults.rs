//! The faults of a record schema, each with its source line and the place marked.

use annotate_snippets::{AnnotationKind, Group, Level, Renderer, Snippet};
use std::io::IsTerminal;
use tidy_gate_core::schema::Fault;

/// Draws all faults.
pub(crate) fn draw(path: &str, source: &str, faults: &[Fault]) -> String {
    let plain = anstream::AutoStream::choice(&std::io::stderr()) == anstream::ColorChoice::Never;
    let renderer =
        if plain || !std::io::stderr().is_terminal() { Renderer::plain() } else { Renderer::styled() };
    let renderer = renderer.term_width(crate::terminal::width());
    let mut drawn: Vec<String> =
        faults.iter().map(|fault| renderer.render(&[group(path, source, fault)])).collect();
    let count = match faults.len() {
        1 => "1 fault".to_owned(),
        n => format!("{n} faults"),
    };
    drawn.push(format!("{count} in {path}; nothing was checked"));
    drawn.join("\n\n")
}

fn group<'a>(path: &'a str, source: &'a str, fault: &'a Fault) -> Group<'a> {
    let primary = AnnotationKind::Primary.span(mark(source, fault));
    let primary = match &fault.label {
        Some(label) => primary.label(label.as_str()),
        None => primary,
    };
    let snippet = Snippet::source(source).path(path).annotation(primary);
    let group = Level::ERROR.primary_title(fault.message.as_str()).element(snippet);
    match &fault.help {
        Some(help) => group.element(Level::HELP.message(help.as_str())),
        None => group,
    }
}

/// The place to mark: one line of it, and at least one character.
fn mark(source: &str, fault: &Fault) -> std::ops::Range<usize> {
    let start = fault.span.start.min(source.len());
    let marked = source.get(start..fault.span.end.min(source.len())).unwrap_or_default();
    let end = start + marked.find('\n').unwrap_or(marked.len());
    if end > start { start..end } else { start..(start + 1).min(source.len()) }
}
