//! Every code: found exactly where it is, and not found on a sound twin.

use crate::tool::{Folder, met, told};
use tidy_gate_core::catalogue::Code;

/// A record with a field for each kind.
const SCHEMA: &str = r#"
format = 1
record = "tree"
key = ["tag"]
unique = [["site", "position"]]

[[field]]
name = "tag"
label = "Tag number"
kind = "text"
pattern = "HT-[0-9]{3}"
case = "upper"
example = "HT-999"
[[field]]
name = "site"
kind = "text"
example = "W99"
required = true
length = { min = 2, max = 8 }
[[field]]
name = "position"
kind = "integer"
range = { min = 1, max = 99 }
[[field]]
name = "girth"
kind = "decimal"
digits = { before = 4, after = 1 }
range = { min = 1, max = 1500 }
[[field]]
name = "planted"
kind = "date"
dates = ["dd/MM/yyyy", "d MMM yy", "yyyy-MM-dd"]
range = { min = 1850-01-01, max = "today" }
[[field]]
name = "condition"
kind = "picklist"
picklist = "condition"
[[field]]
name = "protected"
kind = "boolean"
[[field]]
name = "mail"
kind = "email"
[[field]]
name = "plot"
kind = "text"
pattern = "[0-9]{5}"
[[field]]
name = "canopy"
kind = "decimal"
read_only = true

[picklist.condition]
values = [{ code = "E", label = "Excellent" }, { code = "G", label = "Good" }, { code = "X", label = "Not assessed", retired = true }]
"#;

const HEAD: &str = "tag,site,position,girth,planted,condition,protected,mail\n";
const SOUND: &str = "HT-001,W07,1,142.5,2019-12-31,Good,yes,j.marsh@trees.example\n\
                     HT-002,W07,2,,,,,\n\
                     HT-003,\"W 8\"\"x\",,7,31/12/2019,e,N,\n";

/// A table in which `HT-002` has another value in one column.
fn with(column: usize, value: &str) -> String {
    let mut cells = ["HT-002", "W07", "2", "", "", "", "", ""].map(str::to_owned);
    cells[column] = value.to_owned();
    HEAD.to_owned() + &SOUND.replace("HT-002,W07,2,,,,,\n", &(cells.join(",") + "\n"))
}

