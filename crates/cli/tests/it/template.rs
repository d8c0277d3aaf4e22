//! Templates: the sheet to fill is known again, and says when the record schema has moved on.

use crate::tool::{Folder, demo, told};
use calamine::{Data, Reader, Xlsx, open_workbook};
use serde_json::Value;
use std::io::Read;

fn folder() -> Folder {
    let folder = Folder::new();
    for name in ["tree.record.toml", "species.csv"] {
        folder.write(name, std::fs::read(demo().join(name)).unwrap());
    }
    folder
}

fn part(folder: &Folder, file: &str, name: &str) -> String {
    let mut archive = zip::ZipArchive::new(std::fs::File::open(folder.path(file)).unwrap()).unwrap();
    let mut text = String::new();
    archive.by_name(name).unwrap().read_to_string(&mut text).unwrap();
    text
}

#[test]
fn a_template_holds_headings_help_lists_and_its_version() {
    let folder = folder();
    let ran = folder.run("template tree.record.toml -o t.xlsx");
    assert_eq!(ran.code, 0, "{}", ran.err);
    let mut book: Xlsx<_> = open_workbook(folder.path("t.xlsx")).unwrap();
    assert_eq!(book.sheet_names(), ["Street tree", "Fields", "Picklists"]);
    let headings: Vec<String> = book
        .worksheet_range("Street tree")
        .unwrap()
        .rows()
        .next()
        .unwrap()
        .iter()
        .map(Data::to_string)
        .collect();
    assert_eq!(headings[..6], ["Tag number", "Site", "Position", "Species", "Planted on", "Girth (cm)"]);
    let lists = book.worksheet_range("Picklists").unwrap();
    assert_eq!(lists.get_value((3, 0)).unwrap().to_string(), "Field maple");
    let sheet = part(&folder, "t.xlsx", "xl/worksheets/sheet1.xml");
    for wanted in [
        "'Picklists'!$A$4:$A$33",
        "\"Yes,No\"",
        "DATE(2000,1,1)",
        "TODAY()",
        "state=\"frozen\"",
        "<formula1>1</formula1><formula2>1500</formula2>",
    ] {
        assert!(sheet.contains(wanted), "{wanted}");
    }
    // Retired values are not offered.
    assert!(!part(&folder, "t.xlsx", "xl/sharedStrings.xml").contains("Not assessed"));
    let notes = part(&folder, "t.xlsx", "xl/comments1.xml");
    assert!(
        notes.contains("The number on the aluminium tag.") && notes.contains("Example: HT-0004213"),
        "{notes}"
    );
    assert!(part(&folder, "t.xlsx", "docProps/custom.xml").contains("2026.1"));
    // The same on every run.
    assert_eq!(folder.run("template tree.record.toml -o again.xlsx").code, 0);
    assert_eq!(
        std::fs::read(folder.path("t.xlsx")).unwrap(),
        std::fs::read(folder.path("again.xlsx")).unwrap()
    );
}

#[test]
fn a_text_holds_the_headings_and_an_example_is_left_out() {
    let folder = folder();
    let ran = folder.run("template tree.record.toml -o t.csv --fields condition,inspected_on --mode update");
    assert_eq!(
        (ran.code, folder.read("t.csv").as_str()),
        (0, "\u{FEFF}Tag number,Condition,Inspected on\r\n")
    );
    for file in ["e.csv", "e.xlsx"] {
        assert_eq!(folder.run(&format!("template tree.record.toml -o {file} --example")).code, 0);
        let ran = folder.run(&format!("check {file} --record tree.record.toml --format json"));
        let report: Value = serde_json::from_str(&ran.out).unwrap();
        let (row, left_out) = if file == "e.csv" { (3, 2) } else { (2, 1) };
        let is_example = |told: &String| told.starts_with(&format!("example-row {row}"));
        assert!(told(&report).iter().any(is_example), "{file}: {:?}", told(&report));
        assert_eq!(report["counts"]["left_out"], left_out, "{file}");
    }
    for (words, message) in
        [("--fields condtion", "did you mean `condition`?"), ("-o t.ods", ".xlsx or .csv")]
    {
        let output = if words.starts_with("-o") { "" } else { "-o x.csv" };
        let ran = folder.run(&format!("template tree.record.toml {output} {words}"));
        assert!(ran.code == 2 && ran.err.contains(message), "{words}: {}", ran.err);
    }
}

/// Templates that were filled with the rows of ward 3 and saved by a spreadsheet program: see `data/templates`.
#[test]
pub(crate) fn a_filled_template_passes_without_a_plan_and_an_old_one_is_told() {
    for file in ["filled.xlsx", "filled-resaved.xlsx", "filled-resaved.ods"] {
        let folder = folder();
        let data = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/data/templates");
        folder.write(file, std::fs::read(format!("{data}/{file}")).unwrap());
        let check = format!("check {file} --record tree.record.toml --today 2026-11-26 --format json");
        let ran = folder.run(&check);
        let report: Value = serde_json::from_str(&ran.out).unwrap();
        assert_eq!((ran.code, &report["counts"]["ready"]), (0, &148.into()), "{file}: {:?}", told(&report));
        assert_eq!(report["file"]["sheet"], "Street tree");
        let schema = folder.read("tree.record.toml").replace("2026.1", "2027.1");
        folder.write("tree.record.toml", schema);
        let report: Value = serde_json::from_str(&folder.run(&check).out).unwrap();
        assert!(told(&report).contains(&"template-outdated - - -".to_owned()), "{file}: {:?}", told(&report));
        assert_eq!(report["gate"], "open");
    }
}
