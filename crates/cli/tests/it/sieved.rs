//! Databases of which a file asks for few records: what no row asks for is read by its key alone, and nothing tells.

use crate::existing::{codes, json_of};
use crate::tool::Folder;
use serde_json::Value;
use std::fmt::Write;

const SCHEMA: &str = r#"
format = 1
record = "tree"
key = ["site", "no"]
UNIQUE
[[field]]
name = "site"
kind = "text"
[[field]]
name = "no"
kind = "integer"
[[field]]
name = "serial"
kind = "text"
[[field]]
name = "species"
kind = "text"
[[field]]
name = "girth_cm"
kind = "decimal"
[[field]]
name = "planted_on"
kind = "date"
[[field]]
name = "state"
kind = "text"
[[field]]
name = "notes"
kind = "text"
"#;

/// The columns of the table in SQL.
pub(crate) const COLUMNS: &str = "notes text, no integer, site text, serial text, species text, girth_cm numeric, planted_on date, state text";
const HEAD: &str = "notes,no,site,serial,species,girth_cm,planted_on,state\n";
/// Keys as they are written by many hands.
const SITES: [&str; 7] = ["W1", "w1", " W2", "\"Q\"", "Łódź", "a,b", "line\nbreak"];

/// A record of the table, as the text of an export has it.
fn record(n: usize) -> [String; 8] {
    let note = if n.is_multiple_of(3) { "by the \"gate\",\nold".to_owned() } else { format!("note {n}") };
    let site = if n == 700 { String::new() } else { SITES[n % 7].to_owned() };
    [
        note,
        n.to_string(),
        site,
        format!("S-{n}"),
        ["Oak", "Lime"][n % 2].to_owned(),
        format!("{}.5", n % 50),
        format!("20{:02}-03-0{}", n % 20, n % 8 + 1),
        ["living", "felled"][n % 5 / 4].to_owned(),
    ]
}

/// The file and the schema in the folder, with what is looked for beside keys or without, an export of the records, and the
/// records.
pub(crate) fn files(folder: &Folder, looks: bool, count: usize) -> Vec<[String; 8]> {
    let line = |cells: &[String]| {
        let quoted: Vec<String> =
            cells.iter().map(|cell| format!("\"{}\"", cell.replace('"', "\"\""))).collect();
        quoted.join(",") + "\n"
    };
    let records: Vec<[String; 8]> = (1..=count).map(record).collect();
    let mut table = HEAD.to_owned();
    for (at, cells) in records.iter().enumerate().filter(|(at, _)| at.is_multiple_of(count / 50 + 1)) {
        let mut cells = cells.clone();
        match at % 5 {
            0 => cells[4] = "Elm".to_owned(),
            1 => cells[1] = (at + 5_000).to_string(),
            2 => (cells[1], cells[3]) = ((at + 9_000).to_string(), "S-77".to_owned()),
            3 => cells[1] = format!("{}.0", cells[1]),
            _ => cells[0].clear(),
        }
        table += &line(&cells);
    }
    let all: String = records.iter().map(|cells| line(cells)).collect();
    // Where nothing but the key is looked for, the order of the records is no matter.
    let unique = "unique = [[\"serial\"]]\nalike = [\"species\", \"girth_cm\", \"planted_on\"]";
    folder.write("r.record.toml", SCHEMA.replace("UNIQUE", if looks { unique } else { "" }));
    folder.write("table.csv", table).write("export.csv", HEAD.to_owned() + &all);
    let scope = "format = 1\nrecord = \"r.record.toml\"\n[scope]\nwhere = \"state <> 'felled'\"\n";
    folder.write("scope.plan.toml", scope);
    records
}

/// SQL that puts the records into a table.
pub(crate) fn inserted(table: &str, records: &[[String; 8]]) -> String {
    let mut sql = String::new();
    for record in records {
        let cell = |text: &String| match text.as_str() {
            "" => "NULL".to_owned(),
            text => format!("'{}'", text.replace('\'', "''")),
        };
        let cells: Vec<String> = record.iter().map(cell).collect();
        writeln!(sql, "INSERT INTO {table} VALUES ({});", cells.join(", ")).unwrap();
    }
    sql
}

/// All that is told with a source of existing records, its name aside; `missing` is a file for those that are not spoken of.
pub(crate) fn told(folder: &Folder, missing: &str, of: impl Fn(&[&str]) -> (i32, Value)) -> Vec<String> {
    let mut all = Vec::new();
    for mode in ["add", "update", "both"] {
        for command in ["check", "effects"] {
            for plan in [&[][..], &["--plan", "scope.plan.toml"]] {
                let (code, mut report) = of(&[&[command, "--mode", mode], plan].concat());
                report
                    .as_object_mut()
                    .unwrap()
                    .retain(|name, _| !["file", "existing"].contains(&name.as_str()));
                all.push(format!("{command} {mode} {plan:?} {code} {report}"));
            }
        }
    }
    of(&["effects", "--mode", "update", "--missing", missing]);
    all.push(folder.read(missing));
    all
}

