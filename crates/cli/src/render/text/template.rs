//! What a template came to.

use super::next::command_lines;
use super::words::part;
use crate::args::TemplateArgs;
use crate::commands::template::mode_of;
use crate::render::words::{counted, program};
use crate::shell::{quoted, quoted_path};
use crate::terminal::{FAINT, HEAD, paint, shown};
use tidy_gate_core::mode::Mode;
use tidy_gate_core::template::{Need, Template};

/// Draws it for a width in columns.
pub(crate) fn summary(template: &Template, args: &TemplateArgs, width: usize) -> String {
    let count = |need| template.columns.iter().filter(|column| column.need == need).count() as u64;
    let mut about = vec![
        counted(template.columns.len() as u64, "column", "columns"),
        format!("{} required", count(Need::Required)),
    ];
    if count(Need::Advised) > 0 {
        about.push(format!("{} advised", count(Need::Advised)));
    }
    if !template.lists.is_empty() {
        about.push(counted(template.lists.len() as u64, "picklist", "picklists"));
    }
    if template.meant.is_some() {
        about.push(counted(template.rows.len() as u64, "record", "records"));
    }
    let path = args.output.display().to_string();
    let is_text = path.to_lowercase().ends_with(".csv");
    let version = if template.version.is_empty() { String::new() } else { format!(" {}", template.version) };
    let mut lines = vec![
        String::new(),
        format!(
            " {}  {}",
            paint(&shown(&template.label), HEAD),
            paint(&shown(&format!("{}{version}, {}", template.record, about.join(", "))), FAINT)
        ),
    ];
    let what = if template.meant.is_some() && !is_text {
        "Sheets: the records to be changed, their keys protected; the fields with their help; the picklists."
    } else if template.meant.is_some() {
        "The records to be changed: a text can carry neither help nor drop-downs, nor how it is to be checked."
    } else if is_text {
        "The headings alone: a text can carry neither help nor drop-downs, nor the version of the record schema."
    } else {
        "Sheets: the one to fill, the fields with their help, the picklists. Dark headings must be filled."
    };
    lines.extend(textwrap::wrap(what, width.saturating_sub(2)).iter().map(|line| format!(" {line}")));
    lines.extend(part("Next", ""));
    lines.push(format!("   Written: {}", shown(&path)));
    lines.push("   When it comes back filled:".to_owned());
    let record = quoted_path(&args.record);
    let mode = mode_of(args);
    // The sheet itself says how records that were there are to be checked.
    let is_told = template.meant.is_some() && !is_text;
    let mode = if mode == Mode::Add || is_told { String::new() } else { format!(" --mode {}", mode.name()) };
    let existing = args.existing.iter().map(|existing| format!(" --existing {}", quoted(existing)));
    let references = args.references.iter().map(|reference| format!(" --reference {}", quoted(reference)));
    let more: String = existing.chain(references).collect();
    let command = format!("{} check {} --record {record}{mode}{more}", program(), quoted(&path));
    lines.extend(command_lines(&shown(&command), width));
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}
