//! Marked workbooks: the sender's own file with what was found in it, which comes back and is checked as the file was.

use crate::books;
use crate::causes::spoilt;
use crate::mend::{counts, parts};
use crate::tool::Folder;
use rust_xlsxwriter::{Chart, ChartType, Color, DataValidation, Format, Formula, Note, Table, Workbook};
use serde_json::Value;
use std::collections::BTreeMap;

const SCHEMA: &str = r#"
format = 1
record = "sample"
key = ["no"]
[[field]]
name = "no"
kind = "text"
pattern = "P-[0-9]{3}"
[[field]]
name = "method"
kind = "picklist"
picklist = "method"
required = true
[[field]]
name = "ph"
kind = "decimal"
range = { min = 0, max = 14 }
required = true
[[field]]
name = "lab"
kind = "text"
picklist_hint = "none"
[picklist.method]
values = [{ code = "ISO-1", label = "by glass" }, { code = "ISO-2" }, { code = "FIELD" }]
"#;

/// What a part says, as a text.
fn text(parts: &BTreeMap<String, Vec<u8>>, name: &str) -> String {
    String::from_utf8(parts[name].clone()).unwrap()
}

/// The colour with which a cell is filled.
fn fill(parts: &BTreeMap<String, Vec<u8>>, sheet: &str, place: &str) -> Option<String> {
    let (sheet, styles) = (text(parts, sheet), text(parts, "xl/styles.xml"));
    let cell = sheet.split(&format!("<c r=\"{place}\"")).nth(1)?.split('>').next()?.to_owned();
    let style: usize = cell.split("s=\"").nth(1)?.split('"').next()?.parse().ok()?;
    let xf = styles.split("<cellXfs").nth(1)?.split("<xf ").nth(style + 1)?.to_owned();
    let fill: usize = xf.split("fillId=\"").nth(1)?.split('"').next()?.parse().ok()?;
    let fill = styles.split("<fill>").nth(fill + 1)?.to_owned();
    Some(fill.split("fgColor rgb=\"").nth(1)?.split('"').next()?.to_owned())
}

/// The note on a cell.
fn note(notes: &str, place: &str) -> Option<String> {
    let note = notes.split(&format!("ref=\"{place}\"")).nth(1)?.split("</comment>").next()?.to_owned();
    let texts = note.split("<t").skip(1).filter_map(|text| text.split('>').nth(1));
    Some(texts.filter_map(|text| text.split('<').next()).collect())
}

fn report(folder: &Folder, words: &str) -> Value {
    let ran = folder.run(&format!("check {words} --today 2026-11-29 --format json"));
    assert!(ran.code < 2, "{words}: {}", ran.err);
    serde_json::from_str(&ran.out).unwrap()
}

/// What a report says of the rows, without what only a text can have.
fn said(report: &Value) -> (Value, BTreeMap<String, u64>, Vec<String>) {
    let mut codes = counts(report);
    for code in ["form-guessed", "layout-guessed", "quote-stray", "blank-tail"] {
        codes.remove(code);
    }
    let rows = &report["counts"];
    let causes = report["causes"].as_array().unwrap().iter();
    let causes = causes.map(|cause| cause["code"].as_str().unwrap().to_owned()).collect();
    (serde_json::json!([rows["rows"], rows["ready"], rows["held"], rows["stops"]]), codes, causes)
}

/// A workbook as people have them: other sheets, a formula over them, a chart, notes, colours, a drop-down.
fn senders(folder: &Folder) {
    let mut book = Workbook::new();
    let cover = book.add_worksheet().set_name("Cover").unwrap();
    cover.write_formula(0, 0, Formula::new("=SUM('Lab & field'!C2:C9)").set_result("7")).unwrap();
    let sheet = book.add_worksheet().set_name("Lab & field").unwrap();
    let rows = [
        ["P-001", "ISO-1", "7.1", "North"],
        ["P-002", "ISO-9", "17", "North"],
        ["P-003", "", "x < y", "\u{200b}South"],
        ["P-004", "by glass", "", "West"],
        ["P-004", "FIELD", "5", "West"],
    ];
    let (yellow, bold) = (Format::new().set_background_color(Color::Yellow), Format::new().set_bold());
    for (column, heading) in (0..).zip(["no", "method", "ph", "lab"]) {
        sheet.write_string_with_format(0, column, heading, &bold).unwrap();
    }
    for (row, cells) in (1..).zip(rows) {
        for (column, cell) in (0..).zip(cells).filter(|cell| !cell.1.is_empty()) {
            match cell.parse::<f64>() {
                Ok(number) => sheet.write_number_with_format(row, column, number, &yellow).unwrap(),
                Err(_) => sheet.write_string(row, column, cell).unwrap(),
            };
        }
    }
    sheet.write_string(3, 7, "beside the table").unwrap();
    sheet.insert_note(2, 1, &Note::new("ask the lab").set_author("Ida")).unwrap();
    sheet.insert_note(1, 3, &Note::new("well known")).unwrap();
    let mut chart = Chart::new(ChartType::Line);
    chart.add_series().set_values("='Lab & field'!$C$2:$C$6");
    sheet.insert_chart(8, 5, &chart).unwrap();
    let whole = DataValidation::new().allow_list_strings(&["North", "South"]).unwrap();
    sheet.add_data_validation(1, 3, 5, 3, &whole).unwrap();
    book.define_name("'Lab & field'!limit", "='Lab & field'!$C$2").unwrap();
    book.save(folder.path("t.xlsx")).unwrap();
}

