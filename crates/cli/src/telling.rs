//! One clear message when the work could not be done, and the exit code that goes with it.

use crate::failure::Failure;
use crate::{mishap, render, terminal};
use std::panic::AssertUnwindSafe;
use std::process::ExitCode;

/// Runs the program; a fault of its own becomes a message.
pub(crate) fn told(run: impl FnOnce() -> ExitCode) -> ExitCode {
    std::panic::catch_unwind(AssertUnwindSafe(run)).unwrap_or_else(|_| {
        let what = mishap::behind().unwrap_or("no message");
        // A package that writes workbooks does not give back that its temporary files have no room.
        if what.contains("StorageFull") || what.contains("No space left") {
            let folder = std::env::temp_dir();
            let message = format!("there is no room left in the temporary folder {}", folder.display());
            let help = "make room there, or name another folder with TMPDIR; nothing was written".to_owned();
            return tell(&Failure::usage(message, help).into());
        }
        let message = format!("the program met a fault of its own and ended: {what}");
        tell(&Failure::usage(message, mishap::REPORT.to_owned()).into())
    })
}

/// Tells what went wrong, on standard error.
pub(crate) fn tell(error: &anyhow::Error) -> ExitCode {
    if matches!(error.downcast_ref(), Some(tidy_gate_files::Error::Interrupted)) {
        return ExitCode::from(130);
    }
    if matches!(error.downcast_ref(), Some(tidy_gate_files::Error::BrokenOff { .. }))
        && let Some(behind) = mishap::behind()
    {
        let failure = Failure::usage(format!("{error}: {behind}"), mishap::REPORT.to_owned());
        return tell(&failure.into());
    }
    let text = match error.downcast_ref::<Failure>() {
        Some(Failure::Faults(drawn)) => format!("{drawn}\n"),
        Some(Failure::Usage { help: Some(help), .. }) => {
            let help = terminal::shown(help);
            format!("{}\n{} {help}\n", head(error), terminal::paint("help:", terminal::GOOD))
        }
        _ => format!("{}\n", head(error)),
    };
    render::to_stderr(&text);
    ExitCode::from(2)
}

fn head(error: &anyhow::Error) -> String {
    let message = terminal::shown(&format!("{error}"));
    format!("{} {message}", terminal::paint("error:", terminal::BAD))
}
