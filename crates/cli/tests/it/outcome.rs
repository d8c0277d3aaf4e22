//! How records stand when all ready rows are loaded: what must be unique, what must not change, what the target numbers,
//! who refers to whom, and whether it all arrived.

use crate::existing::codes;
use crate::tool::Folder;
use serde_json::{Value, json};

const MEMBERS: &str = r#"format = 1
record = "member"
key = ["no"]
unique = [["club", "seat"]]
alike = ["name", "city"]
[[field]]
name = "no"
kind = "text"
required = true
[[field]]
name = "club"
kind = "text"
[[field]]
name = "seat"
kind = "integer"
[[field]]
name = "name"
kind = "text"
[[field]]
name = "city"
kind = "text"
"#;

const THERE: &str =
    "no,club,seat,name,city\nM-001,A,1,Ann,Ulm\nM-002,A,2,Bob,Bonn\nM-003,B,1,Cid,Köln\nM-004,B,2,Dee,Kiel\n";

fn folder(schema: &str, there: &str) -> Folder {
    let folder = Folder::new();
    folder.write("r.record.toml", schema).write("there.csv", there);
    folder
}

fn told(folder: &Folder, rows: &str, words: &str) -> Vec<(String, u64)> {
    folder.write("table.csv", rows);
    codes(&folder.report(&format!("--existing there.csv {words}")))
}

fn pairs(wanted: &[(&str, u64)]) -> Vec<(String, u64)> {
    wanted.iter().map(|(code, row)| ((*code).to_owned(), *row)).collect()
}

/// What counts is how records stand at the end: values may be swapped, and a row that is held gives nothing up.
#[test]
pub(crate) fn what_must_be_unique_is_judged_on_the_outcome() {
    let folder = folder(MEMBERS, THERE);
    for (rows, mode, wanted) in [
        // Another record has the seat, in whatever way it is written.
        ("no,club,seat\nM-009,A,02\n", "add", &[("unique-exists", 2)][..]),
        ("no,club,seat\nM-009,A,3\n", "add", &[]),
        // A blank cell leaves the club that is there.
        ("no,seat\nM-001,2\n", "update", &[("unique-exists", 2)]),
        ("no,club,seat\nM-001,,2\nM-002,,1\n", "update", &[]),
        // A chain of three of which the last is held: none of them may move.
        (
            "no,club,seat\nM-001,,2\nM-002,B,1\nM-003,,x\n",
            "update",
            &[("unique-exists", 2), ("unique-exists", 3), ("integer-bad", 4)],
        ),
        // Two rows that would get the same seat, each by another half.
        ("no,club,seat\nM-001,,5\nM-002,,5\n", "update", &[("unique-repeated", 2), ("unique-repeated", 3)]),
        // A record keeps what it has.
        ("no,club,seat\nM-001,A,1\n", "both", &[]),
    ] {
        assert_eq!(told(&folder, rows, &format!("--mode {mode}")), pairs(wanted), "{mode} {rows}");
    }
    // What the plan keeps takes nothing: the file's seat is not loaded.
    folder.write("table.csv", "no,seat\nM-001,2\n");
    folder.write("p.plan.toml", "format = 1\nrecord = \"r.record.toml\"\nmode = \"update\"\n[existing]\nfile = \"there.csv\"\noverwrite = \"blank-only\"\n");
    assert_eq!(folder.run("check table.csv --plan p.plan.toml").code, 0);
    // Two records of one key, and one without any.
    folder.write("there.csv", format!("{THERE}M-001,X,1,,\n,X,2,,\n"));
    assert_eq!(told(&folder, "no,seat\nM-001,3\n", "--mode update"), pairs(&[("existing-repeated", 0)]));
    let report = folder.report("--existing there.csv --mode update");
    let message = report["findings"][0]["message"].as_str().unwrap();
    assert!(
        message.contains("1 record in there.csv with the key of another")
            && message.contains("without a key"),
        "{message}"
    );
}

#[test]
fn keys_and_descriptions_are_near_those_of_records_that_are_there() {
    let folder = folder(MEMBERS, THERE);
    let rows = "no,club,seat,name,city\nm-1,C,1,Eve,Ulm\nM-008,C,2,bob,BONN\nM-009,C,3,Fay,Ulm\n";
    assert_eq!(told(&folder, rows, ""), pairs(&[("key-nearly-repeated", 2), ("duplicate-likely", 3)]));
    let report = folder.report("--existing there.csv");
    assert_eq!(
        report["findings"][1]["message"],
        "the record M-002 that is there has another key and describes the same; are they the same?"
    );
}

