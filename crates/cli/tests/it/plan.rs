//! Plans: how a file is read and paired, what it may change, and what is said of one that no longer fits.

use crate::tool::{Folder, told};
use serde_json::Value;

const SCHEMA: &str = r#"
format = 1
record = "tree"
key = ["tag"]

[[field]]
name = "tag"
label = "Tag number"
kind = "text"
required = true
[[field]]
name = "ward"
kind = "text"
[[field]]
name = "girth"
label = "Girth (cm)"
kind = "decimal"
range = { min = 1, max = 1500 }
[[field]]
name = "planted"
kind = "date"
[[field]]
name = "condition"
label = "Condition"
kind = "picklist"
picklist = "condition"
required = true
[[field]]
name = "protected"
kind = "boolean"
[[field]]
name = "source"
kind = "text"

[picklist.condition]
values = [{ code = "E", label = "Excellent" }, { code = "G", label = "Good" }]
"#;

fn folder(plan: &str, table: &str) -> Folder {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("table.csv", table);
    folder.write("p.plan.toml", format!("format = 1\nrecord = \"r.record.toml\"\n{plan}"));
    folder
}

fn check(folder: &Folder, words: &str) -> (i32, Value) {
    let ran =
        folder.run(&format!("check table.csv --plan p.plan.toml --today 2026-11-25 --format json {words}"));
    assert!(ran.code < 2, "{}", ran.err);
    (ran.code, serde_json::from_str(&ran.out).unwrap())
}

/// Each with a plan, a table, what is told and the ready rows.
#[test]
fn what_a_plan_says_of_reading_is_done() {
    let cases: [(&str, &str, &str, &[&str], &str); 14] = [
        (
            "marks",
            "[read]\ndecimal_mark = \",\"\ngroup_mark = \".\"\n",
            "tag,girth,condition\nA,\"1.234,5\",G\nB,12.5,G\nC,7,E\nD,\"1,50\",E\n",
            &["decimal-mark 3 B girth"],
            "tag,girth,condition\nA,1234.5,G\nC,7,E\nD,1.5,E\n",
        ),
        (
            "blank words, in any case, and none of them in one field",
            "[read]\nblank = [\"n/a\", \"W0\"]\n[read.fields.ward]\nblank = []\n",
            "tag,ward,girth,condition\nA,W0,N/A,G\nB,x,w0,n/a\n",
            &["required-blank 3 D condition"],
            "tag,ward,girth,condition\nA,W0,,G\n",
        ),
        (
            "boolean words",
            "[read]\ntrue = [\"Ja\"]\nfalse = [\"Nein\"]\n",
            "tag,protected,condition\nA,JA,G\nB,nein,E\nC,yes,E\n",
            &["boolean-bad 4 B protected"],
            "tag,condition,protected\nA,G,true\nB,E,false\n",
        ),
        (
            "dates, and those of one field alone",
            "[read]\ndates = [\"dd/MM/yyyy\"]\n",
            "tag,planted,condition\nA,03/04/2019,G\nB,2019-04-03,E\nC,2019/04/03,E\n",
            &["date-bad 4 B planted"],
            "tag,planted,condition\nA,2019-04-03,G\nB,2019-04-03,E\n",
        ),
        (
            "a field's own dates stand alone for reading; ready rows are in the target's form",
            "[read]\ndates = [\"dd/MM/yyyy\"]\n[read.fields.planted]\ndates = [\"yyyy.MM.dd\"]\n",
            "tag,planted,condition\nA,2019.04.03,G\nB,03/04/2019,E\n",
            &["date-bad 3 B planted"],
            "tag,planted,condition\nA,2019-04-03,G\n",
        ),
        (
            "spaces that are not trimmed are told and kept",
            "[read]\ntrim = false\n",
            "tag,ward,condition\nA, W7 ,G\nB,a  b,G\n",
            &["space-stray 2 B ward", "space-stray 3 B ward"],
            "tag,ward,condition\nA, W7 ,G\nB,a  b,G\n",
        ),
        (
            "columns by heading, loosely too, by letter, and left out on purpose",
            "[columns]\n\"Tree tag\" = \"tag\"\n\"cond\" = \"condition\"\n\"Surveyor\" = false\n\"@D\" = \"ward\"\n",
            "Tree tag,Cond.,Surveyor,,girth\nA,G,J,W7,5\n",
            &[],
            "tag,ward,girth,condition\nA,W7,5,G\n",
        ),
        (
            "a plan wins over a field's own heading",
            "[columns]\n\"Old ward\" = \"ward\"\n\"ward\" = false\n",
            "tag,ward,Old ward,condition\nA,W1,W2,G\n",
            &[],
            "tag,ward,condition\nA,W2,G\n",
        ),
        (
            "defaults fill blank cells and absent columns",
            "[defaults]\nsource = \"survey\"\ncondition = \"Good\"\nprotected = false\n",
            "tag,condition\nA,\nB,E\n",
            &[],
            "tag,condition,protected,source\nA,G,false,survey\nB,E,false,survey\n",
        ),
        (
            "by position, with places of its own",
            "[file]\nby_position = true\n[columns]\n\"1\" = \"tag\"\n\"C\" = \"condition\"\n",
            "A,x,G\nB,y,E\n",
            &[],
            "tag,condition\nA,G\nB,E\n",
        ),
        (
            "the form of ready files",
            "[write]\nheadings = \"label\"\nvalues = \"label\"\ndates = \"dd.MM.yyyy\"\ndecimal_mark = \",\"\ndelimiter = \";\"\n",
            "tag,girth,planted,condition\nA,12.50,2019-04-03,E\n",
            &[],
            "Tag number;Girth (cm);planted;Condition\nA;12,5;03.04.2019;Excellent\n",
        ),
        (
            "the first of the rows with the same key stands",
            "[repeats]\nstands = \"first\"\n",
            "tag,girth,condition\nA,1,G\nB,2,G\nA,oops,\nA,4,E\n",
            &["key-repeated 4 A tag", "key-repeated 5 A tag"],
            "tag,girth,condition\nA,1,G\nB,2,G\n",
        ),
        (
            "the last one stands",
            "[repeats]\nstands = \"last\"\n",
            "tag,girth,condition\nA,oops,G\nB,2,G\nA,4,E\n",
            &["key-repeated 2 A tag"],
            "tag,girth,condition\nB,2,G\nA,4,E\n",
        ),
        (
            "a stated layout",
            "[file]\nheading_row = 2\nfirst_row = 4\nlast_row = 5\ndelimiter = \";\"\nshort_rows = \"blank\"\n",
            "x;y;z\ntag;condition;ward\nunits;;\nA;G;W1\nB;E\nC;nothing;x\n",
            &["row-width 5 - -"],
            "tag,ward,condition\nA,W1,G\nB,,E\n",
        ),
    ];
    for (what, plan, table, wanted, ready) in cases {
        let folder = folder(plan, table);
        let (_, report) = check(&folder, "--ready ready.csv");
        let told: Vec<_> =
            told(&report).into_iter().filter(|told| !told.starts_with("layout-guessed")).collect();
        assert_eq!(told, wanted, "{what}");
        assert_eq!(folder.read("ready.csv"), ready, "{what}");
        let counts = |key: &str| report["counts"][key].as_u64().unwrap();
        assert_eq!(counts("rows"), counts("ready") + counts("held") + counts("left_out"), "{what}");
    }
}

