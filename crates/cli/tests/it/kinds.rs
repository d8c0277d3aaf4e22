//! Every kind with accepted and refused spellings, and what ready files make of them.

use crate::tool::{Folder, told};

/// A field, the cell, what is told of it (nothing for sound) and its value in the ready file.
const CELLS: [(&str, &str, &str, &str); 62] = [
    ("kind = \"time\"", "9:30", "", "09:30:00"),
    ("kind = \"time\"", "23:59:59.25", "", "23:59:59.25"),
    ("kind = \"time\"", "24:00", "time-bad", ""),
    ("kind = \"time\"", "half past nine", "time-bad", ""),
    ("kind = \"time\"\ntimes = [\"h:mm a\"]", "9:30 pm", "", "9:30 PM"),
    ("kind = \"time\"\ntimes = [\"h:mm a\"]", "21:30", "time-bad", ""),
    ("kind = \"time\"\nrange = { min = \"08:00\", max = \"18:00\" }", "7:59", "out-of-range", ""),
    ("kind = \"datetime\"", "2024-03-09T09:30:00Z", "", "2024-03-09T09:30:00Z"),
    ("kind = \"datetime\"", "2024-03-09 09:30", "", "2024-03-09T09:30:00"),
    ("kind = \"datetime\"", "2024-03-09 09:30+01:00", "", "2024-03-09T09:30:00+01:00"),
    ("kind = \"datetime\"", "2024-03-09", "", "2024-03-09T00:00:00"),
    ("kind = \"datetime\"", "2024-03-09 25:30", "time-bad", ""),
    ("kind = \"datetime\"", "2024-02-30 09:30", "date-bad", ""),
    ("kind = \"datetime\"", "yesterday", "date-bad", ""),
    ("kind = \"datetime\"\ndates = [\"dd/MM/yyyy HH:mm\"]", "9/3/2024 7:05", "", "09/03/2024 07:05"),
    ("kind = \"datetime\"\nrange = { max = \"today\" }", "2026-11-25 23:59", "", "2026-11-25T23:59:00"),
    ("kind = \"datetime\"\nrange = { max = \"today\" }", "2026-11-26 00:00", "out-of-range", ""),
    ("kind = \"phone\"", "+44 20 7946 0018", "", "+442079460018"),
    ("kind = \"phone\"", "020 7946 0018", "phone-bad", ""),
    ("kind = \"phone\"\nregion = \"GB\"", "020 7946 0018", "", "+442079460018"),
    ("kind = \"phone\"\nregion = \"GB\"", "ask at the gate", "phone-bad", ""),
    ("kind = \"url\"", "https://trees.example/a?b=1", "", "https://trees.example/a?b=1"),
    ("kind = \"url\"", "javascript:alert(1)", "url-bad", ""),
    ("kind = \"url\"\nlength = { max = 20 }", "https://trees.example/", "text-too-long", ""),
    ("kind = \"uuid\"", "123E4567-E89B-12D3-A456-426614174000", "", "123e4567-e89b-12d3-a456-426614174000"),
    ("kind = \"uuid\"", "{123e4567-e89b-12d3-a456-426614174000}", "uuid-bad", ""),
    ("kind = \"decimal\"\npercent = true", "12.5 %", "", "12.5"),
    ("kind = \"decimal\"\npercent = true", "12.5", "", "12.5"),
    ("kind = \"decimal\"", "12.5 %", "decimal-bad", ""),
    ("kind = \"decimal\"\ncurrency = [\"EUR\", \"€\"]", "€ 12.50", "", "12.5"),
    ("kind = \"decimal\"\ncurrency = [\"EUR\", \"€\"]", "12.50 EUR", "", "12.5"),
    ("kind = \"decimal\"\ncurrency = [\"EUR\", \"€\"]", "$12.50", "decimal-bad", ""),
    (
        "kind = \"picklist\"\npicklist = \"hazard\"\nmany = { separator = \";\", max = 2 }",
        "Lean; fungus",
        "",
        "L;F",
    ),
    ("kind = \"picklist\"\npicklist = \"hazard\"\nmany = { separator = \";\", max = 2 }", "L", "", "L"),
    (
        "kind = \"picklist\"\npicklist = \"hazard\"\nmany = { separator = \";\", max = 2 }",
        "L;F;D",
        "list-too-many",
        "",
    ),
    (
        "kind = \"picklist\"\npicklist = \"hazard\"\nmany = { separator = \";\", max = 2 }",
        "L; lean",
        "list-repeated",
        "",
    ),
    (
        "kind = \"picklist\"\npicklist = \"hazard\"\nmany = { separator = \";\", max = 2 }",
        "L, F",
        "list-separator",
        "",
    ),
    (
        "kind = \"picklist\"\npicklist = \"hazard\"\nmany = { separator = \";\", max = 2 }",
        "L; rot",
        "off-list",
        "",
    ),
    ("kind = \"reference\"\nto = \"site\"", "W07-MILL", "", "W07-MILL"),
    ("kind = \"reference\"\nto = \"site\"", "W07-MIL", "reference-unknown", ""),
    ("kind = \"reference\"\nto = \"site\"", "w07-mill", "reference-unknown", ""),
    (
        "kind = \"reference\"\nto = \"site\"\nmany = { separator = \"|\" }",
        "W07-MILL|W03-CANL",
        "",
        "W07-MILL|W03-CANL",
    ),
    (
        "kind = \"reference\"\nto = \"site\"\nmany = { separator = \"|\" }",
        "W07-MILL|W9",
        "reference-unknown",
        "",
    ),
    ("kind = \"picklist\"\npicklist = \"country\"", "GB", "", "GB"),
    ("kind = \"picklist\"\npicklist = \"country\"", "uk", "", "GB"),
    ("kind = \"picklist\"\npicklist = \"country\"", "Netherlands", "", "NL"),
    ("kind = \"picklist\"\npicklist = \"country\"", "DEU", "", "DE"),
    ("kind = \"picklist\"\npicklist = \"country\"", "Atlantis", "off-list", ""),
    ("kind = \"picklist\"\npicklist = \"currency\"", "eur", "", "EUR"),
    ("kind = \"picklist\"\npicklist = \"currency\"", "Pound Sterling", "", "GBP"),
    ("kind = \"picklist\"\npicklist = \"language\"", "French", "", "fr"),
    ("kind = \"picklist\"\npicklist = \"language\"", "xx", "off-list", ""),
    ("kind = \"integer\"", "(42)", "", "-42"),
    ("kind = \"integer\"", "42-", "", "-42"),
    ("kind = \"integer\"", "4.0", "integer-bad", ""),
    ("kind = \"decimal\"", "+.50", "", "0.5"),
    ("kind = \"decimal\"", "1e3", "decimal-bad", ""),
    ("kind = \"boolean\"", "Y", "", "true"),
    ("kind = \"boolean\"", "maybe", "boolean-bad", ""),
    ("kind = \"email\"", "a.b@trees.example", "", "a.b@trees.example"),
    ("kind = \"email\"", "a b@trees.example", "email-bad", ""),
    ("kind = \"date\"", "2024-02-29", "", "2024-02-29"),
];

