//! One table in every dress that delimited text arrives in: the same findings at the same cells.

use crate::tool::{Folder, project};
use serde_json::Value;

pub(crate) const SCHEMA: &str = r#"
format = 1
record = "member"
key = ["no"]
[[field]]
name = "no"
label = "Member no."
kind = "integer"
example = "4711"
[[field]]
name = "name"
kind = "text"
required = true
length = { max = 24 }
example = "Ada Quill"
[[field]]
name = "joined"
kind = "date"
[[field]]
name = "fee"
kind = "decimal"
digits = { before = 5, after = 2 }
example = 12.5
[[field]]
name = "mail"
kind = "email"
[[field]]
name = "paid"
kind = "boolean"
[[field]]
name = "card"
kind = "text"
pattern = "[0-9]{5}"
[[field]]
name = "remark"
kind = "text"
"#;

/// Each dress: its file, the options it needs, how many rows stand above and between, and what is told besides.
const DRESSES: [(&str, &str, u64, &[&str]); 28] = [
    ("utf-8.csv", "", 0, &[]),
    ("utf-8-bom.csv", "", 0, &[]),
    ("utf-16le.csv", "", 0, &["encoding: UTF-16LE"]),
    ("utf-16be.csv", "", 0, &["encoding: UTF-16BE"]),
    ("utf-16le-unmarked.csv", "", 0, &["encoding: UTF-16LE"]),
    ("utf-16be-unmarked.csv", "", 0, &["encoding: UTF-16BE"]),
    ("windows-1252.csv", "", 0, &["encoding: windows-1252"]),
    ("windows-1252.csv", "--encoding latin1", 0, &[]),
    ("gb18030.csv", "--encoding gb18030", 0, &[]),
    ("semicolon.csv", "", 0, &["encoding: windows-1252", "delimiter: semicolon"]),
    ("tab.tsv", "", 0, &["encoding: UTF-16LE", "delimiter: tab"]),
    ("pipe.txt", "", 0, &["delimiter: pipe"]),
    ("caret.txt", "--delimiter ^", 0, &[]),
    ("sep-line.csv", "", 1, &["delimiter: semicolon"]),
    ("quoted.csv", "", 0, &[]),
    ("line-feeds.csv", "", 0, &[]),
    ("carriage-returns.csv", "", 0, &["line ends: carriage returns alone"]),
    ("no-last-line-end.csv", "", 0, &[]),
    ("packed.csv.gz", "", 0, &[]),
    ("packed.csv.zst", "", 0, &["encoding: UTF-16LE"]),
    ("title-above.csv", "", 3, &["headings: row 4"]),
    ("title-above.csv", "--heading-row 4", 3, &[]),
    ("names-and-units.csv", "", 2, &["left out: row 2 holds technical names", "left out: row 3 holds units"]),
    ("example-row.csv", "", 2, &["left out: row 2 holds technical names", "example-row"]),
    ("total-row.csv", "", 0, &["total-row"]),
    ("blank-tail.csv", "", 0, &["blank-tail"]),
    (
        "all-at-once.csv",
        "",
        5,
        &[
            "encoding: windows-1252",
            "delimiter: semicolon",
            "headings: row 4",
            "left out: row 5 holds technical names",
            "example-row",
            "total-row",
            "blank-tail",
        ],
    ),
    ("no-headings.csv", "--by-position", u64::MAX, &[]),
];

/// What is told of cells, as "letter row code value" with rows counted from the headings; and all else.
fn told(report: &Value, rows_more: u64) -> (Vec<String>, Vec<String>) {
    let (mut cells, mut others) = (Vec::new(), Vec::new());
    for finding in report["findings"].as_array().unwrap() {
        let text = |key: &str| finding[key].as_str().unwrap_or_default().to_owned();
        match finding["letter"].as_str() {
            // It stands at the headings, which lie elsewhere in each dress.
            _ if text("code") == "form-guessed" => {}
            Some(letter) => {
                let row = finding["row"].as_u64().unwrap().wrapping_sub(rows_more);
                // Line breaks are the file's own.
                let value = text("value").replace("\r\n", "\n");
                cells.push(format!("{letter}{row} {} {}", text("code"), value.escape_debug()));
            }
            None if text("code") == "layout-guessed" => others.push(text("message")),
            // Few bytes beyond ASCII leave an encoding in doubt, which the layout's note tells too.
            None if text("code") == "encoding-doubt" => {}
            None => others.push(text("code")),
        }
    }
    (cells, others)
}

