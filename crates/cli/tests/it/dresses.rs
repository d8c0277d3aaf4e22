//! One table in every dress that CSV in UTF-8 may wear: the same findings at the same cells.

use crate::tool::Folder;
use serde_json::Value;

const SCHEMA: &str = "format = 1\nrecord = \"member\"\nkey = [\"no\"]\n\
    [[field]]\nname = \"no\"\nlabel = \"Member no.\"\nkind = \"integer\"\nrange = { min = 1, max = 9999 }\n\
    [[field]]\nname = \"name\"\nkind = \"text\"\nrequired = true\nlength = { max = 12 }\n\
    [[field]]\nname = \"joined\"\nkind = \"date\"\n\
    [[field]]\nname = \"fee\"\nkind = \"decimal\"\ndigits = { before = 3, after = 2 }\n\
    [[field]]\nname = \"mail\"\nkind = \"email\"\n\
    [[field]]\nname = \"paid\"\nkind = \"boolean\"\n";

const ROWS: [[&str; 6]; 12] = [
    ["1", "Ada Quill", "2019-12-31", "12.50", "a.quill@club.example", "yes"],
    ["0002", "Bo, Jr.", "2019-02-29", "1234", "bo@club", "Y"],
    ["3", "", "2020-1-5", "-0.5", "", "no"],
    ["", "Cy", "05/01/2020", "12.345", "c y@club.example", "maybe"],
    ["10000", "Désirée Ōta", "2020-01-05T00:00:00", "free", "d@münster.example", "0"],
    ["2", "Twelve chars", "2020-01-05 10:00", "999.99", "e@club.example", "TRUE"],
    ["7", "Thirteen char", "", "+7", "f@club.example;g@club.example", "n"],
    ["8.0", "He said \"no\"", "20200105", "1e3", "h@club.example", "1"],
    ["9", "two\nlines", "2020-00-10", "(5)", ".i@club.example", "2"],
    ["1", "Ada Quill", "2019-12-31", "12.5", "a.quill@club.example", "Yes"],
    ["-4", "Żółć", "2020-12-31", "0.00", "j@club.example", "false"],
    ["11", "日本語", "9999-12-31", ".5", "k@club.example", "FALSE"],
];

/// The table as a writer would write it.
fn written(always_quoted: bool, line_end: &str, bom: bool, last_line_end: bool) -> String {
    let cell = |text: &str| match always_quoted || text.contains([',', '"', '\n']) {
        true => format!("\"{}\"", text.replace('"', "\"\"")),
        false => text.to_owned(),
    };
    let line = |cells: &[&str]| cells.iter().map(|text| cell(text)).collect::<Vec<_>>().join(",");
    let head = line(&["MEMBER NO", "name", "Joined", "fee", "Mail", "paid"]);
    let lines: Vec<_> = std::iter::once(head).chain(ROWS.iter().map(|row| line(row))).collect();
    let end = if last_line_end { line_end } else { "" };
    format!("{}{}{end}", if bom { "\u{FEFF}" } else { "" }, lines.join(line_end))
}

fn findings(folder: &Folder, table: &str, words: &str) -> Value {
    folder.write("table.csv", table).report(words)["findings"].clone()
}

#[test]
fn the_same_findings_at_the_same_cells() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let plain = findings(&folder, &written(false, "\n", false, true), "");
    for always_quoted in [false, true] {
        for line_end in ["\n", "\r\n"] {
            for (bom, last_line_end) in [(false, true), (true, false), (true, true)] {
                let table = written(always_quoted, line_end, bom, last_line_end);
                assert_eq!(findings(&folder, &table, "--threads 2"), plain, "{table}");
            }
        }
    }
    let told: Vec<_> = plain
        .as_array()
        .unwrap()
        .iter()
        .map(|finding| {
            let text = |key: &str| finding[key].as_str().unwrap_or_default().to_owned();
            format!("{}{} {} {}", text("letter"), finding["row"], text("code"), text("value"))
        })
        .collect();
    insta::assert_snapshot!(told.join("\n"), @"
    A2 key-repeated 1
    A3 key-repeated 0002
    C3 date-impossible 2019-02-29
    D3 digits-too-many 1234
    E3 email-bad bo@club
    B4 required-blank 
    A5 key-blank 
    C5 date-bad 05/01/2020
    D5 digits-too-many 12.345
    E5 email-bad c y@club.example
    F5 boolean-bad maybe
    A6 out-of-range 10000
    D6 decimal-bad free
    A7 key-repeated 2
    C7 date-bad 2020-01-05 10:00
    B8 text-too-long Thirteen char
    E8 email-bad f@club.example;g@club.example
    A9 integer-bad 8.0
    C9 date-bad 20200105
    D9 decimal-bad 1e3
    C10 date-impossible 2020-00-10
    E10 email-bad .i@club.example
    F10 boolean-bad 2
    A11 key-repeated 1
    A12 out-of-range -4
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
