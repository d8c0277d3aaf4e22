//! Who may use whom, and what the core may not know.

use crate::tool::project;
use std::path::Path;

/// Our own crates that each crate may name.
const ALLOWED: [(&str, &[&str]); 6] = [
    ("scan", &[]),
    ("memory", &[]),
    ("core", &["tidy-gate-memory", "tidy-gate-scan"]),
    ("files", &["tidy-gate-core"]),
    ("targets", &["tidy-gate-core", "tidy-gate-files"]),
    ("cli", &["tidy-gate-core", "tidy-gate-files", "tidy-gate-memory", "tidy-gate-targets"]),
];

#[test]
fn crates_import_in_one_direction() {
    for (name, allowed) in ALLOWED {
        let manifest =
            std::fs::read_to_string(project().join("crates").join(name).join("Cargo.toml")).unwrap();
        let named = manifest
            .lines()
            .filter_map(|line| line.split(['.', ' ', '=']).next())
            .filter(|word| word.starts_with("tidy-gate-"));
        let own: Vec<_> = named.filter(|word| !allowed.contains(word)).collect();
        assert!(own.is_empty(), "{name} imports {own:?}");
    }
}

#[test]
fn the_core_knows_no_file_clock_terminal_or_environment() {
    let banned = [
        "std::fs",
        "std::env",
        "std::net",
        "std::process",
        "SystemTime",
        "Instant",
        "println!",
        "eprintln!",
        "clap",
        "anstyle",
        "stdout",
        "stderr",
    ];
    for crate_name in ["core", "scan"] {
        each_source(&project().join("crates").join(crate_name).join("src"), &mut |path, text| {
            for word in banned {
                assert!(!text.contains(word), "{} names {word}", path.display());
            }
        });
    }
}

#[test]
fn unsafe_code_stands_in_two_rooms() {
    each_source(&project().join("crates"), &mut |path, text| {
        let lanes = ["avx2.rs", "avx2_numbers.rs"].map(|room| format!("scan/src/lanes/{room}"));
        let room = lanes.iter().any(|room| path.ends_with(room))
            || ["memory/src/lib.rs", "tests/it/structure.rs"].iter().any(|room| path.ends_with(room));
        assert!(
            room || !text.contains("unsafe {") && !text.contains("allow(unsafe_code"),
            "{}",
            path.display()
        );
    });
    let manifest = std::fs::read_to_string(project().join("Cargo.toml")).unwrap();
    assert!(manifest.contains("unsafe_code = \"forbid\""));
}

fn each_source(folder: &Path, look: &mut dyn FnMut(&Path, &str)) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            each_source(&path, look);
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            look(&path, &std::fs::read_to_string(&path).unwrap());
        }
    }
}
