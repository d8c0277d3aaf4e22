//! Records in JSON: which shapes are tables, which are not, and what is told of those that cannot be read.

use crate::tool::{Folder, told};
use crate::whole_rows::schema;
use serde_json::Value;

const SCHEMA: &str = "key = [\"k\"]\nk: text\nn: decimal\nok: boolean\n";

fn folder() -> Folder {
    let folder = Folder::new();
    folder.write("r.record.toml", schema(SCHEMA));
    folder
}

/// A file, further words, and all that is told; or the message where it is no table.
#[test]
pub(crate) fn shapes_that_hold_records_are_read_and_others_are_named() {
    type Wanted = Result<(u64, &'static [&'static str]), &'static str>;
    let deep = "[".repeat(200_000);
    let cases: [(&str, &str, &str, Wanted); 23] = [
        ("a.json", r#"[{"k":"a","n":1.5},{"k":"b","ok":true}]"#, "", Ok((2, &[]))),
        ("a.json", r#"{"total":2,"rows":[{"k":"a"},{"k":"b"}]}"#, "", Ok((2, &[]))),
        ("a.json", r#"{"k":"a","n":1}"#, "", Ok((1, &[]))),
        ("a.json", r#"[["k","n"],["a",1],["b","x"]]"#, "", Err("an array of arrays")),
        ("a.json", r#"[{"k":"a","n":1.234},{"k":"b","n":"5,5"}]"#, "", Ok((2, &["form-guessed - - n"]))),
        ("a.json", r#"{"old":[{"k":"a"}],"new":[{"k":"b"},{"k":"c"}]}"#, "", Err("/new")),
        ("a.json", r#"{"old":[{"k":"a"}],"new":[{"k":"b"},{"k":"c"}]}"#, "--at /new", Ok((2, &[]))),
        ("a.json", r#"{"old":[{"k":"a"}]}"#, "--at /none", Err("/none")),
        ("a.json", r#"{"a/b":{"c~d":[{"k":"a"}]}}"#, "--at /a~1b/c~0d", Ok((1, &[]))),
        ("a.json", r#"[{"k":"a","n":1},{"K":"b","N":2}]"#, "", Ok((2, &[]))),
        (
            "a.json",
            r#"[{"key ":"a"},{"k":"b","K":"c"}]"#,
            "",
            Ok((1, &["heading-unpaired - - -", "heading-unpaired - - -", "key-blank 1 - k"])),
        ),
        (
            "a.json",
            r#"[{"k":"a","n":true},{"k":"b","n":null},{"k":"c","n":"1e3"}]"#,
            "",
            Ok((1, &["decimal-bad 1 - n", "decimal-bad 3 - n"])),
        ),
        (
            "a.json",
            r#"[{"k":"a","n":[1,2]},{"k":"b","n":{"x":1}}]"#,
            "",
            Ok((1, &["heading-unpaired - - -", "decimal-bad 1 - n"])),
        ),
        ("a.json", "null", "", Err("no records")),
        ("a.json", "\"tree\"", "", Err("no records")),
        ("a.json", "[1, 2, 3]", "", Err("no records")),
        ("a.json", &deep, "", Err("a.json")),
        ("a.json", r#"[{"k":"a"},{"k":"b""#, "", Err("a.json")),
        ("a.json", r#"[{"k":"a"},{"k":"b"}"#, "", Err("a.json")),
        (
            "a.ndjson",
            "{\"k\":\"a\"}\n{\"k\":\"b\",\"n\":}\n{\"k\":\"c\"}\n",
            "",
            Ok((2, &["record-unreadable 2 - -"])),
        ),
        ("a.ndjson", "{\"k\":\"a\"}\n{\"k\":\"b\"", "", Err("a.ndjson")),
        ("a.json", r#"[{"k":"a"}]"#, "--delimiter comma", Err("delimiter")),
        ("a.json", r#"[{"k":"a"}]"#, "--heading-row 1", Err("heading-row")),
    ];
    for (name, text, words, wanted) in cases {
        let folder = folder();
        folder.write(name, text);
        let shown: String = text.chars().take(60).collect();
        let ran = folder
            .run(&format!("check {name} --record r.record.toml --today 2026-11-25 --format json {words}"));
        match wanted {
            Ok((ready, findings)) => {
                assert!(ran.code < 2, "{shown} {words}: {}", ran.err);
                let report: Value = serde_json::from_str(&ran.out).unwrap();
                assert_eq!(told(&report), findings, "{shown} {words}");
                assert_eq!(report["counts"]["ready"], ready, "{shown} {words}");
            }
            Err(message) => {
                assert_eq!(ran.code, 2, "{shown} {words}: {}", ran.out);
                assert!(ran.err.contains(message), "{shown} {words}: {}", ran.err);
            }
        }
    }
}

#[test]
fn lines_of_a_record_stand_inside_it() {
    let folder = Folder::new();
    let record = "key = [\"order\"]\norder: text\ncustomer: text\nitem: text; also = [\"items.item\"]\n\
        qty: integer; also = [\"items.qty\"]\n[lines]\nheader = [\"order\", \"customer\"]\nkey= [\"item\"]\n";
    folder.write("r.record.toml", schema(record)).write(
        "a.json",
        r#"[{"order":"1","customer":"Ada","items":[{"item":"oak","qty":2},{"item":"ash","qty":"x"}]},
            {"order":"2","customer":"Bo","items":[{"item":"elm","qty":1}]}]"#,
    );
    let ran =
        folder.run("check a.json --record r.record.toml --format json --ready ready.csv --held held.json");
    assert!(ran.code < 2, "{}", ran.err);
    let report: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(told(&report).len(), 1, "{:?}", told(&report));
    assert_eq!(folder.read("ready.csv"), "order,customer,item,qty\n2,Bo,elm,1\n");
    let held: Value = serde_json::from_str(&folder.read("held.json")).unwrap();
    assert!(held[0]["tidy-gate reasons"].is_string() && held[0]["tidy-gate row"].is_u64(), "{held}");
}

/// Numbers and booleans stay what they are, texts stay texts.
#[test]
fn ready_records_carry_values_of_their_kinds() {
    let folder = folder();
    folder.write("table.csv", "k,n,ok\n007,1.50,Yes\n8,,no\n9,x,\n");
    let report = folder.report("--ready ready.ndjson --held held.ndjson");
    assert_eq!(told(&report), ["decimal-bad 4 B n"]);
    let rows: Vec<Value> =
        folder.read("ready.ndjson").lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!(
        rows,
        [
            serde_json::json!({"k": "007", "n": 1.5, "ok": true}),
            serde_json::json!({"k": "8", "n": null, "ok": false})
        ]
    );
}

/// A list of objects that stands deeper is not read on a guess: it is said how it would be.
#[test]
fn records_that_stand_deeper_are_named_with_what_reads_them() {
    let folder = Folder::new();
    folder.write(
        "r.record.toml",
        "format = 1\nrecord = \"r\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\n",
    );
    folder.write("t.json", r#"{"meta": {"page": 1}, "data": {"items": [{"k": "a"}, {"k": "b"}]}}"#);
    let ran = folder.run("check t.json --record r.record.toml");
    let words = ran.out.split_whitespace().collect::<Vec<_>>().join(" ");
    let told = "records: the whole object is one; a list of objects stands within it (/data/items); if the records are those, say --at /data/items";
    assert!(ran.code == 1 && words.contains(told), "{}", ran.out);
    assert!(folder.run("peek t.json").out.contains("--at /data/items"));
    let ran = folder.run("check t.json --record r.record.toml --at /data/items");
    assert!(ran.code == 0 && ran.out.contains("2 rows"), "{}", ran.out);
    // One record alone is nothing to remark on.
    folder.write("t.json", r#"{"k": "a", "more": {"n": [1, 2]}}"#);
    assert!(!folder.run("check t.json --record r.record.toml").out.contains("--at"));
}
