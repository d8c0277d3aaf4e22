//! What breaks the program from within: faults of its own in every thread, small files that unpack to much, forms that no
//! number has. One message, exit code 2, and never a part of the rows.

use crate::hostile::{archive, bounded, is_refused, sheet, workbook};
use crate::tool::{Folder, Ran, ran};

const SCHEMA: &str = "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\n\
                      [[field]]\nname = \"n\"\nkind = \"text\"\n";

fn folder() -> Folder {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    folder
}

const WORDS: &str = "--record r.record.toml --ready ready.csv --held held.csv --findings findings.csv";

#[test]
fn a_fault_in_any_thread_is_one_message_and_no_output() {
    let folder = folder();
    let rows: String = (0..40_000).map(|n| format!("K{:05},x\n", n % 39_000)).collect();
    folder.write("table.csv", format!("k,n\n{rows}"));
    let records: Vec<String> = (0..9_000).map(|n| format!("{{\"k\":\"K{n}\",\"n\":\"x\"}}")).collect();
    folder.write("table.json", format!("[{}]", records.join(",\n")));
    folder.write("table.ndjson", records.join("\n"));
    let rows: String = (2..9_000)
        .map(|n| format!("<row r=\"{n}\"><c r=\"A{n}\"><v>{n}</v></c><c r=\"B{n}\"><v>1</v></c></row>"))
        .collect();
    folder.write("table.xlsx", workbook(&sheet(&rows), b"<sst/>"));
    let before = folder.names();
    for (place, files) in [
        ("sheet", &["table.xlsx"][..]),
        ("json", &["table.json", "table.ndjson"]),
        ("text", &["table.csv", "table.xlsx", "table.json"]),
        ("judge", &["table.csv", "table.xlsx"]),
        ("settle", &["table.csv"]),
        ("rows", &["table.csv", "table.ndjson"]),
    ] {
        for (file, threads) in files.iter().flat_map(|file| [(file, 1), (file, 2)]) {
            let mut command = folder.command(&format!("check {file} {WORDS} --threads {threads}"));
            let told =
                ran(command.env("TIDY_GATE_MISFIRE", place).env("RUST_BACKTRACE", "1").output().unwrap());
            let lines: Vec<&str> = told.err.lines().collect();
            assert_eq!(
                (told.code, told.out.as_str(), lines.len()),
                (2, "", 2),
                "{place} {file}: {}",
                told.err
            );
            assert!(lines[0].starts_with("error: ") && lines[0].contains(place), "{place}: {}", told.err);
            assert!(lines[1].contains("please report it"), "{place}: {}", told.err);
            assert_eq!(folder.names(), before, "{place} {file}");
        }
    }
    // Nothing is armed: all of them are read.
    for file in ["table.csv", "table.xlsx", "table.json", "table.ndjson"] {
        let told = folder.run(&format!("check {file} {WORDS} --force"));
        assert!(told.code < 2, "{file}: {}", told.err);
    }
}

#[test]
fn a_format_wider_than_any_number_is_clipped() {
    let folder = folder();
    let rows: String = (2..40_002)
        .map(|n| {
            format!(
                "<row r=\"{n}\"><c r=\"A{n}\"><v>{n}</v></c><c r=\"B{n}\" s=\"{}\"><v>7</v></c></row>",
                n / 30_000
            )
        })
        .collect();
    let book = workbook(&sheet(&rows), b"<sst/>");
    // The second style gets a format of 70,000 noughts.
    let mut read = zip::ZipArchive::new(std::io::Cursor::new(book)).unwrap();
    let mut parts: Vec<(String, Vec<u8>)> = Vec::new();
    for number in 0..read.len() {
        let mut part = read.by_index(number).unwrap();
        let mut content = Vec::new();
        std::io::copy(&mut part, &mut content).unwrap();
        if part.name().unwrap().ends_with("styles.xml") {
            content = String::from_utf8(content).unwrap().replace("0.0%", &"0".repeat(70_000)).into_bytes();
        }
        parts.push((part.name().unwrap().to_string(), content));
    }
    let parts: Vec<(&str, &[u8])> =
        parts.iter().map(|(name, content)| (name.as_str(), &content[..])).collect();
    folder.write("table.xlsx", archive(&parts));
    let told = folder.run("check table.xlsx --record r.record.toml --format json --ready ready.csv");
    let report: serde_json::Value = serde_json::from_str(&told.out).unwrap();
    assert_eq!((told.code, &report["counts"]["rows"]), (0, &40_000.into()), "{}", told.err);
    let ready = folder.read("ready.csv");
    assert!(ready.contains("29999,7\n") && ready.ends_with(&format!("40001,{}7\n", "0".repeat(254))));
    assert!(folder.run("peek table.xlsx --all --format json").out.contains("40000"));
}

