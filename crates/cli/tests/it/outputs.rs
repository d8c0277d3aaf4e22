//! Ready, held and findings: whole, consistent with each other, and the same on every run.

use crate::tool::{Folder, demo, told};
use crate::whole_rows::schema;
use serde_json::Value;

fn ward_7() -> Folder {
    let folder = Folder::new();
    for name in ["species.csv", "ward-7-survey.csv", "tree.record.toml"] {
        folder.write(name, std::fs::read(demo().join(name)).unwrap());
    }
    folder.write("table.csv", std::fs::read(demo().join("ward-7-survey.csv")).unwrap());
    folder.write("r.record.toml", std::fs::read(demo().join("tree.record.toml")).unwrap());
    folder
}

const STATED: &str = "--dates dd.MM.yyyy";

#[test]
fn ready_checks_clean_and_held_shows_the_same_codes() {
    let folder = ward_7();
    let report = folder.report(&format!("{STATED} --ready ready.csv --held held.csv --findings all.ndjson"));
    let count = |key: &str| report["counts"][key].as_u64().unwrap() as usize;
    let rows = |name: &str| csv::Reader::from_path(folder.path(name)).unwrap().into_records().count();
    assert_eq!((rows("ready.csv"), rows("held.csv")), (count("ready"), count("held")));
    assert_eq!(count("ready") + count("held") + count("left_out"), count("rows"));

    let all: Vec<Value> =
        folder.read("all.ndjson").lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!(all.len(), count("stops") + count("warns") + count("notes"));
    assert_eq!(Value::from(all), report["findings"], "few enough to be all in the report");

    std::fs::rename(folder.path("ready.csv"), folder.path("table.csv")).unwrap();
    let ready = folder.report("");
    // Suspicions stay what they were: the ready rows hold the values as they came.
    let suspicions = [
        "placeholder 53 N notes",
        "formula-like 54 N notes",
        "space-stray 55 N notes",
        "duplicate-likely 202 - -",
        "duplicate-likely 208 - -",
    ];
    assert_eq!(told(&ready), suspicions);
    assert_eq!(ready["gate"], "open");

    // The same codes at the same fields; rows have moved.
    let stops = |report: &Value| -> Vec<(Value, Value)> {
        let totals = report["totals"].as_array().unwrap();
        totals
            .iter()
            .filter(|total| total["level"] == "stop")
            .map(|t| (t["code"].clone(), t["field"].clone()))
            .collect()
    };
    std::fs::rename(folder.path("held.csv"), folder.path("table.csv")).unwrap();
    let held = folder.report(STATED);
    assert_eq!(stops(&held), stops(&report));
    assert_eq!(
        (held["counts"]["held"].as_u64().unwrap() as usize, held["columns"][0]["how"].as_str()),
        (count("held"), Some("left-out"))
    );
}

#[test]
fn threads_and_standard_input_change_no_byte() {
    // Many blocks: the faulty file over and over, with keys of its own.
    let folder = ward_7();
    let text = folder.read("table.csv");
    // Title, headings and units stand above the rows.
    let (above, _) = text.match_indices('\n').nth(4).unwrap();
    let (head, rows) = text.split_at(above + 1);
    let mut large = head.to_owned();
    for copy in 0..60 {
        large.push_str(
            &rows.replace("HT-000", &format!("HT-{:03}", 100 + copy)).replace("W07", &format!("W{copy:02}")),
        );
    }
    folder.write("table.csv", &large);
    let outputs = |n: usize| format!("--findings f{n}.csv --ready r{n}.csv --held h{n}.csv");
    let first = folder.report(&format!("--threads 1 {}", outputs(1)));
    for threads in [2, 5] {
        assert_eq!(folder.report(&format!("--threads {threads} {}", outputs(threads))), first);
        for kind in ["f", "r", "h"] {
            assert!(
                folder.read(&format!("{kind}{threads}.csv")) == folder.read(&format!("{kind}1.csv")),
                "{kind}{threads}"
            );
        }
    }
    let input = std::fs::File::open(folder.path("table.csv")).unwrap();
    let words = format!("check - --record r.record.toml --today 2026-11-25 --format json {}", outputs(9));
    let mut piped =
        std::process::Command::new("cat").stdin(input).stdout(std::process::Stdio::piped()).spawn().unwrap();
    let ran = crate::tool::ran(folder.command(&words).stdin(piped.stdout.take().unwrap()).output().unwrap());
    piped.wait().unwrap();
    let mut report: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(report["file"]["name"], "-");
    report["file"]["name"] = first["file"]["name"].clone();
    assert_eq!(report, first);
    assert!(folder.read("h9.csv") == folder.read("h1.csv") && folder.read("r9.csv") == folder.read("r1.csv"));
    assert!(folder.read("f9.csv") == folder.read("f1.csv"));
}

#[test]
fn sensitive_values_are_masked_in_everything_but_the_rows() {
    let folder = ward_7();
    let ran = folder.run("check table.csv --record r.record.toml --findings f.csv --held held.csv");
    let secret = "a.okafor@trees,";
    assert!(folder.read("held.csv").contains(secret));
    let json = folder.report("").to_string();
    for (name, text) in [("text", &ran.out), ("findings", &folder.read("f.csv")), ("json", &json)] {
        // The text has room for the first of them alone.
        assert!(!text.contains("a.okafor") && (name == "text" || text.contains("***")), "{name}");
    }
}

