//! Rules between fields, blocks and combinations, on the built program.

use crate::tool::{Folder, told};

const SCHEMA: &str = r#"
format = 1
record = "tree"
key = ["tag"]

[[field]]
name = "tag"
kind = "text"
[[field]]
name = "condition"
label = "Condition"
kind = "picklist"
picklist = "condition"
required = true
[[field]]
name = "planted"
kind = "date"
[[field]]
name = "inspected"
kind = "date"
[[field]]
name = "removal"
kind = "date"
[[field]]
name = "order_no"
kind = "text"
[[field]]
name = "protected"
kind = "boolean"
default = "No"
[[field]]
name = "easting"
kind = "integer"
[[field]]
name = "northing"
kind = "integer"
[[field]]
name = "source"
kind = "text"
[[field]]
name = "form"
kind = "picklist"
picklist = "form"
[[field]]
name = "box"
kind = "picklist"
picklist = "box"

[picklist.condition]
values = [{ code = "G", label = "Good" }, { code = "D", label = "Dead" }]
[picklist.form]
values = [{ code = "A", label = "Ash form" }, { code = "B" }]
[picklist.box]
values = [{ code = "1" }, { code = "2" }]

[[rule]]
name = "dead trees have a removal date"
when = "condition = 'D'"
require = ["removal"]
[[rule]]
name = "inspected after planting"
must = "inspected >= planted"
message = "A tree cannot be inspected before it is planted."
[[rule]]
name = "only protected trees have an order"
when = "NOT protected"
forbid = ["order_no"]
level = "warn"
[[together]]
name = "position"
fields = ["easting", "northing", "source"]
needs = ["easting", "northing"]
[[combination]]
name = "form and box"
fields = ["form", "box"]
allowed = [["A", "1"], ["Ash form", "2"], ["B", "1"]]
"#;

const HEAD: &str =
    "tag,Condition,planted,inspected,removal,order_no,protected,easting,northing,source,form,box\n";

fn report(rows: &str, words: &str) -> serde_json::Value {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("table.csv", format!("{HEAD}{rows}"));
    folder.report(words)
}

#[test]
pub(crate) fn each_row_is_held_against_each_rule() {
    for (row, wanted) in [
        ("T,G,2020-01-01,2021-01-01,,,yes,,,,,", vec![]),
        ("T,Dead,,,,,,,,,,", vec!["rule-required 2 E removal"]),
        ("T,D,,,2027-01-01,,,,,,,", vec![]),
        // A cell that has a stop is filled and unknown: one fault is not told twice.
        ("T,D,,,soon,,,,,,,", vec!["date-bad 2 E removal"]),
        ("T,dying,,,,,,,,,,", vec!["off-list 2 B condition"]),
        ("T,G,2020-01-02,2020-01-01,,,,,,,,", vec!["rule-broken 2 - -"]),
        ("T,G,2020-01-02,,,,,,,,,", vec![]),
        ("T,G,2020-13-02,2020-01-01,,,,,,,,", vec!["date-bad 2 C planted"]),
        // The default makes it no.
        ("T,G,,,,O-7,,,,,,", vec!["rule-forbidden 2 F order_no"]),
        ("T,G,,,,O-7,Y,,,,,", vec![]),
        ("T,G,,,,,,412300,,,,", vec!["block-incomplete 2 - -"]),
        ("T,G,,,,,,,,map,,", vec!["block-incomplete 2 - -"]),
        ("T,G,,,,,,412300,287150,,,", vec![]),
        ("T,G,,,,,,,,,A,2", vec![]),
        ("T,G,,,,,,,,,b,2", vec!["combination-not-permitted 2 - -"]),
        ("T,G,,,,,,,,,B,", vec![]),
    ] {
        let report = report(&format!("{row}\n"), "");
        assert_eq!(told(&report), wanted, "{row}");
    }
}

#[test]
fn findings_of_rules_say_which_and_why() {
    let rows = "T1,G,2020-01-02,2020-01-01,,,,,,,,\nT2,D,,,,,,5,,,B,2\nT3,G,,,,O-7,,,,,,\n";
    let report = report(rows, "");
    let finding = |code: &str| {
        let all = report["findings"].as_array().unwrap();
        all.iter().find(|finding| finding["code"] == code).unwrap().clone()
    };
    let broken = finding("rule-broken");
    assert_eq!(broken["rule"], "inspected after planting");
    assert_eq!(broken["fields"], serde_json::json!(["planted", "inspected"]));
    assert_eq!(broken["value"], "planted 2020-01-02, inspected 2020-01-01");
    assert!(
        broken["message"]
            .as_str()
            .unwrap()
            .starts_with("A tree cannot be inspected before it is planted, expected ")
    );
    assert_eq!(broken["key"], "T1");
    assert_eq!(finding("rule-required")["message"], "required here: dead trees have a removal date");
    assert_eq!(finding("rule-forbidden")["level"], "warn");
    assert_eq!(finding("block-incomplete")["fields"], serde_json::json!(["northing"]));
    assert_eq!(finding("combination-not-permitted")["expected"], "with form B: box 1");
    assert_eq!(report["counts"]["held"], 2);
}