/// A second round meets what the first one has taken, though the target does not know it yet.
#[test]
fn rows_handed_over_earlier_count_as_there() {
    let folder = folder(MEMBERS, THERE);
    folder.write("first.csv", "no,club,seat,name,city\nM-005,C,1,Eve,Ulm\nM-002,A,9,,\n");
    let rows = "no,club,seat,name,city\nM-005,D,1,Fay,Ulm\nM-006,C,1,Gus,Ulm\nM-007,A,2,Hal,Ulm\n";
    let wanted = pairs(&[("key-exists", 2), ("unique-exists", 3)]);
    assert_eq!(told(&folder, rows, "--released first.csv"), wanted);
    // By a plan, and without any other records.
    let plan = "format = 1\nrecord = \"r.record.toml\"\n[existing]\nfile = \"there.csv\"\nreleased = [\"first.csv\"]\n";
    folder.write("p.plan.toml", plan);
    let ran = folder.run("check table.csv --plan p.plan.toml --format json");
    let report: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!((codes(&report), &report["effects"]["records"]["before"]), (wanted, &json!(5)));
    let ran = folder.run("check table.csv --record r.record.toml --released first.csv --format json");
    assert_eq!(
        codes(&serde_json::from_str(&ran.out).unwrap()),
        pairs(&[("key-exists", 2), ("unique-exists", 3)])
    );
}

const RIGHTS: &str = r#"format = 1
record = "member"
key = ["no"]
[[field]]
name = "no"
kind = "text"
[[field]]
name = "joined"
kind = "date"
required = true
read_only = "update"
[[field]]
name = "city"
kind = "text"
required = true
[[field]]
name = "fee"
kind = "decimal"
[[field]]
name = "reason"
kind = "text"
required = "always"
[[field]]
name = "total"
kind = "decimal"
read_only = true
[[rule]]
name = "as it would be"
when = "fee > 10"
require = ["city"]
[[rule]]
name = "in the file"
when = "fee > 10"
require = ["city"]
sees = "cells"
"#;

#[test]
pub(crate) fn rights_are_judged_by_changes_and_required_fields_on_the_outcome() {
    let there = "no,joined,city,fee,reason,total\n1,2020-01-05,Ulm,5.00,x,10\n2,2020-01-06,Bonn,20,y,11\n3,2020-01-07,,,z,\n";
    let folder = folder(RIGHTS, there);
    for (rows, mode, wanted) in [
        // What equals the record is no change, however it is written.
        ("no,joined,reason,total\n1,2020-01-05,r,10.0\n", "update", &[][..]),
        (
            "no,joined,reason,total\n1,2020-01-06,r,9\n",
            "update",
            &[("read-only-changed", 2), ("read-only-changed", 2)],
        ),
        (
            "no,joined,city,reason\n4,2024-01-01,Kiel,r\n1,2024-01-01,,r\n",
            "both",
            &[("read-only-changed", 3)],
        ),
        // The record has no city either; the cell itself must be filled.
        ("no,city,reason\n3,,r\n1,,\n", "update", &[("required-blank", 2), ("required-blank", 3)]),
        // New records need what the file has no column for.
        ("no,reason\n1,r\n9,r\n", "both", &[("required-blank", 3), ("required-blank", 3)]),
        ("no,fee,city,reason\n1,30,,r\n", "update", &[("rule-required", 2)]),
    ] {
        assert_eq!(told(&folder, rows, &format!("--mode {mode}")), pairs(wanted), "{mode} {rows}");
    }
}

/// A column outside the scope is held against the records; only what is blank may be filled.
#[test]
fn scope_and_overwriting_are_judged_against_the_records() {
    let there = "no,joined,city,fee,reason,total\n1,2020-01-05,Ulm,5,x,1\n2,2020-01-06,Bonn,,y,1\n3,2020-01-07,Bonn,7,z,1\n";
    let folder = folder(RIGHTS, there);
    folder.write("table.csv", "no,city,fee,reason\n1,Ulm,8,r\n2,Kiel,9,r\n3,Bonn,7.0,z\n");
    let plan = |more: &str| {
        format!(
            "format = 1\nrecord = \"r.record.toml\"\nmode = \"update\"\n[existing]\nfile = \"there.csv\"\n{more}\n"
        )
    };
    let run = |more: &str| {
        folder.write("p.plan.toml", plan(more));
        let ran = folder.run("check table.csv --plan p.plan.toml --format json --ready ready.csv --force");
        let report: Value = serde_json::from_str(&ran.out).unwrap();
        (codes(&report), report, folder.read("ready.csv"))
    };
    let (found, _, ready) = run("[scope]\nfields = [\"fee\", \"reason\"]");
    assert_eq!(found, pairs(&[("field-out-of-scope", 3)]));
    assert_eq!(ready, "no,fee,reason\n1,8,r\n3,7,z\n");
    // The condition is asked of the record as it is, and as it would be.
    let (found, ..) = run("[scope]\nwhere = \"city = 'Bonn'\"\noutside = \"leave-out\"");
    assert_eq!(found, pairs(&[("row-out-of-scope", 2), ("row-out-of-scope", 3)]));
    let (found, report, ready) = run("overwrite = \"blank-only\"");
    assert_eq!((found, ready.as_str()), (vec![], "no,city,fee,reason\n1,,,\n2,,9,\n3,,,\n"));
    let of = |field: &str| {
        let fields = report["effects"]["fields"].as_array().unwrap();
        let found = fields.iter().find(|one| one["field"] == field).unwrap();
        ["filled", "overwritten", "kept", "unchanged"].map(|key| found[key].as_u64().unwrap())
    };
    assert_eq!((of("fee"), of("city")), ([1, 0, 1, 1], [0, 0, 1, 2]));
}

