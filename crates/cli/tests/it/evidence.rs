//! How columns are written where nobody states it: the column decides, never the cell, on any number of threads.

use crate::tool::{Folder, told};
use serde_json::Value;

const SCHEMA: &str = "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\n\
    [[field]]\nname = \"d\"\nkind = \"date\"\n[[field]]\nname = \"n\"\nkind = \"decimal\"\n[[field]]\nname = \"i\"\nkind = \"integer\"\n\
    [[field]]\nname = \"size\"\nkind = \"decimal\"\ndigits = { after = 1 }\nrange = { max = 500 }\n";

/// A column's cells, what is told of them (code and row), and the ready values.
fn judged(column: &str, cells: &[&str], words: &str) -> (Vec<String>, Vec<String>, Value) {
    let folder = Folder::new();
    let rows: String = (1..).zip(cells).map(|(n, cell)| format!("K{n},\"{cell}\"\n")).collect();
    folder.write("r.record.toml", SCHEMA).write("table.csv", format!("k,{column}\n{rows}"));
    let report = folder.report(&format!("--ready ready.csv {words}"));
    let told =
        told(&report).into_iter().map(|told| told.split(' ').take(2).collect::<Vec<_>>().join(" ")).collect();
    let ready = folder.read("ready.csv");
    let mut ready = csv::Reader::from_reader(ready.as_bytes());
    let values = ready.records().map(|row| row.unwrap()[1].to_owned()).collect();
    (told, values, report)
}

#[test]
pub(crate) fn a_column_decides_the_order_of_day_and_month() {
    let cases: [(&[&str], &[&str], &[&str]); 9] = [
        (&["03/04/2024", "25/12/2023"], &["form-guessed 1"], &["2024-04-03", "2023-12-25"]),
        (&["03/04/2024", "12/25/2023"], &["form-guessed 1"], &["2024-03-04", "2023-12-25"]),
        (&["3.4.2024", "4.4.2024", "2024-05-01"], &["date-unclear 2"], &["2024-04-04", "2024-05-01"]),
        (
            &["4.4.2024", "2024-05-01", "5 May 2024", "Jun 6, 2024"],
            &[],
            &["2024-04-04", "2024-05-01", "2024-05-05", "2024-06-06"],
        ),
        // One for, one against: every open cell is unclear, the rest is read.
        (
            &["13/04/2024", "04/14/2024", "03/04/2024"],
            &["form-guessed 1", "date-unclear 4"],
            &["2024-04-13", "2024-04-14"],
        ),
        (&["31/06/2024", "25/12/2023"], &["form-guessed 1", "date-impossible 2"], &["2023-12-25"]),
        (&["03-04-2024 00:00", "25-12-2023"], &["form-guessed 1"], &["2024-04-03", "2023-12-25"]),
        (
            &["soon", "03/04/24", "25/12/2023"],
            &["form-guessed 1", "date-bad 2", "date-bad 3"],
            &["2023-12-25"],
        ),
        (&["45000", "2024-01-01"], &["date-as-number 2"], &["2024-01-01"]),
    ];
    for (cells, wanted, ready) in cases {
        let (told, values, _) = judged("d", cells, "");
        assert_eq!((told, values), (owned(wanted), owned(ready)), "{cells:?}");
    }
    // Twenty votes outweigh one: the loser is no date, and its other reading is named.
    let mut cells: Vec<String> = (1..=20).map(|n| format!("{}/05/2024", 12 + n % 10 + 1)).collect();
    cells.push("05/23/2024".to_owned());
    cells.push("03/04/2024".to_owned());
    let cells: Vec<&str> = cells.iter().map(String::as_str).collect();
    let (told, values, report) = judged("d", &cells, "");
    assert_eq!(told, ["form-guessed 1", "date-bad 22"]);
    assert_eq!(values.last().unwrap(), "2024-04-03");
    let message = report["findings"][1]["message"].as_str().unwrap();
    assert!(message.contains("with day and month the other way round it would be 2024-05-23"), "{message}");
    // A stated form decides by itself.
    let (told, values, _) = judged("d", &["03/04/2024"], "--dates MM/dd/yyyy");
    assert_eq!((told, values), (vec![], owned(&["2024-03-04"])));
}

