//! Every output goes through the tool again: what is ready checks clean, what is held is held for the same, and held
//! rows that were mended become ready, in each form that rows are written in.

use crate::tool::{Folder, told};
use crate::whole_rows::schema;
use serde_json::Value;
use std::collections::BTreeSet;

struct Trade {
    what: &'static str,
    schema: &'static str,
    table: &'static str,
    /// What is wrong, and what it becomes in the held file.
    mended: &'static [(&'static str, &'static str)],
}

const TRADES: [Trade; 5] = [
    Trade {
        what: "a clinic that writes days first and decimal commas",
        schema: "key = [\"fall\"]\nfall: text; required = true\naufnahme: date\ngewicht: decimal\nstation: picklist; picklist = \"s\"\n\
                 [picklist.s]\nvalues = [{ code = \"1\", label = \"Innere\" }, { code = \"2\", label = \"Chirurgie\" }]\n",
        table: "fall;aufnahme;gewicht;station\nF1;25.12.2023;71,5;Innere\nF2;05.06.2024;1.080,25;chirurgie\n\
                F3;05.07.2024;60,0;Augen\nF4;06.07.2024;;2\nF5;32.01.2024;55,5;1\n",
        mended: &[("Augen", "Chirurgie"), ("32.01.2024", "31.01.2024")],
    },
    Trade {
        what: "a library with several authors in a cell",
        schema: "key = [\"cote\"]\ncote: text; required = true; pattern = \"[A-Z]{2}-[0-9]{3}\"\n\
                 langues: picklist; picklist = \"l\"; many = { separator = \";\" }\npret: boolean\n\
                 [picklist.l]\nvalues = [{ code = \"fr\", label = \"français\" }, { code = \"de\", label = \"allemand\" }]\n",
        table: "cote,langues,pret\nAB-001,fr;de,Yes\nAB-002,allemand ; FR,no\nab-3,fr,yes\nAB-004,it,no\nAB-005,,maybe\n",
        mended: &[("ab-3", "AB-003"), ("it", "de"), ("maybe", "no")],
    },
    Trade {
        what: "a shipyard with months first",
        schema: "key = [\"hull\"]\nhull: integer; required = true\nlaunched: date\nlength_m: decimal; digits = { after = 1 }\n\
                 note: text; length = { max = 40 }\n",
        table: "hull,launched,length_m,note\n1,12/25/2023,12.5,\"Says \"\"go\"\", then\nstops\"\n2,03/04/2024,9,=1+1\n\
                3,02/05/2024,9.75,plain\n3,02/06/2024,8,\"a, b\"\nx,02/07/2024,7,\n",
        mended: &[("9.75", "9.7"), ("02/06/2024", "02/06/2024")],
    },
    Trade {
        what: "a farm whose rules join columns",
        schema: "key = [\"field\", \"year\"]\nfield: text; required = true\nyear: integer; required = true\nsown: date\ncut: date\n\
                 [[rule]]\nname = \"cut after sown\"\nmust = \"cut >= sown\"\n",
        table: "field,year,sown,cut\nTop,2024,2024-03-01,2024-08-01\nTop,2023,2023-03-01,2023-02-01\nLow,2024,,2024-08-01\n\
                Low,2023,2023-04-01,soon\n",
        mended: &[("2023-02-01", "2023-09-01"), ("soon", "2023-08-08")],
    },
    Trade {
        what: "a choir with names of months and codes that begin with zeros",
        schema: "key = [\"no\"]\nno: text; required = true\njoined: date; dates = [\"d MMM yyyy\"]\nat: time\nmail: email\n",
        table: "no,joined,at,mail\n007,3 May 2021,9:30,a@b.example\n010,31 Apr 2021,21:05,c@d.example\n011,4 Sept 2022,25:00,e@f\n",
        mended: &[("31 Apr 2021", "30 Apr 2021"), ("25:00", "20:00"), ("e@f", "e@f.example")],
    },
];

fn check(folder: &Folder, words: &str) -> Value {
    let ran =
        folder.run(&format!("check {words} --record r.record.toml --today 2026-11-25 --format json --force"));
    assert!(ran.code < 2, "{words}: {}", ran.err);
    serde_json::from_str(&ran.out).unwrap()
}

fn plan_beside(folder: &Folder) -> String {
    let found =
        folder.names().into_iter().find(|name| name.starts_with("held") && name.ends_with(".plan.toml"));
    found.map(|name| format!(" --plan {name}")).unwrap_or_default()
}

