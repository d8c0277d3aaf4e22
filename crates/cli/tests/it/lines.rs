//! Several rows that make one record, on the built program.

use crate::tool::{Folder, told};

const SCHEMA: &str = r#"
format = 1
record = "survey"
key = ["tag"]
unique = [["site", "position"]]

[lines]
header = ["tag", "site", "position", "planted"]
key = ["visit"]
count = { min = 1, max = 3 }

[[field]]
name = "tag"
kind = "text"
[[field]]
name = "site"
kind = "text"
required = true
[[field]]
name = "position"
kind = "integer"
[[field]]
name = "planted"
kind = "date"
range = { min = "2000-01-01" }
[[field]]
name = "visit"
kind = "integer"
[[field]]
name = "visited"
kind = "date"
required = true

[[rule]]
name = "visited after planting"
must = "visited >= planted"
"#;

const HEAD: &str = "tag,site,position,planted,visit,visited\n";

fn folder(rows: &str) -> Folder {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("table.csv", format!("{HEAD}{rows}"));
    folder
}

#[test]
pub(crate) fn each_fault_of_records_is_told_where_it_is() {
    let first = "A,W1,1,2020-01-01,1,2021-01-01\n";
    let cases = [
        // Blank or repeated below the first row, the numbers and dates written otherwise.
        (format!("{first},,,,2,2021-02-01\nA,W1,01,2020-01-01,3,2021-02-01\nB,W1,2,,1,2021-01-01\n"), vec![]),
        (format!("{first}A,W2,,,2,2021-02-01\n"), vec!["header-differs 3 B site"]),
        // Without its key a row with header cells of its own might begin another record.
        (format!("{first},W2,,,2,2021-02-01\n"), vec!["line-without-header 3 A tag"]),
        // What stands blank in the first row is a value like any other.
        (
            "A,W1,,2020-01-01,1,2021-01-01\nA,,7,,2,2021-01-01\n".to_owned(),
            vec!["header-differs 3 C position"],
        ),
        (format!("{first},,,,1,2021-02-01\n"), vec!["line-repeated 2 - -", "line-repeated 3 - -"]),
        (format!("{first},,,,,2021-02-01\n"), vec!["key-blank 3 E visit"]),
        // The same line of another record is another line.
        (format!("{first}B,W1,3,,1,2021-02-01\n"), vec![]),
        (
            format!("{first},,,,2,2021-02-01\n,,,,3,2021-02-01\n,,,,4,2021-02-01\n"),
            vec!["lines-too-many 2 - -"],
        ),
        (
            format!(",W1,,,1,2021-02-01\n,,,,2,2021-02-01\n{first}"),
            vec!["line-without-header 2 A tag", "line-without-header 3 A tag"],
        ),
        // A second run: the whole record is held, and its own combination is no repeat.
        (
            format!("{first}B,W1,2,,1,2021-01-01\n{}", first.replace(",1,2021", ",2,2021")),
            vec!["lines-apart 4 A tag"],
        ),
        (
            format!("{first}B,W1,1,,1,2021-01-01\n,,,,2,2021-01-01\n"),
            vec!["unique-repeated 2 - -", "unique-repeated 3 - -"],
        ),
        // A rule sees what the row takes over; what is wrong with that is told once, above.
        (format!("{first},,,,2,2019-02-01\n"), vec!["rule-broken 3 - -"]),
        ("A,W1,1,1999-01-01,1,1998-01-01\n,,,,2,1998-01-01\n".to_owned(), vec!["out-of-range 2 D planted"]),
        ("A,,1,,1,2021-01-01\n,,,,2,2021-01-01\n".to_owned(), vec!["required-blank 2 B site"]),
        // A row that goes astray belongs to the record above it.
        (format!("{first},,x,\n,,,,2,2021-02-01\n"), vec!["row-width 3 - -"]),
    ];
    for (rows, expected) in cases {
        let report = folder(&rows).report("");
        assert_eq!(told(&report), expected, "{rows}");
    }
}

#[test]
pub(crate) fn a_record_with_too_few_lines_is_held_whole() {
    let folder = folder("A,W1,1,,1,2021-01-01\nB,W1,2,,1,2021-01-01\n,,,,2,2021-02-01\n");
    folder.write("r.record.toml", SCHEMA.replace("min = 1", "min = 2"));
    let report = folder.report("");
    assert_eq!(told(&report), ["lines-too-few 2 - -"]);
    assert_eq!((&report["counts"]["held"], &report["counts"]["records_held"]), (&1.into(), &1.into()));
}

