//! What the command line itself can say when the work could not be done.

use std::io;
use thiserror::Error;

/// What the command line itself can say.
#[derive(Debug, Error)]
pub(crate) enum Failure {
    /// A record schema with faults, already drawn.
    #[error("{0}")]
    Faults(String),
    /// The work is impossible as asked; and what to do.
    #[error("{message}")]
    Usage { message: String, help: Option<String> },
    /// Standard output cannot be written.
    #[error("cannot write to standard output: {0}")]
    Output(io::Error),
}

impl Failure {
    pub(crate) fn usage(message: impl Into<String>, help: impl Into<Option<String>>) -> Self {
        Self::Usage { message: message.into(), help: help.into() }
    }
}

/// Whether an error only says that nobody reads any more.
pub(crate) fn is_closed_pipe(error: &io::Error) -> bool {
    error.kind() == io::ErrorKind::BrokenPipe
}
