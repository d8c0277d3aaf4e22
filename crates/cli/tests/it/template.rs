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

/// Examples are values that come often: a record that has them all is one nevertheless.
#[test]
fn a_record_with_the_values_of_the_example_is_no_example() {
    let folder = Folder::new();
    let schema = "format = 1\nrecord = \"r\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\n\
        [[field]]\nname = \"a\"\nkind = \"text\"\nexample = \"slow\"\n[[field]]\nname = \"b\"\nkind = \"text\"\nexample = \"C\"\n";
    folder.write("r.record.toml", schema).write("there.csv", "k,a,b\nK1,slow,C\nK2,slow,C\n");
    for (file, from) in [("p.xlsx", "--existing there.csv"), ("e.xlsx", "--example"), ("e.csv", "--example")]
    {
        let made = folder.run(&format!("template r.record.toml -o {file} {from}"));
        assert_eq!(made.code, 0, "{}", made.err);
        let source = if file == "p.xlsx" { "--existing there.csv" } else { "" };
        let ran = folder.run(&format!("check {file} --record r.record.toml {source} --format json"));
        let report: Value = serde_json::from_str(&ran.out).unwrap();
        let ready = if file == "p.xlsx" { 2 } else { 0 };
        assert_eq!(report["counts"]["ready"], ready, "{file}: {:?}", told(&report));
        let is_told = told(&report).iter().any(|told| told.starts_with("example-row"));
        assert_eq!(is_told, file != "p.xlsx", "{file}: {:?}", told(&report));
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

/// A sheet of records that are there: as it is it changes nothing, and it says itself how it is to be checked.
#[test]
fn a_sheet_of_records_that_are_there_changes_nothing_until_somebody_does() {
    let folder = Folder::new();
    let schema = "format = 1\nrecord = \"tree\"\nkey = [\"tag\"]\n[[field]]\nname = \"tag\"\nkind = \"text\"\n\
        [[field]]\nname = \"state\"\nkind = \"picklist\"\npicklist = \"state\"\n\
        [[field]]\nname = \"girth\"\nkind = \"decimal\"\n[[field]]\nname = \"seen\"\nkind = \"date\"\n\
        [[field]]\nname = \"safe\"\nkind = \"boolean\"\n[[field]]\nname = \"site\"\nkind = \"reference\"\nto = \"site\"\n\
        [picklist.state]\nvalues = [{ code = \"G\", label = \"Good\" }, { code = \"P\", label = \"Poor\" }]\n";
    folder
        .write("r.record.toml", schema)
        .write("sites.csv", "code,ward,Site name\nW07,7,The Mill\nW09,9,The Quay\n");
    folder.write(
        "there.csv",
        "tag;state;girth;seen;safe;site\n007;G;12,50;05.03.2024;yes;W07\n008;P;;31.12.1999;no;W09\n009;G;1;;;W07\n",
    );
    let made = "template r.record.toml -o sheet.xlsx --existing there.csv --where girth>=1 \
        --fields state,girth,seen,safe,site --reference site=sites.csv:code";
    let ran = folder.run(made);
    assert!(ran.code == 0 && ran.out.contains("2 records"), "{}{}", ran.out, ran.err);
    let check = "effects sheet.xlsx --record r.record.toml --existing there.csv --reference site=sites.csv:code --format json";
    let ran = folder.run(check);
    let effects: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
    let records = &effects["records"];
    assert_eq!(
        (ran.code, &records["unchanged"], &records["changed"]),
        (0, &2.into(), &0.into()),
        "{}",
        ran.err
    );
    assert_eq!(effects["missing"], 0, "the third is none of those that the condition permits");
    let long = format!("girth>=1{}", "+0".repeat(130));
    let ran = folder.run(&format!("template r.record.toml -o long.xlsx --existing there.csv --where {long}"));
    assert!(ran.code == 2 && ran.err.contains("has no room to say"), "{}", ran.err);
    let part = |name: &str| {
        let mut book = zip::ZipArchive::new(std::fs::File::open(folder.path("sheet.xlsx")).unwrap()).unwrap();
        let mut text = String::new();
        std::io::Read::read_to_string(&mut book.by_name(name).unwrap(), &mut text).unwrap();
        text
    };
    let sheet = part("xl/worksheets/sheet1.xml");
    assert!(sheet.contains("<sheetProtection ") && part("xl/styles.xml").contains("locked=\"0\""));
    // A choice of sites, by their keys, with their names beside them.
    assert!(
        ["W09", "name of site", "The Quay"].iter().all(|text| part("xl/sharedStrings.xml").contains(text))
            && sheet.matches("type=\"list\"").count() == 3,
        "{sheet}"
    );
    // Whoever gives it a column too many, or another record, is told so.
    let mut book = rust_xlsxwriter::Workbook::new();
    let meant = r#"{"mode":"update","fields":["tag","state"],"where":"girth >= 1"}"#;
    let properties = rust_xlsxwriter::DocProperties::new().set_custom_property("tidy-gate-meant", meant);
    book.set_properties(&properties);
    let rows = [["tag", "state", "girth"], ["007", "Poor", "12.5"], ["008", "Good", "3"], ["009", "G", "2"]];
    let sheet = book.add_worksheet();
    for (row, cells) in (0..).zip(rows) {
        for (column, cell) in (0..).zip(cells) {
            sheet.write_string(row, column, cell).unwrap();
        }
    }
    book.save(folder.path("back.xlsx")).unwrap();
    let ran = folder.run("check back.xlsx --record r.record.toml --existing there.csv --format json");
    let report: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
    let found: Vec<_> =
        crate::existing::codes(&report).into_iter().filter(|found| found.0.contains("scope")).collect();
    let told = |code: &str, row| (code.to_owned(), row);
    assert_eq!(
        [&report["mode"], &report["effects"]["missing"]],
        [&"update".into(), &serde_json::Value::from(0)]
    );
    assert_eq!(
        found,
        [told("row-out-of-scope", 3), told("field-out-of-scope", 3), told("field-out-of-scope", 4)],
        "{}",
        ran.out
    );
}
