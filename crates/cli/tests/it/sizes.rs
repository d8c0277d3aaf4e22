//! What is large in one way or another: fields, columns, lists, faults, records with keys of their own. Whatever grows faster
//! than its size would not come to an end here.

use crate::tool::Folder;
use serde_json::Value;

fn fields(count: usize, kind: &str) -> String {
    let field = |number: usize| format!("[[field]]\nname = \"field {number}\"\nkind = \"{kind}\"\n");
    format!("format = 1\nrecord = \"t\"\n{}", (0..count).map(field).collect::<String>())
}

fn report(folder: &Folder, words: &str) -> Value {
    let ran = folder.run(&format!("{words} --format json"));
    assert!(ran.code < 2, "{words}: {}", ran.err);
    serde_json::from_str(&ran.out).unwrap()
}

#[test]
fn many_fields_and_columns_are_read_paired_and_offered() {
    let folder = Folder::new();
    folder.write("r.record.toml", fields(3_000, "integer"));
    let row = |text: &str| vec![text; 3_000].join(",");
    let names: Vec<String> = (0..3_000).map(|number| format!("field {number}")).collect();
    folder.write("faulty.csv", format!("{}\n{}\n{}\n", names.join(","), row("x"), row("1")));
    let found = report(&folder, "check faulty.csv --record r.record.toml");
    assert_eq!((&found["counts"]["stops"], &found["counts"]["ready"]), (&3_000.into(), &1.into()));
    // Each heading is like many fields and none of them.
    let near: Vec<String> = (0..3_000).map(|number| format!("feild nr {number}")).collect();
    folder.write("near.csv", format!("{}\n{}\n", near.join(","), row("1")));
    let found = report(&folder, "check near.csv --record r.record.toml");
    assert!(found["counts"]["warns"].as_u64() >= Some(3_000), "{}", found["counts"]);
    let told = "so many headings have no field that 2,800 of them were not held against the fields";
    let notes = found["findings"].as_array().unwrap().iter().filter(|finding| finding["level"] == "note");
    let notes: Vec<String> = notes.map(|note| note["message"].to_string()).collect();
    assert!(notes.iter().any(|note| note.contains(told)), "{notes:?}");
    assert_eq!(folder.run("template r.record.toml -o t.csv").code, 0);
    assert_eq!(folder.read("t.csv").lines().next().unwrap().split(',').count(), 3_000);
    let drafted = folder.run("draft faulty.csv");
    assert_eq!(drafted.out.matches("[[field]]").count(), 3_000);
}

/// The report has room for 1,000 findings: six of each of 150 fields, whoever reads which block.
#[test]
fn of_many_faulty_fields_each_is_shown_alike_on_any_threads() {
    let folder = Folder::new();
    folder.write("r.record.toml", fields(150, "integer"));
    let names: Vec<String> = (0..150).map(|number| format!("field {number}")).collect();
    let row = |row: usize| {
        // The last fields go wrong near the end alone.
        let cell = |field: usize| if field < 140 || row > 350 { "wrong words" } else { "1" };
        (0..150).map(cell).collect::<Vec<_>>().join(",") + "\n"
    };
    let rows: String = (0..400).map(row).collect();
    folder.write("t.csv", format!("{}\n{rows}", names.join(",")));
    let one = report(&folder, "check t.csv --record r.record.toml --threads 1");
    assert_eq!(one, report(&folder, "check t.csv --record r.record.toml --threads 3"));
    let shown = one["findings"].as_array().unwrap();
    assert_eq!(shown.len(), 1_000);
    for name in &names {
        assert!(shown.iter().filter(|finding| finding["field"] == name.as_str()).count() >= 6, "{name}");
    }
}

#[test]
fn long_lists_are_drafted_read_and_searched() {
    let folder = Folder::new();
    let values: Vec<String> = (0..15_000).map(|number| format!("'species {number:05}'")).collect();
    folder.write(
        "t.sql",
        format!("CREATE TABLE t (k INT PRIMARY KEY, p TEXT CHECK (p IN ({})));", values.join(", ")),
    );
    let drafted = folder.run("draft t.sql --table t -o t.record.toml");
    assert_eq!(drafted.code, 0, "{}", drafted.err);
    let rows: String = (0..4_000).map(|number| format!("{number},speciez {number:05}\n")).collect();
    folder.write("table.csv", format!("k,p\n{rows}"));
    let found = report(&folder, "check table.csv --record t.record.toml --findings f.ndjson");
    assert_eq!(found["counts"]["held"], 4_000);
    for (line, number) in folder.read("f.ndjson").lines().filter(|line| line.contains("off-list")).zip(0..) {
        let finding: Value = serde_json::from_str(line).unwrap();
        assert_eq!(finding["suggestion"], format!("species {number:05}"), "{line}");
    }
}