const LISTS: &str = "[picklist.hazard]\nvalues = [{ code = \"L\", label = \"Lean\" }, { code = \"F\", label = \"Fungus\" }, { code = \"D\" }]\n\
    [picklist.country]\nstandard = \"iso-3166-1\"\n[picklist.currency]\nstandard = \"iso-4217\"\n[picklist.language]\nstandard = \"iso-639-1\"\n";

#[test]
pub(crate) fn every_kind_takes_what_it_should_and_nothing_else() {
    let folder = Folder::new();
    folder.write("sites.csv", "site_code,site_name\nW07-MILL,Mill Lane\nW03-CANL,Canal Walk\n");
    for (field, cell, code, ready) in CELLS {
        let schema = format!(
            "format = 1\nrecord = \"t\"\n[[field]]\nname = \"k\"\nkind = \"text\"\n[[field]]\nname = \"v\"\n{field}\n{LISTS}"
        );
        let quoted = format!("\"{}\"", cell.replace('"', "\"\""));
        folder.write("r.record.toml", &schema).write("table.csv", format!("k,v\nx,{quoted}\n"));
        let reference = if field.contains("site") { "--reference site=sites.csv:site_code" } else { "" };
        let report = folder.report(&format!("--ready ready.csv --force {reference}"));
        let told: Vec<String> =
            told(&report).into_iter().filter(|told| !told.starts_with("key-none")).collect();
        let wanted: Vec<String> = if code.is_empty() { Vec::new() } else { vec![format!("{code} 2 B v")] };
        assert_eq!(told, wanted, "{field}: {cell}");
        let rows = folder.read("ready.csv");
        let found =
            csv::Reader::from_reader(rows.as_bytes()).records().next().map(|row| row.unwrap()[1].to_owned());
        assert_eq!(found.unwrap_or_default(), ready, "{field}: {cell}");
        // What was made of it is taken again, unchanged.
        if code.is_empty() {
            folder.write("table.csv", &rows);
            let report = folder.report(&format!("--ready again.csv --force {reference}"));
            assert_eq!(
                (&report["counts"]["stops"], folder.read("again.csv")),
                (&0.into(), rows),
                "{field}: {cell}"
            );
        }
    }
}