/// Each code with a table that has it and the places at which it must be told, as "row letter field".
fn cases() -> Vec<(Code, String, Vec<&'static str>)> {
    let long = "x".repeat(9);
    let headed = |head: &str, rows: &str| format!("{head}\n{rows}");
    let table = |text: &str| HEAD.to_owned() + text;
    vec![
        (Code::BlankTail, table(&format!("{SOUND},,,,,,,\n,,,,,,,\n")), vec!["5 - -"]),
        (Code::BooleanBad, with(6, "perhaps"), vec!["3 G protected"]),
        (Code::CaseWrong, with(0, "ht-002"), vec!["3 A tag"]),
        (Code::CharactersInvisible, with(1, "W\u{200B}7"), vec!["3 B site"]),
        (Code::CharactersLookalike, with(1, "M\u{430}ple"), vec!["3 B site"]),
        (Code::ControlCharacters, with(1, "W7\u{7}"), vec!["3 B site"]),
        (Code::DateAsNumber, with(4, "43830"), vec!["3 E planted"]),
        (Code::DateBad, with(4, "soon"), vec!["3 E planted"]),
        (Code::DateImpossible, with(4, "31/06/2019"), vec!["3 E planted"]),
        (Code::DateTwoDigitYear, with(4, "3 May 19"), vec!["3 E planted"]),
        (Code::DecimalBad, with(3, "12cm"), vec!["3 D girth"]),
        (Code::DigitsTooMany, with(3, "1.25"), vec!["3 D girth"]),
        (Code::EmailBad, with(7, "j.marsh@trees"), vec!["3 H mail"]),
        (Code::EncodingDoubt, with(1, "caf\u{C3}\u{A9}"), vec!["3 B site"]),
        (Code::ExampleRow, table(&format!("{HEAD}HT-999,W99,1,,,,,\n{SOUND}")), vec!["3 - -"]),
        (Code::FieldMissing, headed("site,position", "W07,1\n"), vec!["- - tag"]),
        (Code::FieldReadOnly, headed("tag,site,canopy", "HT-001,W07,1\n"), vec!["1 C canopy"]),
        (Code::FileEmpty, HEAD.to_owned(), vec!["- - -"]),
        (Code::FooterRow, table(&format!("{SOUND}Surveyed in May\n")), vec!["5 - -"]),
        (Code::FormulaLike, with(1, "=1+1"), vec!["3 B site"]),
        (Code::HeadingBlank, headed("tag,site,", "HT-001,W07,note\n"), vec!["1 C -"]),
        (Code::HeadingRepeated, headed("tag,site,remark,Remark", "HT-001,W07,a,b\n"), vec!["1 D -"]),
        (
            Code::HeadingShared,
            headed("tag,site,Girth!,GIRTH", "HT-001,W07,1,2\n"),
            vec!["1 C girth", "1 D girth"],
        ),
        (Code::HeadingClose, headed("tag,site,grith", "HT-001,W07,1\n"), vec!["1 C -"]),
        (Code::HeadingUnpaired, headed("tag,site,surveyor", "HT-001,W07,1\n"), vec!["1 C -"]),
        (Code::IntegerBad, with(2, "2.0"), vec!["3 C position"]),
        (Code::KeyBlank, with(0, " "), vec!["3 A tag"]),
        (Code::KeyRepeated, with(0, "\"HT-001\""), vec!["2 A tag", "3 A tag"]),
        (Code::LayoutGuessed, headed("tag;site", "HT-001;W07\n"), vec!["- - -"]),
        (Code::OffList, with(5, "Goood"), vec!["3 F condition"]),
        (Code::OffListRetired, with(5, "not  assessed"), vec!["3 F condition"]),
        (Code::OutOfRange, with(3, "1500.1"), vec!["3 D girth"]),
        (Code::PatternBroken, with(0, "HT-02"), vec!["3 A tag"]),
        (Code::Placeholder, with(1, "TBC"), vec!["3 B site"]),
        (Code::PrecisionLost, with(1, "4.5E+15"), vec!["3 B site"]),
        (Code::QuoteOpen, table(&format!("{SOUND}HT-009,\"W07,5\nHT-010,W07\n")), vec!["5 B -"]),
        (Code::QuoteStray, with(1, "W7 5\" x"), vec!["3 B site"]),
        (Code::RequiredBlank, with(1, "\"\""), vec!["3 B site"]),
        (Code::RowBlank, table(&SOUND.replace("HT-002", "\n,,,,,,,\nHT-002")), vec!["3 - -"]),
        (Code::RowWidth, table(&SOUND.replace("HT-002,", "HT-002")), vec!["3 - -"]),
        (Code::SpaceStray, with(1, "W  7"), vec!["3 B site"]),
        (Code::SpreadsheetError, with(2, "#REF!"), vec!["3 C position"]),
        (Code::TextTooLong, with(1, &long), vec!["3 B site"]),
        (Code::TextTooShort, with(1, "W"), vec!["3 B site"]),
        (Code::TotalRow, table(&format!("{SOUND},,,149.5,,,,\n")), vec!["5 - -"]),
        (Code::TotalWrong, table(&format!("{SOUND}Total,,,149.6,,,,\n")), vec!["5 D girth"]),
        (Code::UniqueRepeated, with(2, "01"), vec!["2 - -", "3 - -"]),
        (Code::ZerosLost, headed("tag,site,plot", "HT-001,W07,123\n"), vec!["2 C plot"]),
    ]
}

