//! Records of several rows by chance: orders with their items, held against a plain reading of how rows make records.

use super::{records, report, table};
use crate::round_trips::Dice;
use crate::tool::{Folder, told};
use std::collections::{BTreeMap, BTreeSet};

const SCHEMA: &str = "format = 1\nrecord = \"order\"\nkey = [\"order\"]\n\
    [[field]]\nname = \"order\"\nkind = \"integer\"\n\
    [[field]]\nname = \"site\"\nkind = \"text\"\nrequired = true\n\
    [[field]]\nname = \"item\"\nkind = \"text\"\n\
    [[field]]\nname = \"count\"\nkind = \"integer\"\nrange = { min = 1, max = 99 }\n\
    [lines]\nheader = [\"order\", \"site\"]\nkey = [\"item\"]\ncount = { max = 4 }\n";

const MOST: usize = 4;

type Row = [String; 4];

/// What is told, as row and code, and the rows that are ready, with what they take over.
fn judged(rows: &[Row]) -> (BTreeSet<(usize, &'static str)>, Vec<Row>) {
    let mut told = BTreeSet::new();
    // The rows of each run of a record, under its key; the first rows may have none.
    let mut runs: Vec<(Option<String>, Vec<usize>)> = Vec::new();
    for (number, [order, site, ..]) in rows.iter().enumerate() {
        // A key is compared as the number it is.
        let key = order.trim_start_matches('0').to_owned();
        match runs.last_mut() {
            // Without a key a row continues what stands above it, unless it has a header of its own.
            Some((_, members)) if order.is_empty() && site.is_empty() => members.push(number),
            Some((own, members)) if !order.is_empty() && own.as_deref() == Some(&key) => members.push(number),
            _ if order.is_empty() => runs.push((None, vec![number])),
            _ => runs.push((Some(key), vec![number])),
        }
    }
    let mut of_key: BTreeMap<String, Vec<usize>> = BTreeMap::new();
    for (key, members) in &runs {
        let Some(key) = key else {
            told.extend(members.iter().map(|row| (*row, "line-without-header")));
            continue;
        };
        if of_key.contains_key(key) {
            told.insert((members[0], "lines-apart"));
        }
        of_key.entry(key.clone()).or_default().extend(members);
        let first = members[0];
        if rows[first][1].is_empty() {
            told.insert((first, "required-blank"));
        }
        for row in &members[1..] {
            if !rows[*row][1].is_empty() && rows[*row][1] != rows[first][1] {
                told.insert((*row, "header-differs"));
            }
        }
        if members.len() > MOST {
            told.insert((first, "lines-too-many"));
        }
    }
    // A line repeats within its record, in whichever run it stands.
    for members in of_key.values() {
        for row in members {
            let item = &rows[*row][2];
            if !item.is_empty() && members.iter().any(|other| other != row && rows[*other][2] == *item) {
                told.insert((*row, "line-repeated"));
            }
        }
    }
    for (number, [_, _, item, count]) in rows.iter().enumerate() {
        if item.is_empty() {
            told.insert((number, "key-blank"));
        }
        match count.parse::<u32>() {
            Ok(1..=99) => {}
            Ok(_) => _ = told.insert((number, "out-of-range")),
            Err(_) if count.is_empty() => {}
            Err(_) => _ = told.insert((number, "integer-bad")),
        }
    }
    // One stop holds every row of its record, wherever they stand.
    let held = |members: &[usize]| members.iter().any(|row| told.iter().any(|(at, _)| at == row));
    let mut ready: Vec<(usize, Row)> = Vec::new();
    for (key, members) in &of_key {
        if held(members) {
            continue;
        }
        let first = &rows[members[0]];
        for row in members {
            let [_, _, item, count] = rows[*row].clone();
            ready.push((*row, [key.clone(), first[1].clone(), item, count]));
        }
    }
    ready.sort();
    let ready = ready.into_iter().map(|(_, row)| row).collect();
    (told, ready)
}

#[test]
fn rows_make_records_as_the_documentation_says() {
    let mut dice = Dice(0x11E5_0F0D);
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let (mut codes, mut ready_rows) = (BTreeSet::new(), 0);
    for turn in 0..150 {
        let mut rows: Vec<Row> = Vec::new();
        let mut order = 0;
        for _ in 0..3 + dice.below(12) {
            let begins = rows.is_empty() || dice.below(3) == 0;
            if begins {
                order = if dice.below(8) == 0 { 1 } else { order + 1 };
            }
            let key = match dice.below(14) {
                0 if rows.is_empty() => String::new(),
                0..=4 if !begins => String::new(),
                5 => format!("00{order}"),
                _ => order.to_string(),
            };
            let site = match dice.below(20) {
                0 => "Elsewhere",
                _ if begins => "Mill Lane",
                1..=8 => "Mill Lane",
                _ => "",
            };
            let item = if dice.below(25) == 0 {
                ""
            } else {
                dice.of(&["oak", "ash", "elm", "yew", "fir", "box", "may"])
            };
            let count = match dice.below(25) {
                0 => "soon",
                1 => "100",
                2 => "",
                _ => dice.of(&["1", "7", "42"]),
            };
            // A row of nothing is no line.
            let count = if item.is_empty() && count.is_empty() { "1" } else { count };
            rows.push([key, site.to_owned(), item.to_owned(), count.to_owned()]);
        }
        let cells: Vec<Vec<String>> = rows.iter().map(|row| row.to_vec()).collect();
        let text = table(["order", "site", "item", "count"].map(str::to_owned).into_iter(), &cells);
        folder.write("table.csv", &text).write("ready.csv", "");
        let found = report(&folder, "table.csv --ready ready.csv");
        let (wanted, ready) = judged(&rows);
        let mut got = BTreeSet::new();
        for finding in
            found["findings"].as_array().unwrap().iter().filter(|finding| finding["level"] == "stop")
        {
            let code = finding["code"].as_str().unwrap();
            let mut places = vec![finding["row"].as_u64().unwrap()];
            if code == "line-repeated" {
                places.extend(finding["places"].as_array().unwrap().iter().map(|row| row.as_u64().unwrap()));
            }
            got.extend(places.into_iter().map(|row| (usize::try_from(row).unwrap() - 2, code.to_owned())));
        }
        let wanted: BTreeSet<_> = wanted.into_iter().map(|(row, code)| (row, code.to_owned())).collect();
        assert_eq!(got, wanted, "turn {turn}\n{text}\n{:?}", told(&found));
        let ready: Vec<Vec<String>> = ready.iter().map(|row| row.to_vec()).collect();
        assert_eq!(records(&folder.read("ready.csv")), ready, "turn {turn}\n{text}");
        ready_rows += ready.len();
        codes.extend(wanted.into_iter().map(|told| told.1));
        if !ready.is_empty() {
            let again = report(&folder, "ready.csv --ready twice.csv");
            assert_eq!(
                (&again["gate"], folder.read("twice.csv")),
                (&"open".into(), folder.read("ready.csv")),
                "turn {turn}\n{text}"
            );
        }
    }
    assert!(ready_rows > 100 && codes.len() >= 9, "{ready_rows} {codes:?}");
}
