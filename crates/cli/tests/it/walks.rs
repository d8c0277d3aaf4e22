//! Paths that a table walks through the tool: drafted, checked, handed over, sent back and mended, and each output in again.
//! Whatever the trade, the country and the faults, the counts add up, and nothing is lost or told anew on the way.

mod tables;

use crate::round_trips::Dice;
use crate::tool::{Folder, told};
use serde_json::Value;
use std::collections::BTreeMap;
use tables::Table;

const CHECK: &str = "--record r.record.toml --today 2026-11-25 --format json --force";

fn check(folder: &Folder, words: &str) -> Value {
    let how = if words.contains("--plan ") {
        CHECK.replace("--record r.record.toml", "")
    } else {
        CHECK.to_owned()
    };
    let ran = folder.run(&format!("check {words} {how}"));
    assert!(ran.code < 2, "{words}: {}", ran.err);
    serde_json::from_str(&ran.out).unwrap()
}

fn count(report: &Value, what: &str) -> u64 {
    report["counts"][what].as_u64().unwrap()
}

/// How often each code is told of each field, of what is no note; without those that are of the file and not of its rows.
fn totals(report: &Value, without: &[&str]) -> BTreeMap<String, u64> {
    let totals = report["totals"].as_array().unwrap().iter();
    let kept = totals
        .filter(|total| total["level"] != "note" && !without.iter().any(|code| total["code"] == **code));
    kept.map(|total| (format!("{} {}", total["code"], total["field"]), total["count"].as_u64().unwrap()))
        .collect()
}

/// Codes that other rows than its own give a row, or that tell of rows that are none.
const OF_OTHERS: [&str; 9] = [
    "file-empty",
    "key-repeated",
    "key-nearly-repeated",
    "row-repeated",
    "duplicate-likely",
    "total-row",
    "total-wrong",
    "footer-row",
    "encoding-doubt",
];

/// Walks a spoilt table, whose record schema is there, to the end of every path.
fn walk(folder: &Folder, file: &str, what: &str) {
    let first = check(folder, &format!("{file} --ready ready.csv --held held.csv --marked marked.xlsx"));
    let (ready, held) = (count(&first, "ready"), count(&first, "held"));
    assert_eq!(count(&first, "rows"), ready + held + count(&first, "left_out"), "{what}");
    for threads in [1, 3] {
        let again = check(folder, &format!("{file} --threads {threads}"));
        assert_eq!((&again["totals"], &again["counts"]), (&first["totals"], &first["counts"]), "{what}");
    }
    if ready > 0 {
        let again = check(folder, "ready.csv --ready twice.csv");
        let told = (told(&again), told(&first));
        assert_eq!((count(&again, "ready"), count(&again, "held")), (ready, 0), "{what}: {told:?}");
        assert_eq!(folder.read("ready.csv"), folder.read("twice.csv"), "{what}");
        for form in ["xlsx", "json"] {
            check(folder, &format!("{file} --ready ready.{form}"));
            check(folder, &format!("ready.{form} --ready twice.csv"));
            assert_eq!(folder.read("ready.csv"), folder.read("twice.csv"), "{what}: {form}");
        }
        stays_as_it_is(folder, ready, what);
    }
    if held > 0 {
        let plan = if folder.path("held.plan.toml").exists() { " --plan held.plan.toml" } else { "" };
        let again = check(folder, &format!("held.csv{plan}"));
        let stops = |report: &Value| {
            let of_rows =
                report["totals"].as_array().unwrap().iter().filter(|total| total["level"] == "stop");
            let of_rows = of_rows.filter(|total| !OF_OTHERS.iter().any(|code| total["code"] == *code));
            of_rows
                .map(|total| format!("{} {} {}", total["code"], total["field"], total["count"]))
                .collect::<Vec<_>>()
        };
        assert_eq!(
            stops(&again),
            stops(&first),
            "{what}: held again: {:?}, before {:?}",
            told(&again),
            told(&first)
        );
    }
    let again = check(folder, "marked.xlsx");
    let of_text = ["encoding-doubt"];
    assert_eq!(totals(&again, &of_text), totals(&first, &of_text), "{what}: marked again");
    assert_eq!(count(&again, "held"), held, "{what}: marked again");
    mends(folder, file, &first, what);
}

