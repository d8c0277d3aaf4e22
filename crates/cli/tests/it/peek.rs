//! `peek`: what a file holds.

use crate::tool::{Folder, demo};
use serde_json::Value;

fn json(folder: &Folder, words: &str) -> Value {
    let ran = folder.run(&format!("peek {words} --format json"));
    assert_eq!((ran.code, ran.err.as_str()), (0, ""), "{words}");
    serde_json::from_str(&ran.out).unwrap()
}

#[test]
fn the_contractors_file_is_seen_as_it_is() {
    let folder = Folder::new();
    for name in ["tree.record.toml", "species.csv", "ward-7-survey.csv"] {
        folder.write(name, std::fs::read(demo().join(name)).unwrap());
    }
    let report = json(&folder, "ward-7-survey.csv --record tree.record.toml --rows 2");
    let schema = schemars::generate::SchemaSettings::draft2020_12().for_serialize().into_generator();
    let schema = schema.into_root_schema_for::<tidy_gate_core::peek::PeekReport>();
    assert!(jsonschema::is_valid(schema.as_value(), &report));
    let layout: Vec<_> = report["layout"]
        .as_array()
        .unwrap()
        .iter()
        .map(|fact| {
            format!(
                "{}: {}{}",
                fact["what"].as_str().unwrap(),
                fact["choice"].as_str().unwrap(),
                if fact["guessed"] == true { "?" } else { "" }
            )
        })
        .collect();
    assert_eq!(
        layout,
        [
            "encoding: UTF-8",
            "delimiter: comma",
            "headings: row 4?",
            "left out: row 5 holds units?",
            "left out: row 404, a total?"
        ]
    );
    assert_eq!(
        (&report["rows"]["read"], &report["rows"]["all"], &report["sheets"]),
        (&396.into(), &true.into(), &Value::Array(vec![]))
    );
    let column = |letter: &str| {
        report["columns"]
            .as_array()
            .unwrap()
            .iter()
            .find(|column| column["letter"] == letter)
            .unwrap()
            .clone()
    };
    let girth = column("F");
    assert_eq!(
        (&girth["kind"], &girth["field"], &girth["lowest"], &girth["first_misfit"]["value"]),
        (&"decimal".into(), &"girth_cm".into(), &"6".into(), &"18.4 cm".into())
    );
    let planted = column("E");
    assert_eq!((&planted["kind"], &planted["kind_form"]), (&"date".into(), &"mostly yyyy-MM-dd".into()));
    let inspector = column("K");
    assert_eq!((&inspector["examples"][0], &inspector["distinct"]), (&"***".into(), &5.into()), "sensitive");
    assert_eq!(report["first_rows"][0]["cells"][10], "***");

    let ran = folder.run("peek ward-7-survey.csv");
    assert_eq!(ran.code, 0);
    for part in
        ["396 rows, 15 columns", "? headings   row 4", "18.4 cm\" in row 268", "First rows", "HT-0004201"]
    {
        assert!(ran.out.contains(part), "{part} in {}", ran.out);
    }
}

#[test]
fn a_large_file_is_answered_from_its_beginning_and_says_so() {
    let folder = Folder::new();
    let mut text = String::from("k;name\n");
    (0..300_000).for_each(|row| text.push_str(&format!("{row};Name of row {row}\n")));
    folder.write("table.csv", &text);
    let report = json(&folder, "table.csv");
    let rows = &report["rows"];
    assert!(rows["all"] == false && rows["read"].as_u64().unwrap() < 250_000);
    let estimated = rows["estimated"].as_u64().unwrap();
    assert!((270_000..=330_000).contains(&estimated), "{estimated}");
    assert!(folder.run("peek table.csv").out.contains("--all reads everything"));
    let report = json(&folder, "table.csv --all");
    assert_eq!((&report["rows"]["read"], &report["rows"]["all"]), (&300_000.into(), &true.into()));
    let columns = &report["columns"];
    assert_eq!((&columns[0]["highest"], &columns[0]["distinct"]), (&"299999".into(), &().into()));
    let ran = folder.run_with("peek - --format json", text.as_bytes());
    assert_eq!(serde_json::from_str::<Value>(&ran.out).unwrap()["rows"]["estimated"], Value::Null);
}
