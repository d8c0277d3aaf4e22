//! Loads by chance: what a plain load of the ready rows makes of the records is what was foretold, nothing is left to change
//! afterwards, and all of it has arrived.

use crate::round_trips::Dice;
use crate::tool::Folder;
use serde_json::Value;
use std::collections::BTreeMap;

const SCHEMA: &str = r#"format = 1
record = "tree"
key = ["ward", "tag"]
unique = [["site", "place"]]
[[field]]
name = "ward"
kind = "picklist"
picklist = "ward"
[[field]]
name = "tag"
kind = "integer"
[[field]]
name = "site"
kind = "text"
required = true
[[field]]
name = "place"
kind = "integer"
[[field]]
name = "girth"
kind = "decimal"
digits = { before = 3, after = 1 }
[[field]]
name = "planted"
kind = "date"
read_only = "update"
[[field]]
name = "safe"
kind = "boolean"
default = "no"
[[field]]
name = "note"
kind = "text"
[picklist.ward]
values = [{ code = "N", label = "North" }, { code = "S", label = "South" }]
"#;

const FIELDS: [&str; 8] = ["ward", "tag", "site", "place", "girth", "planted", "safe", "note"];

/// Records by their key, with the values of the other fields.
type Records = BTreeMap<(String, String), Vec<String>>;

fn table(rows: impl Iterator<Item = Vec<String>>) -> String {
    let lines = std::iter::once(FIELDS.map(str::to_owned).to_vec()).chain(rows);
    lines.map(|line| line.join(",") + "\n").collect()
}

fn written(records: &Records) -> String {
    table(records.iter().map(|((ward, tag), rest)| [&[ward.clone(), tag.clone()], rest.as_slice()].concat()))
}

fn some_records(dice: &mut Dice) -> Records {
    let mut records = Records::new();
    for tag in 0..6 + dice.below(20) {
        let ward = dice.of(&["N", "S"]).to_owned();
        let rest = [
            dice.of(&["Mill", "Orchard"]).to_owned(),
            // No two of them stand in the same place.
            tag.to_string(),
            dice.of(&["", "12.5", "99", "7.0"]).to_owned(),
            dice.of(&["", "2001-02-03", "1999-12-31"]).to_owned(),
            dice.of(&["", "true", "false"]).to_owned(),
            dice.of(&["", "old", "leans, a little"]).replace(", a little", " a little"),
        ];
        records.insert((ward, tag.to_string()), rest.to_vec());
    }
    records
}

/// Rows for records that are there, and for others; some of them faulty, some written otherwise.
fn some_rows(dice: &mut Dice, there: &Records) -> Vec<Vec<String>> {
    let mut rows = Vec::new();
    for (number, ((ward, tag), rest)) in there.iter().enumerate() {
        if dice.below(3) == 0 {
            continue;
        }
        let ward = match dice.below(4) {
            0 => if ward == "N" { "North" } else { "South" }.to_owned(),
            _ => ward.clone(),
        };
        let same = |at: usize| rest.get(at).cloned().unwrap_or_default();
        if dice.below(5) == 0 {
            let cells = [&[ward, tag.clone()], rest.as_slice()].concat();
            rows.push(cells);
            continue;
        }
        rows.push(vec![
            ward,
            if dice.below(4) == 0 { format!("0{tag}") } else { tag.clone() },
            dice.of(&["", "Mill", "Orchard", "Church"]).to_owned(),
            match dice.below(5) {
                0 => "x".to_owned(),
                1 => dice.below(30).to_string(),
                2 => format!("{}", 100 + number),
                _ => String::new(),
            },
            match dice.below(4) {
                0 => same(2) + if same(2).contains('.') { "0" } else { "" },
                1 => "3.5".to_owned(),
                _ => String::new(),
            },
            match dice.below(6) {
                0 => "2020-01-01".to_owned(),
                1 | 2 => same(3),
                _ => String::new(),
            },
            dice.of(&["", "Yes", "no", "TRUE"]).to_owned(),
            dice.of(&["", "new", "(clear)"]).replace("(clear)", "new"),
        ]);
    }
    for number in 0..dice.below(8) {
        rows.push(vec![
            dice.of(&["N", "S", "South", "W"]).to_owned(),
            (200 + number).to_string(),
            dice.of(&["Mill", ""]).to_owned(),
            dice.of(&["", "1", "3", "300"]).to_owned(),
            dice.of(&["", "8"]).to_owned(),
            dice.of(&["", "2024-02-29"]).to_owned(),
            dice.of(&["", "yes"]).to_owned(),
            String::new(),
        ]);
    }
    rows
}

/// A load as a target does it: what is blank leaves what is there.
fn load(there: &Records, ready: &str) -> Records {
    let mut after = there.clone();
    let mut lines = ready.lines();
    let headings: Vec<&str> = lines.next().unwrap().split(',').collect();
    for line in lines {
        let cells: BTreeMap<&str, &str> = headings.iter().copied().zip(line.split(',')).collect();
        let record = after.entry((cells["ward"].to_owned(), cells["tag"].to_owned()));
        let record = record.or_insert_with(|| vec![String::new(); 6]);
        for (field, value) in FIELDS.iter().skip(2).zip(record) {
            if let Some(cell) = cells.get(field).filter(|cell| !cell.is_empty()) {
                *value = (*cell).to_owned();
            }
        }
    }
    after
}

fn effects(folder: &Folder, file: &str, existing: &str) -> Value {
    let words = format!(
        "effects {file} --record r.record.toml --mode both --existing {existing} --format json --today 2026-11-25"
    );
    let ran = folder.run(&words);
    assert!(ran.code < 2, "{}", ran.err);
    serde_json::from_str(&ran.out).unwrap()
}

