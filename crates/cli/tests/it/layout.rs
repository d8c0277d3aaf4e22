//! Where the table lies in a file: guessed and said, or stated and kept to.

use crate::tool::{Folder, told};

const SCHEMA: &str = "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n\
    [[field]]\nname = \"k\"\nlabel = \"Key\"\nkind = \"integer\"\nrequired = true\n\
    [[field]]\nname = \"name\"\nkind = \"text\"\n\
    [[field]]\nname = \"fee\"\nkind = \"decimal\"\n";

const REPORT: &str =
    "Members of the club,,\nas of today,,\n\nKey,Name,Fee\nk,name,fee\n1,Ada,2.5\n\n2,Bo,3\n,,5.5\n";

#[test]
fn what_is_stated_is_kept_to() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("table.csv", REPORT);
    type Wanted = (u64, u64, u64, Vec<&'static str>);
    let cases: [(&str, Wanted); 5] = [
        (
            "",
            (
                4,
                6,
                2,
                vec!["layout-guessed - - -", "layout-guessed 5 - -", "row-blank 7 - -", "total-row 9 - -"],
            ),
        ),
        ("--heading-row 4 --first-row 6 --last-row 8", (4, 6, 0, vec!["row-blank 7 - -"])),
        // The first row is stated: nothing below the headings is left out, and the last row is a total all the same.
        ("--first-row 6", (4, 6, 1, vec!["layout-guessed - - -", "row-blank 7 - -", "total-row 9 - -"])),
        ("--heading-row 5 --last-row 6", (5, 6, 0, vec![])),
        ("--heading-row 4 --last-row 5", (4, 6, 0, vec![])),
    ];
    for (options, (heading, first, left_out, wanted)) in cases {
        if options == "--heading-row 4 --last-row 5" {
            let ran = folder.run(&format!("check table.csv --record r.record.toml {options}"));
            assert!(
                ran.code == 2 && ran.err.contains("the last row 5 stands above the first row 6"),
                "{}",
                ran.err
            );
            continue;
        }
        let report = folder.report(options);
        assert_eq!(told(&report), wanted, "{options}");
        let facts = &report["file"];
        assert_eq!(
            (&facts["heading_row"], &facts["first_row"]),
            (&heading.into(), &first.into()),
            "{options}"
        );
        assert_eq!(report["counts"]["left_out"], left_out, "{options}");
    }
    for (options, message) in [
        ("--heading-row 99", "there is no row 99; the last row is 9"),
        ("--heading-row 3", "row 3 holds nothing"),
        ("--heading-row 4 --first-row 4", "the first row 4 must stand below the headings in row 4"),
        ("--delimiter ab", "one ASCII character"),
        ("--encoding latin-99", "not an encoding of the WHATWG Encoding Standard"),
        ("--max-columns 70000", "between 1 and 65534"),
        ("--max-row 5TB", "between 1KiB and 1GiB"),
        ("--heading-row 2 --by-position", "cannot be used with"),
    ] {
        let ran = folder.run(&format!("check table.csv --record r.record.toml {options}"));
        assert!(ran.code == 2 && ran.err.contains(message), "{options}: {}", ran.err);
    }
}

#[test]
fn columns_without_headings_pair_by_position() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA).write("table.csv", "\n1,Ada,2.5,x\n2,Bo,free,\n");
    let report = folder.report("--by-position --ready ready.csv --held held.csv");
    assert_eq!(told(&report), ["heading-blank - D -", "decimal-bad 3 C fee"]);
    assert_eq!((&report["file"]["heading_row"], &report["file"]["first_row"]), (&().into(), &2.into()));
    assert_eq!(
        (&report["columns"][1]["how"], &report["columns"][1]["field"]),
        (&"position".into(), &"name".into())
    );
    assert_eq!(folder.read("ready.csv"), "k,name,fee\n1,Ada,2.5\n");
    // A later check finds the held rows under the names of the fields.
    std::fs::rename(folder.path("held.csv"), folder.path("table.csv")).unwrap();
    assert_eq!(told(&folder.report("")), ["decimal-bad 2 E fee"]);
}

