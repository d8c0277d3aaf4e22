//! Workbooks: the same findings at the same cells as the text has, and what only a workbook can have.

use crate::hostile::{sheet, workbook};
use crate::tool::{Folder, project, told};
use serde_json::Value;

pub(crate) fn folder() -> Folder {
    let folder = Folder::new();
    folder.write("r.record.toml", crate::dresses::SCHEMA);
    folder
}

pub(crate) fn book(name: &str) -> Vec<u8> {
    std::fs::read(project().join("crates/cli/tests/data/books").join(name)).unwrap()
}

fn report(folder: &Folder, words: &str) -> Value {
    let ran = folder.run(&format!("check {words} --record r.record.toml --today 2026-11-25 --format json"));
    assert!(ran.code < 2, "{words}: {}", ran.err);
    serde_json::from_str(&ran.out).unwrap()
}

/// What is told of cells, as "letter row code value", with rows counted from the headings.
fn cells(report: &Value, rows_more: u64) -> Vec<String> {
    let findings =
        report["findings"].as_array().unwrap().iter().filter(|finding| finding["letter"].is_string());
    let text = |finding: &Value, key: &str| finding[key].as_str().unwrap_or_default().replace("\r\n", "\n");
    findings
        .map(|finding| {
            let row = finding["row"].as_u64().unwrap() - rows_more;
            format!("{}{row} {} {}", text(finding, "letter"), text(finding, "code"), text(finding, "value"))
        })
        .collect()
}

#[test]
fn the_same_findings_at_the_same_cells_as_the_text() {
    let folder = folder();
    let text = project().join("crates/cli/tests/data/dresses/utf-8.csv");
    folder.write("plain.csv", std::fs::read(text).unwrap());
    let plain = cells(&report(&folder, "plain.csv --ready plain-ready.csv"), 0);
    for (name, rows_more, has_controls) in [
        ("openpyxl.xlsx", 0, false),
        ("openpyxl-title.xlsx", 2, false),
        ("xlsxwriter.xlsx", 0, true),
        ("xlsxwriter-inline.xlsx", 0, true),
        ("xlsxwriter-1904.xlsx", 0, true),
        ("libreoffice.xlsx", 0, true),
        ("libreoffice.ods", 0, false),
        ("pretty.ods", 0, false),
        ("libreoffice.xls", 0, true),
        ("assembled.xlsb", 0, true),
        ("assembled-short.xlsb", 0, true),
    ] {
        let form = name.rsplit('.').next().unwrap();
        folder.write(name, book(name));
        let wanted: Vec<_> = plain
            .iter()
            .filter(|told| has_controls || !told.contains("control-characters"))
            // What a sheet stores has no form of its own.
            .filter(|told| !told.contains("form-guessed"))
            .cloned()
            .collect();
        for threads in [1, 2] {
            let found = report(&folder, &format!("{name} --threads {threads} --ready ready.csv --force"));
            let cells: Vec<_> = cells(&found, rows_more);
            let cells: Vec<_> = cells.into_iter().filter(|told| !told.contains("form-guessed")).collect();
            assert_eq!(cells, wanted, "{name}");
            assert_eq!(found["counts"]["rows"], 40, "{name}");
            assert_eq!((&found["file"]["form"], &found["file"]["sheet"]), (&form.into(), &"Members".into()));
            let ready = folder.read("ready.csv");
            let plain = folder.read("plain-ready.csv").replace("\r\n", "\n");
            assert!(ready == plain || !has_controls, "{name}: {ready}");
        }
    }
}

/// A cell as another program wrote it into a text: days in the form of ISO.
fn in_iso(text: &str) -> String {
    let parts = |mark| text.split(mark).map(|part| part.parse().ok()).collect::<Option<Vec<u32>>>();
    match (parts('/').as_deref(), parts('.').as_deref()) {
        (Some(&[month, day, year]), _) if year > 999 && month < 13 => format!("{year}-{month:02}-{day:02}"),
        (_, Some(&[day, month, year])) if year > 999 => format!("{year}-{month:02}-{day:02}"),
        _ => text.to_owned(),
    }
}