#[test]
fn outputs_are_whole_or_not_there_and_never_over_what_exists() {
    let folder = ward_7();
    folder.write("old.csv", "precious");
    let check = "check table.csv --record r.record.toml";
    for (words, message) in [
        ("--ready old.csv", "old.csv exists already; choose another name, such as old-2.csv"),
        ("--held table.csv --force", "table.csv would overwrite the input"),
        ("--held ./table.csv --force", "would overwrite the input"),
        ("--findings species.csv --force", "would overwrite a picklist"),
        ("--ready r.record.csv --held r.record.csv", "would overwrite another output"),
        ("--ready ready.xls", "the ending of a file of ready rows is .csv"),
        ("--findings f.txt", "the ending of a file of findings is .csv or .ndjson"),
        ("--ready nowhere/ready.csv", "cannot write nowhere/ready.csv: no such file or directory"),
    ] {
        let ran = folder.run(&format!("{check} {words}"));
        assert_eq!((ran.code, ran.out.as_str()), (2, ""), "{words}");
        assert!(ran.err.contains(message), "{words}: {}", ran.err);
    }
    let before = folder.names();
    assert_eq!(folder.read("old.csv"), "precious");
    assert_eq!(folder.run(&format!("{check} --ready old.csv --force")).code, 1);
    assert!(folder.read("old.csv").starts_with("tag_no,"));
    assert_eq!(folder.names(), before, "nothing else has come or gone");
}

#[test]
fn held_rows_stay_as_they_came() {
    let folder = Folder::new();
    folder.write("r.record.toml", "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"integer\"\n[[field]]\nname = \"v\"\nkind = \"date\"\n");
    folder.write(
        "table.csv",
        "\u{FEFF}k ,\"v\",extra\r\n 1,\"so\n\"\"on\"\"\",=1+1\r\n2,2020-01-01,\r\n,,\r\n3,x",
    );
    folder.report("--held held.csv --ready ready.csv");
    assert_eq!(
        folder.read("held.csv"),
        "\u{FEFF}tidy-gate row,tidy-gate reasons,k ,\"v\",extra\r\n\
         2,\"date-bad: v: not a date in any permitted form, expected a date as yyyy-MM-dd\", 1,\"so\n\"\"on\"\"\",=1+1\r\n\
         5,\"row-width: the row has fewer cells than there are headings; it is judged no further, expected 3 cells\",3,x\r\n"
    );
    assert_eq!(folder.read("ready.csv"), "k,v\n2,2020-01-01\n");
}

#[test]
fn a_stop_of_the_file_holds_every_row() {
    let folder = Folder::new();
    folder.write("r.record.toml", "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"integer\"\n[[field]]\nname = \"v\"\nkind = \"text\"\nrequired = true\n");
    folder.write("table.csv", "k\n1\n2\n");
    let report = folder.report("--held held.csv --ready ready.csv");
    assert_eq!((&report["counts"]["held"], &report["counts"]["ready"]), (&2.into(), &0.into()));
    assert_eq!(folder.read("ready.csv"), "k\n");
    let held = folder.read("held.csv");
    assert_eq!(held.matches("field-missing: no column for v, which is required").count(), 2, "{held}");

    folder.write("table.csv", "k,v\n1,a\n2,\"b\n3,c\n");
    let report = folder.report("--held open.csv");
    assert_eq!((&report["counts"]["rows"], &report["counts"]["held"]), (&2.into(), &2.into()));
    assert!(folder.read("open.csv").ends_with("2,\"b\n3,c\n"), "the swallowed rows are there");

    folder.write("table.csv", "k,\"v\n1,a\n");
    let report = folder.report("--held none.csv");
    assert_eq!(
        told(&report),
        ["field-missing - - v", "file-empty - - -", "heading-close 1 B -", "quote-open 1 B -"]
    );
    assert!(!folder.path("none.csv").exists());
}

#[test]
fn bytes_that_are_no_text_are_held_as_signs_and_said() {
    let folder = Folder::new();
    folder.write("r.record.toml", schema("key = [\"k\"]\nk: text; required = true\nn: integer\n"));
    folder.write("table.csv", b"k,n\na\xFF1,1\nb,2\nc\xC3,\xFE\n");
    let ran = folder
        .run("check table.csv --record r.record.toml --encoding utf-8 --held held.csv --ready ready.csv");
    assert!(ran.out.contains("2 held rows with bytes that are no text"), "{}", ran.out);
    // Valid UTF-8, or this could not be read.
    let held = folder.read("held.csv");
    assert!(held.contains(",a\u{FFFD}1,1\n") && held.contains(",c\u{FFFD},\u{FFFD}\n"), "{held}");
    assert_eq!(folder.read("ready.csv"), "k,n\nb,2\n");
    let report = folder.report("--encoding utf-8 --held again.csv");
    assert_eq!(report["held_replaced"], 2);
    // Nothing is lost where the encoding is found: then they are letters.
    assert_eq!(folder.report("--held guessed.csv")["held_replaced"], 0);
}