fn schema() -> String {
    SCHEMA.replace("picklist_hint = \"none\"\n", "")
}

#[test]
fn the_senders_workbook_gets_marks_and_stays_his() {
    let folder = Folder::new();
    folder.write("r.record.toml", schema());
    senders(&folder);
    let words = "--record r.record.toml --sheet 2";
    let before = report(&folder, &format!("t.xlsx {words} --marked m.xlsx"));
    let (was, is) = (parts(&folder.bytes("t.xlsx")), parts(&folder.bytes("m.xlsx")));
    // Nothing is gone, and what none of it concerns is as it was.
    let changed: Vec<&str> =
        was.keys().filter(|name| was.get(*name) != is.get(*name)).map(String::as_str).collect();
    let wanted = [
        "[Content_Types].xml",
        "xl/_rels/workbook.xml.rels",
        "xl/comments1.xml",
        "xl/drawings/vmlDrawing1.vml",
        "xl/styles.xml",
        "xl/workbook.xml",
        "xl/worksheets/sheet2.xml",
    ];
    assert_eq!(changed, wanted);
    let sheet = "xl/worksheets/sheet2.xml";
    let (stop, notes) = (Some("FFF3B08C".to_owned()), text(&is, "xl/comments1.xml"));
    for place in ["B3", "C3", "B4", "C4", "C5", "A5", "A6"] {
        assert_eq!(fill(&is, sheet, place), stop, "{place}");
        assert!(note(&notes, place).unwrap().contains("Tidy Gate: \u{25A0}"), "{place}");
    }
    assert_eq!(fill(&is, sheet, "D4").as_deref(), Some("FFD5E7F5"));
    assert_eq!(fill(&is, sheet, "C2").as_deref(), Some("FFFFFF00"), "a sound cell keeps its colour");
    // The sender's notes stay, above ours where both stand on one cell.
    assert!(note(&notes, "B3").unwrap().starts_with("Ida:\nask the lab\nTidy Gate: "), "{notes}");
    assert_eq!(note(&notes, "D2").as_deref(), Some("Author:\nwell known"));
    // Reasons stand beyond all that stands on the sheet; a filter covers them, and the picklist has its drop-down.
    let marked = text(&is, sheet);
    assert!(
        marked.contains("<c r=\"I1\"")
            && marked.contains("tidy-gate reasons")
            && marked.contains("<c r=\"H4\"")
    );
    assert!(marked.contains("<autoFilter ref=\"A1:J6\"/>"), "{marked}");
    assert!(marked.contains("sqref=\"B2:B6\"><formula1>&apos;Tidy Gate&apos;!$AA$1:$AA$3"), "{marked}");
    assert_eq!(marked.matches("<dataValidation ").count(), 2, "the column that has one keeps it");
    // The sheet in front comes first, and names that belong to a sheet follow it.
    let book = text(&is, "xl/workbook.xml");
    let front = book.find("name=\"Tidy Gate\"").unwrap();
    assert!(front < book.find("name=\"Cover\"").unwrap());
    assert!(book.contains("name=\"limit\" localSheetId=\"2\""), "{book}");
    let front = text(&is, "xl/worksheets/tidyGate1.xml");
    for wanted in ["\u{25A0} The file may not be loaded", "How to send it back", "by glass"] {
        assert!(front.contains(wanted), "{wanted}: {front}");
    }
    // It comes back as it went: with the same words, and when it is marked once more.
    let again = report(&folder, &format!("m.xlsx {words} --marked mm.xlsx"));
    assert_eq!(said(&again), said(&before));
    let twice = parts(&folder.bytes("mm.xlsx"));
    assert_eq!(twice.keys().collect::<Vec<_>>(), is.keys().collect::<Vec<_>>());
    assert_eq!(text(&twice, "xl/comments1.xml"), notes);
    let shown =
        |parts: &BTreeMap<String, Vec<u8>>| ["C3", "B4", "D4", "C2"].map(|place| fill(parts, sheet, place));
    assert_eq!(shown(&twice), shown(&is));
    assert_eq!(text(&twice, sheet).matches("tidy-gate mark<").count(), 1);
    assert_eq!(text(&twice, "xl/workbook.xml").matches("Tidy Gate").count(), 1);
}

