//! What a draft came to.

use super::words::part;
use crate::render::words::{counted, program};
use crate::shell::quoted_path;
use crate::terminal::{CARE, FAINT, HEAD, paint, shown};
use std::path::PathBuf;
use tidy_gate_core::draft::Draft;

/// What begins a remark that asks for a look.
const LOOK: &str = "LOOK: ";
/// So many lines of what was not understood.
const MOST: usize = 12;

/// Draws it for a width in columns.
pub(crate) fn summary(draft: &Draft, written: &[PathBuf], width: usize) -> String {
    let key = match draft.key.as_slice() {
        [] => "no key yet".to_owned(),
        key => format!("key {}", key.join(", ")),
    };
    let further = |count: usize, one: &str, several: &str| match count as u64 {
        0 => String::new(),
        count => format!(", {}", counted(count, one, several)),
    };
    let lists = further(draft.picklists.len(), "picklist", "picklists");
    let rules = further(draft.rules.len(), "rule", "rules");
    let mut lines = vec![
        String::new(),
        format!(
            " {}  {}",
            paint(&shown(&draft.record), HEAD),
            shown(&format!("{}{lists}{rules}, {key}", counted(draft.fields.len() as u64, "field", "fields")))
        ),
    ];
    let look = |remark: &'_ String| remark.strip_prefix(LOOK).map(ToOwned::to_owned);
    for line in draft.remarks.iter().chain(&draft.key_remarks).filter(|line| look(line).is_none()) {
        let line = shown(line);
        let wrapped = textwrap::wrap(&line, width.saturating_sub(1)).into_iter();
        lines.extend(wrapped.map(|line| format!(" {}", paint(&line, FAINT))));
    }
    let of_key = draft.key_remarks.iter().filter_map(look).map(|look| format!("the key: {look}"));
    let of_fields = draft.fields.iter().flat_map(|field| {
        field.remarks.iter().filter_map(look).map(|look| format!("{}: {look}", field.name))
    });
    let to_look_at: Vec<String> = of_key.chain(of_fields).collect();
    for (title, all) in [("To look at", &to_look_at), ("Not understood", &draft.not_understood)] {
        if all.is_empty() {
            continue;
        }
        lines.extend(part(title, ""));
        for line in all.iter().take(MOST) {
            for (number, line) in textwrap::wrap(&shown(line), width.saturating_sub(5)).iter().enumerate() {
                lines.push(format!("   {}{}", if number == 0 { "" } else { "  " }, paint(line, CARE)));
            }
        }
        if all.len() > MOST {
            let more = format!("and {} more, all in the draft", all.len() - MOST);
            lines.push(format!("   {}", paint(&more, FAINT)));
        }
    }
    lines.extend(part("Next", ""));
    for path in written {
        lines.push(format!("   Written: {}", shown(&path.display().to_string())));
    }
    lines.push("   Read it through: each field stands with its evidence. Then list its fields:".to_owned());
    if let Some(path) = written.first() {
        let command = format!("{} fields {}", program(), quoted_path(path));
        lines.extend(super::next::command_lines(&shown(&command), width));
    }
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}