#[test]
fn on_update_a_blank_is_what_the_record_has_and_is_not_missed() {
    let rows = "T1,D,,,,,,,,,,\nT2,G,2020-01-02,,,,,5,,,B,\nT3,G,2020-01-02,2019-01-01,,,,,,,B,2\n";
    let told = told(&report(rows, "--mode update"));
    assert_eq!(told, ["combination-not-permitted 4 - -", "rule-broken 4 - -"]);
    assert_eq!(crate::tool::told(&report("T1,D,,,,,,,,,,\n", "--mode both")), ["rule-required 2 E removal"]);
}

#[test]
fn faults_of_rules_are_told_with_their_place() {
    let faulty = SCHEMA
        .replace("condition = 'D'\"", "condition = 'Dead'\"")
        .replace("inspected >= planted", "inspected >= easting")
        .replace("forbid = [\"order_no\"]", "forbid = [\"order\"]\nmust = \"protected\"")
        .replace("needs = [\"easting\", \"northing\"]", "needs = [\"tag\"]")
        .replace("[\"B\", \"1\"]", "[\"C\", \"1\"]");
    let folder = Folder::new();
    folder.write("r.record.toml", faulty).write("table.csv", HEAD);
    let ran = folder.run("check table.csv --record r.record.toml");
    for part in [
        "'Dead' is no code of the picklist condition",
        "conditions compare codes: 'D'",
        "a date cannot be compared with a number",
        "asks two things",
        "`tag` is none of the block's `fields`",
        "`C` is not on the picklist form",
        "faults in r.record.toml",
    ] {
        assert!(ran.err.contains(part), "{part} in {}", ran.err);
    }
    assert_eq!(ran.code, 2);
}

#[test]
fn a_rule_judges_alike_on_any_number_of_threads() {
    let folder = Folder::new();
    let rows: String = (0..20_000)
        .map(|n| {
            format!(
                "T{n},{},2020-01-{:02},2020-01-15,,,,,,,,\n",
                ["G", "D"][usize::from(n % 50 == 0)],
                n % 28 + 1
            )
        })
        .collect();
    folder.write("r.record.toml", SCHEMA).write("table.csv", format!("{HEAD}{rows}"));
    let one = folder.report("--threads 1");
    assert_eq!(one["totals"], folder.report("--threads 3")["totals"]);
    assert_eq!(one["totals"][0]["count"], 20_000 / 28 * 13, "{}", one["totals"]);
    assert_eq!(one["totals"][1]["count"], 400);
}

#[test]
fn keys_that_are_put_aside_repeat_all_the_same() {
    let folder = Folder::new();
    let mut rows = "k\n".to_owned();
    for n in 0..120_000 {
        rows.push_str(&format!("k{}\n", if n % 40_000 == 7 { 7 } else { n }));
    }
    folder.write(
        "r.record.toml",
        "format = 1\nrecord = \"r\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\n",
    );
    folder.write("table.csv", rows);
    let [kept, aside] = ["--memory 1GiB", "--memory 1MiB"].map(|memory| folder.report(memory));
    assert_eq!(kept["findings"][0]["places"], serde_json::json!([9, 40_009, 80_009]));
    assert_eq!(kept, aside);
    let refused = folder.run("check table.csv --record r.record.toml --memory 1");
    assert!(refused.code == 2 && refused.err.contains("1MiB at least"), "{}", refused.err);
}

