//! A fault of the program itself, in whatever thread it comes: what it was, kept for the one message that tells of it.

use std::panic::PanicHookInfo;
use std::sync::OnceLock;

/// What went wrong first, and where in the program. Threads that wait for each other fail after it.
static FIRST: OnceLock<String> = OnceLock::new();

/// What to do about it.
pub(crate) const REPORT: &str =
    "nothing was judged or written to its end; please report it with the command and, if you may, the file";

/// Keeps faults from being printed as they happen.
pub(crate) fn watch() {
    // Builds for tests can be told where to fail.
    #[cfg(debug_assertions)]
    if let Ok(place) = std::env::var("TIDY_GATE_MISFIRE") {
        tidy_gate_core::misfire::arm(&place);
    }
    std::panic::set_hook(Box::new(|panic: &PanicHookInfo<'_>| {
        let place = panic.location().map(|place| format!(" ({}:{})", in_project(place.file()), place.line()));
        let text = panic.payload_as_str().unwrap_or("no message");
        let _ = FIRST.set(format!("{text}{}", place.unwrap_or_default()));
    }));
}

/// The part of a path that names a place in the project, or in a package, wherever it was built.
fn in_project(file: &str) -> &str {
    let own =
        ["crates/", "crates\\"].iter().find_map(|folder| file.rfind(folder)).and_then(|at| file.get(at..));
    let of_package = || {
        let folder = file.find("registry/src/").and_then(|at| file.get(at + "registry/src/".len()..))?;
        folder.split_once('/').map(|(_, file)| file)
    };
    own.or_else(of_package).unwrap_or(file)
}

/// What an error says where a thread that was broken off is behind it.
pub(crate) fn behind() -> Option<&'static str> {
    FIRST.get().map(String::as_str)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_are_named_without_the_machine_they_were_built_on() {
        for (file, wanted) in [
            ("crates/core/src/order.rs", "crates/core/src/order.rs"),
            ("/home/a/tidy/crates/core/src/order.rs", "crates/core/src/order.rs"),
            (
                "/home/a/.cargo/registry/src/index.example-19/sheets-0.1.2/src/worksheet.rs",
                "sheets-0.1.2/src/worksheet.rs",
            ),
            ("library/core/src/str.rs", "library/core/src/str.rs"),
        ] {
            assert_eq!(in_project(file), wanted);
        }
    }
}