#[test]
fn the_same_findings_at_the_same_cells_in_every_dress() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let mut plain = None;
    for (name, options, rows_more, besides) in DRESSES {
        let file = project().join("crates/cli/tests/data/dresses").join(name);
        for (stream, threads) in [(false, 1), (false, 2), (true, 2)] {
            folder.write("table.csv", std::fs::read(&file).unwrap());
            let words = format!(
                "--record r.record.toml --today 2026-11-25 --format json --threads {threads} \
                 --ready ready.csv --held held.csv --force {options}"
            );
            let ran = match stream {
                true => folder.run_with(&format!("check - {words}"), &std::fs::read(&file).unwrap()),
                false => folder.run(&format!("check table.csv {words}")),
            };
            assert_eq!((ran.code, ran.err.as_str()), (1, ""), "{name}");
            let report: Value = serde_json::from_str(&ran.out).unwrap();
            let (cells, others) = told(&report, rows_more);
            // A stray quote or a delimiter more or less would show here.
            assert_eq!(others.len(), besides.len(), "{name}: {others:?}");
            for (other, wanted) in others.iter().zip(besides) {
                assert!(other.starts_with(wanted), "{name}: {other} is not {wanted}");
            }
            let counts = &report["counts"];
            let left_out = counts["left_out"].as_u64().unwrap();
            assert_eq!(counts["rows"].as_u64().unwrap() - left_out, 40, "{name}");
            // The ready rows and the reasons are the same too.
            let held = folder.read("held.csv");
            let reasons = held.matches("-bad").count() + held.matches("required-blank").count();
            let found = (cells, folder.read("ready.csv").replace("\r\n", "\n"), reasons);
            assert!(plain.get_or_insert_with(|| found.clone()) == &found, "{name}: {found:#?}");
        }
    }
    let (cells, ready, _) = plain.unwrap();
    assert_eq!(ready.lines().count(), 27, "24 ready rows, one with a line break, under their headings");
    insta::assert_snapshot!(cells.join("\n"), @r"
    B5 required-blank 
    C7 date-impossible 2019-02-30
    C8 date-as-number 43830
    C9 placeholder 1900-01-01
    D10 digits-too-many 12.345
    D11 decimal-bad free
    D12 placeholder 99999
    A13 key-repeated 12
    E13 email-bad bo@club
    F14 boolean-bad maybe
    G15 zeros-lost 14
    G16 pattern-broken A0015
    H17 placeholder TBC
    H18 formula-like =1+1
    H19 space-stray a  b
    H20 space-stray a\u{a0}b
    H21 space-stray  outer 
    H22 spreadsheet-error #N/A
    H23 precision-lost 1.23E+15
    A24 integer-bad 22.0
    A25 key-repeated 12
    A26 key-blank 
    A27 placeholder 99999
    H28 encoding-doubt cafÃ©
    H29 characters-invisible so\u{ad}rt
    H30 control-characters bell\u{7}
    D31 spreadsheet-error #DIV/0!
    B32 text-too-long A name that is far too long
    ");
}

#[test]
fn a_blank_surplus_is_noted_and_the_row_is_judged() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    folder.write("table.csv", "no,name\n1,Ada,,\n2,,\"\"\n3,Bo,x\n");
    let report = folder.report("--held held.csv --ready ready.csv");
    let levels: Vec<_> = report["findings"]
        .as_array()
        .unwrap()
        .iter()
        .map(|f| (f["row"].clone(), f["code"].clone(), f["level"].clone()))
        .collect();
    let told = |row: u64, code: &str, level: &str| (row.into(), code.into(), level.into());
    assert_eq!(
        levels,
        [
            told(2, "row-width", "note"),
            told(3, "row-width", "note"),
            told(3, "required-blank", "stop"),
            told(4, "row-width", "stop"),
        ]
    );
    assert_eq!(folder.read("ready.csv"), "no,name\n1,Ada\n");
    assert!(folder.read("held.csv").contains(",2,,\"\"\n"), "the row as it came, surplus and all");
}

#[test]
fn a_file_of_one_column_and_one_of_many_are_read_alike() {
    let folder = Folder::new();
    folder.write(
        "r.record.toml",
        "format = 1\nrecord = \"t\"\nkey = [\"c1\"]\n[[field]]\nname = \"c1\"\nkind = \"integer\"\n",
    );
    let report = folder.write("table.csv", "c1\n1\n\n\n2\n 1 \n\n").report("");
    assert_eq!((&report["counts"]["rows"], &report["counts"]["held"]), (&3.into(), &2.into()));
    let row = |cell: fn(usize) -> String| (1..=600).map(cell).collect::<Vec<_>>().join(",");
    let table = format!(
        "{}\n{}\n{}\n",
        row(|n| format!("c{n}")),
        row(|n| n.to_string()),
        row(|n| (n + 1).to_string())
    );
    let report = folder.write("table.csv", table).report("");
    assert_eq!((report["columns"].as_array().unwrap().len(), &report["counts"]["warns"]), (600, &599.into()));
    assert_eq!(report["columns"][599]["letter"], "WB");
}