#[test]
pub(crate) fn a_column_decides_the_mark_before_decimals() {
    type Case<'a> = (&'a str, &'a [&'a str], &'a [&'a str], &'a [&'a str]);
    let cases: [Case<'_>; 14] = [
        ("n", &["12,5", "3"], &["form-guessed 1"], &["12.5", "3"]),
        ("n", &["1.234,5", "1.234", "7"], &["form-guessed 1"], &["1234.5", "1234", "7"]),
        ("n", &["1,234.5", "1,234", "7"], &["form-guessed 1"], &["1234.5", "1234", "7"]),
        ("n", &["1.234", "7"], &["form-guessed 1"], &["1.234", "7"]),
        ("n", &["1,234", "7"], &["number-unclear 2"], &["7"]),
        ("n", &["12.5", "12,5", "1,234"], &["form-guessed 1", "number-unclear 4"], &["12.5", "12.5"]),
        ("n", &["1.234.567", "3.14", "1.234"], &["form-guessed 1", "number-unclear 4"], &["1234567", "3.14"]),
        ("n", &["1,234", "3.14"], &["form-guessed 1"], &["1234", "3.14"]),
        ("n", &["0,234", "12.75"], &["form-guessed 1"], &["0.234", "12.75"]),
        ("n", &["1,2,3"], &["decimal-bad 2"], &[]),
        ("i", &["1,234", "1.234", "1234", "4.0"], &["integer-bad 5"], &["1234", "1234", "1234"]),
        // What the field cannot be is no reading; where it can be neither, nothing decides.
        ("size", &["1,234"], &["number-unclear 2"], &[]),
        ("size", &["12,5"], &["form-guessed 1"], &["12.5"]),
        ("size", &["450", "12.5"], &[], &["450", "12.5"]),
    ];
    for (column, cells, wanted, ready) in cases {
        let (told, values, _) = judged(column, cells, "");
        assert_eq!((told, values), (owned(wanted), owned(ready)), "{column}: {cells:?}");
    }
    let mut cells = vec!["12.5"; 60];
    cells.extend(["12,5", "1,234"]);
    let (told, values, _) = judged("n", &cells, "");
    assert_eq!(told, ["form-guessed 1", "decimal-mark 62"]);
    assert_eq!(values.last().unwrap(), "1234");
}

#[test]
fn the_last_row_may_decide_and_threads_do_not() {
    let folder = Folder::new();
    let mut rows: String =
        (0..40_000).map(|n| format!("K{n},{:02}/{:02}/2024,1\n", n % 12 + 1, n % 11 + 1)).collect();
    rows.push_str("last,25/12/2023,\"2,5\"\n");
    folder.write("r.record.toml", SCHEMA).write("table.csv", format!("k,d,n\n{rows}"));
    let one = folder.report("--threads 1 --ready one.csv --findings one.ndjson");
    let three = folder.report("--threads 3 --ready three.csv --findings three.ndjson");
    assert_eq!((&one["totals"], &one["gate"]), (&three["totals"], &"open".into()), "{}", one["totals"]);
    assert_eq!(folder.read("one.csv"), folder.read("three.csv"));
    assert_eq!(folder.read("one.ndjson"), folder.read("three.ndjson"));
    assert!(
        folder.read("one.csv").contains("K1,2024-02-02,1\n")
            && folder.read("one.csv").ends_with("last,2023-12-25,2.5\n")
    );
    let piped = folder
        .run_with("check - --record r.record.toml --ready piped.csv", folder.read("table.csv").as_bytes());
    assert_eq!((piped.code, folder.read("piped.csv")), (0, folder.read("one.csv")));
}

fn owned(texts: &[&str]) -> Vec<String> {
    texts.iter().map(|text| (*text).to_owned()).collect()
}