#[test]
fn outer_spaces_warn_where_they_are_not_trimmed_and_inner_ones_do_not() {
    let folder = folder("[read]\ntrim = false\n", "tag,ward,condition\nA, W7 ,G\nB,a  b,G\n");
    let (_, report) = check(&folder, "");
    let levels: Vec<_> = report["findings"].as_array().unwrap().iter().map(|f| f["level"].clone()).collect();
    assert_eq!(levels, ["warn", "note"]);
}

#[test]
pub(crate) fn a_clear_word_empties_what_may_be_emptied_and_blank_leaves_it() {
    let plan = "mode = \"update\"\n[read]\nclear = \"(empty)\"\n";
    let table = "tag,ward,condition\nA,(EMPTY),\nB,,(empty)\n(empty),x,G\n";
    let folder = folder(plan, table);
    let (code, report) = check(&folder, "--ready ready.csv");
    assert_eq!(told(&report), ["clear-not-allowed 3 C condition", "clear-not-allowed 4 A tag"]);
    assert_eq!((code, folder.read("ready.csv").as_str()), (1, "tag,ward,condition\nA,(empty),\n"));
    // A new record has nothing to be emptied.
    let (_, report) = check(&folder, "--mode add");
    assert!(told(&report).contains(&"clear-not-allowed 2 B ward".to_owned()));
}

