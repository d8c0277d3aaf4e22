//! What is done the short way is what the long way does: ready rows that are copied, rows that are compared by sums, causes
//! that are looked for in a few rows first.

use crate::tool::{Folder, told};

const SCHEMA: &str = "format = 1\nrecord = \"r\"\nkey = [\"k\"]\n\
    [[field]]\nname = \"k\"\nkind = \"text\"\n\
    [[field]]\nname = \"n\"\nkind = \"decimal\"\n\
    [[field]]\nname = \"yes\"\nkind = \"boolean\"\n\
    [[field]]\nname = \"day\"\nkind = \"date\"\n\
    [[field]]\nname = \"state\"\nkind = \"picklist\"\npicklist = \"state\"\ndefault = \"G\"\n\
    [[field]]\nname = \"words\"\nkind = \"picklist\"\npicklist = \"state\"\nmany = { separator = \"/\" }\n\
    [[field]]\nname = \"note\"\nkind = \"text\"\n\
    [picklist.state]\nvalues = [{ code = \"D\", label = \"Dead, gone\" }, { code = \"G\" }]\n";

/// Cells as people write them, in the order of the columns.
const CELLS: [&[&str]; 6] = [
    &["", "5", "12.50", "-3", "007", "\"1\"", "1e3", " 8", "+4"],
    &["", "true", "Yes", "no", "\"false\"", "J"],
    &["", "2020-02-01", "2020-2-1", "\"2020-02-03\"", "1 Feb 2020", "2020-02-30"],
    &["", "D", "d", "\"Dead, gone\"", "G", "Z"],
    &["", "D/G", "G / D", "\"D\"", "D/", "dead, gone"],
    &[
        "",
        "plain",
        "\"in quotes\"",
        "\"a, b\"",
        "\"say \"\"so\"\"\"",
        "\"two\nlines\"",
        "5\" pipe",
        " spaces ",
        "é",
        "\"x\ry\"",
        "n/a",
    ],
];

fn table(line_end: &str) -> String {
    let mut rows = format!("k,n,yes,day,state,words,note{line_end}");
    for row in 0..3_000_usize {
        let cells: Vec<&str> =
            CELLS.iter().enumerate().map(|(at, cells)| cells[row * (2 * at + 3) / 5 % cells.len()]).collect();
        // Some rows are short, some have a blank cell too many.
        let cells = match row % 97 {
            5 => cells[..4].join(","),
            6 => format!("{},", cells.join(",")),
            _ => cells.join(","),
        };
        rows.push_str(&format!("k{},{cells}{line_end}", row - usize::from(row % 501 == 500)));
    }
    rows
}

fn records(text: &str, delimiter: u8) -> Vec<csv::StringRecord> {
    let mut reader =
        csv::ReaderBuilder::new().delimiter(delimiter).has_headers(false).from_reader(text.as_bytes());
    reader.records().map(Result::unwrap).collect()
}

#[test]
fn ready_rows_are_the_same_copied_or_written_anew() {
    for line_end in ["\n", "\r\n"] {
        let folder = Folder::new();
        folder.write("r.record.toml", SCHEMA).write("table.csv", table(line_end));
        for (name, write) in [("copied", ""), ("anew", "[write]\ndelimiter = \";\"\n")] {
            folder.write(
                &format!("{name}.plan.toml"),
                format!("format = 1\nrecord = \"r.record.toml\"\n{write}"),
            );
            for threads in [1, 3] {
                let ran = folder.run(&format!(
                    "check table.csv --plan {name}.plan.toml --ready {name}{threads}.csv --held {name}{threads}-held.csv \
                     --threads {threads} --force"
                ));
                assert!(ran.code < 2, "{}", ran.err);
            }
        }
        let (copied, anew) = (folder.read("copied1.csv"), folder.read("anew1.csv"));
        let (one, other) = (records(&copied, b','), records(&anew, b';'));
        assert!(one.len() > 500, "{} rows", one.len());
        for (one, other) in one.iter().zip(&other) {
            assert_eq!(one, other);
        }
        assert_eq!(one.len(), other.len());
        // Byte by byte as a writer of such files would have it.
        let mut writer = csv::Writer::from_writer(Vec::new());
        one.iter().for_each(|record| writer.write_record(record).unwrap());
        assert_eq!(copied, String::from_utf8(writer.into_inner().unwrap()).unwrap());
        assert_eq!(copied, folder.read("copied3.csv"));
        assert_eq!(folder.read("copied1-held.csv"), folder.read("anew3-held.csv"));
    }
}

#[test]
fn rows_are_repeated_as_a_whole_however_they_are_written() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA.replace("key = [\"k\"]\n", "").replace("default = \"G\"\n", ""));
    let mut rows = "k,n,yes,day,state,words,note\n".to_owned();
    for row in 0..5_000 {
        rows.push_str(&format!("k{row},{row}.5,true,2020-02-01,D,D/G,plain\n"));
    }
    // Each is one of those above: rows 102, 203, 304, 405 and 506; the last two are like none.
    for row in [
        "k100,100.50,yes,2020-02-01,D,D/G,plain",
        "k201,\"201.5\",Y,2020-2-1,\"Dead, gone\",D / G,\"plain\"",
        "k302,+302.5,TRUE,1 Feb 2020,d,D/G, plain ",
        "\"k403\",403.5,true,2020-02-01,D,D/G,plain",
        "k504,0504.5,1,2020-02-01,D,D/G/,plain",
        "k605,605.5,no,2020-02-01,D,D/G,plain",
        "k706,706.5,true,2020-02-01,D,G/D,plain",
    ] {
        rows.push_str(&format!("{row}\n"));
    }
    folder.write("table.csv", rows);
    for threads in [1, 3] {
        let told = told(&folder.report(&format!("--threads {threads}")));
        let repeated: Vec<&str> = told.iter().filter_map(|told| told.strip_prefix("row-repeated ")).collect();
        let wanted = [102, 203, 304, 405, 506, 5002, 5003, 5004, 5005, 5006];
        assert_eq!(repeated, wanted.map(|row| format!("{row} - -")));
    }
}

#[test]
fn a_cause_of_one_sender_is_found_among_many_rows_and_a_common_value_is_none() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    // Every second number of one sender is none; "plain" stands in nearly all rows.
    let mut rows = "k,n,yes,day,state,words,note\n".to_owned();
    for row in 0..40_000 {
        let is_of_sender = (20_000..20_200).contains(&row);
        let number = if is_of_sender && row % 2 == 0 { "many" } else { "5" };
        let note = if is_of_sender { "north" } else { "plain" };
        let day = if row % 4_000 == 7 { "soon" } else { "2020-02-01" };
        rows.push_str(&format!("k{row},{number},true,{day},D,D/G,{note}\n"));
    }
    folder.write("table.csv", rows);
    for threads in [1, 3] {
        let report = folder.report(&format!("--threads {threads}"));
        let causes = report["causes"].as_array().unwrap();
        let of_one: Vec<_> = causes.iter().filter(|cause| cause["code"] == "one-value").collect();
        assert_eq!(of_one.len(), 1, "{causes:#?}");
        assert_eq!((&of_one[0]["findings"], &of_one[0]["rows"]), (&100.into(), &100.into()));
        assert!(
            of_one[0]["explanation"].as_str().unwrap().contains("200 rows whose note is \"north\""),
            "{of_one:?}"
        );
    }
}
