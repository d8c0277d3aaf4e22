//! The fields of a record schema: listed, searched, handed to other systems and read back.

use crate::tool::{Folder, demo};
use serde_json::Value;

fn folder() -> Folder {
    let folder = Folder::new();
    for name in ["tree.record.toml", "species.csv", "ward-3-survey.csv"] {
        folder.write(name, std::fs::read(demo().join(name)).unwrap());
    }
    folder
}

#[test]
fn fields_are_listed_found_and_shown_whole() {
    let folder = folder();
    insta::assert_snapshot!(folder.run("fields tree.record.toml").out, @r"

    Street tree  tree 2026.1, 14 fields

    tag_no           Tag number          text                key, HT- and seven di…
    site_code        Site                text                required, W, the ward…
    position_no      Position            whole number        between 1 and 999
    species          Species             picklist species    required, 30 values
    planted_on       Planted on          date                between 1850-01-01 an…
    girth_cm         Girth (cm)          decimal             between 1 and 1,500, …
    height_m         Height (m)          decimal             between 0.5 and 60, a…
    stems            Stems               whole number        between 1 and 40
    condition        Condition           picklist condition  required, 5 values
    inspected_on     Inspected on        date                required, between 200…
    inspector_email  Inspector's e-mail  e-mail address      
    protected        Protected           yes or no           required when adding
    removal_due      Removal due         date                
    notes            Notes               text                at most 200 characters
    ");
    insta::assert_snapshot!(folder.run("fields tree.record.toml grith").out, @r#"

    Street tree  tree 2026.1, 1 of 14 fields for "grith"

      Field         girth_cm
      Label         Girth (cm)
      Kind          decimal
      Needed        no
      Limits        between 1 and 1,500; at most 4 digits before and 1 after the
                    point
      Help          Round the trunk, 1.3 m above the ground.
      Example       142.5
    "#);
    for (words, code, wanted) in [
        ("inspect", 0, "4 of 14 fields"),
        ("silver birch", 0, "value Silver birch (BET-PEN)"),
        ("telephone", 1, "No field has it"),
    ] {
        let ran = folder.run(&format!("fields tree.record.toml {words}"));
        assert!(ran.code == code && ran.out.contains(wanted), "{words}: {}", ran.out);
    }
    let json = folder.run("fields tree.record.toml condition --format json").out;
    let report: Value = serde_json::from_str(&json).unwrap();
    assert_eq!(report["fields"][0]["values"][1]["label"], "Good");
}

/// What a form says goes out and comes back: the draft from it is the schema again, as far as the form can say.
#[test]
fn a_schema_is_handed_on_and_read_back() {
    let folder = folder();
    for (format, file, unsaid) in [
        ("csv", "tree-fields.csv", "combinations that must not repeat"),
        ("csvw", "tree.json", "bounds of \"today\": planted_on, inspected_on"),
        ("json-schema", "tree.json", "which fields identify a record: tag_no"),
    ] {
        let ran = folder.run(&format!("fields tree.record.toml --format {format} -o {file} --force"));
        assert!(ran.code == 0 && ran.err.contains(unsaid), "{format}: {}", ran.err);
        let ran = folder.run(&format!("draft {file} --name tree -o back.record.toml --force"));
        assert_eq!(ran.code, 0, "{format}: {}", ran.err);
        let back = folder.read("back.record.toml");
        for line in [
            "label = \"Girth (cm)\"",
            "pattern = \"HT-[0-9]{7}\"",
            "range = { min = 1, max = 1500 }",
            "picklist = \"condition\"",
            "help = \"The number on the aluminium tag.\"",
            "length = { max = 200 }",
        ] {
            assert!(back.contains(line), "{format}: {line} in {back}");
        }
        assert_eq!(back.contains("key = [\"tag_no\"]"), format != "json-schema", "{format}");
        assert!(folder.run("check ward-3-survey.csv --record back.record.toml").code < 2);
    }
    let page = folder.run("fields tree.record.toml --format markdown").out;
    assert!(
        page.contains("| `girth_cm` | Girth (cm) | decimal |") && page.contains("## Picklist condition"),
        "{page}"
    );
}

#[test]
fn what_is_written_keeps_to_the_standards() {
    let folder = folder();
    let read = |words: &str| -> Value { serde_json::from_str(&folder.run(words).out).unwrap() };
    let schema = read("fields tree.record.toml --format json-schema");
    assert!(jsonschema::meta::is_valid(&schema), "a JSON Schema by its own schema");
    let validator = jsonschema::validator_for(&schema).unwrap();
    let tree = serde_json::json!({
        "tag_no": "HT-0004213", "site_code": "W07-MILL", "species": "BET-PEN", "condition": "G",
        "inspected_on": "2026-03-09", "girth_cm": 142.5
    });
    assert!(
        validator.is_valid(&tree),
        "{:?}",
        validator.iter_errors(&tree).map(|e| e.to_string()).collect::<Vec<_>>()
    );
    let mut wrong = tree.clone();
    wrong["tag_no"] = "xHT-0004213".into();
    assert!(!validator.is_valid(&wrong));
    let csvw = read("fields tree.record.toml --format csvw");
    assert_eq!(csvw["@context"], "http://www.w3.org/ns/csvw");
    assert_eq!(csvw["tableSchema"]["primaryKey"], serde_json::json!(["tag_no"]));
    assert_eq!(csvw["tableSchema"]["columns"][5]["datatype"]["maximum"], serde_json::json!(1500));
}

/// A target with 500 fields, of which a file carries three.
#[test]
fn five_hundred_fields_are_no_burden() {
    let folder = Folder::new();
    let fields: String = (0..500)
        .map(|n| format!("[[field]]\nname = \"attribute_{n}\"\nlabel = \"Attribute number {n}\"\nkind = \"text\"\nhelp = \"Help {n}.\"\n"))
        .collect();
    folder
        .write("big.record.toml", format!("format = 1\nrecord = \"big\"\nkey = [\"attribute_0\"]\n{fields}"));
    folder.write("three.csv", "attribute_0,Attribute number 417,Atribute number 33\n1,2,3\n");
    let ran = folder.run("fields big.record.toml attribute 417");
    assert!(ran.code == 0 && ran.out.contains("attribute_417"), "{}", ran.out);
    let ran = folder.run("match three.csv --record big.record.toml --format json");
    let report: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(report["columns"][1]["field"], "attribute_417");
    assert_eq!(report["columns"][2]["proposals"][0]["field"], "attribute_33");
    assert_eq!(report["fields_without_column"].as_array().unwrap().len(), 498);
    assert_eq!(folder.run("template big.record.toml -o big.xlsx").code, 0);
}