const NUMBERED: &str = r#"format = 1
record = "member"
key = ["id"]
also_by = ["ref"]
[[field]]
name = "id"
kind = "integer"
numbered = true
[[field]]
name = "ref"
kind = "text"
[[field]]
name = "name"
kind = "text"
required = true
[[field]]
name = "above"
kind = "reference"
to = "member"
"#;

#[test]
pub(crate) fn the_target_numbers_records_and_something_else_may_stand_for_the_number() {
    let folder = folder(NUMBERED, "id,ref,name,above\n1,A-1,Ann,\n2,A-2,Bob,1\n3,,Cid,2\n");
    let rows = "id,ref,name,above\n,A-1,Anna,\n,A-9,Zoe,A-2\n,,Yan,\n2,A-7,Bob,\n5,,Xi,\n";
    for (mode, wanted, counts) in [
        ("add", &[("unique-exists", 2), ("key-numbered", 5), ("key-numbered", 6)][..], [2, 0]),
        ("update", &[("key-blank", 3), ("key-blank", 4), ("key-not-found", 6)], [0, 2]),
        ("both", &[("key-not-found", 6)], [2, 2]),
    ] {
        assert_eq!(told(&folder, rows, &format!("--mode {mode}")), pairs(wanted), "{mode}");
        let report = folder.report(&format!("--existing there.csv --mode {mode} --ready {mode}.csv"));
        let records = &report["effects"]["records"];
        assert_eq!([&records["added"], &records["changed"]], [counts[0], counts[1]], "{mode}");
    }
    assert_eq!(folder.read("both.csv"), "id,ref,name,above\n,A-1,Anna,\n,A-9,Zoe,2\n,,Yan,\n2,A-7,Bob,\n");
    // Without a column of the key.
    assert_eq!(
        told(&folder, "ref,name\nA-1,Anna\nA-8,Bo\n", "--mode update"),
        pairs(&[("key-not-found", 3)])
    );
    // What it is found by goes with it, though nothing but the name may change.
    folder.write("table.csv", "ref,name\nA-1,Anna\n");
    folder.write("p.plan.toml", "format = 1\nrecord = \"r.record.toml\"\nmode = \"update\"\n[scope]\nfields = [\"name\"]\n[existing]\nfile = \"there.csv\"\n");
    assert_eq!(folder.run("check table.csv --plan p.plan.toml --ready some.csv").code, 0);
    assert_eq!(folder.read("some.csv"), "ref,name\nA-1,Anna\n");
    // New records that are like each other, and like one that is there.
    folder.write(
        "alike.record.toml",
        NUMBERED.replacen("also_by", "alike = [\"name\", \"above\"]\nalso_by", 1),
    );
    folder.write("table.csv", "id,ref,name,above\n,B-1,Bob,1\n,B-2,Eve,2\n,B-3,EVE,2\n");
    let ran = folder.run("check table.csv --record alike.record.toml --existing there.csv --format json");
    let wanted = pairs(&[("duplicate-likely", 2), ("duplicate-likely", 3), ("duplicate-likely", 4)]);
    assert_eq!(codes(&serde_json::from_str(&ran.out).unwrap()), wanted);
    // Who refers to whom, in the file and beyond it.
    let circle = "id,ref,name,above\n,N-1,Zoe,N-2\n,N-2,Yan,N-1\n,N-3,Xi,3\n,N-4,Wu,77\n";
    let wanted = pairs(&[("reference-cycle", 2), ("reference-cycle", 3), ("reference-unknown", 5)]);
    assert_eq!(told(&folder, circle, ""), wanted);
    assert_eq!(told(&folder, "id,above\n1,3\n2,\n", "--mode update"), pairs(&[("reference-cycle", 2)]));
}

