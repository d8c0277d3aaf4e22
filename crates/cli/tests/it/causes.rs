//! Causes against truth: sound tables get none, spoilt ones those that were planted, and remedies remove what they say.

mod faults;
mod tables;

use crate::tool::Folder;
use faults::{FAULTS, Fault};
use serde_json::Value;
use std::collections::BTreeMap;
pub(crate) use tables::Table;
use tables::{Dice, TRADES};

fn report(folder: &Folder, words: &str) -> Value {
    let command = format!("check t.csv --today 2026-11-29 --format json {words}");
    let ran = folder.run(&command);
    assert!(ran.code < 2, "{}", ran.err);
    serde_json::from_str(&ran.out).unwrap()
}

fn checked(table: &Table) -> (Folder, Value) {
    let folder = Folder::new();
    folder.write("r.record.toml", &table.schema).write("t.csv", table.text());
    let found = report(&folder, "--record r.record.toml");
    (folder, found)
}

fn codes(report: &Value) -> Vec<String> {
    let causes = report["causes"].as_array().unwrap();
    let mut codes: Vec<String> =
        causes.iter().map(|cause| cause["code"].as_str().unwrap().to_owned()).collect();
    codes.sort();
    codes
}

/// A spoilt table and the causes that were planted.
pub(crate) fn spoilt(seed: u64) -> (Table, Vec<&'static str>) {
    let mut dice = Dice::new(seed);
    let trade = &TRADES[dice.below(TRADES.len())];
    let count = 80 + dice.below(220);
    let mut table = trade.table(&mut dice, count);
    let mut chosen: Vec<&Fault> = Vec::new();
    for _ in 0..1 + dice.below(4) {
        let fault = &FAULTS[dice.below(FAULTS.len())];
        let is_free = chosen.iter().all(|other| {
            other.cause != fault.cause && other.columns.iter().all(|column| !fault.columns.contains(column))
        });
        chosen.extend(is_free.then_some(fault));
    }
    // What sorts or shifts comes before what adds rows.
    chosen.sort_by_key(|fault| {
        (fault.adds_rows, fault.cause == "cells-shifted", fault.cause != "blank-below-groups")
    });
    for fault in &chosen {
        (fault.spoil)(&mut table, &mut dice, trade);
    }
    let mut causes: Vec<&str> = chosen.iter().map(|fault| fault.cause).collect();
    causes.sort_unstable();
    (table, causes)
}

#[test]
fn sound_tables_have_no_cause() {
    for seed in 0..200 {
        let mut dice = Dice::new(seed + 5_000);
        let count = 3 + dice.below(200);
        let table = TRADES[seed as usize % TRADES.len()].table(&mut dice, count);
        let (_, report) = checked(&table);
        assert_eq!(codes(&report), Vec::<String>::new(), "seed {seed}: {}", report["causes"]);
    }
}

#[test]
fn spoilt_tables_have_the_causes_that_were_planted() {
    let (mut exact, mut misses) = (0, Vec::new());
    let mut by_cause: BTreeMap<String, (u32, u32, u32)> = BTreeMap::new();
    for seed in 0..100 {
        let (table, planted) = spoilt(seed);
        let (_, report) = checked(&table);
        let found = codes(&report);
        for cause in &planted {
            let slot = by_cause.entry((*cause).to_owned()).or_default();
            slot.0 += 1;
            slot.1 += u32::from(found.iter().any(|code| code == cause));
        }
        for cause in found.iter().filter(|cause| !planted.contains(&cause.as_str())) {
            by_cause.entry(cause.clone()).or_default().2 += 1;
        }
        assert!(found.len() <= planted.len() + 1, "seed {seed}: {planted:?} but {found:?}");
        if found == planted {
            exact += 1;
        } else {
            misses.push(format!("seed {seed}: planted {planted:?}, found {found:?}"));
        }
    }
    println!("cause, planted, found, found where none was planted:");
    by_cause.iter().for_each(|(cause, counts)| println!("{cause:22} {counts:?}"));
    assert!(exact >= 95, "{exact} of 100 exact\n{}", misses.join("\n"));
}

/// How many findings there are beside notes on how columns are read.
fn findings(report: &Value) -> u64 {
    let totals = report["totals"].as_array().unwrap().iter();
    totals.filter(|total| total["code"] != "form-guessed").map(|total| total["count"].as_u64().unwrap()).sum()
}