/// Each of these is a few kilobytes and would be gigabytes.
#[test]
fn small_files_that_would_be_large_are_refused() {
    let folder = folder();
    let words = format!("check table.xlsx {WORDS}");
    let shared = |count: usize| -> String {
        (1..=count).map(|n| format!("<c t=\"s\" r=\"{}2\"><v>0</v></c>", tidy_letter(n))).collect()
    };
    let long = [b"<sst><si><t>", &vec![b'x'; 1 << 20][..], b"</t></si></sst>"].concat();
    let row = format!("<row r=\"2\">{}</row>", shared(2_000));
    folder.write("table.xlsx", workbook(&sheet(&row), &long));
    is_refused(&bounded(&folder, &words), "is longer than 32 MiB");
    // The same behind a comment, which the plain reader of XML gets.
    folder.write("table.xlsx", workbook(&sheet(&row.replace("<row", "<!-- --><row")), &long));
    is_refused(&bounded(&folder, &words), "is longer than 32 MiB");
    // Rows that are sound each and too many.
    let pieces = "<r><t>aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa</t></r>"
        .repeat(1 << 19);
    folder.write("table.xlsx", workbook(&sheet(""), format!("<sst><si>{pieces}</si></sst>").as_bytes()));
    is_refused(&bounded(&folder, &words), "one of its strings is longer than 32 MiB");

    let ods = |rows: &str| {
        let content = format!(
            "<office:document-content><office:body><office:spreadsheet><table:table table:name=\"S\">{rows}\
             </table:table></office:spreadsheet></office:body></office:document-content>"
        );
        archive(&[("META-INF/manifest.xml", b"<manifest/>"), ("content.xml", content.as_bytes())])
    };
    let cell = |content: &str, times: u32| {
        format!(
            "<table:table-row><table:table-cell office:value-type=\"string\" table:number-columns-repeated=\"{times}\">\
             <text:p>{content}</text:p></table:table-cell></table:table-row>"
        )
    };
    let headings = cell("k", 1);
    for (rows, message) in [
        (cell(&"y".repeat(1 << 20), 16_000), "is longer than 32 MiB"),
        (cell(&"<text:s text:c=\"10000\"/>".repeat(5_000), 1), "is longer than 32 MiB"),
        (
            format!("<table:table-row table:number-rows-repeated=\"4294967295\"/>{}", cell("after", 1)),
            "a sheet has 1048576 rows",
        ),
        (
            cell("x", 1)
                .replace("<table:table-row>", "<table:table-row table:number-rows-repeated=\"4294967295\">"),
            "a sheet has 1048576 rows",
        ),
    ] {
        folder.write("table.xlsx", ods(&format!("{headings}{rows}")));
        is_refused(&bounded(&folder, &words), message);
    }
    assert_eq!(folder.names(), ["r.record.toml", "table.xlsx"]);
}

/// The letters of a column, from 1.
fn tidy_letter(mut number: usize) -> String {
    let mut letters = String::new();
    while number > 0 {
        number -= 1;
        letters.insert(0, char::from(b'A' + u8::try_from(number % 26).unwrap()));
        number /= 26;
    }
    letters
}

