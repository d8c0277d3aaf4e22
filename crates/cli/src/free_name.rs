//! Names for outputs that a report proposes: what is printed can be typed as it stands, however often.

use crate::shell::quoted_path;
use std::path::{Path, PathBuf};
use tidy_gate_files::{other_names, plan_of_held};

/// This name, or one like it, which nothing has in the folder that the program runs in; as it can be typed. Nothing has the
/// names of what is written beside it either.
pub(crate) fn free(name: &str) -> String {
    let is_there = |path: &Path| path.symlink_metadata().is_ok();
    let is_free = |path: &PathBuf| {
        let log = path.file_name().map(|name| path.with_file_name(log_name(name)));
        !is_there(path) && !is_there(&plan_of_held(path)) && !log.is_some_and(|log| is_there(&log))
    };
    let name = PathBuf::from(name);
    let free = std::iter::once(name.clone()).chain(other_names(&name)).find(is_free);
    quoted_path(&free.unwrap_or(name))
}

/// What the log of a mended copy is called beside it.
pub(crate) fn log_name(copy: &std::ffi::OsStr) -> std::ffi::OsString {
    let mut name = copy.to_owned();
    name.push(".log.csv");
    name
}