#[test]
fn every_code_is_found_where_it_is_and_not_on_a_sound_twin() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let sound = folder.write("table.csv", HEAD.to_owned() + SOUND).report("");
    assert_eq!((told(&sound), &sound["gate"]), (Vec::new(), &"open".into()));
    for (code, table, places) in cases() {
        let report = folder.write("table.csv", &table).report("");
        let found: Vec<_> = told(&report)
            .iter()
            .filter_map(|told| told.strip_prefix(&format!("{code} ")).map(str::to_owned))
            .collect();
        assert_eq!(found, places, "{code} in {table}");
    }
}

/// Runs in which the codes are told that other files, schemas and plans bring out than those of the cases here.
const ELSEWHERE: [fn(); 22] = [
    crate::books::what_a_workbook_hides_is_told,
    crate::evidence::a_column_decides_the_mark_before_decimals,
    crate::evidence::a_column_decides_the_order_of_day_and_month,
    crate::existing::words_of_an_export_that_nobody_knows_are_told_and_the_order_of_several_values_is_no_change,
    crate::existing::keys_must_be_new_or_there_and_rules_see_the_record_as_it_would_be,
    crate::json_tables::shapes_that_hold_records_are_read_and_others_are_named,
    crate::kinds::every_kind_takes_what_it_should_and_nothing_else,
    crate::kinds::references_are_looked_up_by_key_or_by_name_or_said_not_to_be,
    crate::lines::a_record_with_too_few_lines_is_held_whole,
    crate::lines::each_fault_of_records_is_told_where_it_is,
    crate::outcome::rights_are_judged_by_changes_and_required_fields_on_the_outcome,
    crate::outcome::the_target_numbers_records_and_something_else_may_stand_for_the_number,
    crate::outcome::what_must_be_unique_is_judged_on_the_outcome,
    crate::plan::a_clear_word_empties_what_may_be_emptied_and_blank_leaves_it,
    crate::plan::a_plan_that_no_longer_fits_says_so_first,
    crate::plan::a_scope_stops_a_file_before_its_values,
    crate::plan::rows_that_a_file_may_not_change_are_held_or_left_out,
    crate::plan::swapped_columns_are_told,
    crate::rules::each_row_is_held_against_each_rule,
    crate::rules::likely_duplicates_have_other_keys_and_the_same_words,
    crate::template::a_filled_template_passes_without_a_plan_and_an_old_one_is_told,
    crate::whole_rows::rows_are_judged_as_their_writers_meant_them,
];

#[test]
fn every_code_is_told_by_some_run() {
    every_code_is_found_where_it_is_and_not_on_a_sound_twin();
    a_record_without_a_key_says_what_cannot_be_seen();
    nearly_the_same_keys_and_repeated_rows_warn();
    ELSEWHERE.iter().for_each(|walk| walk());
    let met = met();
    let missing: Vec<_> =
        Code::ALL.iter().map(ToString::to_string).filter(|code| !met.contains(code)).collect();
    assert!(missing.is_empty(), "no run tells {missing:?}");
}

#[test]
fn a_fault_is_told_once_and_alone() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    for (code, table, places) in cases() {
        let alone = !matches!(code, Code::HeadingRepeated | Code::UniqueRepeated | Code::ExampleRow);
        if alone {
            let report = folder.write("table.csv", &table).report("");
            assert_eq!(told(&report).len(), places.len(), "{code}: {:?}", told(&report));
        }
    }
}

#[test]
fn bytes_of_another_encoding_are_told_in_their_cell() {
    let folder = Folder::new();
    folder
        .write("r.record.toml", SCHEMA)
        .write("table.csv", b"tag,site,other\nHT-001,Caf\xE9,\xFF\nHT-002,W07,\n");
    let report = folder.report("--encoding utf-8");
    assert_eq!(told(&report)[1..], ["encoding-doubt 2 B site", "encoding-doubt 2 C -"]);
    assert_eq!((&report["counts"]["held"], &report["counts"]["warns"]), (&1.into(), &2.into()));
    // Where nothing is stated, the encoding that fits is taken, and said.
    let report = folder.report("--ready ready.csv");
    // So few bytes leave doubt.
    assert_eq!(told(&report)[..2], ["encoding-doubt - - -", "layout-guessed - - -"]);
    assert_eq!(folder.read("ready.csv"), "tag,site\nHT-001,Café\nHT-002,W07\n");
}

