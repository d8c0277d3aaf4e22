//! A fresh folder and the built program.

use serde_json::Value;
use std::collections::BTreeSet;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};
use std::sync::Mutex;
use tempfile::TempDir;

/// A folder to work in; it goes when the test ends.
pub(crate) struct Folder(TempDir);

/// What a run came to.
pub(crate) struct Ran {
    pub(crate) code: i32,
    pub(crate) out: String,
    pub(crate) err: String,
}

impl Folder {
    pub(crate) fn new() -> Self {
        Self(tempfile::tempdir().unwrap())
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    pub(crate) fn write(&self, name: &str, content: impl AsRef<[u8]>) -> &Self {
        std::fs::write(self.path(name), content).unwrap();
        self
    }

    pub(crate) fn read(&self, name: &str) -> String {
        std::fs::read_to_string(self.path(name)).unwrap()
    }

    pub(crate) fn bytes(&self, name: &str) -> Vec<u8> {
        std::fs::read(self.path(name)).unwrap()
    }

    /// The names of all files.
    pub(crate) fn names(&self) -> Vec<String> {
        let entries = std::fs::read_dir(self.0.path()).unwrap();
        let mut names: Vec<_> =
            entries.map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect();
        names.sort();
        names
    }

    /// The program with these words, without a terminal's settings. It stands on the search path, so that what
    /// it prints does not depend on the folder it was built in.
    pub(crate) fn command(&self, words: &str) -> Command {
        let program = Path::new(env!("CARGO_BIN_EXE_tidy-gate"));
        let mut command = Command::new(program);
        command.current_dir(self.0.path()).args(words.split_whitespace());
        command.env("PATH", program.parent().unwrap());
        for name in ["NO_COLOR", "CLICOLOR_FORCE", "COLUMNS", "CLICOLOR"] {
            command.env_remove(name);
        }
        command
    }

    pub(crate) fn run(&self, words: &str) -> Ran {
        ran(self.command(words).output().unwrap())
    }

    /// As `run`, with bytes on standard input.
    pub(crate) fn run_with(&self, words: &str, input: &[u8]) -> Ran {
        let mut command = self.command(words);
        command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
        let mut child = command.spawn().unwrap();
        // A program that ends early closes the pipe.
        let _ = child.stdin.take().unwrap().write_all(input);
        ran(child.wait_with_output().unwrap())
    }

    /// The report of `check table.csv --record r.record.toml` with further words.
    pub(crate) fn report(&self, words: &str) -> Value {
        let ran = self
            .run(&format!("check table.csv --record r.record.toml --today 2026-11-25 --format json {words}"));
        assert!(ran.code < 2, "{}", ran.err);
        serde_json::from_str(&ran.out).unwrap()
    }
}

/// The codes of findings in the reports of all runs so far.
static MET: Mutex<BTreeSet<String>> = Mutex::new(BTreeSet::new());

/// The codes that were told so far in a report in JSON.
pub(crate) fn met() -> BTreeSet<String> {
    MET.lock().unwrap().clone()
}

pub(crate) fn ran(output: Output) -> Ran {
    let text = |bytes| String::from_utf8(bytes).unwrap();
    if let Ok(report) = serde_json::from_slice::<Value>(&output.stdout)
        && let Some(findings) = report["findings"].as_array()
    {
        MET.lock()
            .unwrap()
            .extend(findings.iter().filter_map(|finding| finding["code"].as_str().map(str::to_owned)));
    }
    // Whoever was ended by a signal has no code.
    Ran { code: output.status.code().unwrap_or(-1), out: text(output.stdout), err: text(output.stderr) }
}

/// The folder of the demo's files.
pub(crate) fn demo() -> &'static Path {
    Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"))
}

/// The project's folder.
pub(crate) fn project() -> &'static Path {
    Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../.."))
}

/// Findings as "code row letter field".
pub(crate) fn told(report: &Value) -> Vec<String> {
    let findings = report["findings"].as_array().unwrap();
    findings
        .iter()
        .map(|finding| {
            let text = |key: &str| match &finding[key] {
                Value::Null => "-".to_owned(),
                Value::String(text) => text.clone(),
                other => other.to_string(),
            };
            format!("{} {} {} {}", text("code"), text("row"), text("letter"), text("field"))
        })
        .collect()
}