#[test]
fn what_no_row_asks_for_is_read_by_its_key_alone() {
    // Beyond the first 40,000 the database's reader counts what no row asks for by itself.
    for (looks, count) in [(true, 2_000), (false, 42_000)] {
        let folder = Folder::new();
        let records = files(&folder, looks, count);
        let base = rusqlite::Connection::open(folder.path("r.db")).unwrap();
        let table = format!("CREATE TABLE tree ({COLUMNS}); BEGIN; {} COMMIT;", inserted("tree", &records));
        base.execute_batch(&table).unwrap();
        let with = |source: &'static str, missing: &str| {
            told(&folder, missing, |words| json_of(&folder, words[0], source, &words[1..]))
        };
        let (wanted, found) = (with("export.csv", "missing.csv"), with("r.db#tree", "missing-too.csv"));
        for (wanted, found) in wanted.iter().zip(&found) {
            assert_eq!(wanted, found);
        }
        assert!(wanted.last().unwrap().lines().count() > 1_000, "{wanted:?}");
        // What a scope looks at may have no column there: then no record is within it.
        base.execute_batch(
            "CREATE VIEW bare AS SELECT no, site, serial, species, girth_cm, planted_on FROM tree",
        )
        .unwrap();
        let bare = folder.read("export.csv").replacen(",state\n", ",other\n", 1);
        folder.write("bare.csv", bare);
        let [wanted, found] = ["bare.csv", "r.db#bare"].map(|source| {
            let of = ["--mode", "update", "--plan", "scope.plan.toml"];
            let report = json_of(&folder, "effects", source, &of).1;
            (report["records"].clone(), report["missing"].clone())
        });
        assert!(wanted.0.is_object() && wanted.1.is_u64(), "{wanted:?}");
        assert_eq!(wanted, found);
    }
}

/// Records that describe the same as a row, or have nearly its key, are looked for by what the file holds. A file that comes
/// through a pipe cannot be read beforehand: then all are kept, and the same is told.
#[test]
fn what_is_looked_for_is_found_however_it_is_written() {
    let names = [
        "Café Müller",
        "\"MULLER,  cafe\"",
        "müller café",
        "Ashton Lane 12",
        "12 ashton\u{A0}lane",
        "n/a",
        "",
        "Zoë",
        "ZOE",
    ];
    let days = ["2024-05-01", "01.05.2024", "2024-05-02", ""];
    let girths = ["12.5", "12.50", "12,5", "7", ""];
    let line = |key: String, n: usize| {
        let (name, day, girth) = (names[n % 9], days[n / 9 % 4], girths[n / 36 % 5]);
        format!("{key};{name};{day};{girth}\n")
    };
    let head = "tag;name;day;girth\n";
    let schema = "format = 1\nrecord = \"t\"\nkey = [\"tag\"]\nalike = [\"name\", \"day\", \"girth\"]\n\
        [[field]]\nname = \"tag\"\nkind = \"text\"\n[[field]]\nname = \"name\"\nkind = \"text\"\n\
        [[field]]\nname = \"day\"\nkind = \"date\"\n[[field]]\nname = \"girth\"\nkind = \"decimal\"\n";
    let folder = Folder::new();
    let there: String = (0..360).map(|n| line(format!("HT-00{n}"), n * 7)).collect();
    let table: String =
        (0..180).map(|n| line(if n % 9 == 0 { format!("ht-{n}") } else { format!("X{n}") }, n)).collect();
    folder.write("r.record.toml", schema).write("export.csv", head.to_owned() + &there);
    let plan =
        "format = 1\nrecord = \"r.record.toml\"\n[read]\nblank = [\"\", \"n/a\"]\ndates = [\"dd.MM.yyyy\"]\n";
    folder.write("table.csv", head.to_owned() + &table).write("p.plan.toml", plan);
    for mode in ["add", "both"] {
        let words = format!("--plan p.plan.toml --existing export.csv --mode {mode} --format json");
        let whole = folder.run(&format!("check table.csv {words}"));
        let piped = folder.run_with(&format!("check - {words}"), (head.to_owned() + &table).as_bytes());
        let codes = [whole, piped].map(|ran| {
            let mut codes = codes(&serde_json::from_str(&ran.out).expect(&ran.err));
            // How values that were kept are written tells of those that were.
            codes.retain(|found| found.0 != "existing-unread");
            codes
        });
        assert_eq!(codes[0], codes[1], "{mode}");
        for code in ["duplicate-likely", "key-nearly-repeated"] {
            assert!(codes[0].iter().filter(|found| found.0 == code).count() > 10, "{code}: {codes:?}");
        }
    }
}
