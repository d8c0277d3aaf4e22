//! The gate against a referee: worlds by chance, judged by the program and by a plain model of the documentation. What is
//! held, what is said of it and what ready rows carry must be the same; and the ready rows check clean.

mod columns;
mod decimals;
mod lines;
mod model;
mod paths;
mod worlds;

use crate::round_trips::Dice;
use crate::tool::Folder;
use serde_json::Value;
use std::collections::BTreeSet;

/// The stops of a report as "row field code"; of what several columns say together the field does not count.
fn stops(report: &Value) -> BTreeSet<(usize, String, String)> {
    const OF_ROWS: [&str; 7] = [
        "row-out-of-scope",
        "key-blank",
        "key-repeated",
        "unique-repeated",
        "block-incomplete",
        "rule-broken",
        "rule-required",
    ];
    let mut found = BTreeSet::new();
    for finding in report["findings"].as_array().unwrap() {
        if finding["level"] != "stop" {
            continue;
        }
        let code = finding["code"].as_str().unwrap();
        let field = finding["field"].as_str().filter(|_| !OF_ROWS.contains(&code)).unwrap_or_default();
        let place = |row: u64| usize::try_from(row).unwrap().wrapping_sub(2);
        let row = finding["row"].as_u64().map_or(usize::MAX, place);
        let mut rows = vec![row];
        let places = finding["places"].as_array().into_iter().flatten();
        rows.extend(places.map(|row| place(row.as_u64().unwrap())));
        found.extend(rows.into_iter().map(|row| (row, field.to_owned(), code.to_owned())));
    }
    found
}

fn table(header: impl Iterator<Item = String>, rows: &[Vec<String>]) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(header).unwrap();
    rows.iter().for_each(|row| writer.write_record(row).unwrap());
    String::from_utf8(writer.into_inner().unwrap()).unwrap()
}

fn records(text: &str) -> Vec<Vec<String>> {
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    reader.records().map(|row| row.unwrap().iter().map(str::to_owned).collect()).collect()
}

fn report(folder: &Folder, words: &str) -> Value {
    let words = format!("check {words} --record r.record.toml --today 2026-11-25 --format json --force");
    let refers = folder.read("r.record.toml").contains("to = \"site\"");
    let ran = folder.run(&format!("{words}{}", if refers { " --reference site=sites.csv:site" } else { "" }));
    assert!(ran.code < 2, "{}{}", ran.err, folder.read("r.record.toml"));
    serde_json::from_str(&ran.out).unwrap()
}

#[test]
fn the_program_and_a_plain_model_are_of_one_opinion() {
    // Longer hunts take other numbers.
    let stated =
        |name: &str, usual: u64| std::env::var(name).ok().and_then(|text| text.parse().ok()).unwrap_or(usual);
    let mut dice = Dice(0x0A4B_0C5D_11EE + 7_919 * stated("TIDY_GATE_SEED", 0));
    let (mut ready_rows, mut held_rows, mut codes) = (0, 0, BTreeSet::new());
    let folder = Folder::new();
    folder.write("sites.csv", format!("site\n{}\n", model::SITES.join("\n")));
    for turn in 0..stated("TIDY_GATE_TURNS", 160) {
        let world = worlds::world(&mut dice);
        let rows = worlds::rows(&world, &mut dice);
        let (ready, wanted) = model::judge(&world, &rows);
        let names = || world.fields.iter().map(|field| field.name.clone());
        let mode = if world.updating { "update" } else { "add" };
        folder.write("r.record.toml", worlds::schema(&world)).write("p.plan.toml", worlds::plan(&world));
        folder.write("table.csv", table(names(), &rows)).write("ready.csv", "");
        let found = report(&folder, &format!("table.csv --plan p.plan.toml --mode {mode} --ready ready.csv"));
        let shown = || {
            format!(
                "turn {turn}, {mode}\n{}{}{}",
                worlds::schema(&world),
                worlds::plan(&world),
                table(names(), &rows)
            )
        };
        assert_eq!(stops(&found), wanted, "{}", shown());
        assert_eq!(records(&folder.read("ready.csv")), ready, "{}", shown());
        ready_rows += ready.len();
        held_rows += rows.len() - ready.len();
        codes.extend(wanted.into_iter().map(|stop| stop.2));

        if !ready.is_empty() {
            // A word that empties a field is the plan's.
            folder.write("clear.plan.toml", format!("format = 1\n[read]\nclear = \"{}\"\n", model::CLEAR));
            let word = if world.clears { "--plan clear.plan.toml " } else { "" };
            let again = report(&folder, &format!("ready.csv {word}--mode {mode} --ready twice.csv"));
            assert_eq!((&again["gate"], stops(&again)), (&"open".into(), BTreeSet::new()), "{}", shown());
            assert_eq!(folder.read("twice.csv"), folder.read("ready.csv"), "{}", shown());
        }
    }
    // Neither side of the gate is a matter of a few rows, and every code of the model comes up.
    assert!(ready_rows > 200 && held_rows > 200, "{ready_rows} {held_rows}");
    assert!(codes.len() >= 27, "{codes:?}");
}
