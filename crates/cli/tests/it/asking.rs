//! `match --ask`, walked through on a terminal of its own.

use crate::tool::Folder;
use rustix::pty::{OpenptFlags, grantpt, openpt, ptsname, unlockpt};
use std::fs::File;
use std::io::{Read, Write};
use std::os::fd::OwnedFd;
use std::process::{Child, Command};
use std::sync::mpsc::{Receiver, channel};
use std::time::{Duration, Instant};

/// A program on a terminal.
struct Terminal {
    keys: File,
    child: Child,
    shown: Receiver<Vec<u8>>,
    /// What was shown since the last wait.
    fresh: String,
}

impl Terminal {
    fn begin(mut command: Command) -> Self {
        let ours = openpt(OpenptFlags::RDWR | OpenptFlags::NOCTTY).unwrap();
        grantpt(&ours).unwrap();
        unlockpt(&ours).unwrap();
        let name = ptsname(&ours, Vec::new()).unwrap().into_string().unwrap();
        let open = || OwnedFd::from(File::options().read(true).write(true).open(&name).unwrap());
        command.stdin(open()).stdout(open()).stderr(open()).env("TERM", "xterm");
        let child = command.spawn().unwrap();
        // The terminal ends when the program has closed its side: nothing here holds it open.
        drop(command);
        let (send, shown) = channel();
        let keys = File::from(ours);
        let mut reader = keys.try_clone().unwrap();
        std::thread::spawn(move || {
            let mut bytes = [0; 4096];
            while let Ok(count @ 1..) = reader.read(&mut bytes) {
                let _ = send.send(bytes[..count].to_vec());
            }
        });
        Self { keys, child, shown, fresh: String::new() }
    }

    /// Waits until this is shown, then types.
    fn answer(&mut self, shown: &str, keys: &str) {
        let end = Instant::now() + Duration::from_secs(60);
        while !self.fresh.contains(shown) {
            let left = end.saturating_duration_since(Instant::now());
            let bytes = self.shown.recv_timeout(left);
            assert!(bytes.is_ok(), "{shown} is not shown: {}", self.fresh);
            let bytes = bytes.unwrap();
            self.fresh.push_str(&String::from_utf8_lossy(&bytes));
        }
        self.fresh.clear();
        self.keys.write_all(keys.as_bytes()).unwrap();
    }

    /// The exit code, and all that was shown after the last answer.
    fn end(mut self) -> (i32, String) {
        let code = self.child.wait().unwrap().code().unwrap();
        while let Ok(bytes) = self.shown.recv_timeout(Duration::from_secs(5)) {
            self.fresh.push_str(&String::from_utf8_lossy(&bytes));
        }
        (code, self.fresh)
    }
}

const SCHEMA: &str = r#"
format = 1
record = "tree"
key = ["tag_no"]

[[field]]
name = "tag_no"
kind = "text"
[[field]]
name = "ward"
label = "Ward"
kind = "picklist"
picklist = "ward"
required = true
[[field]]
name = "girth_cm"
label = "Girth (cm)"
kind = "decimal"
[[field]]
name = "planted_on"
label = "Planted on"
kind = "date"

[picklist.ward]
values = [{ code = "W1" }, { code = "W2" }]
"#;

const TABLE: &str =
    "tag_no,Girth in cm,Planted,Remark,Other\nHT-001,12.5,2020-01-02,ok,x\nHT-002,13,2021-03-04,,y\n";

/// Each column is asked for with what it holds; a wrong default is asked for again; the plan that comes of it checks.
#[test]
fn what_is_answered_is_kept_in_the_plan() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("table.csv", TABLE);
    let mut terminal =
        Terminal::begin(folder.command("match table.csv --record r.record.toml --ask --save p.plan.toml"));
    terminal.answer("Column B \"Girth in cm\": 12.5 · 13", "\r");
    terminal.answer("Column C \"Planted\"", "planted_on\r");
    terminal.answer("Column D \"Remark\": ok", "leave\r");
    terminal.answer("Column E \"Other\": x · y", "later\r");
    terminal.answer("Ward has no column", "W9\r");
    terminal.answer("Ward has no column", "W2\r");
    let (code, shown) = terminal.end();
    assert_eq!(code, 0, "{shown}");
    let plan = folder.read("p.plan.toml");
    for line in
        ["\"Girth in cm\" = \"girth_cm\"", "Planted = \"planted_on\"", "Remark = false", "ward = \"W2\""]
    {
        assert!(plan.contains(line), "{line}: {plan}");
    }
    assert!(!plan.contains("Other ="), "{plan}");
    let ran = folder.run("check table.csv --plan p.plan.toml --ready ready.csv --today 2026-11-25");
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert_eq!(folder.read("ready.csv").lines().nth(1), Some("HT-001,W2,12.5,2020-01-02"));
}

/// Escape ends the walk: what was answered so far counts, the rest is as it was.
#[test]
fn escape_ends_the_walk() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA.replace("required = true\n", "")).write("table.csv", TABLE);
    let mut terminal =
        Terminal::begin(folder.command("match table.csv --record r.record.toml --ask --save p.plan.toml"));
    terminal.answer("Column B", "\r");
    terminal.answer("Column C", "\u{1b}");
    let (_, shown) = terminal.end();
    let plan = folder.read("p.plan.toml");
    assert!(plan.contains("girth_cm") && !plan.contains("planted_on"), "{plan}{shown}");
}
