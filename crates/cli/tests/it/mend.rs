//! Mended copies: what needs no guess is mended, all else stays byte by byte, and nothing changes its meaning.

use crate::causes::spoilt;
use crate::tool::{Folder, Ran};
use rust_xlsxwriter::{Format, Formula, Note, Workbook};
use serde_json::Value;
use std::collections::BTreeMap;
use std::io::Read;

const SCHEMA: &str = r#"
format = 1
record = "tree"
key = ["tag"]
[[field]]
name = "tag"
kind = "text"
pattern = "HT-[0-9]{4}"
case = "upper"
[[field]]
name = "code"
kind = "text"
pattern = "[0-9]{5}"
[[field]]
name = "girth"
kind = "decimal"
unit = "cm"
[[field]]
name = "stems"
kind = "integer"
[[field]]
name = "hazards"
kind = "picklist"
picklist = "hazard"
many = { separator = ";" }
[[field]]
name = "day"
kind = "date"
range = { min = "2020-01-01", max = "2026-12-31" }
[[field]]
name = "note"
kind = "text"
[picklist.hazard]
values = [{ code = "DEC" }, { code = "LEA" }]
"#;

/// Cells that are mended, those that cannot be without a guess, and sound ones.
const ROWS: [[&str; 7]; 6] = [
    ["ht-0001", "42", "12.5 cm", "3.0", "DEC, LEA", "2024-03-04", "by  the gate\u{200b}"],
    ["HT-0002", "00042", "12.5", "3", "DEC; LEA", "45000", " plain "],
    ["HT-0003", "7", "12,75", "4 stems", "FIRE", "2021-02-30", "née \"Quill\", gate"],
    ["HT-0004", "00007", "13.25", "1", "DEC", "2024-03-05", "a\u{a0}b"],
    ["HT-0005", "00008", "18.5", "2", "", "45001", "line one\nline two"],
    ["HT-0006", "00009", "19.5 m", "2", "LEA", "2024-03-06", "x"],
];

const MENDED: [[&str; 7]; 6] = [
    ["HT-0001", "00042", "12.5", "3", "DEC; LEA", "2024-03-04", "by the gate"],
    ["HT-0002", "00042", "12.5", "3", "DEC; LEA", "2023-03-15", "plain"],
    ["HT-0003", "00007", "12,75", "4 stems", "FIRE", "2021-02-30", "née \"Quill\", gate"],
    ["HT-0004", "00007", "13.25", "1", "DEC", "2024-03-05", "a b"],
    ["HT-0005", "00008", "18.5", "2", "", "2023-03-16", "line one\nline two"],
    ["HT-0006", "00009", "19.5 m", "2", "LEA", "2024-03-06", "x"],
];

fn mend(folder: &Folder, file: &str, copy: &str, more: &str) -> Ran {
    folder.run(&format!("mend {file} --record r.record.toml --today 2026-11-29 -o {copy} --force {more}"))
}

fn text(rows: &[[&str; 7]], delimiter: &str, line_end: &str) -> String {
    let cell = |cell: &&str| match cell.contains(['"', '\n', ',', ';']) {
        true => format!("\"{}\"", cell.replace('"', "\"\"")),
        false => (*cell).to_owned(),
    };
    let head = ["tag", "code", "girth", "stems", "hazards", "day", "note"];
    let rows = std::iter::once(&head).chain(rows);
    rows.map(|row| row.iter().map(cell).collect::<Vec<_>>().join(delimiter) + line_end).collect()
}