/// What holds rows: the codes and fields, wherever their columns stand.
fn holding(report: &Value) -> BTreeSet<String> {
    let findings = report["findings"].as_array().unwrap().iter();
    let stops = findings.filter(|finding| finding["level"] == "stop" && finding["row"].is_u64());
    stops.map(|finding| format!("{} {}", finding["code"], finding["field"])).collect()
}

#[test]
fn outputs_of_every_form_go_through_the_tool_again() {
    for trade in TRADES {
        for form in ["csv", "xlsx", "json", "ndjson"] {
            let folder = Folder::new();
            let what = format!("{} as {form}", trade.what);
            folder.write("r.record.toml", schema(trade.schema)).write("table.csv", trade.table);
            let first = check(&folder, &format!("table.csv --ready ready.{form} --held held.{form}"));
            let ready = first["counts"]["ready"].as_u64().unwrap();
            let held = first["counts"]["held"].as_u64().unwrap();
            assert!(ready > 0 && held > 0, "{what}: {:?}", told(&first));

            let again = check(&folder, &format!("ready.{form} --ready twice.{form}"));
            // A text that begins as a formula does stays the text that it is.
            let warned: Vec<String> =
                told(&again).into_iter().filter(|told| !told.starts_with("formula-like")).collect();
            let counts = &again["counts"];
            let stand = (&counts["ready"], &counts["held"], warned);
            assert_eq!(stand, (&ready.into(), &0.into(), Vec::new()), "{what}");
            if form != "xlsx" {
                assert_eq!(
                    folder.read(&format!("ready.{form}")),
                    folder.read(&format!("twice.{form}")),
                    "{what}"
                );
            }

            let back = check(&folder, &format!("held.{form}{}", plan_beside(&folder)));
            assert_eq!(
                (&back["counts"]["held"], holding(&back)),
                (&held.into(), holding(&first)),
                "{what}: {:?}",
                told(&back)
            );
        }
    }
}

#[test]
fn held_rows_that_were_mended_become_ready() {
    for trade in TRADES {
        for form in ["csv", "json", "ndjson"] {
            let folder = Folder::new();
            let what = format!("{} as {form}", trade.what);
            folder.write("r.record.toml", schema(trade.schema)).write("table.csv", trade.table);
            let first = check(&folder, &format!("table.csv --held held.{form}"));
            let mut held = folder.read(&format!("held.{form}"));
            for (wrong, right) in trade.mended {
                assert!(held.contains(wrong), "{what}: {wrong} in {held}");
                // The first two columns say where the row stood and why it was held.
                held = held.replace(&format!("{}{wrong}", mark(form)), &format!("{}{right}", mark(form)));
                held = held.replace(&format!(";{wrong}"), &format!(";{right}"));
            }
            folder.write(&format!("mended.{form}"), held);
            let back = check(&folder, &format!("mended.{form}{}", plan_beside(&folder)));
            let (before, after) =
                (first["counts"]["held"].as_u64().unwrap(), back["counts"]["held"].as_u64().unwrap());
            // What nobody mended stays: two rows of one key, and a key that is no number.
            let left = if trade.what.starts_with("a shipyard") { 3 } else { 0 };
            assert!(after == left && before > 0, "{what}: {:?}", told(&back));
        }
    }
}

fn mark(form: &str) -> &'static str {
    if form == "csv" { "," } else { "\"" }
}

/// Rows of one record that stood apart do so no longer among held rows alone: their reasons hold them.
#[test]
fn rows_that_stood_apart_stay_held_until_somebody_says_so() {
    let folder = Folder::new();
    let lines = "key = [\"order\"]\norder: text\nitem: text\nqty: integer\n\
        [lines]\nheader = [\"order\"]\nkey= [\"item\"]\n";
    folder.write("r.record.toml", schema(lines));
    folder.write("table.csv", "order,item,qty\n1,oak,1\n2,ash,1\n1,elm,2\n");
    let first = check(&folder, "table.csv --ready ready.csv --held held.csv");
    assert_eq!((&first["counts"]["ready"], &first["counts"]["held"]), (&1.into(), &2.into()));
    let back = check(&folder, "held.csv");
    assert_eq!((&back["gate"], &back["counts"]["ready"]), (&"shut".into(), &0.into()), "{:?}", told(&back));
    let held = folder.read("held.csv");
    let mut table = csv::Reader::from_reader(held.trim_start_matches('\u{FEFF}').as_bytes());
    let mut mended = "tidy-gate row,tidy-gate reasons,order,item,qty\n".to_owned();
    for row in table.records() {
        let row = row.unwrap();
        mended.push_str(&format!("{},,{},{},{}\n", &row[0], &row[2], &row[3], &row[4]));
    }
    folder.write("mended.csv", mended);
    assert_eq!(check(&folder, "mended.csv")["counts"]["ready"], 2);
}