/// Applies a remedy to the file or to a plan of its own; gives what a check finds then. Nothing where only the sender can.
fn applied(folder: &Folder, table: &Table, cause: &Value) -> Option<Value> {
    let remedy = &cause["remedy"];
    match remedy["kind"].as_str().unwrap() {
        "plan" => {
            let lines = remedy["plan"].as_str().unwrap();
            folder.write("p.plan.toml", format!("format = 1\nrecord = \"r.record.toml\"\n{lines}"));
            Some(report(folder, "--plan p.plan.toml"))
        }
        "mend" => {
            let codes: Vec<&str> =
                remedy["codes"].as_array().unwrap().iter().map(|code| code.as_str().unwrap()).collect();
            let words =
                format!("mend t.csv --record r.record.toml --only {} -o m.csv --force", codes.join(","));
            let ran = folder.run(&words);
            assert!(ran.code < 2, "{}", ran.err);
            folder.write("t.csv", folder.read("m.csv"));
            Some(report(folder, "--record r.record.toml"))
        }
        "rows" => {
            let runs: Vec<(u64, u64)> = serde_json::from_value(remedy["rows"].clone()).unwrap();
            let is_kept = |row: &u64| !runs.iter().any(|(first, last)| (first..=last).contains(&row));
            let text = table.text();
            let kept =
                (1..).zip(text.lines()).filter(|(row, _)| is_kept(row)).map(|(_, line)| format!("{line}\n"));
            folder.write("t.csv", kept.collect::<String>());
            Some(report(folder, "--record r.record.toml"))
        }
        _ => None,
    }
}

#[test]
fn a_remedy_removes_exactly_what_its_cause_says() {
    let mut met = BTreeMap::new();
    for (number, fault) in FAULTS.iter().enumerate() {
        for seed in 0..4 {
            let mut dice = Dice::new(9_000 + 10 * number as u64 + seed);
            let trade = &TRADES[seed as usize];
            let mut table = trade.table(&mut dice, 90);
            (fault.spoil)(&mut table, &mut dice, trade);
            let (folder, before) = checked(&table);
            let causes = before["causes"].as_array().unwrap();
            assert_eq!(causes.len(), 1, "{}: {}", fault.cause, before["causes"]);
            let Some(after) = applied(&folder, &table, &causes[0]) else { continue };
            let explained = causes[0]["findings"].as_u64().unwrap();
            assert_eq!(
                findings(&after),
                findings(&before) - explained,
                "{} {seed}: {}",
                fault.cause,
                causes[0]
            );
            assert_eq!(codes(&after), Vec::<String>::new(), "{}", fault.cause);
            *met.entry(fault.cause).or_insert(0) += 1;
        }
    }
    assert!(met.len() >= 10 && met.values().all(|count| *count == 4), "{met:?}");
}

/// What looks like a cause and is none: each guess has something that would mislead it.
#[test]
fn what_would_mislead_is_no_cause() {
    let schema = "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\npattern = \"K[0-9]{3}\"\n\
                  [[field]]\nname = \"site\"\nkind = \"reference\"\nto = \"site\"\n[[field]]\nname = \"sex\"\nkind = \"boolean\"\n\
                  [[field]]\nname = \"n\"\nkind = \"integer\"\nrequired = true\n[[field]]\nname = \"d\"\nkind = \"date\"\nrequired = true\n";
    let row =
        |number: usize, site: &str, sex: &str, n: &str| format!("K{number:03},{site},{sex},{n},2024-05-06\n");
    let all = |make: &dyn Fn(usize) -> String| (1..=20).map(make).collect::<String>();
    let cases = [
        // Records of which only the key is filled are none to delete.
        all(&|n| if n % 5 == 0 { format!("K{n:03},,,,\n") } else { row(n, "", "", "1") }),
        // A site with another number is another site, however near it is.
        all(&|n| row(n, if n % 3 == 0 { "W7-0012" } else { "W7-0011" }, "", "1")),
        // F is no, or a woman.
        all(&|n| row(n, "", if n % 2 == 0 { "M" } else { "F" }, "1")),
        // A few rows with the same blank cell and nothing in common.
        all(&|n| row(n, "", "", if n % 9 == 0 { "" } else { "1" })),
    ];
    for (number, rows) in cases.into_iter().enumerate() {
        let folder = Folder::new();
        folder.write("r.record.toml", schema).write("sites.csv", "code\nW7-0011\nW7-0013\n");
        folder.write("t.csv", format!("k,site,sex,n,d\n{rows}"));
        let found = report(&folder, "--record r.record.toml --reference site=sites.csv:code");
        assert!(findings(&found) > 0 && codes(&found).is_empty(), "{number}: {}", found["causes"]);
    }
}
