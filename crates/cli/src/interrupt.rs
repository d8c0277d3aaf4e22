//! Ctrl-C: the run ends, and no partial output stays behind.

use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError, TryLockError};
use std::time::Duration;

/// True once the run was asked to end.
pub(crate) static INTERRUPTED: AtomicBool = AtomicBool::new(false);

/// Temporary files to be taken away, should the run not end by itself.
static TEMPORARY: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

/// So long a run may take to end by itself.
const PATIENCE: Duration = Duration::from_millis(700);

/// Begins to watch for Ctrl-C and for requests to end.
#[cfg(unix)]
pub(crate) fn watch() {
    use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
    let ignored = ignored();
    // What whoever started the program wants ignored stays so, as behind `nohup`.
    let watched = [SIGHUP, SIGINT, SIGTERM].into_iter().filter(|signal| ignored >> (signal - 1) & 1 == 0);
    // Without a handler the system ends the program: the outputs stay hidden and incomplete, nothing worse.
    let Ok(mut signals) = signal_hook::iterator::Signals::new(watched) else { return };
    let _ = std::thread::Builder::new().spawn(move || {
        if signals.forever().next().is_some() {
            end();
        }
    });
}

/// The signals that are ignored, one bit for each from 1 on; none where that cannot be told.
#[cfg(unix)]
fn ignored() -> u64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let mask = status.lines().find_map(|line| line.strip_prefix("SigIgn:"));
    mask.and_then(|mask| u64::from_str_radix(mask.trim(), 16).ok()).unwrap_or_default()
}

/// Begins to watch for Ctrl-C and for requests to end.
#[cfg(not(unix))]
pub(crate) fn watch() {
    // Without a handler the system ends the program: the outputs stay hidden and incomplete, nothing worse.
    let _ = ctrlc::set_handler(end);
}

/// Ends the run: by itself, or after a while from here.
fn end() {
    INTERRUPTED.store(true, Ordering::Relaxed);
    std::thread::sleep(PATIENCE);
    // Still here: the run waits for input that may never come.
    take_away_now();
    #[expect(clippy::exit, reason = "the main thread is waiting and cannot be woken")]
    std::process::exit(130);
}

/// Takes away the temporary files; those that somebody is naming just now stay until the next run.
pub(crate) fn take_away_now() {
    let paths = match TEMPORARY.try_lock() {
        Ok(mut paths) => std::mem::take(&mut *paths),
        Err(TryLockError::Poisoned(paths)) => std::mem::take(&mut *paths.into_inner()),
        Err(TryLockError::WouldBlock) => Vec::new(),
    };
    for path in paths {
        let _ = std::fs::remove_file(path);
    }
}

/// These files go when the run is broken off.
pub(crate) fn take_away(paths: impl IntoIterator<Item = PathBuf>) {
    TEMPORARY.lock().unwrap_or_else(PoisonError::into_inner).extend(paths);
}