/// Conditions that the bytes of cells decide give what the same conditions give the long way round.
#[test]
fn quick_conditions_judge_as_their_plain_twins() {
    let pairs = [
        ("n > 5", "n / 1 > 5"),
        ("7 <= d", "7 <= d / 1"),
        ("d = 1.5", "d / 1 = 1.5"),
        ("d <> 99", "d / 1 <> 99"),
        ("n < 8 AND d < 2.25", "n / 1 < 8 AND d / 1 < 2.25"),
        ("begins < ends", "COALESCE(begins, begins) < ends"),
        ("state = 'D' OR n > 5 OR d < 2", "UPPER(state) = 'D' OR n / 1 > 5 OR d / 1 < 2"),
        ("NOT (n > 5 AND begins < ends)", "NOT (n / 1 > 5 AND COALESCE(begins, begins) < ends)"),
        ("n + d * 2 < 20 - d", "n / 1 + d * 2 < 20 - d"),
        ("n >= d", "n / 1 >= d"),
        ("-n * 1.5 <= d - 3.25", "-(n / 1) * 1.5 <= d - 3.25"),
        ("ends - begins > 0", "ends - COALESCE(begins, begins) > 0"),
        ("begins >= DATE '2020-02-02'", "COALESCE(begins, begins) >= DATE '2020-02-02'"),
        ("LENGTH(note) > 3", "LENGTH(COALESCE(note, note)) > 3"),
        (
            "note LIKE '%a_' OR note = 'x y'",
            "COALESCE(note, note) LIKE '%a_' OR COALESCE(note, note) = 'x y'",
        ),
        ("note NOT LIKE 'c%'", "COALESCE(note, note) NOT LIKE 'c%'"),
        ("note NOT IN ('x y', 'café')", "COALESCE(note, note) NOT IN ('x y', 'café')"),
        (
            "note IS NULL OR state IS NOT NULL",
            "COALESCE(note IS NULL, note IS NULL) OR COALESCE(state IS NOT NULL, state IS NOT NULL)",
        ),
        (
            "state IN ('D') AND n IS NOT NULL",
            "UPPER(state) IN ('D') AND COALESCE(n IS NOT NULL, n IS NOT NULL)",
        ),
        ("state <> 'D'", "UPPER(state) <> 'D'"),
        ("state = 'D' OR LENGTH(k) = 2", "UPPER(state) = 'D' OR LENGTH(k) = 2"),
        ("state = 'D'", "UPPER(state) = 'D'"),
        ("state = 'D' AND n >= 0", "UPPER(state) = 'D' AND n + 0 >= 0"),
    ];
    let mut schema = "format = 1\nrecord = \"r\"\nkey = [\"k\"]\n".to_owned();
    for (name, kind) in [
        ("k", "text"),
        ("n", "integer"),
        ("d", "decimal"),
        ("begins", "date"),
        ("ends", "date"),
        ("note", "text"),
    ] {
        schema.push_str(&format!("[[field]]\nname = \"{name}\"\nkind = \"{kind}\"\n"));
    }
    schema.push_str("[[field]]\nname = \"state\"\nkind = \"picklist\"\npicklist = \"state\"\n");
    schema.push_str("[picklist.state]\nvalues = [{ code = \"D\", label = \"Dead\" }, { code = \"G\" }]\n");
    for (number, (quick, plain)) in pairs.iter().enumerate() {
        for (name, must) in [("quick", quick), ("plain", plain)] {
            // Every second one by what makes it apply.
            let asks = match number % 2 {
                0 => format!("must = \"{must}\""),
                _ => format!("when = \"{must}\"\nmust = \"k = 'none'\""),
            };
            schema.push_str(&format!("[[rule]]\nname = \"{name} {number}\"\n{asks}\nlevel = \"warn\"\n"));
        }
    }
    let numbers =
        ["", "5", "6", "-3", "+7", "007", "7.0", "7.50", "1.5", "01.50", " 8", "99", "2.25", "x", "(4)"];
    let days = ["", "2020-02-01", "2020-02-02", "1900-01-01", "2020-2-1", "2020-02-31", "1 Feb 2020"];
    let states = ["D", "d", "Dead", "G", "", "Z", " D"];
    let notes = ["", "x y", "café", "cab", " bad ", "\"cap\"", "  ", "été", "x\u{A0}", "-", "caf\u{e9}s a\""];
    let mut rows = "k,n,d,begins,ends,note,state\n".to_owned();
    for row in 0..600 {
        let of = |from: &[&str], step: usize| from[row * step / 7 % from.len()].to_owned();
        let [n, d, begins] = [of(&numbers, 7), of(&numbers, 11), of(&days, 13)];
        let (ends, note, state) = (of(&days, 3), of(&notes, 17), of(&states, 5));
        rows.push_str(&format!("k{row},{n},\"{d}\",{begins},{ends},{note},{state}\n"));
    }
    let blank_words = "[read]\nblank = [\"99\", \"1900-01-01\", \"Dead\"]\n";
    for (plan, default) in
        [("", ""), (blank_words, ""), ("", "\ndefault = \"6\""), ("mode = \"update\"\n", "")]
    {
        let folder = Folder::new();
        let number = "name = \"n\"\nkind = \"integer\"";
        folder.write("r.record.toml", schema.replace(number, &format!("{number}{default}")));
        folder.write("p.plan.toml", format!("format = 1\nrecord = \"r.record.toml\"\n{plan}"));
        for rows in [rows.clone(), rows.replace('"', "")] {
            folder.write("table.csv", rows);
            let ran = folder.run("check table.csv --plan p.plan.toml --findings f.csv --force");
            assert!(ran.code < 2, "{}", ran.err);
            let found = std::fs::read_to_string(folder.path("f.csv")).unwrap();
            for (number, pair) in pairs.iter().enumerate() {
                let rows_of = |name: &str| {
                    let name = format!("{name} {number}");
                    let lines =
                        found.lines().filter(|line| line.contains("rule-broken") && line.contains(&name));
                    lines
                        .map(|line| {
                            line.split(',').find(|cell| cell.parse::<u64>().is_ok()).unwrap().to_owned()
                        })
                        .collect::<Vec<_>>()
                };
                let quick = rows_of("quick");
                assert!(!quick.is_empty() || !plan.is_empty(), "{number}: {found}");
                assert_eq!(quick, rows_of("plain"), "{pair:?} with {plan}");
            }
        }
    }
}