#[test]
fn texts_are_mended_in_their_own_dress() {
    let utf16 = |text: &str| -> Vec<u8> {
        std::iter::once(0xFEFF).chain(text.encode_utf16()).flat_map(u16::to_le_bytes).collect()
    };
    let western = |text: &str| encoding_rs::WINDOWS_1252.encode(text).0.into_owned();
    let with_mark = |text: &str| [b"\xEF\xBB\xBF", text.as_bytes()].concat();
    let plain = |text: &str| text.as_bytes().to_vec();
    type Dress<'a> = &'a dyn Fn(&str) -> Vec<u8>;
    let dresses: [(Dress<'_>, &str, &str, bool); 5] = [
        (&plain, ",", "\n", true),
        (&with_mark, ";", "\r\n", true),
        (&utf16, "\t", "\r\n", true),
        // What this encoding does not have, no file in it holds.
        (&western, ";", "\n", false),
        (&plain, "|", "\r\n", true),
    ];
    for (number, (dress, delimiter, line_end, has_invisible)) in dresses.into_iter().enumerate() {
        let folder = Folder::new();
        let mut rows = ROWS;
        if !has_invisible {
            rows[0][6] = "by  the gate";
        }
        folder.write("r.record.toml", SCHEMA);
        folder.write("t.csv", dress(&text(&rows, delimiter, line_end)));
        let ran = mend(&folder, "t.csv", "m.csv", "");
        assert_eq!(ran.code, 1, "{number}: {}{}", ran.out, ran.err);
        let (found, wanted) = (folder.bytes("m.csv"), dress(&text(&MENDED, delimiter, line_end)));
        assert!(found == wanted, "{number}: {}", String::from_utf8_lossy(&found));
        // Once mended, nothing is left to mend.
        assert_eq!(mend(&folder, "m.csv", "again.csv", "").code, 1);
        assert!(folder.bytes("again.csv") == found, "{number}");
        assert_eq!(folder.read("again.csv.log.csv").lines().count(), 1);
    }
}

#[test]
fn one_code_alone_a_dry_run_and_what_cannot_be_mended() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("t.csv", text(&ROWS, ",", "\n"));
    mend(&folder, "t.csv", "m.csv", "--only case-wrong,zeros-lost --log log.json");
    let log: Value = serde_json::from_str(&folder.read("log.json")).unwrap();
    let log = log.as_array().unwrap();
    let codes: Vec<&str> = log.iter().map(|line| line["codes"].as_str().unwrap()).collect();
    assert_eq!(codes, ["case-wrong", "zeros-lost", "zeros-lost"]);
    assert_eq!((&log[0]["before"], &log[0]["after"]), (&"ht-0001".into(), &"HT-0001".into()));
    let ran = folder.run("mend t.csv --record r.record.toml --dry-run --format json --today 2026-11-29");
    let told: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(
        (told["cells"].as_u64(), told["output"].as_str(), told["gate"].as_str()),
        (Some(11), None, Some("shut"))
    );
    for (words, wanted) in [
        ("mend t.csv --record r.record.toml -o m2.csv --only date-bad", "without a guess"),
        ("mend t.csv --record r.record.toml -o m2.csv --only case-wrogn", "did you mean `case-wrong`?"),
        ("mend t.csv --record r.record.toml -o m.xlsx", "the form of its file"),
        ("mend t.csv --record r.record.toml -o t.csv --force", "the input"),
        ("mend t.json --record r.record.toml -o m2.json", "cannot be found again"),
        ("mend t.json --record r.record.toml -o m2.csv", "the form of its file"),
    ] {
        // One record alone is no array of them.
        folder.write("t.json", "{\"tag\": \"ht-0001\"}");
        let ran = folder.run(words);
        assert!(ran.code == 2 && ran.err.contains(wanted), "{words}: {}", ran.err);
        assert!(!folder.path("m2.csv").exists());
    }
}

/// The parts of a package, unpacked.
pub(crate) fn parts(bytes: &[u8]) -> BTreeMap<String, Vec<u8>> {
    let mut archive = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
    (0..archive.len())
        .map(|number| {
            let mut entry = archive.by_index(number).unwrap();
            let name = entry.name().unwrap().into_owned();
            let mut bytes = Vec::new();
            entry.read_to_end(&mut bytes).unwrap();
            (name, bytes)
        })
        .collect()
}