#[test]
fn a_record_without_a_key_says_what_cannot_be_seen() {
    let folder = Folder::new();
    let schema = SCHEMA.replace("key = [\"tag\"]\n", "");
    folder.write("r.record.toml", schema).write("table.csv", HEAD.to_owned() + SOUND);
    let report = folder.report("");
    assert_eq!((told(&report), &report["gate"]), (vec!["key-none - - -".to_owned()], &"open".into()));
    let ran = folder.run("check table.csv --record r.record.toml --mode update");
    assert!(ran.code == 2 && ran.err.contains("names no key"), "{}", ran.err);
}

#[test]
fn the_mode_decides_what_is_needed() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("table.csv", "tag,girth\nHT-001,5\n,6\n");
    for (mode, wanted) in [
        ("add", vec!["field-missing - - site", "key-blank 3 A tag"]),
        ("both", vec!["field-missing - - site", "key-blank 3 A tag"]),
        ("update", vec!["key-blank 3 A tag"]),
    ] {
        assert_eq!(told(&folder.report(&format!("--mode {mode}"))), wanted, "{mode}");
    }
}

#[test]
fn advised_fields_warn_and_defaults_fill() {
    let folder = Folder::new();
    folder.write(
        "r.record.toml",
        "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"integer\"\n\
        [[field]]\nname = \"a\"\nkind = \"text\"\nrequired = \"advised\"\n\
        [[field]]\nname = \"d\"\nkind = \"boolean\"\nrequired = true\ndefault = \"No\"\n\
        [[field]]\nname = \"absent\"\nkind = \"text\"\nrequired = \"add\"\ndefault = \"survey\"\n",
    );
    folder.write("table.csv", "k,a,d\n1,x,yes\n2,,\n");
    let report = folder.report("--ready ready.csv");
    assert_eq!((told(&report), &report["gate"]), (vec!["required-blank 3 B a".to_owned()], &"open".into()));
    assert_eq!(folder.read("ready.csv"), "k,a,d,absent\n1,x,true,survey\n2,,false,survey\n");
}

#[test]
fn nearly_the_same_keys_and_repeated_rows_warn() {
    let folder = Folder::new();
    let schema = |key: &str| {
        format!(
            "format = 1\nrecord = \"t\"\n{key}[[field]]\nname = \"k\"\nkind = \"text\"\n[[field]]\nname = \"v\"\nkind = \"decimal\"\n"
        )
    };
    let near = |row: u64| format!("key-nearly-repeated {row} A k");
    for (keys, wanted) in [
        ("HT-0042,ht- 42,HT-43", vec![near(2), near(3)]),
        ("A 1,A01,b", vec![near(2), near(3)]),
        ("100,1000,10", vec![]),
        ("x,y,x", vec!["key-repeated 2 A k".to_owned(), "key-repeated 4 A k".to_owned()]),
    ] {
        let rows: String = keys.split(',').map(|key| format!("{key},1\n")).collect();
        folder.write("r.record.toml", schema("key = [\"k\"]\n")).write("table.csv", format!("k,v\n{rows}"));
        let report = folder.report("");
        assert_eq!(told(&report), wanted, "{keys}");
        let holds = wanted.iter().any(|told| told.starts_with("key-repeated"));
        assert_eq!(report["counts"]["held"], if holds { 2 } else { 0 }, "{keys}");
    }
    folder.write("r.record.toml", schema("")).write("table.csv", "k,v\na,1.0\nb,\na,1\nb,\nc,2\n");
    let report = folder.report("--ready ready.csv --held held.csv");
    assert_eq!(
        told(&report)[1..],
        ["row-repeated 2 - -", "row-repeated 3 - -", "row-repeated 4 - -", "row-repeated 5 - -"]
    );
    assert_eq!((&report["gate"], folder.read("ready.csv").lines().count()), (&"open".into(), 6));
}
