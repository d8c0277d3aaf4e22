//! From data to what people and programs read.

pub(crate) mod faults;
pub(crate) mod front;
pub(crate) mod json;
pub(crate) mod mended;
pub(crate) mod report_file;
pub(crate) mod story;
pub(crate) mod text;
pub(crate) mod words;

use crate::failure::{Failure, is_closed_pipe};
use std::io::Write;
use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};

/// Whether nothing is said on standard output.
static QUIET: AtomicBool = AtomicBool::new(false);

/// From now on, nothing is said on standard output.
pub(crate) fn be_quiet() {
    QUIET.store(true, Ordering::Relaxed);
}

/// Whether nothing is said on standard output.
pub(crate) fn is_quiet() -> bool {
    QUIET.load(Ordering::Relaxed)
}

/// One line on standard error, where nothing is said on standard output.
pub(crate) fn aside_when_quiet(line: &str) {
    if is_quiet() {
        to_stderr(&format!("{}\n", crate::terminal::shown(line)));
    }
}

/// Writes to standard output; a reader that has gone away is no error.
pub(crate) fn to_stdout(text: &str) -> Result<(), Failure> {
    to_stdout_beside(text, &[])
}

/// The same when files were written before: whoever does not get the text is told which ones stand.
pub(crate) fn to_stdout_beside(text: &str, written: &[PathBuf]) -> Result<(), Failure> {
    if is_quiet() {
        return Ok(());
    }
    let mut stream = anstream::stdout().lock();
    let names: Vec<String> = written.iter().map(|path| path.display().to_string()).collect();
    let stand = format!("written all the same: {}", names.join(", "));
    match stream.write_all(crate::terminal::safe(text).as_bytes()).and_then(|()| stream.flush()) {
        Ok(()) => Ok(()),
        Err(error) if is_closed_pipe(&error) => {
            if !written.is_empty() {
                to_stderr(&format!("{}\n", crate::terminal::shown(&stand)));
            }
            Ok(())
        }
        Err(error) if written.is_empty() => Err(Failure::Output(error)),
        Err(error) => Err(Failure::usage(Failure::Output(error).to_string(), stand)),
    }
}

/// Writes to standard error; when nobody reads it there is nobody left to tell.
pub(crate) fn to_stderr(text: &str) {
    let _ = anstream::stderr().write_all(crate::terminal::safe(text).as_bytes());
}
