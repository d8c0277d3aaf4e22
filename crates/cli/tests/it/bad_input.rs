//! What is no table, no schema or no place to write: one clear message, exit 2, nothing half-written.

use crate::tool::Folder;
use std::io::Write;

const SCHEMA: &str =
    "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"integer\"\n";

#[test]
fn what_is_no_table_gets_one_message() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    std::fs::create_dir(folder.path("folder.csv")).unwrap();
    folder.write("book.csv", b"PK\x03\x04\x14\x00").write("page.csv", "<!DOCTYPE html>\n<table>");
    folder
        .write("nul.csv", [&b"k\n"[..], &b"1\n".repeat(300_000), b"\0\n"].concat())
        .write("noise.csv", [7_u8; 300]);
    for (name, message) in [
        ("missing.csv", "cannot read missing.csv: no such file or directory"),
        ("folder.csv", "folder.csv is a folder, not a file"),
        ("book.csv", "cannot read book.csv: the archive is damaged"),
        ("page.csv", "it looks like an HTML page"),
        ("nul.csv", "row 300002 holds a NUL byte"),
        ("noise.csv", "its bytes are no text"),
    ] {
        let ran = folder.run(&format!("check {name} --record r.record.toml --ready ready.csv"));
        assert_eq!((ran.code, ran.out.as_str(), ran.err.lines().count()), (2, "", 1), "{name}: {}", ran.err);
        assert!(ran.err.contains(message), "{name}: {}", ran.err);
        assert!(!folder.path("ready.csv").exists());
    }
}

#[test]
fn an_empty_file_is_a_finding() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    for text in ["", "\n\n", "\u{FEFF}", " ,\n\n", "k\n", "k", "k\r\n\r\n"] {
        folder.write("table.csv", text);
        let report = folder.report("--ready ready.csv --held held.csv --findings f.ndjson --force");
        let codes: Vec<_> =
            report["findings"].as_array().unwrap().iter().map(|f| f["code"].clone()).collect();
        assert!(codes.contains(&"file-empty".into()), "{text:?}: {codes:?}");
        assert_eq!((&report["gate"], &report["counts"]["rows"]), (&"shut".into(), &0.into()));
        assert!(
            !folder.path("ready.csv").exists() && !folder.path("held.csv").exists(),
            "the work ended before the rows"
        );
        assert_eq!(folder.read("f.ndjson").lines().count(), codes.len());
    }
}

#[test]
fn a_schema_that_cannot_be_read_is_told_with_its_place() {
    let folder = Folder::new();
    folder.write("table.csv", "k\n1\n");
    folder.write("r.record.toml", format!("{SCHEMA}patern = \"x\"\nrange = {{ min = 9, max = 1 }}\n"));
    let ran = folder.run("check table.csv --record r.record.toml");
    assert_eq!((ran.code, ran.out.as_str()), (2, ""));
    insta::assert_snapshot!(ran.err, @r#"
    error: there is no key `patern` here
     --> r.record.toml:7:1
      |
    7 | patern = "x"
      | ^^^^^^ unknown key
      |
      = help: did you mean `pattern`?

    error: the range is upside down: from 9 to 1
     --> r.record.toml:8:9
      |
    8 | range = { min = 9, max = 1 }
      |         ^^^^^^^^^^^^^^^^^^^^ the first is above the second
      |
      = help: change the two about

    2 faults in r.record.toml; nothing was checked
    "#);
    folder.write("not-text.toml", b"\xFF\xFE");
    for (words, message) in [
        ("check table.csv --record missing.toml", "cannot read missing.toml: no such file"),
        ("check table.csv --record not-text.toml", "it is no text in UTF-8"),
        ("check table.csv", "beside the file there is: --record r.record.toml"),
        (
            "check table.csv --record r.record.toml --dates DD/MM",
            "--dates DD/MM: `D` is not a part of a date",
        ),
        ("check table.csv --record r.record.toml --today yesterday", "--today yesterday: not a day"),
        ("check table.csv --record r.record.toml --threads 0", "0 is not in 1..=256"),
        ("explain date-bda", "did you mean `date-bad`?"),
        ("chek table.csv", "unrecognized subcommand"),
    ] {
        let ran = folder.run(words);
        assert!(ran.code == 2 && ran.err.contains(message), "{words}: {} {}", ran.code, ran.err);
    }
}

#[test]
fn a_row_beyond_all_bounds_is_refused_and_an_open_quote_is_found() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let mut file = std::fs::File::create(folder.path("table.csv")).unwrap();
    file.write_all(b"k,n\n1,\"").unwrap();
    for _ in 0..40 {
        file.write_all(&b"2,abc defg\n".repeat(100_000)).unwrap();
    }
    drop(file);
    let report = folder.report("");
    assert_eq!(report["findings"][1]["code"], "quote-open");
    let mut text = std::fs::read(folder.path("table.csv")).unwrap();
    text.extend(b"\",x\n3,4\n");
    folder.write("table.csv", text);
    let ran = folder.run("check table.csv --record r.record.toml");
    assert!(
        ran.code == 2 && ran.err.contains("the row that begins on line 2 is longer than 32 MiB"),
        "{}",
        ran.err
    );
}

#[cfg(target_os = "linux")]
#[test]
fn a_full_disk_is_told_and_a_closed_pipe_is_not() {
    use std::process::Stdio;
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("table.csv", "k\n1\n");
    let full = std::fs::OpenOptions::new().write(true).open("/dev/full").unwrap();
    let ran = crate::tool::ran(
        folder.command("check table.csv --record r.record.toml").stdout(full).output().unwrap(),
    );
    assert!(ran.code == 2 && ran.err.contains("cannot write to standard output"), "{}", ran.err);
    let mut child = folder.command("explain").stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
    drop(child.stdout.take());
    let ran = crate::tool::ran(child.wait_with_output().unwrap());
    assert_eq!((ran.code, ran.err.as_str()), (0, ""));
}

#[cfg(unix)]
#[test]
fn an_interrupted_run_leaves_nothing_behind() {
    use std::process::{Command, Stdio};
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let words = "check - --record r.record.toml --ready ready.csv --held held.csv --findings f.csv";
    let mut child = folder.command(words).stdin(Stdio::piped()).stdout(Stdio::null()).spawn().unwrap();
    let input = child.stdin.take().unwrap();
    // Once its temporary files are there it waits for input.
    while folder.names().len() < 4 {
        assert!(child.try_wait().unwrap().is_none(), "it ended before it was interrupted");
        std::thread::sleep(std::time::Duration::from_millis(5));
    }
    Command::new("kill").args(["-INT", &child.id().to_string()]).status().unwrap();
    assert_eq!(child.wait().unwrap().code(), Some(130));
    drop(input);
    assert_eq!(folder.names(), ["r.record.toml"]);
}
