//! Words put in place: what a plan says that a word means, and the list of what is still open.

use crate::tool::Folder;
use serde_json::{Value, json};

const SCHEMA: &str = r#"
format = 1
record = "tree"
key = ["tag"]
[[field]]
name = "tag"
kind = "text"
pattern = "HT-[0-9]{2}"
[[field]]
name = "species"
kind = "picklist"
picklist = "species"
required = true
[[field]]
name = "hazards"
kind = "picklist"
picklist = "hazard"
many = { separator = ";" }
[[field]]
name = "alive"
kind = "boolean"
[[field]]
name = "site"
kind = "reference"
to = "site"
[[field]]
name = "girth"
kind = "decimal"
[picklist.species]
values = [{ code = "BET", label = "Silver birch" }, { code = "OAK", label = "English oak" }]
[picklist.hazard]
values = [{ code = "DEC" }, { code = "LEA" }]
[[rule]]
name = "birches stand in the mill"
must = "species <> 'BET' OR site = 'MILL'"
"#;

const ROWS: &str = "tag,species,hazards,alive,site,girth\nHT-01,Silver brich,DEC;Lening,ja,the mill,1\nHT-02,OAK,-,nein,MILL,2\n\
                    tree 3,silver  BRICH,Fire;LEA,ja,MILL,3\nHT-04,BET,LEA,ja,GATE,4\n";

const WORDS: &str = "[values.tag]\n\"Tree 3\" = \"HT-03\"\n[values.species]\n\"Silver brich\" = \"BET\"\n\"BET\" = \"OAK\"\n\
                     [values.hazards]\n\"Lening\" = \"LEA\"\n\"-\" = \"\"\n\"fire\" = \"\"\n[values.alive]\n\"ja\" = true\n\"nein\" = false\n\
                     [values.site]\n\"the mill\" = \"MILL\"\n";

fn folder(words: &str) -> Folder {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("t.csv", ROWS).write("sites.csv", "code\nMILL\nGATE\n");
    folder.write("p.plan.toml", format!("format = 1\nrecord = \"r.record.toml\"\n{words}"));
    folder
}

const CHECK: &str =
    "check t.csv --plan p.plan.toml --reference site=sites.csv:code --today 2026-11-29 --force";

#[test]
fn a_word_is_what_the_plan_says_everywhere() {
    let folder = folder(WORDS);
    let ran = folder.run(&format!("{CHECK} --format json --ready ready.csv"));
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    // A word is replaced once: what stands for a birch is none of those that have become oaks.
    let ready = "tag,species,hazards,alive,site,girth\nHT-01,BET,DEC;LEA,true,MILL,1\nHT-02,OAK,,false,MILL,2\n\
                 HT-03,BET,LEA,true,MILL,3\nHT-04,OAK,LEA,true,GATE,4\n";
    assert_eq!(folder.read("ready.csv"), ready);
    let report: Value = serde_json::from_str(&ran.out).unwrap();
    let translated = report["translated"].as_array().unwrap();
    let told = |field: &str, from: &str, to: &str, count: u64| {
        translated.contains(&json!({ "field": field, "from": from, "to": to, "count": count }))
    };
    assert!(told("alive", "ja", "true", 3) && told("species", "silver  BRICH", "BET", 1), "{translated:?}");
    assert!(told("hazards", "Fire", "", 1) && told("tag", "tree 3", "HT-03", 1) && translated.len() == 10);
    // Letter by letter the last one is another word.
    folder.write(
        "p.plan.toml",
        folder.read("p.plan.toml").replace("[values.tag]\n", "[values.tag]\nexact = true\n"),
    );
    assert_eq!(folder.run(CHECK).code, 1);
}

#[test]
fn a_value_that_the_field_cannot_hold_refuses_the_plan() {
    for (words, wanted) in [
        (
            "[values.species]\n\"a\" = \"Silver brich\"",
            ["`species` cannot hold `Silver brich`", "did you mean"],
        ),
        ("[values.alive]\n\"a\" = \"maybe\"", ["`alive` cannot hold `maybe`", "true, false"]),
        ("[values.tag]\n\"a\" = \"HT-1\"", ["`tag` cannot hold `HT-1`", "p.plan.toml:4"]),
        ("[values.girth]\n\"a\" = 1", ["whose values are no words", "[read.fields]"]),
        ("[values.species]\n\" \" = \"OAK\"", ["a blank cell is no word", "[defaults]"]),
        ("[values.species]\n\"a b\" = \"OAK\"\n\"A  B\" = \"BET\"", ["told twice", "`a b`"]),
        ("[values.specie]\n\"a\" = \"OAK\"", ["no field `specie`", "`species`"]),
    ] {
        let ran = folder(words).run(CHECK);
        assert!(ran.code == 2 && wanted.iter().all(|part| ran.err.contains(part)), "{words}: {}", ran.err);
    }
}

#[test]
fn what_is_open_is_listed_written_down_and_decided() {
    let folder = folder("");
    let words = "match t.csv --plan p.plan.toml --reference site=sites.csv:code --values species,hazards --values alive";
    let ran = folder.run(&format!("{words} --format json"));
    let report: Value = serde_json::from_str(&ran.out).unwrap();
    let told = |field: usize, value: &str| {
        let values = report["values"][field]["values"].as_array().unwrap();
        let told = values.iter().find(|told| told["value"] == value).unwrap();
        (
            told["how"].as_str().unwrap().to_owned(),
            told["count"].as_u64(),
            told["likely"][0].as_str().map(str::to_owned),
        )
    };
    let some = |text: &str| Some(text.to_owned());
    assert_eq!(told(0, "Silver brich"), ("open".to_owned(), Some(1), some("BET")));
    assert_eq!(told(0, "OAK"), ("code".to_owned(), Some(1), None));
    assert_eq!(told(1, "Fire"), ("open".to_owned(), Some(1), None));
    assert_eq!(told(2, "ja"), ("open".to_owned(), Some(3), some("true")));
    // Written down twice it stands there once; taken out of the comments it holds.
    for _ in 0..2 {
        folder.run(&format!("{words} --save p.plan.toml"));
    }
    let plan = folder.read("p.plan.toml");
    assert_eq!(plan.matches("# LOOK: \"ja\" = true").count(), 1, "{plan}");
    folder.write("p.plan.toml", plan.replace("# LOOK: ", ""));
    let ran = folder.run(&format!("{words} --format json"));
    let report: Value = serde_json::from_str(&ran.out).unwrap();
    let all = report["values"].as_array().unwrap().iter().flat_map(|of| of["values"].as_array().unwrap());
    assert!(all.clone().all(|told| told["how"] != "open"), "{}", report["values"]);
    assert!(all.clone().any(|told| told["how"] == "plan"));
}
