//! What a command comes to.

use std::process::ExitCode;

/// What a command comes to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Ended {
    /// The gate is open, or there was nothing to decide.
    Well,
    /// The gate is shut.
    Shut,
}

impl From<Ended> for ExitCode {
    fn from(ended: Ended) -> Self {
        match ended {
            Ended::Well => Self::SUCCESS,
            Ended::Shut => Self::from(1),
        }
    }
}
