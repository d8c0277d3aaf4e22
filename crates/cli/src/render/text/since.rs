//! What became of an earlier round, drawn.

use super::words::part;
use crate::render::story::SinceTold;
use crate::terminal::{CARE, FAINT, columns, cut, padded, paint};
use tidy_gate_core::numerals::grouped;

/// So many groups of findings are shown.
const MOST_GROUPS: usize = 8;

pub(super) fn lines(since: Option<&SinceTold>, width: usize) -> Vec<String> {
    let Some(since) = since else { return Vec::new() };
    let mut lines = part("Since", &cut(&since.head, width.saturating_sub(10))).to_vec();
    let mut put = |name: &str, text: &str, style| {
        if text.is_empty() {
            return;
        }
        for (number, line) in textwrap::wrap(text, width.saturating_sub(15)).iter().enumerate() {
            let name = if number == 0 { name } else { "" };
            lines.push(format!("   {}  {line}", paint(&padded(name, 8), style)));
        }
    };
    for (number, changed) in since.changed.iter().enumerate() {
        put(if number == 0 { "Changed" } else { "" }, changed, CARE);
    }
    put("Held", &since.rows, FAINT);
    put("Findings", &since.findings, FAINT);
    put("New", &since.new, FAINT);
    for (number, cause) in since.causes.iter().enumerate() {
        put(if number == 0 { "Causes" } else { "" }, cause, FAINT);
    }
    lines.extend(groups(since, width));
    lines
}

/// A table by code and field.
fn groups(since: &SinceTold, width: usize) -> Vec<String> {
    let shown: Vec<_> = since.groups.iter().take(MOST_GROUPS).collect();
    let widest = |of: fn(&crate::render::story::GroupTold) -> &str, most: usize| {
        shown.iter().map(|group| columns(of(group))).max().unwrap_or_default().min(most)
    };
    let room = width.saturating_sub(3 + 3 * 10 + 2) / 2;
    let (code, what) = (widest(|group| &group.code, room), widest(|group| &group.what, room));
    if shown.is_empty() {
        return Vec::new();
    }
    let number = |count: u64| {
        let text = format!("{:>10}", grouped(count));
        if count == 0 { paint(&text, FAINT) } else { text }
    };
    let head = format!("   {}{:>10}{:>10}{:>10}", " ".repeat(code + 2 + what), "settled", "open", "new");
    let mut lines = vec![paint(&head, FAINT)];
    lines.extend(shown.iter().map(|group| {
        let (one, two) = (padded(&cut(&group.code, code), code), padded(&cut(&group.what, what), what));
        format!("   {one}  {two}{}{}{}", number(group.settled), number(group.open), number(group.new))
    }));
    let more = since.groups.len().saturating_sub(MOST_GROUPS);
    if more > 0 {
        lines.push(format!(
            "   {}",
            paint(&format!("and {more} kinds more; a report in JSON has all"), FAINT)
        ));
    }
    lines
}