#[test]
fn a_workbook_is_patched_in_its_own_package() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let mut book = Workbook::new();
    let bold = Format::new().set_bold().set_num_format("@");
    let cover = book.add_worksheet().set_name("Cover").unwrap();
    cover.write_string(0, 0, "ht-0001").unwrap();
    let sheet = book.add_worksheet().set_name("Trees").unwrap();
    let table = [["tag", "code", "girth", "stems", "hazards", "day", "note"]];
    for (row, cells) in (0..).zip(table.iter().chain(&ROWS)) {
        for (column, cell) in (0..).zip(cells) {
            sheet.write_string_with_format(row, column, *cell, &bold).unwrap();
        }
    }
    sheet.write_formula(4, 2, Formula::new("=1+12.25").set_result("13.25")).unwrap();
    sheet.insert_note(2, 2, &Note::new("measured twice")).unwrap();
    sheet.set_freeze_panes(1, 0).unwrap().autofilter(0, 0, 6, 6).unwrap();
    book.save(folder.path("t.xlsx")).unwrap();
    let ran = mend(&folder, "t.xlsx", "m.xlsx", "--sheet Trees");
    assert_eq!(ran.code, 1, "{}{}", ran.out, ran.err);
    let (before, after) = (parts(&folder.bytes("t.xlsx")), parts(&folder.bytes("m.xlsx")));
    let changed: Vec<&String> = before.keys().filter(|name| before.get(*name) != after.get(*name)).collect();
    assert_eq!((changed, before.len()), (vec![&"xl/worksheets/sheet2.xml".to_owned()], after.len()));
    // Cell by cell the part is what it was, but for those in the log.
    let cells = |bytes: &[u8]| -> Vec<String> {
        String::from_utf8_lossy(bytes).split("<c ").map(str::to_owned).collect()
    };
    let part = "xl/worksheets/sheet2.xml";
    let (one, other) = (cells(&before[part]), cells(&after[part]));
    let differing = one.iter().zip(&other).filter(|(one, other)| one != other).count();
    let logged = folder.read("m.xlsx.log.csv").lines().count() - 1;
    assert_eq!((one.len(), differing), (other.len(), logged));
    // Its rows are those of the mended text.
    folder.write("wanted.csv", text(&MENDED, ",", "\n"));
    for file in ["m.xlsx --sheet Trees", "wanted.csv"] {
        let name = file.split('.').next().unwrap();
        folder.run(&format!(
            "check {file} --record r.record.toml --today 2026-11-29 --ready {name}-ready.csv --force"
        ));
    }
    assert_eq!(folder.read("m-ready.csv"), folder.read("wanted-ready.csv"));
    mend(&folder, "m.xlsx", "again.xlsx", "--sheet Trees");
    assert_eq!(parts(&folder.bytes("again.xlsx")), after);
}

/// Findings by code.
pub(crate) fn counts(report: &Value) -> BTreeMap<String, u64> {
    let mut counts = BTreeMap::new();
    for total in report["totals"].as_array().unwrap() {
        *counts.entry(total["code"].as_str().unwrap().to_owned()).or_insert(0) +=
            total["count"].as_u64().unwrap();
    }
    counts
}

#[test]
fn what_is_left_is_what_was_not_mended_and_ready_rows_mean_the_same() {
    for seed in 200..230 {
        let (table, _) = spoilt(seed);
        let folder = Folder::new();
        folder.write("r.record.toml", &table.schema).write("t.csv", table.text());
        let check = |file: &str| -> Value {
            let words = format!(
                "check {file} --record r.record.toml --today 2026-11-29 --format json --ready {file}.ready.csv --force"
            );
            serde_json::from_str(&folder.run(&words).out).unwrap()
        };
        let before = counts(&check("t.csv"));
        let told: Value =
            serde_json::from_str(&mend(&folder, "t.csv", "m.csv", "--format json").out).unwrap();
        let mut left = before.clone();
        for mended in told["mended"].as_array().unwrap() {
            *left.get_mut(mended["code"].as_str().unwrap()).unwrap() -= mended["count"].as_u64().unwrap();
        }
        left.retain(|code, count| *count > 0 && code != "form-guessed");
        let mut found = counts(&check("m.csv"));
        found.remove("form-guessed");
        assert_eq!(found, left, "seed {seed}");
        let rows = |name: &str| -> Vec<String> {
            let text = std::fs::read_to_string(folder.path(name)).unwrap_or_default();
            text.lines().map(|line| line.replace("  ", " ")).collect()
        };
        let mended = rows("m.csv.ready.csv");
        let clean = |line: &String| line.replace(['\u{a0}'], " ").replace('\u{200b}', "");
        let mended: Vec<String> = mended.iter().map(clean).collect();
        for row in rows("t.csv.ready.csv").iter().map(clean) {
            assert!(mended.contains(&row), "seed {seed}: {row}");
        }
    }
}

