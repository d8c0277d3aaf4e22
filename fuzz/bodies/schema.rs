//! Any text as a record schema: read, or refused with faults that lie within it.

use tidy_gate_core::schema::{NoLists, RecordSchema};

pub(crate) fn run(data: &[u8]) {
    let Ok(text) = std::str::from_utf8(data) else { return };
    if let Err(faults) = RecordSchema::read(text, &mut NoLists) {
        assert!(!faults.is_empty());
        assert!(
            faults
                .iter()
                .all(|fault| fault.span.end <= text.len() && text.is_char_boundary(fault.span.start))
        );
    }
}