#[test]
fn a_total_with_decimal_commas_is_one_too() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    folder.write("table.csv", "k;name;fee\n1;Ada;1.000,5\n2;Bo;2,25\nSumme;;1.002,75\n");
    let told = told(&folder.report(""));
    assert!(told.contains(&"total-row 4 - -".to_owned()), "{told:?}");
    // Thousands may be parted by spaces, and what a wrong total is held against is read as it is.
    folder.write("table.csv", "k;name;fee\n1;Ada;1 000,5\n2;Bo;2,25\nSumme;;1 002,80\n");
    let report = folder.report("");
    let messages: Vec<_> =
        report["findings"].as_array().unwrap().iter().map(|told| &told["message"]).collect();
    let told = "the last row is called a total and says 1 002,80; the rows sum to 1002.75";
    assert!(messages.contains(&&told.into()), "{messages:?}");
}

#[test]
fn a_total_is_left_out_only_where_it_sums() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    let rows = "k,name,fee\n1,Ada,2.5\n2,Bo,-0.25\n3,Cy,oops\n";
    for (last, code) in [
        (",,2.25", "total-row"),
        ("Total,,2.25", "total-row"),
        ("Summe:,,2.250", "total-row"),
        // What is called a total is no record, whatever it comes to.
        ("Total,,\"2,25\"", "total-wrong"),
        ("Total,,2.26", "total-wrong"),
        (",,2.26", ""),
        (",Dee,2.25", ""),
        ("Total,,", "footer-row"),
        ("Made by the office", "footer-row"),
        ("4,,", ""),
        ("4,,2.25", ""),
    ] {
        folder.write("table.csv", format!("{rows}{last}\n,,\n"));
        let report = folder.report("--ready ready.csv --held held.csv --force");
        let left_out = u64::from(matches!(code, "total-row" | "footer-row"));
        let counts = &report["counts"];
        assert_eq!((&counts["rows"], &counts["left_out"]), (&4.into(), &left_out.into()), "{last}");
        let of_last = |told: &&String| told.contains(" 5 ");
        let told = told(&report);
        let last_told: Vec<_> =
            told.iter().filter(of_last).map(|told| told.split(' ').next().unwrap()).collect();
        if code.is_empty() {
            assert!(
                last_told.iter().all(|told| !told.contains("total") && !told.contains("footer")),
                "{last}"
            );
        } else {
            assert_eq!(last_told, [code], "{last}");
        }
        assert!(told.contains(&"blank-tail 6 - -".to_owned()), "{last}: {told:?}");
        let held = folder.read("held.csv");
        assert_eq!(
            folder.read("ready.csv").lines().count() + held.lines().count() - 2,
            4 - left_out as usize
        );
        assert_eq!(held.contains("total-wrong: "), code == "total-wrong", "{held}");
    }
}

#[test]
fn notes_below_a_total_are_left_out_with_it() {
    let folder = Folder::new();
    let bare = SCHEMA.replace("key = [\"k\"]\n", "");
    let rows = "k,name,fee\n1,Ada,2.5\n2,Bo,-0.25\n3,Cy,1\n";
    let note = "Made by the office,,";
    for (record, last, wanted) in [
        (SCHEMA, vec!["Total,,3.25", note], vec!["total-row 5", "footer-row 6"]),
        (bare.as_str(), vec!["Total,,3.25", note], vec!["total-row 5", "footer-row 6"]),
        (
            SCHEMA,
            vec![",,3.25", note, "", "Seen by nobody,,"],
            vec!["total-row 5", "footer-row 6", "footer-row 8"],
        ),
        (SCHEMA, vec!["Total,,3.26", note, note], vec!["total-wrong 5", "footer-row 6", "footer-row 7"]),
        (SCHEMA, vec!["4,Dee,2", note, note], vec!["footer-row 6", "footer-row 7"]),
        (SCHEMA, vec!["Total", ",,3.25"], vec!["footer-row 5", "total-row 6"]),
        (SCHEMA, vec!["Total", "Total,,3.26"], vec!["footer-row 5", "total-wrong 6"]),
        // As short as editors and sheets leave them.
        (
            SCHEMA,
            vec!["Total,,3.25", "Made by the office", "Seen by nobody"],
            vec!["total-row 5", "footer-row 6", "footer-row 7"],
        ),
        // Only from the last row upwards, and only above notes.
        (SCHEMA, vec![note, "4,Dee,2"], vec![]),
        (SCHEMA, vec!["Total,,3.25", "4,Dee,2"], vec![]),
        (SCHEMA, vec!["Total,,3.25", "Total,,3.25"], vec!["total-wrong 6"]),
    ] {
        // Sheets often begin with an empty column.
        for gap in ["", ","] {
            let text = format!("{rows}{}\n", last.join("\n"));
            let lines = text
                .lines()
                .map(|line| if line.is_empty() { "\n".to_owned() } else { format!("{gap}{line}\n") });
            folder.write("r.record.toml", record).write("table.csv", lines.collect::<String>());
            let outputs = "--ready ready.csv --held held.csv --marked m.xlsx --force --threads 2";
            let report = folder.report(outputs);
            let ends = |told: &String| ["total", "footer"].iter().any(|code| told.starts_with(code));
            let told: Vec<_> = told(&report).into_iter().filter(ends).collect();
            let last = last.join(" / ");
            let is_wrong = wanted.iter().any(|told| told.contains("wrong"));
            let mut told: Vec<String> = told.iter().map(|told| short(told)).collect();
            told.sort_by_key(|told| told.split(' ').nth(1).map(str::to_owned));
            assert_eq!(told, wanted, "{last}");
            let counts = &report["counts"];
            let left_out = wanted.len() as u64 - u64::from(is_wrong);
            assert_eq!(counts["left_out"], left_out, "{last}");
            let lines = |name: &str| folder.read(name).lines().count() as u64 - 1;
            assert_eq!(
                (&counts["ready"], &counts["held"]),
                (&lines("ready.csv").into(), &lines("held.csv").into()),
                "{last}"
            );
            assert_eq!(counts["rows"], lines("ready.csv") + lines("held.csv") + left_out, "{last}");
            // What mending takes out of the file is told no more.
            if left_out > 0 {
                folder.run("mend table.csv --record r.record.toml --output out.csv --force");
                let again = folder.run("check out.csv --record r.record.toml");
                assert!(
                    !again.out.contains("footer-row") && !again.out.contains("total-row"),
                    "{last}: {}",
                    again.out
                );
            }
        }
    }
}

