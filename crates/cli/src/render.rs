//! From data to what people and programs read.

pub(crate) mod faults;
pub(crate) mod json;
pub(crate) mod text;

use crate::failure::{Failure, is_closed_pipe};
use std::io::Write;

/// Writes to standard output; a reader that has gone away is no error.
pub(crate) fn to_stdout(text: &str) -> Result<(), Failure> {
    let mut stream = anstream::stdout().lock();
    match stream.write_all(text.as_bytes()).and_then(|()| stream.flush()) {
        Err(error) if !is_closed_pipe(&error) => Err(Failure::Output(error)),
        _ => Ok(()),
    }
}
