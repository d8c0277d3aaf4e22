//! One clear message when the work could not be done, and the exit code that goes with it.

use std::io;
use std::process::ExitCode;
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

/// Tells what went wrong, on standard error.
pub(crate) fn tell(error: &anyhow::Error) -> ExitCode {
    if matches!(error.downcast_ref(), Some(tidy_gate_files::Error::Interrupted)) {
        return ExitCode::from(130);
    }
    if matches!(error.downcast_ref(), Some(tidy_gate_files::Error::BrokenOff { .. }))
        && let Some(behind) = crate::mishap::behind()
    {
        let failure = Failure::usage(format!("{error}: {behind}"), crate::mishap::REPORT.to_owned());
        return tell(&failure.into());
    }
    let text = match error.downcast_ref::<Failure>() {
        Some(Failure::Faults(drawn)) => format!("{drawn}\n"),
        Some(Failure::Usage { help: Some(help), .. }) => {
            let help = crate::terminal::shown(help);
            format!("{}\n{} {help}\n", head(error), crate::terminal::paint("help:", crate::terminal::GOOD))
        }
        _ => format!("{}\n", head(error)),
    };
    crate::render::to_stderr(&text);
    ExitCode::from(2)
}

fn head(error: &anyhow::Error) -> String {
    let message = crate::terminal::shown(&format!("{error}"));
    format!("{} {message}", crate::terminal::paint("error:", crate::terminal::BAD))
}