#[test]
pub(crate) fn a_plan_that_no_longer_fits_says_so_first() {
    let plan = "[columns]\n\"Cond.\" = \"condition\"\n\"Surveyor\" = false\n[file]\nheading_row = 1\n";
    for (table, wanted, code) in [
        ("tag,Cond.,Surveyor\nA,G,x\n", vec![], 0),
        (
            "tag,Condition (A-E),Surveyor\nA,G,x\n",
            vec!["plan-outdated - - condition", "plan-outdated - - -"],
            1,
        ),
        ("tag,Cond.\nA,G\n", vec!["plan-outdated - - -"], 0),
        ("tag,Cond.,Surveyor,Weather\nA,G,x,wet\n", vec!["plan-outdated - - -"], 0),
        (
            "Survey of ward 7,,\n,,\ntag,Cond.,Surveyor\nA,G,x\n",
            vec!["plan-outdated - - -", "layout-guessed 3 - -"],
            0,
        ),
    ] {
        let folder = folder(plan, table);
        let (gate, report) = check(&folder, "");
        let told: Vec<_> = told(&report).into_iter().filter(|told| told != "layout-guessed - - -").collect();
        let moved = table.starts_with("Survey");
        let told: Vec<_> = if moved { told.into_iter().take(1).collect() } else { told };
        assert_eq!(told, if moved { vec![wanted[0]] } else { wanted }, "{table}");
        assert_eq!(gate, code, "{table}");
    }
}

#[test]
pub(crate) fn a_scope_stops_a_file_before_its_values() {
    let plan = "mode = \"update\"\n[scope]\nfields = [\"condition\"]\nmodes = [\"update\"]\n";
    for (table, words, wanted) in [
        ("tag,condition\nA,G\n", "", vec![]),
        ("tag,condition,girth\nA,nothing,5\n", "", vec!["field-out-of-scope 1 C girth"]),
        ("tag,condition\nA,nothing\n", "--mode add", vec!["mode-out-of-scope - - -"]),
    ] {
        let folder = folder(plan, table);
        let (code, report) = check(&folder, &format!("{words} --ready ready.csv"));
        assert_eq!(told(&report), wanted, "{table}");
        let is_ended = !wanted.is_empty();
        assert_eq!(code, i32::from(is_ended));
        assert_eq!(folder.names().contains(&"ready.csv".to_owned()), !is_ended);
        assert_eq!(report["counts"]["rows"], u64::from(!is_ended));
    }
}

#[test]
pub(crate) fn rows_that_a_file_may_not_change_are_held_or_left_out() {
    let table = "tag,ward,condition\nA,W7,G\nB,W8,G\nC,W7,x\nD,,G\nA,W9,G\n";
    let scope = |outside: &str| format!("[scope]\nwhere = \"ward LIKE 'W7%'\"\n{outside}");
    let counts = |report: &Value| {
        ["rows", "ready", "held", "left_out"].map(|name| report["counts"][name].as_u64().unwrap())
    };
    // Held where the plan says nothing else; unknown is outside, and so is a blank.
    let (code, report) = check(&folder(&scope(""), table), "");
    let out = |row| format!("row-out-of-scope {row} - -");
    let expected = [
        "key-repeated 2 A tag".to_owned(),
        out(3),
        "off-list 4 C condition".to_owned(),
        out(5),
        out(6),
        "key-repeated 6 A tag".to_owned(),
    ];
    assert_eq!((code, told(&report)), (1, expected.to_vec()));
    assert_eq!(counts(&report), [5, 0, 5, 0]);
    // What is left out takes no part in keys, and is told all the same.
    let folder = folder(&scope("outside = \"leave-out\"\n"), table);
    let (code, report) = check(&folder, "--ready ready.csv --findings all.csv");
    let expected = [out(3), "off-list 4 C condition".to_owned(), out(5), out(6)];
    assert_eq!((code, told(&report)), (1, expected.to_vec()));
    assert_eq!(counts(&report), [5, 1, 1, 3]);
    assert_eq!(folder.read("ready.csv"), "tag,ward,condition\nA,W7,G\n");
    let finding = &report["findings"][0];
    assert_eq!([&finding["level"], &finding["value"], &finding["key"]], ["warn", "ward W8", "B"]);
    assert_eq!(folder.read("all.csv").lines().count(), 5);
    folder
        .write("p.plan.toml", "format = 1\nrecord = \"r.record.toml\"\n[scope]\nwhere = \"wards = 'W7'\"\n");
    let ran = folder.run("check table.csv --plan p.plan.toml");
    assert!(ran.code == 2 && ran.err.contains("did you mean `ward`?"), "{}", ran.err);
}