#[test]
fn an_archive_is_one_whatever_stands_before_it_and_however_its_parts_are_called() {
    let folder = folder();
    let row = "<row r=\"2\"><c r=\"A2\"><v>1</v></c><c r=\"B2\" t=\"s\"><v>0</v></c></row>";
    let book = workbook(&sheet(row), b"<sst><si><t>x</t></si></sst>");
    let check = |content: &[u8], what: &str| {
        folder.write("table.xlsx", content);
        let told = folder.run("check table.xlsx --record r.record.toml --ready ready.csv --force");
        assert_eq!((told.code, folder.read("ready.csv").as_str()), (0, "k,n\n1,x\n"), "{what}: {}", told.err);
    };
    check(&book, "as it is");
    check(&[b"#!/bin/sh\nexit 0\n", &book[..]].concat(), "behind other bytes");
    let mut read = zip::ZipArchive::new(std::io::Cursor::new(&book)).unwrap();
    let parts: Vec<(String, Vec<u8>)> = (0..read.len())
        .map(|number| {
            let mut part = read.by_index(number).unwrap();
            let mut content = Vec::new();
            std::io::copy(&mut part, &mut content).unwrap();
            (part.name().unwrap().to_uppercase(), content)
        })
        .collect();
    let parts: Vec<(&str, &[u8])> =
        parts.iter().map(|(name, content)| (name.as_str(), &content[..])).collect();
    check(&archive(&parts), "in capitals");
    // A text that only speaks of archives stays a text.
    folder.write("table.csv", "k,n\nPK\x05\x06,x\n");
    assert_eq!(folder.run("check table.csv --record r.record.toml").code, 0);
}

#[test]
fn lists_and_schemas_are_small() {
    let folder = folder();
    folder.write("table.csv", "k,n\na,x\n");
    for words in [
        "check table.csv --record /dev/zero",
        "check table.csv --record r.record.toml --plan /dev/zero",
        "check table.csv --record big.record.toml",
    ] {
        folder
            .write("big.record.toml", format!("{SCHEMA}[picklist.p]\nfile = \"/dev/zero\"\ncode = \"c\"\n"));
        let told = bounded(&folder, words);
        assert_eq!(told.code, 2, "{words}: {}", told.err);
        assert!(told.err.contains("64 MiB"), "{words}: {}", told.err);
    }
}

#[test]
fn a_machine_with_odd_settings_gets_a_message_or_the_work_done() {
    let folder = folder();
    folder.write("table.csv", "k,n\na,x\n");
    let check = "check table.csv --record r.record.toml";
    for (zone, is_known) in [
        ("Europe/London", true),
        ("UTC0", true),
        ("", true),
        ("/dev/zero", false),
        ("Nowhere/City", false),
        ("/etc/passwd", false),
        ("../../etc/shadow", false),
    ] {
        let told = ran(folder.command(check).env("TZ", zone).output().unwrap());
        assert_eq!(
            (told.code, told.err.contains("names no time zone")),
            (0, !is_known),
            "{zone}: {}",
            told.err
        );
    }
    // Where no thread can be started any more, fewer do the work.
    let told = bounded(&folder, &format!("{check} --threads 200 --ready many.csv"));
    assert_eq!(told.code, 0, "{}", told.err);
    assert_eq!(folder.read("many.csv"), "k,n\na,x\n");
    // A temporary folder that is not there is named.
    let nowhere = folder.path("nowhere");
    for outputs in ["--ready ready.xlsx", "--findings findings.csv"] {
        let told =
            ran(folder.command(&format!("{check} {outputs}")).env("TMPDIR", &nowhere).output().unwrap());
        assert_eq!((told.code, told.err.lines().count()), (2, 1), "{outputs}: {}", told.err);
        assert!(
            told.err.contains("temporary folder") && told.err.contains("nowhere"),
            "{outputs}: {}",
            told.err
        );
    }
    let told = folder.run("demo table.csv/inside");
    assert!(
        told.code == 2 && told.err.contains("cannot make the folder") && told.err.contains("ot a dir"),
        "{}",
        told.err
    );
}

