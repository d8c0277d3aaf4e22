//! What the ready rows would change, in a walk over the file when the verdict on every row is known.

use crate::error::Error;
use crate::row_output::{Begin, CellKind, RowOutput, Rows, record};
use crate::table_file::TableFile;
use std::sync::atomic::{AtomicUsize, Ordering};
use tidy_gate_core::block::Block;
use tidy_gate_core::effects::{Comparing, Effects, EffectsSum, RowEffect};
use tidy_gate_core::finding::MASK;
use tidy_gate_core::gate::{Gate, RowsOf};
use tidy_gate_core::letters::harmless;
use tidy_gate_core::order::in_order;
use tidy_gate_core::run::{BlockSource, Outcome};

/// The headings of the list of changed cells, beside the key's own.
const HEADINGS: [&str; 4] = ["field", "old", "new", "row"];

/// Sums up what the ready rows would do to the records that are there, and lists each changed cell where that is wanted;
/// nothing where no such records are known.
///
/// # Errors
/// When the file cannot be read again, or the list cannot be written.
pub fn effects(
    file: &TableFile,
    gate: &Gate,
    outcome: &Outcome,
    threads: usize,
    list: &mut Option<RowOutput>,
) -> Result<Option<Effects>, Error> {
    let Some(comparing) = Comparing::of(gate) else { return Ok(None) };
    let key: Vec<_> =
        gate.ready_fields().into_iter().filter(|ready| gate.schema().key.contains(&ready.field)).collect();
    if let Some(list) = list.as_mut() {
        begin(list, gate)?;
    }
    let mut sum = EffectsSum::new(gate, &comparing);
    let (counter, wants_keys) = (AtomicUsize::new(0), list.is_some());
    in_order(
        threads,
        || (RowsOf::new(gate, &outcome.state), Block::default(), 0),
        |(_, block, number)| {
            *number = counter.fetch_add(1, Ordering::Relaxed);
            let Some(extent) = outcome.extents.blocks().get(*number) else { return Ok(None) };
            file.again(extent, block)?;
            Ok(Some(*number as u64))
        },
        |(rows, block, number)| {
            rows.read(block);
            let is_ready = |row: u64| {
                let is_held = outcome.all_held || outcome.held.is_held(*number, row - block.first_row);
                !is_held && Some(row) != outcome.last_left_out
            };
            let ready = rows.rows(block).filter(|row| is_ready(row.row));
            let effect = |row: tidy_gate_core::gate::RowView<'_>| {
                let effect = comparing.row(&row);
                let is_listed =
                    wants_keys && matches!(&effect, RowEffect::Met { changes, .. } if !changes.is_empty());
                let text = |ready| String::from_utf8_lossy(&row.value(ready)).into_owned();
                let keys: Vec<String> = key.iter().filter(|_| is_listed).map(text).collect();
                (effect, keys)
            };
            ready.map(effect).collect::<Vec<_>>()
        },
        |effects| {
            for (effect, keys) in effects {
                if let (Some(list), RowEffect::Met { changes, .. }) = (list.as_mut(), &effect) {
                    for change in changes {
                        let field = gate.schema().fields.get(change.field);
                        let name = field.map(|field| field.name.clone()).unwrap_or_default();
                        let is_masked = field.is_some_and(|field| field.sensitive);
                        let shown = |value: &Option<String>| match value {
                            Some(_) if is_masked => MASK.to_owned(),
                            value => value.clone().unwrap_or_default(),
                        };
                        let own = [name, shown(&change.from), shown(&change.to), change.row.to_string()];
                        write(list, keys.iter().cloned().chain(own))?;
                    }
                }
                sum.add(effect);
            }
            Ok(())
        },
    )?;
    Ok(Some(sum.done(outcome.counts.held, outcome.counts.left_out)))
}

fn begin(list: &mut RowOutput, gate: &Gate) -> Result<(), Error> {
    let fields = gate.schema().key.iter().filter_map(|field| gate.schema().fields.get(*field));
    let names: Vec<String> =
        fields.map(|field| field.name.clone()).chain(HEADINGS.map(str::to_owned)).collect();
    list.begin(Begin {
        sheet: "Changes",
        marks: false,
        widths: &[16.0],
        keys: names.iter().map(|name| (name.clone(), CellKind::Text)).collect(),
        properties: Vec::new(),
        originals: None,
    })?;
    write(list, names.into_iter())
}

fn write(list: &mut RowOutput, cells: impl Iterator<Item = String>) -> Result<(), Error> {
    let mut row = list.no_rows();
    match &mut row {
        // A spreadsheet program would compute what looks like a formula.
        Rows::Text(text) => {
            text.extend(record(cells.map(|cell| harmless(&cell).into_owned()), b',', b"\r\n"));
        }
        Rows::Cells(rows) => {
            cells.for_each(|cell| rows.text(&cell));
            rows.end_row(0);
        }
    }
    list.write(&row)
}
