//! The marks of findings and rows: a second walk over the file, when the verdict on every row is known.

use crate::error::Error;
use crate::second_walk::second_walk;
use crate::table_file::TableFile;
use tidy_gate_core::gate::Gate;
use tidy_gate_core::rounds::{Gathered, Gatherer};
use tidy_gate_core::run::{Outcome, Watch};

/// Gathers the marks of a file that has been judged.
///
/// # Errors
/// When it cannot be read again.
pub fn gather(
    file: &TableFile,
    (gate, outcome): (&Gate, &Outcome),
    threads: usize,
    gatherer: &Gatherer<'_>,
    watch: &dyn Watch,
) -> Result<Gathered, Error> {
    let mut gathered = Gathered::default();
    second_walk(
        file,
        (gate, outcome),
        (threads, watch),
        |rows, block, number| gatherer.part(rows, block, number),
        |part| {
            gatherer.take(&mut gathered, part);
            Ok(())
        },
    )?;
    Ok(gathered)
}