#[test]
fn what_a_held_file_says_beside_its_rows_is_summed_by_no_total() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    folder.write("table.csv", "k,name,fee\nA,Ada,x\nTotal,,\n2,Bo,1\n");
    let report = folder.report("--held held.csv --ready ready.csv");
    assert_eq!(report["counts"]["held"], 2, "{report}");
    let again = folder.run("check held.csv --record r.record.toml");
    assert!(again.out.contains("footer-row") && !again.out.contains("total-"), "{}", again.out);
}

/// The code and the row of what was told.
fn short(told: &str) -> String {
    told.split(' ').take(2).collect::<Vec<_>>().join(" ")
}

#[test]
fn missing_cells_at_the_end_are_blank_where_that_is_stated() {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    folder.write("table.csv", "k,name,fee\n1,Ada\n2\n\"3\",Bo,4\nx,Cy\n,,5.0\r\n6,\"D, E\"\r\n");
    assert_eq!(told(&folder.report(""))[..2], ["row-width 2 - -", "row-width 3 - -"]);
    for threads in [1, 2] {
        let words =
            format!("--short-rows blank --threads {threads} --ready ready.csv --held held.csv --force");
        let report = folder.report(&words);
        assert_eq!(
            told(&report),
            [
                "row-width 2 - -",
                "row-width 3 - -",
                "row-width 5 - -",
                "integer-bad 5 A k",
                "key-blank 6 A k",
                "row-width 7 - -"
            ]
        );
        assert_eq!(folder.read("ready.csv"), "k,name,fee\n1,Ada,\n2,,\n3,Bo,4\n6,\"D, E\",\n");
        assert!(folder.read("held.csv").contains(",x,Cy\n"), "{}", folder.read("held.csv"));
    }
}

/// A row alone may be faulty in any way; columns that stand in each other's place show it in both.
#[test]
fn one_cell_makes_no_columns_swapped() {
    let folder = Folder::new();
    folder.write(
        "r.record.toml",
        SCHEMA.to_owned()
            + "[[field]]\nname = \"on\"\nkind = \"date\"\n[[field]]\nname = \"note\"\nkind = \"text\"\n",
    );
    for (row, is_swapped) in [
        ("1,Ada,-,2024-05-01,12", false),
        ("1,Ada,2024-05-01,12.5,fine", true),
        ("1,Ada,2024-05-01,soon,fine", false),
    ] {
        folder.write("table.csv", format!("k,name,fee,on,note\n{row}\n"));
        let told = told(&folder.report(""));
        assert_eq!(told.iter().any(|told| told.starts_with("column-misfit")), is_swapped, "{row}: {told:?}");
    }
}