#[test]
fn months_and_zones_are_those_of_the_plan() {
    let schema = "format = 1\nrecord = \"t\"\n[[field]]\nname = \"day\"\nkind = \"date\"\n\
                  [[field]]\nname = \"at\"\nkind = \"datetime\"\nrange = { max = \"2024-07-09T09:00:00Z\" }\n";
    let read = |read: &str, rows: &str| {
        let folder = Folder::new();
        folder.write("r.record.toml", schema).write("table.csv", format!("day,at\n{rows}"));
        folder.write("p.plan.toml", format!("format = 1\nrecord = \"r.record.toml\"\n[read]\n{read}"));
        let (_, report) = check(&folder, "--ready ready.csv");
        let told: Vec<_> = told(&report).into_iter().filter(|told| !told.starts_with("key-none")).collect();
        (told, folder.read("ready.csv").lines().skip(1).collect::<Vec<_>>().join(" "))
    };
    let cases: [(&str, &str, &[&str], &str); 6] = [
        ("language = \"de\"\n", "3. März 2024,\n3 dez. 2024,\n", &[], "2024-03-03, 2024-12-03,"),
        ("language = \"de\"\n", "3 March 2024,\n", &["date-bad 2 A day"], ""),
        ("language = \"fr\"\ndates = [\"d MMMM yyyy\"]\n", "1 fevrier 2024,\n", &[], "2024-02-01,"),
        // The forms of one field, in a language of its own.
        ("[read.fields.day]\nlanguage = \"pl\"\n", "3 marca 2024,\n", &[], "2024-03-03,"),
        (
            "zone = \"Europe/London\"\n",
            ",2024-07-09T10:00\n,2024-07-09T10:01\n,2024-03-31 01:30\n",
            &["out-of-range 3 B at", "time-bad 4 B at"],
            ",2024-07-09T10:00:00+01:00",
        ),
        ("", ",2024-07-09T09:00\n", &[], ",2024-07-09T09:00:00"),
    ];
    for (words, rows, expected, ready) in cases {
        let (told, values) = read(words, rows);
        assert_eq!(
            (told.iter().map(String::as_str).collect::<Vec<_>>().as_slice(), values.as_str()),
            (expected, ready)
        );
    }
    let folder = Folder::new();
    folder.write("r.record.toml", schema).write("table.csv", "day,at\n");
    for (read, message) in
        [("language = \"xx\"", "no month names are known"), ("zone = \"Mars\"", "is no time zone")]
    {
        folder.write("p.plan.toml", format!("format = 1\nrecord = \"r.record.toml\"\n[read]\n{read}\n"));
        let ran = folder.run("check table.csv --plan p.plan.toml");
        assert!(ran.code == 2 && ran.err.contains(message), "{}", ran.err);
    }
}

#[test]
fn a_gate_tolerates_a_share_and_levels_can_be_changed() {
    let table = "tag,condition,extra\nA,G,\nB,E,\nC,x,\nD,G,\n";
    for (gate, code, counts) in [
        ("", 1, [1, 1]),
        ("tolerate = \"25%\"", 0, [1, 1]),
        ("tolerate = \"24.9%\"", 1, [1, 1]),
        ("tolerate = 1", 0, [1, 1]),
        ("tolerate = \"100%\"\nlevels = { heading-unpaired = \"stop\" }", 1, [2, 0]),
        ("levels = { heading-unpaired = \"note\" }", 1, [1, 0]),
    ] {
        let folder = folder(&format!("[gate]\n{gate}\n"), table);
        let (found, report) = check(&folder, "");
        let counted = [&report["counts"]["stops"], &report["counts"]["warns"]].map(|n| n.as_u64().unwrap());
        assert_eq!((found, counted), (code, counts), "{gate}");
    }
}

#[test]
pub(crate) fn swapped_columns_are_told() {
    let rows: String =
        (1..30).map(|n| format!("T{n},2019-01-{n:02},{}\n", ["G", "Good", "E"][n % 3])).collect();
    let swapped = folder("", &format!("tag,condition,planted\n{rows}"));
    let (code, report) = check(&swapped, "");
    let told = told(&report);
    assert!(told.contains(&"column-misfit 1 B condition".to_owned()) && code == 1, "{told:?}");
    assert!(told.contains(&"column-misfit 1 C planted".to_owned()), "{told:?}");
    // Dates in another order are still dates, and a column of strange words beside no other is only that.
    let rows =
        rows.replace("2019-01-", "01/").replace(",Good", ",fine").replace(",G", ",so").replace(",E", ",so");
    let odd = folder("", &format!("tag,planted,condition\n{rows}"));
    let (_, report) = check(&odd, "");
    assert!(!crate::tool::told(&report).iter().any(|told| told.starts_with("column-misfit")));
}

