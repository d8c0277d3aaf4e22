//! Whether ready rows have arrived, in a walk over the file in which they were handed over.

use crate::error::Error;
use crate::plain_list;
use crate::row_output::RowOutput;
use crate::second_walk::second_walk;
use crate::table_file::TableFile;
use tidy_gate_core::gate::Gate;
use tidy_gate_core::mode::Mode;
use tidy_gate_core::reconcile::{Reconciled, Reconciling};
use tidy_gate_core::run::{Outcome, Watch};

/// The headings of the list of what did not arrive.
const HEADINGS: [&str; 6] = ["row", "key", "what", "field", "wanted", "found"];

/// Holds every row that was handed over in a mode against the records that are known, and lists what did not arrive where
/// that is wanted; nothing where no such records are known.
///
/// # Errors
/// When the file cannot be read again, or the list cannot be written.
pub fn reconcile(
    file: &TableFile,
    (gate, mode): (&Gate, Mode),
    outcome: &Outcome,
    (threads, watch): (usize, &dyn Watch),
    list: &mut Option<RowOutput>,
) -> Result<Option<Reconciled>, Error> {
    let Some(reconciling) = Reconciling::of(gate, mode) else { return Ok(None) };
    if let Some(list) = list.as_mut() {
        plain_list::begin(list, "Not arrived", HEADINGS.map(str::to_owned).to_vec())?;
    }
    let mut sum = reconciling.none_yet();
    second_walk(
        file,
        (gate, outcome),
        (threads, watch),
        |rows, block, _| {
            rows.read(block);
            rows.rows(block).map(|row| reconciling.row(&row)).collect::<Vec<_>>()
        },
        |rows| {
            for row in rows {
                for one in sum.add(row) {
                    let Some(list) = list.as_mut() else { continue };
                    let what = if one.field.is_empty() { "missing" } else { "different" };
                    let (wanted, found) = (one.wanted.unwrap_or_default(), one.found.unwrap_or_default());
                    let cells = [one.row.to_string(), one.key, what.to_owned(), one.field, wanted, found];
                    plain_list::write(list, cells.into_iter())?;
                }
            }
            Ok(())
        },
    )?;
    Ok(Some(sum))
}
