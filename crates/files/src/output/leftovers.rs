//! What runs left behind that were killed: temporary files whose process is gone.

use super::placing::{PREFIX, SUFFIX};
use std::fs::File;
use std::path::Path;
use std::time::Duration;

/// Takes away what killed runs left in a folder. What cannot be taken away does no harm.
pub(super) fn take_away(folder: &Path) {
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
    for entry in entries {
        let name = entry.file_name();
        let Some(process) = name.to_str().and_then(process_of) else { continue };
        if is_gone(process, &entry.path()) {
            let _ = std::fs::remove_file(entry.path());
        }
    }
}

/// The number of the process that made a file of this name; nothing of a file that is none of ours.
fn process_of(name: &str) -> Option<u32> {
    let number = name.strip_prefix(PREFIX)?.strip_suffix(SUFFIX)?.split_once('-')?.0;
    number.parse().ok()
}

/// Whether nobody writes a file any more: its process is not there, and nobody holds its lock.
fn is_gone(process: u32, path: &Path) -> bool {
    if process == std::process::id() {
        return false;
    }
    let Ok(file) = File::open(path) else { return false };
    if !file.metadata().is_ok_and(|facts| facts.is_file()) || file.try_lock().is_err() {
        return false;
    }
    let processes = Path::new("/proc");
    if processes.join("self").exists() {
        return !processes.join(process.to_string()).exists();
    }
    // Elsewhere a file that nobody locks and that is not of this minute.
    let age = file.metadata().and_then(|facts| facts.modified()).ok().and_then(|time| time.elapsed().ok());
    age.is_some_and(|age| age > Duration::from_secs(60))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn files_of_runs_that_are_gone_go_and_others_stay() {
        let folder = tempfile::tempdir().unwrap();
        let own = std::process::id();
        // No process has the highest number there is.
        for (name, stays) in [
            (format!(".tidy-gate-{own}-abc.part"), true),
            (format!(".tidy-gate-{}-abc.part", u32::MAX), false),
            (format!(".tidy-gate-{}-locked.part", u32::MAX), true),
            (".tidy-gate-abc.part".to_owned(), true),
            (format!(".tidy-gate-{}-abc.csv", u32::MAX), true),
            (format!("tidy-gate-{}-abc.part", u32::MAX), true),
            (".tidy-gate-1-abc.part".to_owned(), true),
        ] {
            let path = folder.path().join(&name);
            let file = File::create(&path).unwrap();
            if name.contains("locked") {
                file.lock().unwrap();
            }
            take_away(folder.path());
            assert_eq!(path.exists(), stays, "{name}");
            let _ = std::fs::remove_file(path);
        }
    }
}