#[test]
fn every_cell_is_what_another_program_reads() {
    let folder = folder();
    let mut compared = 0;
    for name in [
        "openpyxl.xlsx",
        "xlsxwriter.xlsx",
        "xlsxwriter-1904.xlsx",
        "libreoffice.ods",
        "pretty.ods",
        "libreoffice.xls",
        "assembled.xlsb",
        "assembled-short.xlsb",
    ] {
        folder.write(name, book(name));
        let ran = folder.run(&format!("peek {name} --rows 100 --format json"));
        let report: Value = serde_json::from_str(&ran.out).unwrap();
        let other = book(&format!("{name}.read.csv"));
        let mut reader = csv::ReaderBuilder::new().from_reader(other.as_slice());
        let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
        let ours = report["first_rows"].as_array().unwrap();
        assert_eq!(ours.len(), rows.len(), "{name}");
        for (ours, theirs) in ours.iter().zip(&rows) {
            for (ours, theirs) in ours["cells"].as_array().unwrap().iter().zip(theirs) {
                assert_eq!(ours.as_str().unwrap(), in_iso(theirs.trim()), "{name}");
                compared += 1;
            }
        }
    }
    assert_eq!(compared, 8 * 40 * 8);
}

#[test]
pub(crate) fn what_a_workbook_hides_is_told() {
    let folder = folder();
    folder.write("special.xlsx", book("special.xlsx")).write("unclear.xlsx", book("unclear.xlsx"));
    let found = report(&folder, "special.xlsx --ready ready.csv --held held.csv --findings f.csv");
    let mut told = told(&found);
    told.sort();
    assert_eq!(
        told,
        [
            "cells-merged - - -",
            "columns-hidden - - -",
            "filter-active - - -",
            "formula-stale 5 D fee",
            "layout-guessed - - -",
            "number-as-text 4 A no",
            "rows-hidden 8 - -",
            "spreadsheet-error 6 D fee",
        ]
    );
    let finding = &found["findings"].as_array().unwrap()[0];
    assert!(finding["sheet"] == "Members" && finding["line"].is_null(), "{finding}");
    assert!(
        folder.read("ready.csv").contains("\n4,Member 4,2020-01-04,,,true,00004,\n"),
        "{}",
        folder.read("ready.csv")
    );
    assert!(
        folder.read("held.csv").contains(",5,Member 5,2020-01-05,#DIV/0!,,TRUE,00005"),
        "{}",
        folder.read("held.csv")
    );
    assert!(folder.read("f.csv").contains("warn,formula-stale,Members,5,"), "{}", folder.read("f.csv"));
    // A later check finds the same.
    std::fs::rename(folder.path("held.csv"), folder.path("again.csv")).unwrap();
    assert_eq!(crate::tool::told(&report(&folder, "again.csv")), ["spreadsheet-error 2 F fee"]);

    // Days that are stored are taken whatever forms a field states for texts.
    let stated =
        crate::dresses::SCHEMA.replace("kind = \"date\"", "kind = \"date\"\ndates = [\"MM/dd/yyyy\"]");
    folder.write("stated.record.toml", stated);
    let ran = folder.run("check special.xlsx --record stated.record.toml --ready stated.csv --format json");
    assert!(
        !ran.out.contains("date-bad") && folder.read("stated.csv").contains(",01/04/2020,"),
        "{}",
        ran.out
    );
    // Saved again, the formula was calculated; all else is the same.
    for name in ["special.ods", "special.xls"] {
        folder.write(name, book(name));
        let mut again = crate::tool::told(&report(&folder, name));
        again.sort();
        let wanted: Vec<_> = told.iter().filter(|told| !told.starts_with("formula-stale")).cloned().collect();
        assert_eq!(again, wanted, "{name}");
    }

    let unclear = report(&folder, "unclear.xlsx --ready r.csv");
    assert_eq!(
        (crate::tool::told(&unclear), &unclear["counts"]["rows"]),
        (vec!["sheet-unclear - - -".to_owned()], &0.into())
    );
    assert!(!folder.path("r.csv").exists(), "the work ended before the rows");
    for sheet in ["Members", "members", "1", "'Members (2)'"] {
        let mut command = folder.command("check unclear.xlsx --record r.record.toml --format json --sheet");
        let output = command.arg(sheet.trim_matches('\'')).output().unwrap();
        assert_eq!(output.status.code(), Some(0), "{sheet}");
    }
    let ran = folder.run("check unclear.xlsx --record r.record.toml --sheet Trees");
    assert!(
        ran.code == 2 && ran.err.contains("has no sheet Trees; its sheets are: Members, Members (2)"),
        "{}",
        ran.err
    );
    let peek: Value = serde_json::from_str(&folder.run("peek special.xlsx --format json").out).unwrap();
    assert_eq!((&peek["sheets"][2]["hidden"], &peek["sheets"][0]["name"]), (&true.into(), &"Read me".into()));
    let ran =
        folder.run_with("check - --record r.record.toml --sheet 2 --format json", &book("special.xlsx"));
    assert_eq!(
        serde_json::from_str::<Value>(&ran.out).unwrap()["counts"]["rows"],
        8,
        "a workbook on standard input"
    );
}

