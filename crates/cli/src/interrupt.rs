//! Ctrl-C: the run ends, and no partial output stays behind.

use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

/// True once the run was asked to end.
pub(crate) static INTERRUPTED: AtomicBool = AtomicBool::new(false);

/// Temporary files to be taken away, should the run not end by itself.
static TEMPORARY: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

/// So long a run may take to end by itself.
const PATIENCE: Duration = Duration::from_millis(700);

/// Begins to watch for Ctrl-C and for requests to end.
pub(crate) fn watch() {
    // Without a handler the system ends the program: the outputs stay hidden and incomplete, nothing worse.
    let _ = ctrlc::set_handler(|| {
        INTERRUPTED.store(true, Ordering::Relaxed);
        std::thread::sleep(PATIENCE);
        // Still here: the run waits for input that may never come.
        for path in TEMPORARY.lock().unwrap_or_else(PoisonError::into_inner).drain(..) {
            let _ = std::fs::remove_file(path);
        }
        #[expect(clippy::exit, reason = "the main thread is waiting and cannot be woken")]
        std::process::exit(130);
    });
}

/// These files go when the run is broken off.
pub(crate) fn take_away(paths: impl IntoIterator<Item = PathBuf>) {
    TEMPORARY.lock().unwrap_or_else(PoisonError::into_inner).extend(paths);
}
