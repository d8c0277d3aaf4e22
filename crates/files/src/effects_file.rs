//! What the ready rows would change, in a walk over the file when the verdict on every row is known.

use crate::error::Error;
use crate::plain_list;
use crate::row_output::RowOutput;
use crate::second_walk::second_walk;
use crate::table_file::TableFile;
use tidy_gate_core::effects::{Comparing, Effects, EffectsSum, RowEffect};
use tidy_gate_core::finding::MASK;
use tidy_gate_core::gate::{Gate, ReadyField, RowView, key_parts};
use tidy_gate_core::run::{Outcome, Watch};

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
    (threads, watch): (usize, &dyn Watch),
    list: &mut Option<RowOutput>,
) -> Result<Option<Effects>, Error> {
    let Some(comparing) = Comparing::of(gate) else { return Ok(None) };
    // In the order in which the list names them.
    let carried = gate.ready_fields();
    let of_key = |field: &usize| carried.iter().find(|ready| ready.field == *field);
    let lines = gate.schema().lines.iter().flat_map(|lines| &lines.key);
    let key: Vec<_> = gate.schema().key.iter().chain(lines).filter_map(of_key).collect();
    let is_masked = |field: usize| gate.schema().fields.get(field).is_some_and(|field| field.sensitive);
    if let Some(list) = list.as_mut() {
        begin(list, gate, &key)?;
    }
    let mut sum = EffectsSum::new(gate, &comparing);
    let wants_keys = list.is_some();
    second_walk(
        file,
        (gate, outcome),
        (threads, watch),
        |rows, block, number| {
            rows.read(block);
            let is_ready = |row: u64| {
                let is_held = outcome.all_held || outcome.held.is_held(number, row - block.first_row);
                !is_held && !outcome.is_ending(row)
            };
            let ready = rows.rows(block).filter(|row| is_ready(row.row));
            let effect = |row: RowView<'_>| {
                let effect = comparing.row(&row);
                let is_listed =
                    wants_keys && matches!(&effect, RowEffect::Met { changes, .. } if !changes.is_empty());
                let text = |ready: &&ReadyField| match is_masked(ready.field) {
                    true => MASK.to_owned(),
                    false => String::from_utf8_lossy(&row.value(ready)).into_owned(),
                };
                let keys: Vec<String> = key.iter().filter(|_| is_listed).map(text).collect();
                (effect, keys)
            };
            ready.map(effect).collect::<Vec<_>>()
        },
        |effects| {
            for (effect, keys) in effects {
                if let (Some(list), RowEffect::Met { changes, .. }) = (list.as_mut(), &effect) {
                    for change in changes {
                        let name = name_of(gate, change.field);
                        let shown = |value: &Option<String>| match value {
                            Some(_) if is_masked(change.field) => MASK.to_owned(),
                            value => value.clone().unwrap_or_default(),
                        };
                        let own = [name, shown(&change.from), shown(&change.to), change.row.to_string()];
                        plain_list::write(list, keys.iter().cloned().chain(own))?;
                    }
                }
                sum.add(effect);
            }
            Ok(())
        },
    )?;
    Ok(Some(sum.done(outcome.counts.held, outcome.counts.left_out)))
}

/// Lists the keys of the records that are there and that the file does not speak of.
///
/// # Errors
/// When the list cannot be written.
pub fn missing(gate: &Gate, list: &mut RowOutput) -> Result<(), Error> {
    let key = &gate.schema().key;
    let names: Vec<String> = key.iter().map(|field| name_of(gate, *field)).collect();
    plain_list::begin(list, "Not mentioned", names)?;
    let existing = gate.settings().existing.as_deref();
    for bytes in existing.iter().flat_map(|existing| existing.unmentioned_keys()) {
        let parts = key_parts(bytes, key.len()).into_iter().zip(key);
        let is_masked = |field: usize| gate.schema().fields.get(field).is_some_and(|field| field.sensitive);
        plain_list::write(
            list,
            parts.map(|(part, field)| if is_masked(*field) { MASK.to_owned() } else { part }),
        )?;
    }
    Ok(())
}

fn name_of(gate: &Gate, field: usize) -> String {
    gate.schema().fields.get(field).map(|field| field.name.clone()).unwrap_or_default()
}

fn begin(list: &mut RowOutput, gate: &Gate, key: &[&ReadyField]) -> Result<(), Error> {
    let fields = key.iter().map(|ready| name_of(gate, ready.field));
    let names: Vec<String> = fields.chain(HEADINGS.map(str::to_owned)).collect();
    plain_list::begin(list, "Changes", names)
}