#[test]
fn a_plain_load_does_what_was_foretold_and_all_of_it_arrives() {
    let mut dice = Dice(0x10AD_1463);
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let mut sums = [0; 5];
    for turn in 0..60 {
        let there = some_records(&mut dice);
        let rows = some_rows(&mut dice, &there);
        if rows.is_empty() {
            continue;
        }
        folder.write("there.csv", written(&there)).write("table.csv", table(rows.iter().cloned()));
        let told = effects(&folder, "table.csv", "there.csv");
        let records = ["added", "changed", "unchanged", "held", "left_out"]
            .map(|key| usize::try_from(told["records"][key].as_u64().unwrap()).unwrap());
        let told_of = format!("turn {turn}\n{}{}", folder.read("there.csv"), folder.read("table.csv"));
        assert_eq!(records.iter().sum::<usize>(), rows.len(), "{told_of}");
        sums.iter_mut().zip(records).for_each(|(sum, count)| *sum += count);
        let check = "check table.csv --record r.record.toml --mode both --existing there.csv --ready ready.csv --force";
        assert!(folder.run(check).code < 2);
        let ready = folder.read("ready.csv");
        let after = load(&there, &ready);
        assert_eq!(told["records"]["after"], after.len(), "{told_of}");
        let changed = after.iter().filter(|(key, rest)| {
            there.get(*key).is_some_and(|before| {
                // A number is the same however it is written.
                before.iter().zip(*rest).any(|(one, other)| {
                    let number =
                        |text: &str| text.parse::<f64>().map_or_else(|_| text.to_owned(), |n| n.to_string());
                    number(one) != number(other)
                })
            })
        });
        assert_eq!(changed.count(), records[1], "{told_of}{ready}");
        // What must be unique is so in the end.
        let mut places: Vec<(&String, &String)> = after.values().map(|rest| (&rest[0], &rest[1])).collect();
        places.retain(|place| !place.0.is_empty() && !place.1.is_empty());
        let count = places.len();
        places.sort();
        places.dedup();
        assert_eq!(places.len(), count, "{told_of}{ready}");
        folder.write("after.csv", written(&after));
        if ready.lines().count() > 1 {
            let again = effects(&folder, "ready.csv", "after.csv");
            assert_eq!(
                [&again["records"]["added"], &again["records"]["changed"]],
                [0, 0],
                "{told_of}{ready}"
            );
            let reconcile = "reconcile ready.csv --record r.record.toml --mode update --existing after.csv";
            let ran = folder.run(reconcile);
            assert_eq!(ran.code, 0, "{told_of}{ready}{}{}", ran.out, ran.err);
        }
    }
    // All of it was met.
    assert!(sums.iter().take(4).all(|sum| *sum > 30), "{sums:?}");
}

/// What a ready file was written with is taken over where it is the model of another.
#[test]
fn a_file_that_is_like_an_export_is_written_as_that_is() {
    let folder = Folder::new();
    let field = |name: &str, kind: &str| format!("[[field]]\nname = \"{name}\"\nkind = \"{kind}\"\n");
    let fields = [("k", "text"), ("on", "date"), ("kg", "decimal"), ("ok", "boolean"), ("note", "text")];
    let fields: String = fields.iter().map(|(name, kind)| field(name, kind)).collect();
    folder.write("r.record.toml", format!("format = 1\nrecord = \"r\"\nkey = [\"k\"]\n{fields}"));
    folder.write(
        "t.csv",
        "k,on,kg,ok,note\nA,2024-02-27,1.5,yes,\"two\nlines\"\nB,2023-12-31,20.25,no,\"a;b\"\nC,,3,,\n",
    );
    let dates = ["", "dd.MM.yyyy", "MM/dd/yyyy", "d. M. yyyy", "yyyy/MM/dd", "yyyy年M月d日", "d MMM yyyy"];
    let words = [
        "",
        "true = \"Ja\"\nfalse = \"Nein\"",
        "true = \"да\"\nfalse = \"нет\"",
        "true = \"1\"\nfalse = \"0\"",
    ];
    let ends = ["lf", "crlf", "cr"];
    let others = [
        "",
        "decimal_mark = \",\"\ndelimiter = \";\"",
        "delimiter = \"\\t\"\nquote = \"all\"",
        "encoding = \"utf-16le\"",
    ];
    for at in 0..dates.len() * others.len() {
        let (date, words) = (dates[at % dates.len()], words[at % words.len()]);
        let date = if date.is_empty() { String::new() } else { format!("dates = \"{date}\"") };
        let stated =
            format!("{date}\n{words}\nline_end = \"{}\"\n{}\n", ends[at % 3], others[at / dates.len()]);
        let plan = |write: &str| format!("format = 1\nrecord = \"r.record.toml\"\n[write]\n{write}");
        folder.write("p.plan.toml", plan(&stated)).write("l.plan.toml", plan("like = \"export.csv\"\n"));
        for (plan, ready) in [("p", "export.csv"), ("l", "ready.csv")] {
            let ran = folder.run(&format!("check t.csv --plan {plan}.plan.toml --ready {ready} --force"));
            assert_eq!(ran.code, 0, "{stated}{}{}", ran.out, ran.err);
        }
        let read = |name: &str| String::from_utf8_lossy(&folder.bytes(name)).into_owned();
        assert_eq!(read("ready.csv"), read("export.csv"), "{stated}");
    }
}