#[test]
fn what_is_printed_to_be_typed_next_works_for_any_name() {
    use std::os::unix::ffi::OsStrExt;
    for name in ["-table.csv", "two words.csv", "it's.csv", "a\u{202e}b.csv"] {
        let folder = folder();
        folder.write(name, "k,n\na,x\n");
        let mut command = folder.command("check --record r.record.toml --");
        let told = ran(command.arg(name).output().unwrap());
        follows(&folder, &told.out, name);
    }
    let folder = folder();
    let name = std::ffi::OsStr::from_bytes(b"r\xff.record.toml");
    std::fs::rename(folder.path("r.record.toml"), folder.path("").join(name)).unwrap();
    folder.write("table.csv", "k,n\na,x\n");
    let told = ran(folder.command("check table.csv --record").arg(name).output().unwrap());
    follows(&folder, &told.out, "a record schema whose name is no text");
}

/// The commands that a report prints to be typed next.
fn printed(report: &str) -> Vec<String> {
    let lines = report.lines().skip_while(|line| line.trim() != "Next").map(str::trim);
    let mut commands: Vec<String> = Vec::new();
    for line in lines {
        match commands.last_mut().filter(|command| command.ends_with('\\')) {
            Some(command) => *command = format!("{}{line}", command.trim_end_matches('\\')),
            None if line.starts_with("tidy-gate ") => commands.push(line.to_owned()),
            None => {}
        }
    }
    commands
}

#[test]
fn what_is_printed_works_again_where_its_outputs_are_there_already() {
    let folder = folder();
    folder.write("table.csv", "k,n\na,x\nb,\u{200b}y\n,z\n");
    let mut file = "table.csv".to_owned();
    for round in 1..4 {
        // Twice: what the first time has written is there the second time.
        for _ in 0..2 {
            let told = folder.run(&format!("check {file} --record r.record.toml"));
            let typed = printed(&told.out);
            assert!(typed.iter().any(|command| command.contains("--marked marked")), "{}", told.out);
            for command in typed {
                let told = in_shell(&folder, &command);
                assert!(matches!(told.code, 0 | 1), "{round}: {command}: {}", told.err);
            }
        }
        file = format!("marked-{}.xlsx", round * 2);
        assert!(folder.path(&file).exists(), "{:?}", folder.names());
    }
}

/// Runs what is typed, in a shell.
fn in_shell(folder: &Folder, typed: &str) -> Ran {
    let mut command = std::process::Command::new("bash");
    command.args(["-c", typed]).current_dir(folder.path(""));
    let program = std::path::Path::new(env!("CARGO_BIN_EXE_tidy-gate")).parent().unwrap();
    let path = format!("{}:{}", program.display(), std::env::var("PATH").unwrap());
    ran(command.env("PATH", path).output().unwrap())
}

/// Runs the last command that a report prints, in a shell.
fn follows(folder: &Folder, report: &str, what: &str) {
    let typed = printed(report).pop().unwrap();
    let told = in_shell(folder, &typed);
    assert_eq!(
        (told.code, folder.read("ready.csv").as_str()),
        (0, "k,n\na,x\n"),
        "{what}: {typed}{}",
        told.err
    );
}