#[test]
fn an_answer_is_open_and_carries_no_marks() {
    let folder = Folder::new();
    folder.write("r.record.toml", schema());
    folder.write("t.csv", "no;method;ph;lab\nP-001;ISO-1;7,5 ;North\nP-002;iso-2;8,25;x\nP-003;;9;_x0041_\n");
    let ran = folder.run("check t.csv --record r.record.toml --marked m.xlsx");
    assert_eq!(ran.code, 1);
    assert!(ran.out.contains("Send m.xlsx to whoever prepared the file"), "{}", ran.out);
    let next = ran.out.lines().skip_while(|line| !line.contains("Send m.xlsx")).collect::<Vec<_>>().join(" ");
    let command = next.split("tidy-gate ").nth(1).unwrap().split("   ").next().unwrap().replace('\\', "");
    // The step that is printed is the step that can be taken, with what may be asked besides.
    let ran = folder.run(&format!("{} --ready r.csv --held h.csv", command.trim()));
    assert!(
        ran.code == 1 && folder.read("h.csv").contains("method: a required value"),
        "{}{}",
        ran.out,
        ran.err
    );
    // The sender fills the cell that was marked.
    let mut book = parts(&folder.bytes("m.xlsx"));
    let sheet = text(&book, "xl/worksheets/sheet1.xml");
    let at = sheet.find("<c r=\"B4\"").unwrap();
    let end = at + sheet[at..].find("/>").unwrap() + 2;
    let filled =
        format!("{}<c r=\"B4\" t=\"inlineStr\"><is><t>by glass</t></is></c>{}", &sheet[..at], &sheet[end..]);
    book.insert("xl/worksheets/sheet1.xml".to_owned(), filled.into_bytes());
    let mut archive = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (name, bytes) in &book {
        archive.start_file(name.as_str(), zip::write::SimpleFileOptions::default()).unwrap();
        std::io::Write::write_all(&mut archive, bytes).unwrap();
    }
    folder.write("answer.xlsx", archive.finish().unwrap().into_inner());
    let ran = folder.run("check answer.xlsx --record r.record.toml --ready ready.csv");
    assert_eq!(ran.code, 0, "{}", ran.out);
    let wanted = "no,method,ph,lab\nP-001,ISO-1,7.5,North\nP-002,ISO-2,8.25,x\nP-003,ISO-1,9,_x0041_\n";
    assert_eq!(folder.read("ready.csv").replace("\r\n", "\n").replace("\u{feff}", ""), wanted);
}

#[test]
fn whatever_the_file_its_marked_copy_checks_as_it_did() {
    for seed in 400..416 {
        let (table, faults) = spoilt(seed);
        let folder = Folder::new();
        folder.write("r.record.toml", &table.schema).write("t.csv", table.text());
        let words = "--record r.record.toml --force";
        let before = report(&folder, &format!("t.csv {words} --marked m.xlsx --ready a.csv"));
        let after = report(&folder, &format!("m.xlsx {words} --marked mm.xlsx --ready b.csv"));
        assert_eq!(said(&after), said(&before), "seed {seed}: {faults:?}");
        let twice = report(&folder, &format!("mm.xlsx {words}"));
        assert_eq!(said(&twice), said(&before), "seed {seed}: {faults:?}");
        let ready = |name: &str| std::fs::read_to_string(folder.path(name)).unwrap_or_default();
        assert_eq!(ready("a.csv"), ready("b.csv"), "seed {seed}: {faults:?}");
        // What can be mended is mended in the marked copy as it is in the file.
        for (file, copy) in [("t.csv", "n.csv"), ("m.xlsx", "n.xlsx")] {
            folder.run(&format!("mend {file} {words} --today 2026-11-29 -o {copy}"));
        }
        let [one, other] =
            ["n.csv", "n.xlsx"].map(|file| said(&report(&folder, &format!("{file} {words}"))).0);
        assert_eq!(one, other, "seed {seed}: {faults:?}");
    }
}