#[test]
pub(crate) fn references_are_looked_up_by_key_or_by_name_or_said_not_to_be() {
    let folder = Folder::new();
    folder.write(
        "r.record.toml",
        "format = 1\nrecord = \"tree\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\n\
        [[field]]\nname = \"site\"\nlabel = \"Site\"\nkind = \"reference\"\nto = \"site\"\n",
    );
    folder.write("sites.csv", "code;name\nW1;Mill Lane\nW2;Orchard\nW3;Orchard\n");
    folder.write("p.plan.toml", "format = 1\nrecord = \"r.record.toml\"\n[references.site]\nfile = \"sites.csv\"\ncolumn = \"code\"\nalso_by = [\"name\"]\n");
    folder.write("table.csv", "k,Site\n1,W1\n2,Mill Lane\n3,Orchard\n4,W4\n");
    let ran = folder.run("check table.csv --plan p.plan.toml --ready ready.csv --format json");
    let report = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(told(&report), ["reference-unclear 4 B site", "reference-unknown 5 B site"]);
    assert_eq!(folder.read("ready.csv"), "k,site\n1,W1\n2,W1\n");
    assert_eq!(told(&folder.report("")), ["reference-unchecked 1 B site"]);
    for (words, message) in [
        ("--reference sites.csv", "not a record, a file and a column"),
        ("--reference ste=sites.csv:code", "did you mean site?"),
        ("--reference site=sites.csv:kode", "did you mean \"code\"?"),
        ("--reference site=none.csv:code", "none.csv"),
        ("--reference site=sites.csv:code --ready sites.csv --force", "sites.csv"),
    ] {
        let ran = folder.run(&format!("check table.csv --record r.record.toml {words}"));
        assert!(ran.code == 2 && ran.err.contains(message), "{words}: {}", ran.err);
    }
}