#[test]
fn formatted_rows_without_values_are_the_tail() {
    let folder = Folder::new();
    let schema = "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\n\
                  [[field]]\nname = \"n\"\nkind = \"text\"\n";
    folder.write("r.record.toml", schema);
    let row = "<row r=\"3\"><c r=\"A3\"><v>1</v></c></row>";
    let formatted =
        "<row r=\"5\"><c r=\"A5\" s=\"1\"/></row><row r=\"6\"><c r=\"A6\" s=\"1\"/><c r=\"B6\"/></row>";
    for (rows, wanted) in [
        (format!("{row}{formatted}"), vec!["row-blank 2 - -", "blank-tail 4 - -"]),
        (format!("{row}<row r=\"5\"/>"), vec!["row-blank 2 - -"]),
    ] {
        folder.write("table.xlsx", crate::hostile::workbook(&crate::hostile::sheet(&rows), b"<sst/>"));
        assert_eq!(told(&report(&folder, "table.xlsx")), wanted, "{rows}");
    }
}

#[test]
fn short_cells_kept_as_text_are_no_doubt_about_the_file() {
    let folder = Folder::new();
    let schema = "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"integer\"\n";
    folder.write("r.record.toml", schema);
    let rows: String =
        (0..9).map(|n| format!("<row><c t=\"inlineStr\"><is><t>{n}</t></is></c></row>")).collect();
    folder.write("table.xlsx", crate::hostile::workbook(&crate::hostile::sheet(&rows), b"<sst/>"));
    let found = report(&folder, "table.xlsx");
    assert_eq!((told(&found).len(), &found["counts"]["ready"]), (10, &9.into()), "nine notes and a heading");
}