#[test]
fn records_of_several_rows_that_the_target_numbers_are_joined_on_no_guess() {
    let schema = NUMBERED.replace("also_by = [\"ref\"]\n", "")
        + "[lines]\nheader = [\"id\", \"ref\"]\nkey = [\"name\"]\n";
    let folder = Folder::new();
    let rows = "id,ref,name,above\n,Lund,Gluten,\n,,Milk,\n,Lund,Salt,\n";
    folder.write("r.record.toml", &schema).write("table.csv", rows);
    let report = folder.report("--ready ready.csv");
    assert_eq!((&report["counts"]["records"], &report["counts"]["stops"]), (&json!(2), &json!(0)));
    assert_eq!(folder.read("ready.csv"), rows);
    folder.write("r.record.toml", schema.replace("numbered = true\n", ""));
    folder.write("table.csv", "id,ref,name,above\n103,Elm,Flour,\n,Lund,Gluten,\n,,Milk,\n104,Oak,Salt,\n");
    let found = codes(&folder.report(""));
    let found: Vec<_> = found.into_iter().filter(|found| found.0 == "line-without-header").collect();
    assert_eq!(found, pairs(&[("line-without-header", 3), ("line-without-header", 4)]));
}

/// The ready rows loaded by plain means have all arrived; nothing is left to change; and ready files are written as an
/// export of the target is.
#[test]
fn what_was_handed_over_is_found_again() {
    let folder = folder(MEMBERS, "");
    let export = "\"no\";\"\";\"Klub\";\"seat\";\"name\";\"city\"\r\n\"M-001\";\"\";\"A\";\"1\";\"Ann\";\"K\u{f6}ln\"\r\n\"M-002\";\"\";\"A\";\"2\";\"Bob\";\"Bonn\"\r\n";
    let (latin, ..) = encoding_rs::WINDOWS_1252.encode(export);
    folder.write("there.csv", latin);
    folder.write(
        "r.record.toml",
        MEMBERS.replacen("name = \"club\"\n", "name = \"club\"\nlabel = \"Klub\"\n", 1),
    );
    folder.write(
        "p.plan.toml",
        "format = 1\nrecord = \"r.record.toml\"\nmode = \"both\"\n[existing]\nfile = \"there.csv\"\n[write]\nlike = \"there.csv\"\n",
    );
    folder.write("table.csv", "no,club,seat,name,city\nM-001,,7,,\nM-003,B,1,Cid,Köln\n");
    assert_eq!(folder.run("check table.csv --plan p.plan.toml --ready ready.csv").code, 0);
    let ready = std::fs::read(folder.path("ready.csv")).unwrap();
    let (ready, ..) = encoding_rs::WINDOWS_1252.decode(&ready);
    assert_eq!(
        ready,
        "\"no\";\"\";\"Klub\";\"seat\";\"name\";\"city\"\r\n\"M-001\";\"\";\"\";\"7\";\"\";\"\"\r\n\"M-003\";\"\";\"B\";\"1\";\"Cid\";\"K\u{f6}ln\"\r\n"
    );
    let reconcile =
        "reconcile ready.csv --plan p.plan.toml --existing after.csv --format json --force --rows rows.csv";
    let after = export.replace("\"A\";\"1\"", "\"A\";\"7\"");
    let whole = format!("{after}\"M-003\";\"\";\"B\";\"01\";\"Cid\";\"K\u{f6}ln\"\r\n");
    for (after, code, counts, rows) in [
        (&whole, 0, [2, 0, 0], ""),
        (&after, 1, [1, 0, 1], "3,M-003,missing,,,\r\n"),
        (&whole.replace("\"7\"", "\"8\""), 1, [1, 1, 0], "2,M-001,different,seat,7,8\r\n"),
    ] {
        folder.write("after.csv", after);
        let ran = folder.run(reconcile);
        let found: Value = serde_json::from_str(&ran.out).unwrap();
        let found = ["arrived", "different", "missing"].map(|key| found[key].as_u64().unwrap());
        assert_eq!((ran.code, found), (code, counts), "{}", ran.err);
        assert_eq!(folder.read("rows.csv"), format!("row,key,what,field,wanted,found\r\n{rows}"));
    }
    folder.write("after.csv", &whole);
    let ran = folder.run("effects ready.csv --record r.record.toml --mode both --existing after.csv --format json --missing gone.csv");
    let effects: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(
        (&effects["records"]["unchanged"], &effects["missing"]),
        (&json!(2), &json!(1)),
        "{}",
        ran.err
    );
    assert_eq!(folder.read("gone.csv"), "no\r\nM-002\r\n");
    // A column too few would lose values.
    folder.write(
        "p.plan.toml",
        "format = 1\nrecord = \"r.record.toml\"\n[write]\ncolumns = [\"no\", \"\", \"name\"]\n",
    );
    let ran = folder.run("check table.csv --plan p.plan.toml --ready lost.csv");
    assert!(ran.code == 2 && ran.err.contains("no column for club, seat, city"), "{}", ran.err);
    assert!(!folder.names().contains(&"lost.csv".to_owned()));
}