/// Numbers that are the same on every run.
pub(crate) struct Dice(pub(crate) u64);

impl Dice {
    pub(crate) fn below(&mut self, most: u64) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        usize::try_from(self.0 % most).unwrap()
    }

    pub(crate) fn of<T: Copy>(&mut self, from: &[T]) -> T {
        from[self.below(from.len() as u64)]
    }
}

const SAMPLE: &str = "key = [\"k\"]\nk: text; required = true\nd: date\nn: decimal\np: picklist; picklist = \"p\"\nnote: text\n\
    [picklist.p]\nvalues = [{ code = \"E\", label = \"Excellent\" }, { code = \"D\", label = \"Déjà vu\" }]\n";

/// A table in one of many dresses, and the plan that reads it.
fn dressed(dice: &mut Dice) -> (Vec<u8>, String) {
    let delimiter = dice.of(&[",", ";", "\t", "|"]);
    let day_first = dice.below(2) == 0;
    let separator = dice.of(&["/", ".", "-"]);
    let comma = dice.below(2) == 0;
    let mut rows = Vec::new();
    for number in 0..6 + dice.below(8) {
        // The first row shows how its columns are written, so it is never held.
        let (day, month) = if number == 0 { (25, 3) } else { (1 + dice.below(12), 1 + dice.below(12)) };
        let (one, other) = if day_first { (day, month) } else { (month, day) };
        let date = format!("{one:02}{separator}{other:02}{separator}2024");
        let decimal =
            format!("{}{}{}", dice.below(900), if comma { "," } else { "." }, dice.of(&["5", "25", "75"]));
        let picked = match dice.below(3) {
            0 if number > 0 => format!("BAD{number}"),
            1 => "E".to_owned(),
            _ => "Déjà vu".to_owned(),
        };
        let note = dice.of(&["", "plain", "a \"\"b\"\" c", "café; x, y | z"]);
        let cells = [format!("K{number:02}"), date, decimal, picked, note.to_owned()];
        rows.push(cells.map(|cell| format!("\"{cell}\"")).join(delimiter));
    }
    let mut plan = "[file]\n".to_owned();
    let (mut lines, mut columns) = (Vec::new(), String::new());
    if dice.below(4) == 0 {
        plan.push_str("by_position = true\n");
        if dice.below(2) == 0 {
            plan.push_str(&format!("last_row = {}\n", rows.len()));
            rows.push("\"Signed\"".to_owned() + &format!("{delimiter}\"\"").repeat(4));
        }
    } else {
        for title in 0..dice.below(3) {
            lines.push(format!("\"Title {title}\"{}", format!("{delimiter}\"\"").repeat(4)));
        }
        plan.push_str(&format!("heading_row = {}\n", lines.len() + 1));
        let headings = match dice.below(2) {
            0 => ["k", "d", "n", "p", "note"],
            _ => ["Number", "On", "Amount", "State", "Words"],
        };
        if headings[0] == "Number" {
            columns =
                "[columns]\nNumber = \"k\"\nOn = \"d\"\nAmount = \"n\"\nState = \"p\"\nWords = \"note\"\n"
                    .to_owned();
        }
        lines.push(headings.map(|heading| format!("\"{heading}\"")).join(delimiter));
    }
    if dice.below(2) == 0 {
        let name = match delimiter {
            "," => "comma",
            ";" => "semicolon",
            "\t" => "tab",
            _ => "pipe",
        };
        plan.push_str(&format!("delimiter = \"{name}\"\n"));
    }
    lines.extend(rows);
    let text = lines.join("\r\n") + "\r\n";
    let bytes = if dice.below(2) == 0 {
        plan.push_str("encoding = \"windows-1252\"\n");
        text.chars().map(|c| u8::try_from(u32::from(c)).unwrap()).collect()
    } else {
        text.into_bytes()
    };
    (bytes, format!("format = 1\n{plan}{columns}"))
}

