//! Which columns were taken for which fields, drawn.

use super::words::part;
use crate::render::story::{Columns, OtherColumn, PairedColumn};
use crate::render::words::counted;
use crate::terminal::{CARE, FAINT, cut, paint};

/// The most lines for paired columns, and for the others.
const MOST_PAIRED: usize = 7;
const MOST_OTHERS: usize = 8;

pub(super) fn lines(columns: &Columns, width: usize) -> Vec<String> {
    let Columns { counts, paired, others } = columns;
    if paired.is_empty() && others.is_empty() {
        return Vec::new();
    }
    let mut lines = part("Columns", counts).to_vec();
    lines.extend(flowing(paired, width));
    let hidden = others.len().saturating_sub(MOST_OTHERS);
    lines.extend(others.iter().take(MOST_OTHERS).map(|column| other(column, width)));
    if hidden > 0 {
        let hidden = counted(hidden as u64, "column", "columns");
        lines.push(format!("   {}", paint(&format!("and {hidden} more without a field"), FAINT)));
    }
    lines
}

/// The paired columns one behind the other: letter, heading, and the field where it is not plain from it.
fn flowing(paired: &[PairedColumn], width: usize) -> Vec<String> {
    // Spaces that must not break are put back at the end.
    let item = |column: &PairedColumn| {
        let heading = cut(&column.heading, 28);
        let text = match &column.field {
            None => heading,
            Some(field) => format!("{heading} → {}", cut(field, 28)),
        };
        format!("{} {text}", column.letter).replace(' ', "\u{A0}")
    };
    let items: Vec<_> = paired.iter().map(item).collect();
    let options = textwrap::Options::new(width).initial_indent("   ").subsequent_indent("   ");
    let options = options.word_separator(textwrap::WordSeparator::AsciiSpace);
    // The dot stays with what stands before it.
    let joined = items.join("\u{A0}· ");
    let wrapped = textwrap::wrap(&joined, options);
    let shown = if wrapped.len() > MOST_PAIRED { MOST_PAIRED - 1 } else { wrapped.len() };
    let mut lines: Vec<String> = wrapped.iter().take(shown).map(|line| line.replace('\u{A0}', " ")).collect();
    if shown < wrapped.len() {
        let seen = wrapped.iter().take(shown).map(|line| line.matches(" · ").count() + 1).sum::<usize>();
        let rest = counted(paired.len().saturating_sub(seen) as u64, "column", "columns");
        lines.push(format!("   {}", paint(&format!("and {rest} more"), FAINT)));
    }
    lines
}

fn other(column: &OtherColumn, width: usize) -> String {
    let heading = column.heading.as_deref().map(|heading| cut(heading, 30));
    if column.is_chosen {
        return format!(
            "   {} {}  {}",
            column.letter,
            heading.unwrap_or_default(),
            paint(&column.why, FAINT)
        );
    }
    let heading = heading.map_or_else(|| "(no heading)".to_owned(), |heading| format!("\"{heading}\""));
    let rest = cut(&column.why, width.saturating_sub(8 + heading.chars().count()));
    format!("   {} {}  {rest}", column.letter, paint(&heading, CARE))
}