#[test]
fn records_in_json_are_judged_like_rows() {
    let folder = folder();
    let array = r#"[
        {"no": 1, "name": "Ada", "joined": "2020-01-05", "fee": 12.50, "paid": true, "card": "00001", "tags": ["a", "b"]},
        {"no": 2, "name": null, "fee": "free", "address": {"town": "Mill", "zip": "0815"}},
        {"Member no.": 3, "name": "two\nlines", "fee": 1.25e1}
    ]"#;
    let lines: String =
        serde_json::from_str::<Vec<Value>>(array).unwrap().iter().map(|value| format!("{value}\n")).collect();
    let held = format!("{{\"page\": 1, \"items\": {array}, \"next\": null}}");
    let mut seen: Option<Vec<String>> = None;
    for (name, text, form) in [
        ("array.json", array, "json"),
        ("held.json", &held, "json"),
        ("lines.ndjson", &lines, "ndjson"),
        ("marked.json", &format!("\u{FEFF}{array}"), "json"),
    ] {
        folder.write(name, text);
        let found = report(&folder, &format!("{name} --ready ready.csv --held held.csv --force"));
        assert_eq!(
            (&found["file"]["form"], &found["file"]["delimiter"]),
            (&form.into(), &Value::Null),
            "{name}"
        );
        assert_eq!(found["counts"]["rows"], 3, "{name}");
        let mut told = told(&found);
        told.sort();
        let wanted = [
            "decimal-bad 2 - fee",
            "heading-unpaired - - -",
            "heading-unpaired - - -",
            "heading-unpaired - - -",
            "required-blank 2 - name",
        ];
        assert_eq!(told, wanted, "{name}");
        let ready = folder.read("ready.csv");
        let wanted =
            "no,name,joined,fee,paid,card\n1,Ada,2020-01-05,12.5,true,00001\n3,\"two\nlines\",,12.5,,\n";
        // Two spellings of one field are one column, where no record has both.
        assert_eq!(ready, wanted, "{name}");
        assert!(seen.get_or_insert_with(|| told.clone()) == &told);
    }
    for (text, message) in [
        (r#"[{"no": 1, "no": 2}]"#, "the key no stands twice in one object at line 1"),
        (r#"[{"no": 1}, 5]"#, "JSON that holds no records, but an array of numbers"),
        ("null", "JSON that holds no records, but null"),
        ("\"tree\"", "JSON that holds no records, but a text"),
        ("[1, 2, 3]", "JSON that holds no records, but an array of numbers"),
        (&"[".repeat(200_000), "its JSON is damaged"),
        (r#"[{"no": 1}, {"no": "#, "its JSON is damaged"),
        (
            r#"{"a": [{"no": 1}], "b": [{"no": 2}]}"#,
            "several of its arrays hold records: /a, /b; name one with --at",
        ),
    ] {
        folder.write("bad.json", text);
        let ran = folder.run("check bad.json --record r.record.toml");
        assert!(
            ran.code == 2 && ran.err.contains(message) && ran.err.lines().count() == 1,
            "{text}: {}",
            ran.err
        );
    }
    for text in ["[]", "[{}]", "{\"items\": []}"] {
        folder.write("empty.json", text);
        let found = report(&folder, "empty.json");
        assert!(crate::tool::told(&found).contains(&"file-empty - - -".to_owned()), "{text}: {found}");
    }
    let deep = "[".to_owned() + &"{\"a\":".repeat(5000) + "1" + &"}".repeat(5000) + "]";
    folder.write("deep.json", deep);
    assert_eq!(folder.run("check deep.json --record r.record.toml").code, 2);
}

#[test]
fn a_number_shown_as_a_percentage_is_one_where_the_field_is() {
    let folder = Folder::new();
    let field = |name: &str, more: &str| format!("[[field]]\nname = \"{name}\"\nkind = \"decimal\"\n{more}");
    let percent = field("k", "percent = true\nrange = { max = 150 }\n");
    folder.write("r.record.toml", format!("format = 1\nrecord = \"t\"\n{percent}{}", field("n", "")));
    let rows: String = ["0.125", "1", "7E-2", "-0.005", "12.5"]
        .map(|number| format!("<row><c s=\"1\"><v>{number}</v></c><c s=\"1\"><v>{number}</v></c></row>"))
        .concat();
    let text = "<row><c t=\"inlineStr\"><is><t>12.5 %</t></is></c><c><v>3</v></c></row>";
    folder.write("book.xlsx", workbook(&sheet(&format!("{rows}{text}")), b"<sst/>"));
    let found = report(&folder, "book.xlsx --ready ready.csv --held held.csv");
    assert_eq!(told(&found), ["key-none - - -", "out-of-range 6 A k"]);
    assert_eq!(found["findings"][1]["value"], "1250 %");
    assert_eq!(folder.read("ready.csv"), "k,n\n12.5,0.125\n100,1\n7,0.07\n-0.5,-0.005\n12.5,3\n");
    // As it is shown, so that a later check reads the same.
    assert!(folder.read("held.csv").ends_with(",1250 %,12.5\n"), "{}", folder.read("held.csv"));
}