/// Loading what is there already changes nothing, and all of it has arrived.
fn stays_as_it_is(folder: &Folder, ready: u64, what: &str) {
    let words = "effects ready.csv --record r.record.toml --mode update --existing ready.csv --format json";
    if !folder.read("r.record.toml").contains("\nkey = [") {
        return;
    }
    let effects: Value = serde_json::from_str(&folder.run(words).out).unwrap();
    let records = &effects["records"];
    assert_eq!((&records["changed"], &records["unchanged"]), (&0.into(), &ready.into()), "{what}");
    let ran = folder.run("reconcile ready.csv --record r.record.toml --existing ready.csv");
    assert_eq!(ran.code, 0, "{what}: {}", ran.out);
}

/// Mending takes faults away and adds none, and leaves nothing for the next time.
fn mends(folder: &Folder, file: &str, first: &Value, what: &str) {
    let ending = file.rsplit('.').next().unwrap();
    let mend = |from: &str, to: &str| {
        let ran = folder.run(&format!(
            "mend {from} --record r.record.toml --today 2026-11-25 -o {to} --force --format json"
        ));
        assert!(ran.code < 2, "{what}: {}", ran.err);
        serde_json::from_str::<Value>(&ran.out).unwrap()
    };
    mend(file, &format!("mended.{ending}"));
    let mended = check(folder, &format!("mended.{ending} --ready of-mended.csv"));
    assert!(count(&mended, "stops") <= count(first, "stops"), "{what}: {:?}", told(&mended));
    assert!(count(&mended, "ready") >= count(first, "ready"), "{what}: {:?}", told(&mended));
    let again = mend(&format!("mended.{ending}"), &format!("again.{ending}"));
    assert_eq!((&again["cells"], &again["rows"]), (&0.into(), &0.into()), "{what}: {again}");
    mend("marked.xlsx", "mended-marked.xlsx");
    let marked = check(folder, "mended-marked.xlsx --ready of-marked.csv");
    assert_eq!(count(&marked, "ready"), count(&mended, "ready"), "{what}: {:?}", told(&marked));
    if count(&mended, "ready") > 0 {
        assert_eq!(folder.read("of-mended.csv"), folder.read("of-marked.csv"), "{what}: mended and marked");
    }
}

/// So many tables, each with what it is, or those from a number on that is stated: each run of the tests takes the same.
fn by_chance(most: u64) -> impl Iterator<Item = (Dice, Table, String)> {
    let stated = std::env::var("TIDY_GATE_WALKS").ok().and_then(|first| first.parse().ok());
    let seeds = stated.map_or(1..most + 1, |first: u64| first..first + 40);
    seeds.map(|seed| {
        let mut dice = Dice(0x9E37_79B9_7F4A_7C15 ^ seed << 17);
        let table = Table::by(&mut dice);
        let what = format!("{seed}: {:?} {} rows", table.style, table.rows.len());
        (dice, table, what)
    })
}

#[test]
fn texts_walk_every_path_and_nothing_is_lost() {
    for (mut dice, table, what) in by_chance(10) {
        let folder = Folder::new();
        folder.write("clean.csv", table.text()).write("t.csv", table.spoilt(&mut dice).text());
        let draft = folder.run("draft clean.csv");
        folder.write("r.record.toml", &draft.out);
        let clean = check(&folder, "clean.csv");
        assert_eq!(clean["gate"], "open", "{what}: {:?}\n{}", told(&clean), draft.out);
        walk(&folder, "t.csv", &what);
    }
}

#[test]
fn workbooks_walk_every_path_and_nothing_is_lost() {
    for (mut dice, table, what) in by_chance(8) {
        let folder = Folder::new();
        table.book(&folder.path("clean.xlsx"), &mut dice);
        table.spoilt(&mut dice).book(&folder.path("t.xlsx"), &mut dice);
        folder.write("r.record.toml", folder.run("draft clean.xlsx").out);
        walk(&folder, "t.xlsx", &what);
    }
}