#[test]
pub(crate) fn likely_duplicates_have_other_keys_and_the_same_words() {
    let head = "format = 1\nrecord = \"firm\"\nkey = [\"id\"]\n";
    let fields = [
        ("id", "text"),
        ("name", "text"),
        ("town", "text"),
        ("phone", "phone\"\nregion = \"GB"),
        ("since", "date"),
        ("size", "integer"),
    ]
    .map(|(name, kind)| format!("[[field]]\nname = \"{name}\"\nkind = \"{kind}\"\n"))
    .concat();
    let told_of = |alike: &str, rows: &str| {
        let folder = Folder::new();
        folder.write("r.record.toml", format!("{head}{alike}{fields}"));
        folder.write("table.csv", format!("id,name,town,phone,since,size\n{rows}"));
        let report = folder.report("");
        let found = report["findings"].as_array().unwrap().clone();
        found
            .iter()
            .filter(|finding| finding["code"] == "duplicate-likely")
            .map(|finding| format!("{} {}", finding["row"], finding["places"]))
            .collect::<Vec<_>>()
    };
    let ash = "1,Ash & Sons Ltd,Café Lane,020 7946 0018,2020-01-02,5\n";
    let cases = [
        // Case, accents, spaces and the order of words count nothing, nor how a phone number is written.
        (
            "",
            format!("{ash}2,\"SONS  Ltd, Ash\",cafe lane,+44 20 7946 0018,2020-01-02,9\n"),
            vec!["2 [2,3]", "3 [2,3]"],
        ),
        ("", format!("{ash}2,Ash & Sons Ltd,Café Lane,020 7946 0018,2020-02-01,5\n"), vec![]),
        ("", format!("{ash}2,Ash & Son Ltd,Café Lane,020 7946 0018,2020-01-02,5\n"), vec![]),
        // Letters that make other words.
        ("", "1,ab c,x y,,,\n2,a bc,x y,,,\n".to_owned(), vec![]),
        // The same key is a repeat of the key; one filled field says too little.
        ("", format!("{ash}{ash}"), vec![]),
        ("", "1,Ash,,,,\n2,Ash,,,,\n".to_owned(), vec![]),
        ("", "1,Ash,Lane,,,\n2,Ash,Lane,,,\n3,Ash,,,,\n".to_owned(), vec!["2 [2,3]", "3 [2,3]"]),
        // Stated fields, of any kind.
        (
            "alike = [\"name\", \"size\"]\n",
            "1,Ash,A,,,5\n2,ASH,B,,,05\n3,Ash,C,,,6\n".to_owned(),
            vec!["2 [2,3]", "3 [2,3]"],
        ),
    ];
    for (alike, rows, expected) in cases {
        assert_eq!(told_of(alike, &rows), expected, "{alike}{rows}");
    }
}

#[test]
fn fields_that_agree_in_most_rows_tell_no_duplicates() {
    let folder = Folder::new();
    let fields = "[[field]]\nname = \"id\"\nkind = \"integer\"\n[[field]]\nname = \"day\"\nkind = \"date\"\n\
                  [[field]]\nname = \"by\"\nkind = \"text\"\n";
    let head = "format = 1\nrecord = \"visit\"\nkey = [\"id\"]\n";
    let rows: String = (0..3000).map(|n| format!("{n},2026-01-{:02},j.marsh\n", n % 28 + 1)).collect();
    folder.write("table.csv", format!("id,day,by\n{rows}"));
    folder.write("r.record.toml", format!("{head}{fields}"));
    assert_eq!(told(&folder.report("")), ["duplicate-likely - - -"]);
    assert_eq!(folder.report("")["counts"]["notes"], 1);
    // Whoever names the fields gets what they ask for.
    folder.write("r.record.toml", format!("{head}alike = [\"day\", \"by\"]\n{fields}"));
    assert_eq!(folder.report("")["counts"]["warns"], 3000);
}