/// Rows and cells that stand for several are parted where one of those is mended; all else is as it was written.
#[test]
fn an_open_document_is_patched_where_its_cells_stand_for_several() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let text = |value: &str, more: &str| {
        format!(
            "<table:table-cell office:value-type=\"string\"{more}><text:p>{value}</text:p></table:table-cell>"
        )
    };
    let head: String = ["tag", "code", "girth", "stems", "hazards", "day", "note"]
        .iter()
        .map(|name| text(name, ""))
        .collect();
    let row = |tag: &str, more: &str| {
        let blank = "<table:table-cell table:number-columns-repeated=\"2\" table:style-name=\"ce1\"/>";
        let cells = text(tag, "") + &text("00007", "") + blank + blank + &text("x\u{a0}y", more) + blank;
        format!("<table:table-row>{cells}</table:table-row>")
    };
    let formula = format!(
        "<table:table-row><table:table-cell table:formula=\"of:=&quot;ht-0009&quot;\" office:value-type=\"string\">\
         <text:p>ht-0009</text:p></table:table-cell>{}<table:table-cell table:number-columns-repeated=\"5\"/></table:table-row>",
        text("00009", "")
    );
    let rows = row("HT-0001", "")
        + &row("ht-0002", "")
        + &row("HT-0003", " table:number-columns-repeated=\"2\"")
        + &formula;
    let sheet = |name: &str, rows: &str| {
        format!(
            "<table:table table:name=\"{name}\"><table:table-row>{head}</table:table-row>{rows}</table:table>"
        )
    };
    let content = format!(
        "<?xml version=\"1.0\"?><office:document-content xmlns:office=\"o\" xmlns:table=\"t\" xmlns:text=\"x\"><office:body>\
         <office:spreadsheet>{}{}</office:spreadsheet></office:body></office:document-content>",
        sheet("Cover", &row("ht-0099", "")),
        sheet("Trees", &rows)
    );
    let mut archive = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (name, bytes) in [
        ("mimetype", "application/vnd.oasis.opendocument.spreadsheet"),
        ("META-INF/manifest.xml", "<manifest/>"),
        ("content.xml", content.as_str()),
        ("Pictures/a.png", "bytes of a picture"),
    ] {
        archive.start_file(name, zip::write::SimpleFileOptions::default()).unwrap();
        std::io::Write::write_all(&mut archive, bytes.as_bytes()).unwrap();
    }
    folder.write("t.ods", archive.finish().unwrap().into_inner());
    let ran = mend(&folder, "t.ods", "m.ods", "--sheet Trees");
    assert!(ran.code < 2, "{}", ran.err);
    let (before, after) = (parts(&folder.bytes("t.ods")), parts(&folder.bytes("m.ods")));
    let changed: Vec<&String> = before.keys().filter(|name| before.get(*name) != after.get(*name)).collect();
    assert_eq!(changed, ["content.xml"]);
    // What is mended: one tag, and the notes; a formula stays, and so does the other sheet.
    let wanted = content.split_once("table:name=\"Trees\"").map(|(cover, trees)| {
        let trees = trees.replace(">ht-0002<", ">HT-0002<");
        // The second of the two stands under no heading.
        let parted = text("x\u{a0}y", " table:number-columns-repeated=\"2\"");
        let trees = trees.replace(&parted, &(text("x y", "") + &text("x#y", "")));
        format!("{cover}table:name=\"Trees\"{}", trees.replace('\u{a0}', " ").replace('#', "\u{a0}"))
    });
    let found = String::from_utf8(after["content.xml"].clone()).unwrap();
    assert_eq!(Some(found), wanted);
    mend(&folder, "m.ods", "again.ods", "--sheet Trees");
    assert_eq!(parts(&folder.bytes("again.ods")), after);
}

