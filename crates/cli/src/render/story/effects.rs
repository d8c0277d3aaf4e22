//! What loading would do, in words.

use crate::render::words::counted;
use tidy_gate_core::effects::Effects;
use tidy_gate_core::numerals::grouped;

/// The effects in one line.
pub(crate) fn in_one_line(effects: &Effects) -> String {
    let records = &effects.records;
    let mut parts = vec![
        format!("adds {}", grouped(records.added)),
        format!("changes {}", grouped(records.changed)),
        format!("leaves {}", grouped(records.unchanged)),
    ];
    if effects.emptied() > 0 {
        parts.push(format!("empties {}", counted(effects.emptied(), "value", "values")));
    }
    parts.join(", ")
}