#[test]
fn records_are_counted_held_and_handed_on_whole() {
    let rows = "A,W1,1,2020-01-01,1,2021-01-01\n,,,,2,2021-02-01\n\
                B,W1,2,,1,2021-01-01\n,,,,2,bad\n\
                C,W1,3,,1,2021-01-01\nD,W1,4,,1,2021-01-01\nC,,,,2,2021-01-01\n";
    let folder = folder(rows);
    let report = folder.report("--ready ready.csv --held held.csv");
    let counts = &report["counts"];
    let names = ["rows", "ready", "held", "records", "records_held"];
    assert_eq!(names.map(|name| counts[name].as_u64().unwrap()), [7, 3, 4, 4, 2]);
    insta::assert_snapshot!(folder.read("ready.csv"), @r"
    tag,site,position,planted,visit,visited
    A,W1,1,2020-01-01,1,2021-01-01
    A,W1,1,2020-01-01,2,2021-02-01
    D,W1,4,,1,2021-01-01
    ");
    insta::assert_snapshot!(folder.read("held.csv"), @r#"
    tidy-gate row,tidy-gate reasons,tag,site,position,planted,visit,visited
    4,held with its record: another row of it has a stop,B,W1,2,,1,2021-01-01
    5,"date-bad: visited: not a date in any permitted form, expected a date as yyyy-MM-dd",,,,,2,bad
    6,held with its record: another row of it has a stop,C,W1,3,,1,2021-01-01
    8,"lines-apart: tag: the rows of this record stand in 2 places; sort the file by the key (also in row 6); required-blank: site: a required value is missing, expected a value",C,,,,2,2021-01-01
    "#);
    // The ready rows are sound by themselves; the held ones show the same again, though the parted rows stand together.
    folder.write("table.csv", folder.read("ready.csv"));
    assert_eq!(told(&folder.report("")), Vec::<String>::new());
    folder.write("table.csv", folder.read("held.csv"));
    assert_eq!(told(&folder.report("")), ["date-bad 3 H visited", "lines-apart 5 C tag"]);
    let text = folder.run("check table.csv --record r.record.toml").out;
    assert!(text.contains("2 records: 0 ready, 2 held"), "{text}");
}

#[test]
fn a_section_that_cannot_be_is_told_with_its_place() {
    let folder = folder("");
    let cases = [
        (
            "header = [\"tag\", \"site\", \"position\", \"planted\"]",
            "header = [\"site\"]",
            "does not hold the whole key",
        ),
        ("key = [\"visit\"]", "key = [\"tag\"]", "stands in `header` too"),
        ("key = [\"visit\"]", "key = [\"visits\"]", "did you mean `visit`?"),
        ("min = 1", "min = 4", "`min` is more than `max`"),
        ("max = 3", "most = 3", "there is no key `most` here"),
        (
            "kind = \"integer\"\n[[field]]\nname = \"visited\"",
            "kind = \"integer\"\ndefault = 1\n[[field]]\nname = \"visited\"",
            "takes no default",
        ),
    ];
    for (from, to, expected) in cases {
        folder.write("r.record.toml", SCHEMA.replacen(from, to, 1));
        let ran = folder.run("check table.csv --record r.record.toml");
        assert_eq!(ran.code, 2);
        assert!(ran.err.contains(expected), "{}", ran.err);
    }
    folder.write("r.record.toml", SCHEMA);
    folder.write("p.plan.toml", "format = 1\nrecord = \"r.record.toml\"\n[repeats]\nstands = \"first\"\n");
    let ran = folder.run("check table.csv --plan p.plan.toml");
    assert!(ran.code == 2 && ran.err.contains("cannot stand beside [lines]"), "{}", ran.err);
}

#[test]
fn the_inspections_of_the_demo_have_each_fault_once() {
    let folder = Folder::new();
    for name in [
        "inspection.record.toml",
        "ward-3-inspections.csv",
        "ward-3-inspections.plan.toml",
        "ward-3-survey.csv",
    ] {
        folder.write(name, std::fs::read(crate::tool::demo().join(name)).unwrap());
    }
    let words =
        "check ward-3-inspections.csv --plan ward-3-inspections.plan.toml --today 2026-11-25 --format json";
    let report: serde_json::Value = serde_json::from_str(&folder.run(words).out).unwrap();
    let totals = report["totals"].as_array().unwrap();
    let codes: Vec<_> = totals
        .iter()
        .map(|total| format!("{} {}", total["code"].as_str().unwrap(), total["count"]))
        .collect();
    insta::assert_snapshot!(codes.join("\n"), @r"
    block-incomplete 1
    combination-not-permitted 1
    date-impossible 1
    decimal-bad 1
    header-differs 1
    key-blank 1
    line-repeated 2
    line-without-header 1
    lines-apart 1
    list-repeated 1
    list-separator 1
    off-list 1
    phone-bad 1
    reference-unknown 1
    time-bad 1
    url-bad 1
    ");
    let counts =
        ["rows", "held", "records", "records_held"].map(|name| report["counts"][name].as_u64().unwrap());
    assert_eq!(counts, [111, 28, 59, 14]);
}

#[test]
fn the_key_of_a_line_is_needed_like_any_key() {
    let folder = folder("");
    folder.write("table.csv", "tag,site,visited\nA,W1,2021-01-01\n");
    let report = folder.report("");
    let missing =
        report["findings"].as_array().unwrap().iter().find(|finding| finding["code"] == "field-missing");
    assert_eq!(
        missing.unwrap()["message"],
        "no column for visit, which is the key of a line, expected the heading \"visit\""
    );
    assert!(
        folder.run("fields r.record.toml visit").out.contains("always: it tells the lines of a record apart")
    );
    assert!(folder.run("template r.record.toml -o t.xlsx").out.contains("4 required"));
    // It is always in scope, as the key is.
    folder.write("table.csv", format!("{HEAD}A,W1,1,,1,2021-01-01\n"));
    folder.write("p.plan.toml", "format = 1\nrecord = \"r.record.toml\"\n[scope]\nfields = [\"site\", \"position\", \"planted\", \"visited\"]\n");
    assert_eq!(folder.run("check table.csv --plan p.plan.toml").code, 0);
}

/// Lines that are there, with their records' own values above or beside them, in the order of a book or in none.
#[test]
fn records_that_are_there_are_lines_in_any_order() {
    let there = [
        "A,W1,1,2020-01-01,1,2021-01-01\n,,,,2,2021-02-01\nB,W1,2,,1,2021-01-01\nC,W2,1,,1,2021-01-01\n".to_owned(),
        "B,W1,2,,1,2021-01-01\nA,W1,1,2020-01-01,2,2021-02-01\nC,W2,1,,1,2021-01-01\nA,W1,1,2020-01-01,1,2021-01-01\n"
            .to_owned(),
    ];
    // A line of A gets another day, B another site and a new line, C stays, D is nobody's.
    let rows = "A,W1,1,,2,2021-03-01\nB,W9,2,,1,2021-01-01\n,,,,2,2021-04-01\nC,W2,1,,1,2021-01-01\nD,W3,1,,1,2021-01-01\n";
    for export in there {
        let folder = folder(rows);
        folder.write("there.csv", format!("{HEAD}{export}"));
        let effects = |file: &str, existing: &str, mode: &str| {
            let words = format!(
                "effects {file} --record r.record.toml --mode {mode} --existing {existing} --format json"
            );
            let ran = folder.command(&words).args(["--rows", "changed.csv", "--force"]).output().unwrap();
            let report: serde_json::Value = serde_json::from_slice(&ran.stdout).unwrap();
            let of = |part: &str, names: &[&str]| -> Vec<u64> {
                names.iter().filter_map(|name| report[part][name].as_u64()).collect()
            };
            let records = of("records", &["before", "added", "changed", "unchanged", "after", "held"]);
            (records, of("lines", &["added", "changed", "unchanged"]), folder.read("changed.csv"))
        };
        let changed =
            "tag,visit,field,old,new,row\r\nA,2,visited,2021-02-01,2021-03-01,2\r\nB,1,site,W1,W9,3\r\n";
        let both = effects("table.csv", "there.csv", "both");
        assert_eq!(both, (vec![3, 1, 2, 1, 4, 0], vec![1, 1, 2], changed.to_owned()));
        let update = effects("table.csv", "there.csv", "update");
        assert_eq!((update.0, update.1), (vec![3, 0, 2, 1, 3, 1], vec![1, 1, 2]));
        // Whoever adds them again is told once a record.
        let add = "check table.csv --record r.record.toml --mode add --existing there.csv --findings f.csv --ready r.csv";
        assert_eq!(folder.run(add).code, 1);
        assert_eq!(folder.read("f.csv").matches("key-exists").count(), 3);
        // Handed over, nothing is left to do, and all has arrived.
        let released =
            "check table.csv --record r.record.toml --mode both --existing there.csv --ready ready.csv";
        assert_eq!(folder.run(released).code, 0);
        let again = effects("table.csv", "there.csv --released ready.csv", "both");
        assert_eq!((again.0, again.1), (vec![4, 0, 0, 4, 4, 0], vec![0, 0, 5]));
        let after = "reconcile ready.csv --record r.record.toml --mode both --existing ready.csv";
        assert_eq!(folder.run(after).code, 0);
        assert_eq!(folder.run(&after.replace("--existing ready", "--existing there")).code, 1);
        let nameless = SCHEMA.replace("key = [\"visit\"]", "");
        folder.write("n.record.toml", nameless);
        let ran = folder.run("check table.csv --record n.record.toml --mode update --existing there.csv");
        assert!(ran.code == 2 && ran.err.contains("[lines]"), "{}", ran.err);
    }
}