/// What may be a thousand as well stays, whatever mark is stated, and only what is gone is told as mended.
#[test]
fn a_mark_that_may_part_thousands_is_no_decimal_mark_to_mend() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA.replace("case = \"upper\"\n", ""));
    folder.write("p.plan.toml", "format = 1\nrecord = \"r.record.toml\"\n[read]\ndecimal_mark = \".\"\n");
    let rows = ["\"1,234\"", "\"-1,234\"", "\"12,5\"", "\"1.234,5\"", "9.5", "8.5", "7.5", "6.5", "5.5"];
    let lines = (1..)
        .zip(rows)
        .map(|(number, girth)| format!("HT-{number:04},00001,{girth},1,,2024-03-04,x{number}\n"));
    folder.write("t.csv", format!("tag,code,girth,stems,hazards,day,note\n{}", lines.collect::<String>()));
    let ran = folder.run("mend t.csv --plan p.plan.toml -o m.csv --today 2026-11-29");
    assert_eq!(ran.code, 1, "{}", ran.err);
    let mended = folder.read("m.csv");
    let girths: Vec<&str> =
        mended.lines().skip(1).take(4).filter_map(|line| line.split(",00001,").nth(1)).collect();
    let begins = ["\"1,234\",", "\"-1,234\",", "\"12.5\",", "\"1234.5\","];
    assert!(girths.iter().zip(begins).all(|(girth, begin)| girth.starts_with(begin)), "{girths:?}");
    let report = folder.run("check t.csv --plan p.plan.toml --format json --today 2026-11-29").out;
    let report: Value = serde_json::from_str(&report).unwrap();
    let cause = &report["causes"][0];
    assert_eq!((&cause["code"], &cause["findings"]), (&"decimal-mark-other".into(), &2.into()), "{cause}");
}

#[test]
fn a_default_is_put_into_a_blank_cell_that_is_needed() {
    let folder = Folder::new();
    let schema = "format = 1\nrecord = \"tree\"\nkey = [\"tag\"]\n[[field]]\nname = \"tag\"\nkind = \"text\"\n\
                  [[field]]\nname = \"stems\"\nkind = \"integer\"\nrequired = true\ndefault = \"1\"\n\
                  [[field]]\nname = \"day\"\nkind = \"date\"\ndefault = \"2026-01-01\"\n\
                  [[field]]\nname = \"state\"\nkind = \"text\"\nrequired = \"advised\"\ndefault = \"good\"\n";
    folder.write("r.record.toml", schema);
    folder.write("t.csv", "tag;stems;day;state\nA;;;\nB;2;; \nC;-;;bad\n\"D\";\"\";x;\"\"\n");
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    let rows =
        [["tag", "stems", "day", "state"], ["A", "", "", ""], ["B", "2", "", "fair"], ["C", "", "", ""]];
    for (row, cells) in (0..).zip(rows) {
        for (column, cell) in (0..).zip(cells).filter(|cell| !cell.1.is_empty()) {
            sheet.write_string(row, column, cell).unwrap();
        }
    }
    sheet.write_blank(3, 1, &Format::new().set_bold()).unwrap();
    book.save(folder.path("t.xlsx")).unwrap();
    mend(&folder, "t.csv", "m.csv", "");
    // A date that nobody needs stays blank, and so does what is more than a blank.
    assert_eq!(
        folder.read("m.csv"),
        "tag;stems;day;state\nA;1;;good\nB;2;;good\nC;-;;bad\n\"D\";\"1\";x;\"good\"\n"
    );
    assert_eq!(folder.read("m.csv.log.csv").matches("required-blank").count(), 5);
    mend(&folder, "t.xlsx", "m.xlsx", "");
    folder.run("check m.xlsx --record r.record.toml --ready ready.csv");
    let ready = folder.read("ready.csv").replace('\u{feff}', "");
    assert!(ready.contains("A,1,2026-01-01,good\nB,2,2026-01-01,fair\nC,1,2026-01-01,good"), "{ready}");
    let part = String::from_utf8(parts(&folder.bytes("m.xlsx"))["xl/worksheets/sheet1.xml"].clone()).unwrap();
    let [first, second] = ["<c r=\"B2\"", "<c r=\"D2\""].map(|cell| part.find(cell).unwrap());
    assert!(first < second && part.contains("<c r=\"B4\" s=\"1\""), "{part}");
    // Records that are there already have a value of their own.
    mend(&folder, "t.csv", "u.csv", "--mode update");
    assert!(!folder.read("u.csv.log.csv").contains("required-blank"));
    mend(&folder, "m.csv", "again.csv", "");
    assert_eq!(folder.read("again.csv"), folder.read("m.csv"));
}