#[test]
fn suspicions_hold_nothing_unless_a_plan_says_so_and_a_field_may_leave_them_out() {
    let folder = Folder::new();
    let field = |name: &str, more: &str| format!("[[field]]\nname = \"{name}\"\nkind = \"text\"\n{more}");
    let fields = field("notes", "") + &field("status", "ignore = [\"placeholder\", \"formula-like\"]\n");
    folder.write("r.record.toml", format!("format = 1\nrecord = \"t\"\n{fields}"));
    folder.write("table.csv", "notes,status\ntbc,tbc\n=A1,=A1\na  b,a  b\nsound,sound\n");
    let suspected = |level: &str| {
        vec![
            format!("placeholder 2 A notes {level}"),
            "formula-like 3 A notes warn".to_owned(),
            "space-stray 4 A notes note".to_owned(),
            "space-stray 4 B status note".to_owned(),
        ]
    };
    let leveled = |report: &serde_json::Value| -> Vec<String> {
        let levels =
            report["findings"].as_array().unwrap().iter().map(|finding| finding["level"].as_str().unwrap());
        let both = told(report).into_iter().zip(levels).map(|(told, level)| format!("{told} {level}"));
        both.filter(|told| !told.starts_with("key-none")).collect()
    };
    let report = folder.report("");
    assert_eq!((leveled(&report), &report["gate"]), (suspected("note"), &"open".into()));
    folder.write(
        "p.plan.toml",
        "format = 1\nrecord = \"r.record.toml\"\n[gate]\nlevels = { placeholder = \"stop\" }\n",
    );
    let ran = folder.run("check table.csv --plan p.plan.toml --format json");
    let report = serde_json::from_str(&ran.out).unwrap();
    assert_eq!((leveled(&report), ran.code), (suspected("stop"), 1));
    assert_eq!(report["counts"]["held"], 1);
}

#[test]
fn lengths_of_time_are_keys_conditions_and_cells_of_sheets_and_come_back_from_every_form() {
    let folder = Folder::new();
    folder.write(
        "r.record.toml",
        "format = 1\nrecord = \"film\"\nkey = [\"runs\"]\n[[field]]\nname = \"runs\"\nkind = \"duration\"\nunit = \"min\"\n\
        [[field]]\nname = \"kept\"\nkind = \"duration\"\n\
        [[rule]]\nname = \"no film runs longer than three hours\"\nmust = \"runs <= 3 * 3600\"\n",
    );
    folder.write("table.csv", "runs,kept\n2:30,P10Y\n150,P120M\n3:30,\n\"1 h 5 min\",P30D\n");
    let report = folder.report("--ready ready.xlsx");
    let found: Vec<String> = told(&report).into_iter().filter(|told| !told.contains("nearly")).collect();
    assert_eq!(found, ["key-repeated 2 A runs", "key-repeated 3 A runs", "rule-broken 4 - -"]);
    // A workbook that is written keeps the standard form, and is read again as the same.
    let again = folder.run("check ready.xlsx --record r.record.toml --ready again.csv");
    assert_eq!(again.code, 0, "{}", again.out);
    assert_eq!(folder.read("again.csv"), "runs,kept\nPT1H5M,P30D\n");
    // Where no unit is stated, a number is told to want one; what is no number is not.
    let report = folder.write("table.csv", "runs,kept\n1,95 min\n2,soon\n").report("");
    let messages: Vec<_> =
        report["findings"].as_array().unwrap().iter().map(|told| told["message"].as_str().unwrap()).collect();
    let wants_unit: Vec<_> = messages.iter().map(|message| message.contains("states a `unit`")).collect();
    assert_eq!(wants_unit, [true, false], "{messages:?}");
    for (form, file) in [("csvw", "r.json"), ("json-schema", "r.schema.json")] {
        let text = folder.run(&format!("fields r.record.toml --format {form}")).out;
        folder.write(file, &text);
        let drafted = folder.run(&format!("draft {file}")).out;
        assert_eq!(drafted.matches("kind = \"duration\"").count(), 2, "{form}: {drafted}");
    }
    folder.write("t.sql", "CREATE TABLE film (runs INTERVAL PRIMARY KEY);");
    assert!(folder.run("draft t.sql").out.contains("kind = \"duration\""));
    folder.write(
        "r.record.toml",
        "format = 1\nrecord = \"t\"\n[[field]]\nname = \"a\"\nkind = \"duration\"\nunit = \"hours\"\n",
    );
    let refused = folder.run("fields r.record.toml").err;
    assert!(
        refused.contains("`hours` is no unit of time") && refused.contains("permitted: s, min, h"),
        "{refused}"
    );
}