#[test]
fn other_forms_other_frames_and_what_is_refused() {
    let folder = Folder::new();
    folder.write("r.record.toml", schema());
    // Records, text that pairs by position, titles above the headings, a row that is too long.
    folder.write("t.ndjson", "{\"no\":\"P-001\",\"method\":\"ISO-1\",\"ph\":\"x\"}\n{\"no\":\"P-002\",\"method\":\"ISO-2\",\"ph\":4}\n");
    folder.write("p.csv", "P-001,ISO-1,7,North\nP-002,ISO-9,8,x\n");
    folder.write("u.csv", "Samples of May\n\nno,method,ph,lab\nP-001,ISO-1,7,North,more\nP-002,ISO-9,8,x\n");
    folder.write("b.csv", "\u{feff}\"no\",method,ph\r\nP-001,ISO-1,7\r\nP-002,ISO-9,8\r\n");
    folder.write("s.csv", "no;method;ph;lab\nP-001;ISO-9;7;\"x\n\"\"y\"\"; z\"\n");
    for (file, more) in
        [("t.ndjson", ""), ("p.csv", "--by-position"), ("u.csv", ""), ("b.csv", ""), ("s.csv", "")]
    {
        let before =
            report(&folder, &format!("{file} --record r.record.toml {more} --marked m.xlsx --force"));
        let after = report(&folder, &format!("m.xlsx --record r.record.toml {more}"));
        assert_eq!(said(&after), said(&before), "{file}");
    }
    // A table on the sheet has a filter of its own: ours covers the reasons alone.
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    for (row, cells) in (0..).zip([["no", "method", "ph"], ["P-001", "ISO-9", "7"]]) {
        sheet.write_row(row, 0, cells).unwrap();
    }
    sheet.add_table(0, 0, 1, 2, &Table::new()).unwrap();
    book.save(folder.path("table.xlsx")).unwrap();
    folder.run("check table.xlsx --record r.record.toml --marked tm.xlsx");
    let marked = text(&parts(&folder.bytes("tm.xlsx")), "xl/worksheets/sheet1.xml");
    assert!(marked.contains("<autoFilter ref=\"D1:E2\"/>"), "{marked}");
    for (file, copy, wanted) in [
        ("table.xlsx", "x.xlsm", "ends in .xlsx"),
        ("u.csv", "x.csv", "a marked workbook"),
        ("table.xlsx", "table.xlsx", "the input"),
    ] {
        let ran = folder.run(&format!("check {file} --record r.record.toml --marked {copy} --force"));
        assert!(ran.code == 2 && ran.err.contains(wanted), "{copy}: {}", ran.err);
    }
}

#[test]
fn workbooks_of_all_writers_come_back_and_other_forms_are_mended_anew() {
    let folder = books::folder();
    let mut mended = Vec::new();
    for name in [
        "openpyxl.xlsx",
        "openpyxl-title.xlsx",
        "xlsxwriter.xlsx",
        "xlsxwriter-inline.xlsx",
        "xlsxwriter-1904.xlsx",
        "libreoffice.xlsx",
        "libreoffice.ods",
        "pretty.ods",
        "libreoffice.xls",
        "assembled.xlsb",
        "assembled-short.xlsb",
        "special.xlsx",
    ] {
        folder.write(name, books::book(name));
        let words = "--record r.record.toml --force";
        let before = report(&folder, &format!("{name} {words} --marked m.xlsx --ready a.csv"));
        let after = report(&folder, &format!("m.xlsx {words} --ready b.csv"));
        let is_anew = !name.ends_with(".xlsx");
        if !is_anew || !name.starts_with("special") {
            assert_eq!(said(&after), said(&before), "{name}");
            assert_eq!(after["file"]["sheet"], before["file"]["sheet"], "{name}");
        }
        let ready = |name: &str| std::fs::read_to_string(folder.path(name)).unwrap_or_default();
        assert_eq!(ready("a.csv"), ready("b.csv"), "{name}");
        let copy = format!("n.{}", if name.ends_with(".ods") { "ods" } else { "xlsx" });
        let ran = folder.run(&format!("mend {name} {words} --today 2026-11-29 -o {copy} --format json"));
        let told: Value = serde_json::from_str(&ran.out).unwrap();
        assert_eq!(told["written_anew"], name.contains(".xls") && !name.ends_with('x'), "{name}");
        if name.starts_with("libreoffice") || name.starts_with("assembled") {
            mended.push((told["mended"].clone(), told["held"].clone()));
        }
    }
    // The same table in five dresses is mended the same.
    assert!(mended.windows(2).all(|pair| pair[0] == pair[1]), "{mended:#?}");
}
