//! How an output is begun.

use crate::interrupt;
use std::path::Path;
use tidy_gate_files::{Error, Output, Outputs};

/// Begins an output, where one is asked for; when the run is interrupted it is taken away.
pub(super) fn begin(
    outputs: &mut Outputs,
    path: Option<&Path>,
    what: &'static str,
    endings: &'static str,
) -> Result<Option<Output>, Error> {
    let output = path.map(|path| outputs.create(path, what, endings)).transpose()?;
    interrupt::take_away(output.as_ref().map(Output::temporary));
    Ok(output)
}
