//! Ready rows made of rows as they came: copied in runs, but for the cells that change.

use super::rows::record;
use tidy_gate_core::gate::{OwnForms, ReadyField, RowView};

/// Ready rows of a block on their way.
pub(crate) struct CopiedRows<'b> {
    block: &'b [u8],
    delimiter: u8,
    made: Vec<u8>,
    /// What of the block is still to be copied: where it starts, and where it ends.
    waiting: (usize, usize),
}

impl<'b> CopiedRows<'b> {
    /// None yet, of this block.
    pub(crate) fn of(block: &'b [u8], delimiter: u8) -> Self {
        Self { block, delimiter, made: Vec::with_capacity(block.len()), waiting: (0, 0) }
    }

    /// Adds a row.
    pub(crate) fn row<'a>(&mut self, row: &RowView<'a>, forms: &mut OwnForms, fields: &'a [ReadyField]) {
        let (start, end) = (row.start, row.start + row.raw.len());
        if self.waiting.1 != start {
            self.copy();
            self.waiting = (start, start);
        }
        let Self { block, made, waiting, delimiter } = self;
        let render = |value: &[u8]| rendered(value, *delimiter);
        let is_copied = row.each_change(forms, (fields, &render), |from, to, becomes| {
            made.extend_from_slice(block.get(waiting.0..from).unwrap_or_default());
            made.extend_from_slice(becomes);
            waiting.0 = to;
        });
        if is_copied && block.get(end) == Some(&b'\n') {
            waiting.1 = end + 1;
            return;
        }
        if is_copied {
            // A line break of two bytes becomes one.
            waiting.1 = end;
            self.copy();
            self.made.push(b'\n');
        } else {
            self.copy();
            let values = fields.iter().map(|field| row.value(field));
            self.made.extend(record(values, self.delimiter, b"\n"));
        }
        self.waiting = (usize::MAX, usize::MAX);
    }

    fn copy(&mut self) {
        self.made.extend_from_slice(self.block.get(self.waiting.0..self.waiting.1).unwrap_or_default());
        self.waiting.0 = self.waiting.1;
    }

    /// All of them.
    pub(crate) fn done(mut self) -> Vec<u8> {
        self.copy();
        self.made
    }
}

/// A value as a cell of several.
fn rendered(value: &[u8], delimiter: u8) -> Vec<u8> {
    if value.is_empty() { Vec::new() } else { record([value], delimiter, b"") }
}