#[test]
fn records_of_json_are_rewritten_where_they_stand() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    // The first record stands before the array, too; keys in any order, escapes, spaces, numbers, lists.
    let record = "{ \"tag\": \"ht-0001\", \"code\":42 }";
    let before = format!(
        "\u{feff}{{\"model\": {record}, \"rows\":\n[{record} ,\n {{\"note\":\"a\\u00a0b \\\"x\\\"\",\"tag\":\"HT-0002\",\"girth\":\"12.5 cm\", \
         \"hazards\":[\"DEC\"],\"stems\":3}},{{\"tag\":\"HT-0003\",\"girth\":1.5e1,\"day\":45000}}]}}\n"
    );
    folder.write("t.json", &before);
    let ran = mend(&folder, "t.json", "m.json", "--format json");
    let told: Value = serde_json::from_str(&ran.out).unwrap();
    let after = before
        .replace(&format!("[{record}"), "[{ \"tag\": \"HT-0001\", \"code\":\"00042\" }")
        .replace("\"a\\u00a0b \\\"x\\\"\"", "\"a b \\\"x\\\"\"")
        .replace("12.5 cm", "12.5")
        .replace("45000", "\"2023-03-15\"");
    assert_eq!(folder.read("m.json"), after);
    assert_eq!(told["cells"].as_u64(), Some(folder.read("m.json.log.csv").lines().count() as u64 - 1));
    mend(&folder, "m.json", "again.json", "");
    assert_eq!(folder.read("again.json"), after);
    // One object a line; what is no record stays, and so does every line end.
    let lines = "{\"tag\":\"ht-0001\"}\r\nno record\n\n{\"tag\":\"HT-0002\",\"girth\":\"7 cm\"} {\"tag\":\"ht-0003\"}\n";
    folder.write("t.ndjson", lines);
    mend(&folder, "t.ndjson", "m.ndjson", "");
    let wanted = lines.replace("ht-", "HT-").replace("7 cm", "7");
    assert_eq!(folder.read("m.ndjson"), wanted);
    // Many records, over the bounds of what is read at once.
    let many: Vec<String> = (0..9_000)
        .map(|number| {
            format!(
                "{{\"tag\":\"{}-{number:04}\",\"note\":\"{}\"}}",
                ["HT", "ht"][number % 2],
                "x".repeat(60)
            )
        })
        .collect();
    folder.write("many.json", format!("[{}]", many.join(",\n")));
    mend(&folder, "many.json", "n.json", "");
    assert_eq!(folder.read("n.json"), format!("[{}]", many.join(",\n").replace("ht-", "HT-")));
}