/// Behind `nohup` nothing of a terminal that goes away ends the run; an order to end still does.
#[test]
fn signals_that_are_ignored_stay_ignored() {
    use std::process::{Command, Stdio};
    let folder = folder();
    let program = env!("CARGO_BIN_EXE_tidy-gate");
    let line = format!("trap '' HUP INT; exec {program} check - --record r.record.toml --ready ready.csv");
    let mut child = Command::new("sh")
        .args(["-c", &line])
        .current_dir(folder.path(""))
        .stdin(Stdio::piped())
        .stdout(Stdio::null())
        .spawn()
        .unwrap();
    while folder.names().len() < 2 {
        std::thread::sleep(std::time::Duration::from_millis(10));
    }
    let send = |signal: &str, id: u32| Command::new("kill").args([signal, &id.to_string()]).status().unwrap();
    for signal in ["-HUP", "-INT"] {
        send(signal, child.id());
    }
    std::thread::sleep(std::time::Duration::from_millis(1_000));
    assert!(child.try_wait().unwrap().is_none(), "it ended");
    use std::io::Write as _;
    child.stdin.take().unwrap().write_all(b"k,n\na,x\n").unwrap();
    assert_eq!(child.wait().unwrap().code(), Some(0));
    assert_eq!(folder.read("ready.csv"), "k,n\na,x\n");
}

#[test]
fn sources_that_would_nest_without_end_are_told() {
    let folder = folder();
    let chain = |word: &str| vec!["n > 1"; 50_000].join(word);
    for (what, table) in [
        ("conditions", format!("n INT CHECK ({})", chain(" AND "))),
        ("alternatives", format!("n INT CHECK ({})", chain(" OR "))),
        ("arrays", format!("n INT{}", "[]".repeat(50_000))),
        ("brackets", format!("n INT CHECK {}n > 1{}", "(".repeat(50_000), ")".repeat(50_000))),
        ("signs", format!("n INT CHECK (n > {}1)", "- ".repeat(50_000))),
        ("joined texts", format!("n TEXT DEFAULT {}'a'", "'a' || ".repeat(50_000))),
    ] {
        folder.write("t.sql", format!("CREATE TABLE t (k INT PRIMARY KEY, {table});"));
        let told = folder.run("draft t.sql --table t");
        assert_eq!(
            (told.code, told.err.lines().count()),
            (2, 2),
            "{what}: {}",
            &told.err[..told.err.len().min(300)]
        );
    }
    // What people write is far from that.
    let list: Vec<String> = (0..3_000).map(|n| format!("'v{n}'")).collect();
    let columns: Vec<String> = (0..800).map(|n| format!("c{n} INT CHECK (c{n} >= 0 AND c{n} < 9)")).collect();
    folder.write(
        "t.sql",
        format!(
            "CREATE TABLE t (k INT PRIMARY KEY, p TEXT CHECK (p IN ({})), {});",
            list.join(", "),
            columns.join(", ")
        ),
    );
    let told = folder.run("draft t.sql --table t");
    assert_eq!(told.code, 0, "{}", told.err);
    assert!(told.out.contains("name = \"c799\"") && told.out.contains("v2999"));
}

/// Numbers of JSON keep every digit, whatever power of ten they are written with; what cannot be written out is told.
#[test]
fn powers_of_ten_in_json_are_exact_or_a_stop() {
    let folder = Folder::new();
    folder.write(
        "r.record.toml",
        SCHEMA.replace("name = \"n\"\nkind = \"text\"", "name = \"n\"\nkind = \"decimal\""),
    );
    for (number, wanted) in [
        ("12345678901234567890123e0", Some("12345678901234567890123")),
        ("1.5E+3", Some("1500")),
        ("-2.50e-2", Some("-0.025")),
        ("1e400", Some(&*format!("1{}", "0".repeat(400)))),
        ("1e-9", Some("0.000000001")),
        ("0.1", Some("0.1")),
        ("1e99999", None),
        ("9007199254740993", Some("9007199254740993")),
    ] {
        folder.write("table.json", format!("[{{\"k\":\"a\",\"n\":{number}}}]"));
        let told = folder.run("check table.json --record r.record.toml --ready ready.csv --force");
        match wanted {
            Some(wanted) => {
                assert_eq!(folder.read("ready.csv"), format!("k,n\na,{wanted}\n"), "{number}: {}", told.out)
            }
            None => assert_eq!(told.code, 1, "{number}: {}", told.out),
        }
        assert!(!told.out.contains("inf") && !folder.read("ready.csv").contains("inf"), "{number}");
    }
}