/// Whatever the dress, the plan and the form of the held rows: mending them gives the same ready rows as mending what
/// the sender had.
#[test]
fn mending_what_was_held_is_mending_what_was_sent() {
    let (mut dice, mut mended) = (Dice(0x7D1E_55ED), 0);
    for turn in 0..60 {
        let folder = Folder::new();
        folder.write("r.record.toml", schema(SAMPLE));
        let (table, plan) = dressed(&mut dice);
        let form = dice.of(&["csv", "json", "ndjson"]);
        folder.write("table.csv", &table).write("p.plan.toml", &plan);
        let shown = format!("turn {turn}, {form}\n{plan}{}", String::from_utf8_lossy(&table));
        let mend = |bytes: &[u8]| {
            let mut text: Vec<u8> = bytes.to_vec();
            for number in (1..20).rev() {
                let bad = format!("BAD{number}");
                while let Some(at) = text.windows(bad.len()).position(|window| window == bad.as_bytes()) {
                    text.splice(at..at + bad.len(), *b"E");
                }
            }
            text
        };
        folder.write("sent.csv", mend(&table));
        let rows = |name: &str| -> BTreeSet<String> {
            folder.read(name).lines().skip(1).map(str::to_owned).collect()
        };
        check(&folder, "sent.csv --plan p.plan.toml --ready whole.csv");
        let first =
            check(&folder, &format!("table.csv --plan p.plan.toml --ready ready.csv --held held.{form}"));
        let mut found = rows("ready.csv");
        if first["counts"]["held"] != 0 {
            mended += 1;
            let name = format!("held.{form}");
            folder.write(&name, mend(&std::fs::read(folder.path(&name)).unwrap()));
            let plan = match plan_beside(&folder) {
                none if none.is_empty() => " --plan p.plan.toml".to_owned(),
                beside => beside,
            };
            let back = check(&folder, &format!("{name}{plan} --ready back.csv"));
            assert_eq!(back["counts"]["held"], 0, "{shown}\n{:?}", told(&back));
            found.extend(rows("back.csv"));
        }
        assert_eq!(found, rows("whole.csv"), "{shown}");
    }
    assert!(mended > 40, "{mended}");
}

/// A sheet stores 1.234; its texts have a comma before the decimals. Held rows in a text say the same number when they come back.
#[test]
fn stored_numbers_beside_texts_with_commas_stay_the_same_in_held_rows() {
    let folder = Folder::new();
    folder.write("r.record.toml", schema("key = [\"k\"]\nk: text\nn: decimal\nnote: text\nd: date\n"));
    let mut book = rust_xlsxwriter::Workbook::new();
    let sheet = book.add_worksheet();
    for (at, heading) in (0..).zip(["k", "n", "note", "d"]) {
        sheet.write_string(0, at, heading).unwrap();
    }
    for (row, text) in (1..).zip(["12,5", "0,75", ""]) {
        sheet.write_string(row, 0, format!("K{row}")).unwrap();
        sheet.write_string(row, 1, text).unwrap();
        sheet.write_number(row, 2, 2.5).unwrap();
        sheet.write_string(row, 3, "soon").unwrap();
    }
    sheet.write_number(3, 1, 1.234).unwrap();
    book.save(folder.path("t.xlsx")).unwrap();
    for form in ["csv", "xlsx", "json"] {
        let first = check(&folder, &format!("t.xlsx --held held.{form}"));
        assert_eq!(first["counts"]["held"], 3, "{:?}", told(&first));
        let back = check(&folder, &format!("held.{form}{}", plan_beside(&folder)));
        assert_eq!(holding(&back), holding(&first), "{form}: {:?}", told(&back));
    }
    // Mended, they become the numbers that they are; a number in a text stays as it is.
    check(&folder, "t.xlsx --held held.csv");
    let mended = folder.read("held.csv").replace(",soon", ",2024-05-01");
    folder.write("mended.csv", mended);
    let plan = plan_beside(&folder);
    assert!(!plan.is_empty());
    check(&folder, &format!("mended.csv{plan} --ready ready.csv"));
    assert_eq!(
        folder.read("ready.csv"),
        "k,n,note,d\nK1,12.5,2.5,2024-05-01\nK2,0.75,2.5,2024-05-01\nK3,1.234,2.5,2024-05-01\n"
    );
}