#[test]
fn a_faulty_plan_is_refused_with_every_fault() {
    let plan = "mode = \"adding\"\n[file]\ndelimiter = \"x\"\nencoding = \"utf-9\"\nheadingrow = 3\n\
        [read]\ndates = [\"DD/MM\"]\ndecimal_mark = \".\"\ngroup_mark = \".\"\ntrue = [\"1\", \"x\"]\nfalse = [\"X\"]\n\
        [columns]\n\"A\" = \"tga\"\n\"B\" = \"ward\"\n\"C\" = \"ward\"\n\
        [defaults]\ntag = \"T1\"\ncondition = \"Bad\"\n[scope]\nfields = [\"girht\"]\n\
        [gate]\ntolerate = \"200%\"\nlevels = { key-blank = \"warn\", nothing = \"note\" }\n";
    let folder = folder(plan, "tag\nA\n");
    let ran = folder.run("check table.csv --plan p.plan.toml");
    assert_eq!((ran.code, ran.out.as_str()), (2, ""));
    for part in [
        "`adding` is not permitted here",
        "`x` is no delimiter",
        "`utf-9` is no encoding",
        "did you mean `heading_row`?",
        "`D` is not a part of a date",
        "the mark between thousands are the same",
        "`x` would be both yes and no",
        "no field `tga`",
        "did you mean `tag`?",
        "are both paired with one field",
        "a field of the key takes no default",
        "the default of `condition` is no value of kind picklist",
        "did you mean `girth`?",
        "not a share of the rows",
        "`key-blank` cannot be less than a stop",
        "there is no finding `nothing`",
        "faults in p.plan.toml; nothing was checked",
    ] {
        assert!(ran.err.contains(part), "{part} in {}", ran.err);
    }
    let alone = Folder::new();
    alone.write("p.plan.toml", "format = 1\n").write("table.csv", "tag\nA\n");
    let ran = alone.run("check table.csv --plan p.plan.toml");
    assert!(ran.code == 2 && ran.err.contains("names no record schema"), "{}", ran.err);
}

#[test]
fn rows_go_into_a_workbook_and_come_back() {
    let folder = folder("", "tag,ward,condition\n007,=1+1,G\n1E5,\"a\nb\",x\n,,G\n");
    let (_, report) = check(&folder, "--ready ready.xlsx --held held.xlsx");
    assert_eq!(report["counts"]["held"], 2);
    let again = folder.run("check ready.xlsx --record r.record.toml --ready again.csv");
    assert_eq!(folder.read("again.csv"), "tag,ward,condition\n007,=1+1,G\n", "{}", again.out);
    let held = folder.run("check held.xlsx --record r.record.toml --held held.csv");
    assert!(held.out.contains("off-list") && held.out.contains("key-blank"), "{}", held.out);
    assert!(folder.read("held.csv").contains("1E5,\"a\nb\",x"), "{}", folder.read("held.csv"));
    let ran = folder.run("check table.csv --record r.record.toml --ready ready.ods");
    assert!(ran.code == 2 && ran.err.contains(".csv, .xlsx, .json or .ndjson"), "{}", ran.err);
}

#[test]
fn ready_files_are_written_in_an_encoding_or_not_at_all() {
    for (encoding, wanted) in
        [("windows-1252", &b"tag,ward,condition\nA,Caf\xE9,G\n"[..]), ("utf-16le", &b"\xFF\xFEt\0a\0g\0"[..])]
    {
        let folder =
            folder(&format!("[write]\nencoding = \"{encoding}\"\n"), "tag,ward,condition\nA,Café,G\n");
        let (code, _) = check(&folder, "--ready ready.csv");
        let found = std::fs::read(folder.path("ready.csv")).unwrap();
        assert!(code == 0 && found.starts_with(wanted), "{encoding}: {found:?}");
    }
    let folder = folder("[write]\nencoding = \"windows-1252\"\n", "tag,ward,condition\nA,日本,G\n");
    let ran = folder.run("check table.csv --plan p.plan.toml --ready ready.csv");
    assert!(ran.code == 2 && ran.err.contains("no character for '日'"), "{}", ran.err);
    assert!(!folder.names().contains(&"ready.csv".to_owned()));
}