#[test]
fn many_faults_of_a_schema_are_counted() {
    let folder = Folder::new();
    folder.write("table.csv", "k\n1\n");
    for (what, text) in [
        (
            "names",
            fields(1, "text")
                .replace("[[field]]", &"[[field]]\nname = \"same\"\nkind = \"text\"\n".repeat(1_500))
                + "",
        ),
        (
            "patterns",
            fields(1_000, "text").replace("kind = \"text\"\n", "kind = \"text\"\npattern = \"([\"\n"),
        ),
        ("picklists", fields(1_000, "picklist")),
        (
            "keys",
            fields(1, "text") + &(0..1_500).map(|number| format!("odd{number} = 1\n")).collect::<String>(),
        ),
    ] {
        folder.write("r.record.toml", text);
        let ran = folder.run("check table.csv --record r.record.toml");
        let drawn = ran.err.matches("error").count();
        assert!(
            ran.code == 2 && (90..=101).contains(&drawn),
            "{what}: {drawn}\n{}",
            &ran.err[..ran.err.len().min(600)]
        );
    }
}

#[test]
fn records_with_keys_of_their_own_and_sheets_beyond_number_are_bounded() {
    let folder = Folder::new();
    let records: String =
        (0..2_000).map(|number| format!("{{\"k\":{number},\"key {number}\":1}}\n")).collect();
    folder.write("t.ndjson", records);
    let found = report(&folder, "peek t.ndjson --max-columns 30000");
    assert_eq!(found["columns"].as_array().unwrap().len(), 2_001);
    let sheet = |number: usize| {
        let cell = if number == 299 { "field 0" } else { "x" };
        format!(
            "<table:table table:name=\"S{number}\"><table:table-row><table:table-cell office:value-type=\"string\">\
             <text:p>{cell}</text:p></table:table-cell></table:table-row></table:table>"
        )
    };
    let sheets: String = (0..300).map(sheet).collect();
    let content = format!(
        "<office:document-content><office:body><office:spreadsheet>{sheets}</office:spreadsheet></office:body></office:document-content>"
    );
    folder.write(
        "t.ods",
        crate::hostile::archive(&[
            ("META-INF/manifest.xml", b"<manifest/>"),
            ("content.xml", content.as_bytes()),
        ]),
    );
    folder.write(
        "r.record.toml",
        fields(1, "text").replace("record = \"t\"\n", "record = \"t\"\nkey = [\"field 0\"]\n"),
    );
    // The one that fits stands too far behind: it is named.
    assert_eq!(report(&folder, "check t.ods --record r.record.toml")["gate"], "shut");
    assert_eq!(report(&folder, "check t.ods --record r.record.toml --sheet S299")["file"]["sheet"], "S299");
}

/// What is compared letter by letter, or asked for by its name, does not take the square of its size.
#[test]
fn long_words_and_wide_tables_of_sql_come_to_an_end() {
    let folder = Folder::new();
    let long = "a word of the label ".repeat(10_000);
    let head = "format = 1\nrecord = \"t\"\n[[field]]\nname = \"k\"\nkind = \"integer\"\n";
    folder.write("r.toml", format!("{head}[[field]]\nname = \"p\"\nkind = \"text\"\nlabel = \"{long}\"\n"));
    folder.write("t.csv", format!("k,\"{}\"\n1,x\n", long.replace("word", "wrod")));
    assert_eq!(folder.run("check t.csv --record r.toml").code, 0);
    assert_eq!(folder.run("match t.csv --record r.toml").code, 0);
    let refused = folder.run("template r.toml -o t.xlsx");
    assert!(refused.code == 2 && refused.err.contains("32,767 characters"), "{}", refused.err);

    let date = format!("[[field]]\nname = \"d\"\nkind = \"date\"\ndates = [\"{}\"]\n", "d".repeat(1_000_000));
    folder.write("d.toml", format!("{head}{date}"));
    let refused = folder.run("check t.csv --record d.toml");
    assert!(refused.code == 2 && refused.err.len() < 3_000, "{} bytes", refused.err.len());

    let forms = vec!["\"dd.MM.yyyy\""; 5_000].join(", ");
    folder.write("d.toml", format!("{head}[[field]]\nname = \"d\"\nkind = \"date\"\ndates = [{forms}]\n"));
    let refused = folder.run("check t.csv --record d.toml");
    assert!(refused.code == 2 && refused.err.contains("5000 forms are stated"), "{}", refused.err);

    folder.write("k.toml", head);
    let words: Vec<String> = (0..60_000).map(|number| format!("\"none {number}\"")).collect();
    let plan = format!("format = 1\nrecord = \"k.toml\"\n[read]\nblank = [{}]\n", words.join(", "));
    folder.write("k.plan.toml", plan);
    folder.write("k.csv", "k\nNONE 59999\n7\n");
    let found = report(&folder, "check k.csv --plan k.plan.toml");
    assert_eq!((&found["columns"][0]["filled"], &found["counts"]["stops"]), (&1.into(), &0.into()));

    let columns: Vec<String> = (0..8_000).map(|number| format!("c{number} INT")).collect();
    let remarks = (0..8_000).map(|number| format!("COMMENT ON COLUMN t.C{number} IS 'no {number}';\n"));
    folder
        .write("t.sql", format!("CREATE TABLE t ({});\n{}", columns.join(", "), remarks.collect::<String>()));
    let drafted = folder.run("draft t.sql --table t");
    assert_eq!(drafted.out.matches("help = \"no ").count(), 8_000);
}
