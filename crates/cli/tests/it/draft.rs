//! Drafts: from each kind of source a record schema that can be read and that a check accepts.

use crate::tool::{Folder, demo};

fn with(names: &[&str]) -> Folder {
    let folder = Folder::new();
    for name in names {
        folder.write(name, std::fs::read(demo().join(name)).unwrap());
    }
    folder
}

/// Drafts and gives the text of the record schema.
fn drafted(folder: &Folder, words: &str) -> String {
    let ran = folder.run(&format!("draft {words} -o d.record.toml --force"));
    assert_eq!(ran.code, 0, "{words}: {}{}", ran.out, ran.err);
    folder.read("d.record.toml")
}

#[test]
fn an_export_is_drafted_and_the_draft_takes_it() {
    for file in ["ward-3-survey.csv", "ward-5-survey.xlsx"] {
        let folder = with(&[file]);
        let text = drafted(&folder, &format!("{file} --name tree"));
        for line in [
            "key = [\"tag_number\"]",
            "pattern = \"HT-[0-9]{7}\"",
            "kind = \"date\"",
            "kind = \"boolean\"",
            "[picklist.cond]",
            "# filled in every row, all different",
        ] {
            assert!(text.contains(line), "{line} in {text}");
        }
        if file == "ward-3-survey.csv" {
            let ran = folder.run(&format!("check {file} --record d.record.toml"));
            assert_eq!(ran.code, 0, "{}", ran.out);
        }
        // The same on one thread as on two.
        let again = drafted(&folder, &format!("{file} --name tree --threads 1"));
        assert_eq!(again, text);
    }
}

/// A sample, and lines that its draft holds.
#[test]
fn what_a_column_holds_is_drafted_with_its_evidence() {
    let rows = |row: &dyn Fn(usize) -> String| (1..=40).map(row).collect::<String>();
    let many = |row: &dyn Fn(usize) -> String| (1..=120).map(row).collect::<String>();
    let cases: [(&str, String, &[&str]); 18] = [
        (
            "dates in another order, told where they could be turned",
            "id,on\n".to_owned() + &rows(&|n| format!("{n},{:02}/{:02}/2024\n", n % 12 + 1, n % 11 + 1)),
            &["dates = [\"dd/MM/yyyy\"]", "LOOK: they read as MM/dd/yyyy just as well"],
        ),
        (
            "decimals with a comma",
            "id;size\n".to_owned() + &many(&|n| format!("{n};{},50\n", n % 30)),
            &["kind = \"decimal\"", "a plan says so with decimal_mark = \",\"", "digits = { after = 2 }"],
        ),
        (
            "few rows draft no limit",
            "id,size\n".to_owned() + &rows(&|n| format!("{n},{}.5\n", n % 3)),
            &["from 0.5 to 2.5: too little to go by for a limit", "kind = \"decimal\"\nrequired = true\n"],
        ),
        (
            "thousands marks are numbers",
            "id,cost\n".to_owned() + &rows(&|n| format!("{n},\"{},500\"\n", n % 7 + 1)),
            &["thousands marks", "kind = \"integer\"", "from 1500 to 7500"],
        ),
        (
            "the kind that most cells have is told where too few have it",
            "id,on\n".to_owned()
                + &rows(&|n| {
                    if n % 3 == 0 {
                        format!("{n},soon\n")
                    } else {
                        format!("{n},2024-05-{:02}\n", n % 28 + 1)
                    }
                }),
            &[
                "LOOK: taken for text, but 27 of 40 cells are of kind date; the others are not, first \"soon\" in row 4",
            ],
        ),
        (
            "few decimals among whole numbers are told",
            "id,n\n".to_owned()
                + &rows(&|n| {
                    format!("{n},{}\n", if n % 9 == 0 { "12.5".to_owned() } else { (n % 5).to_string() })
                }),
            &["LOOK: only 4 of 40 have decimals, first \"12.5\" in row 10", "kind = \"decimal\""],
        ),
        (
            "one decimal does not decide for forty",
            "id,n\n".to_owned()
                + &rows(&|n| {
                    format!("{n},{}\n", if n == 9 { "12.5".to_owned() } else { (n % 5).to_string() })
                }),
            &["LOOK: 1 of 40 cells are no integer, first \"12.5\" in row 10", "kind = \"integer\""],
        ),
        (
            "spoilt spellings are no codes",
            "id,c\n".to_owned()
                + &many(&|n| {
                    format!(
                        "{n},{}\n",
                        match n {
                            7 => "élan",
                            8 => "ELAN",
                            9 => "El an",
                            _ => ["Elan", "Oak"][n % 2],
                        }
                    )
                }),
            &[
                "also = [",
                "\"ELAN\"",
                "LOOK: \"ELAN\", \"El an\", \"élan\" taken for \"Elan\"",
                "{ code = \"Oak\" }",
            ],
        ),
        (
            "telephone numbers and free text are no picklists",
            "id,tel,note\n".to_owned()
                + &many(&|n| {
                    format!(
                        "{n},+44 20 7946 00{:02},{}\n",
                        n % 3,
                        ["none seen on the day", "come back in spring with a ladder"][n % 2]
                    )
                }),
            &["name = \"tel\"\nkind = \"phone\"", "name = \"note\"\nkind = \"text\""],
        ),
        (
            "a key that a row spoils is named with it",
            "Id,v\n".to_owned() + &rows(&|n| format!("T-{},{}\n", if n == 30 { 4 } else { n }, n % 3)),
            &["key = [\"Id\"]", "LOOK: likely the key, but row 31 repeats what stands above"],
        ),
        (
            "keys of several columns, and records of several lines",
            "order,customer,line,item\n".to_owned()
                + &many(&|n| {
                    format!("{},C{},{},{}\n", 100 + n / 3, n / 3 % 7, n % 3, ["oak", "ash", "elm"][n % 3])
                }),
            &[
                "key = [\"order\", \"line\"]",
                "[lines] with header = [\"order\", \"customer\"] and key = [\"line\"]",
            ],
        ),
        (
            "numbers with a mark are texts, and it is said what would read them",
            "id;share;price;size\n".to_owned()
                + &rows(&|n| format!("{n};{},5 %;CHF {}'{:03}.50;{n} cm\n", n % 9, n + 1, n * 7 % 1000)),
            &[
                "with \"%\" behind them: kind = \"decimal\" and percent = true",
                "with \"CHF\" before them: kind = \"decimal\" and currency = [\"CHF\"]",
                "with \"cm\" behind them: kind = \"decimal\" and unit = \"cm\"",
            ],
        ),
        (
            "days of two forms are read by one order of day and month",
            "id,on\n".to_owned()
                + &rows(&|n| match n % 8 {
                    0 => format!("{n},{:02}/0{}/2021\n", n % 28 + 1, n % 9 + 1),
                    _ => format!("{n},2021-0{}-11\n", n % 9 + 1),
                }),
            &["dates = [\"yyyy-MM-dd\", \"dd/MM/yyyy\"]"],
        ),
        (
            "leading zeros stay text",
            "code,v\n".to_owned() + &rows(&|n| format!("{n:05},{n}\n")),
            &["pattern = \"[0-9]{5}\"", "key = [\"code\"]"],
        ),
        (
            "several values in a cell",
            "id,hazards\n".to_owned()
                + &rows(&|n| {
                    format!("{n},{}\n", ["lean;fungus", "fungus", "lean;deadwood;fungus", "deadwood"][n % 4])
                }),
            &["many = { separator = \";\" }", "{ code = \"deadwood\" }"],
        ),
        (
            "what does not fit is said",
            "id,n\n".to_owned()
                + &rows(&|n| {
                    format!("{n},{}\n", if n == 17 { "oops".to_owned() } else { (n % 9).to_string() })
                }),
            &["LOOK: 1 of 40 cells are no integer, first \"oops\" in row 18", "kind = \"integer\""],
        ),
        (
            "blank cells are not required; rare words of a list are told",
            "id,c\n".to_owned()
                + &rows(&|n| {
                    format!(
                        "{n},{}\n",
                        match n {
                            3 => "Goood",
                            4 => "",
                            _ => ["Good", "Poor"][n % 2],
                        }
                    )
                }),
            &["39 of 40 filled, 3 values", "LOOK: only once each: \"Goood\"", "picklist = \"c\""],
        ),
        (
            "headings become names, and twice the same stays readable",
            "Tag No.,Tag no,7up\n".to_owned() + &rows(&|n| format!("a{n},b{n},{n}\n")),
            &["name = \"tag_no\"", "label = \"Tag No.\"", "name = \"tag_no_2\"", "name = \"7up\""],
        ),
    ];
    for (what, table, lines) in cases {
        let folder = Folder::new();
        folder.write("sample.csv", table);
        let text = drafted(&folder, "sample.csv");
        let flat = text.replace("\n#  ", "");
        for line in lines {
            assert!(flat.contains(line), "{what}: {line} in {text}");
        }
        let ran = folder.run("check sample.csv --record d.record.toml");
        assert!(ran.code < 2, "{what}: {}", ran.err);
    }
}

/// Columns as people of many countries write them: the kind that is drafted, and how row `n` is written. A check by the draft
/// lets all rows of its own sample pass.
#[test]
fn a_draft_takes_its_own_sample_however_it_is_written() {
    type Cell = fn(usize) -> String;
    let cases: [(&str, Cell); 38] = [
        ("text", |n| match n {
            9 => "n/a".to_owned(),
            _ => format!("6{:02} {:03} {:03}", n % 100, n * 7 % 1000, n * 13 % 1000),
        }),
        ("text", |n| format!("{},50 €", n % 5 + 1)),
        ("decimal", |n| format!("{} {:03},{:02}", n % 9 + 1, n * 7 % 1000, n % 100)),
        ("decimal", |n| format!("{}\u{202F}{:03},{:02}", n % 9 + 1, n * 7 % 1000, n % 100)),
        ("decimal", |n| format!("{}\u{2019}{:03}.{:02}", n % 9 + 1, n * 7 % 1000, n % 100)),
        ("decimal", |n| format!("{}.{:03},{:02}", n % 9 + 1, n * 7 % 1000, n % 100)),
        ("decimal", |n| format!("{},{:03}.{:02}", n % 9 + 1, n * 7 % 1000, n % 100)),
        ("decimal", |n| if n % 3 == 0 { format!("({n}.50)") } else { format!("{n}.25-") }),
        ("integer", |n| format!("{}\u{A0}{:03}\u{A0}000", n + 1, n * 7 % 1000)),
        ("integer", |n| format!("\u{2212}{n}")),
        ("date", |n| format!("{:02}.{:02}.19{:02}", n % 28 + 1, n % 12 + 1, n % 100)),
        ("date", |n| format!("{}/{}/2024", n % 12 + 1, n % 28 + 1)),
        ("date", |n| format!("{}. {}. 2024", n % 28 + 1, n % 12 + 1)),
        ("date", |n| format!("{:02}.{:02}.2024.", n % 28 + 1, n % 12 + 1)),
        ("date", |n| format!("2024. {:02}. {:02}.", n % 12 + 1, n % 28 + 1)),
        ("date", |n| format!("2024年{}月{}日", n % 12 + 1, n % 28 + 1)),
        ("date", |n| format!("2024{:02}{:02}", n % 12 + 1, n % 28 + 1)),
        ("date", |n| {
            if n % 30 == 7 {
                "99991231".to_owned()
            } else {
                format!("19{:02}0{}{:02}", n % 100, n % 9 + 1, n % 28 + 1)
            }
        }),
        // Numbers that no calendar has, and one that comes again and again.
        ("integer", |n| format!("2024{:04}", n * 7 + 101)),
        ("integer", |n| ["20240131", "20240201"][n % 2].to_owned()),
        ("datetime", |n| format!("{}. {}. 2024 {}:{:02}", n % 28 + 1, n % 12 + 1, n % 24, n % 60)),
        // The oldest day reads in either order, and the order is told by others.
        ("date", |n| ["05/04/1957", "11/09/2011", "02/27/1990"][n % 3].to_owned()),
        ("date", |n| format!("{}-{}-2024", n % 28 + 1, ["Jan", "Feb", "Dec"][n % 3])),
        ("datetime", |n| format!("{:02}.{:02}.2024 {:02}:{:02}", n % 28 + 1, n % 12 + 1, n % 24, n % 60)),
        ("datetime", |n| format!("{:02}/{:02}/2024 {}:05:{:02}", n % 28 + 1, n % 12 + 1, n % 24, n % 60)),
        ("datetime", |n| format!("2024-05-{:02} {:02}:05:00", n % 28 + 1, n % 24)),
        ("time", |n| format!("{}:{:02}", n % 24, n % 60)),
        ("time", |n| format!("{}h{:02}", n % 24, n % 60)),
        ("datetime", |n| format!("{:02}/12/2024 {}h{:02}", n % 31 + 1, n % 24, n % 60)),
        ("time", |n| format!("{}:{:02} {}", n % 12 + 1, n % 60, ["AM", "PM"][n % 2])),
        ("datetime", |n| format!("{}/{}/2024 {}:{:02} PM", n % 12 + 1, n % 28 + 1, n % 12 + 1, n % 60)),
        ("datetime", |n| format!("{:02}.{:02}.2024 {}:05:09 a.m.", n % 28 + 1, n % 12 + 1, n % 12 + 1)),
        ("phone", |n| format!("+48 {} {:03} 325", 500 + n, n * 7 % 1000)),
        ("text", |n| format!("020 7946 {n:04}")),
        ("text", |n| format!("({}) 555-01{:02}", 201 + n % 9, n % 100)),
        ("picklist", |n| ["tak", "nie"][n % 2].to_owned()),
        ("picklist", |n| ["=1+A1", "none"][n % 2].to_owned()),
        ("boolean", |n| ["Yes", "No", ""][n % 3].to_owned()),
    ];
    for (kind, cell) in cases {
        let folder = Folder::new();
        let rows: String = (0..120).map(|n| format!("R{n:04};{}\n", cell(n))).collect();
        folder.write("sample.csv", format!("Ref;Value\n{rows}"));
        let text = drafted(&folder, "sample.csv");
        let of_field = &text[text.find("\nname = \"Value\"").unwrap()..];
        let first = cell(1);
        assert!(of_field.contains(&format!("\nkind = \"{kind}\"")), "{first}: {text}");
        assert_eq!(text.contains("would run as a formula"), cell(0).starts_with('='), "{text}");
        assert_eq!(text.contains("LOOK: times of day"), kind == "time" && first.contains('h'), "{text}");
        let ran = folder.run("check sample.csv --record d.record.toml");
        assert_eq!(ran.code, 0, "{first}: {}{text}", ran.out);
    }
}

/// Amounts with a currency, a few of them missing, above a row that sums them.
#[test]
fn a_total_in_a_currency_is_no_record_of_a_draft() {
    let folder = Folder::new();
    let amount = |n: usize| if n == 7 { "n/d".to_owned() } else { format!("{},50 €", n % 5 + 1) };
    let rows: String = (0..30).map(|n| format!("C-{:04};{};6{n:08}\n", n.min(28), amount(n))).collect();
    for (total, said) in [("101,50 €", "total-row"), ("101,50", "total-row"), ("99,00 €", "total-wrong")]
    {
        folder.write("sample.csv", format!("Nº cita;Importe;DNI\n{rows}Total;{total};\n"));
        let text = drafted(&folder, "sample.csv");
        let wanted = [
            "30 rows",
            "Row 32, the last one, looks like a total and was left out",
            "key = [\"DNI\"]",
            "LOOK: nº_cita is called one, but row 31 repeats what stands above",
            "LOOK: 29 of 30 look like numbers with \"€\" behind them: kind = \"decimal\" and currency = [\"€\"] say so",
        ];
        for part in wanted {
            assert!(text.contains(part), "{part}: {text}");
        }
        assert!(!text.contains("picklist"), "{text}");
        // What is to be looked at of the key stands with the rest.
        let drawn = folder.run("draft sample.csv -o e.record.toml --force").out;
        assert!(drawn.contains("the key: nº_cita is called one") && !drawn.contains("LOOK"), "{drawn}");
        let ran = folder.run("check sample.csv --record d.record.toml");
        assert!(ran.out.contains(said), "{total}: {}", ran.out);
    }
}

/// Columns with the same heading: a draft has a field for each, and the step that `match` prints says which is which.
#[test]
fn headings_that_repeat_are_decided_by_the_printed_step() {
    let folder = Folder::new();
    let rows: String =
        (0..20).map(|n| format!("R{n:03},{},{}\n", ["Yes", "No"][n % 2], ["No", "Yes"][n % 3 / 2])).collect();
    folder.write("s.csv", format!("Ref,May we call?,May we call?\n{rows}"));
    assert!(drafted(&folder, "s.csv").contains("says which is which, this one as \"@C\""));
    let shut = folder.run("check s.csv --record d.record.toml");
    assert!(
        shut.code == 1 && shut.out.contains("tidy-gate match s.csv --record d.record.toml"),
        "{}",
        shut.out
    );
    let ran = folder.run("match s.csv --record d.record.toml");
    let sets = "--set @B=may_we_call --set @C=may_we_call_2";
    let printed = ran.out.replace("\\\n", " ").split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(printed.contains(sets), "{printed}");
    folder.run(&format!("match s.csv --record d.record.toml {sets} --save p.plan.toml"));
    let open = folder.run("check s.csv --plan p.plan.toml --held h.csv --marked m.xlsx");
    assert_eq!(open.code, 0, "{}", open.out);
    // Nobody is asked to mend what is sound.
    assert!(!open.out.contains("h.csv --plan") && !open.out.contains("Send m.xlsx"), "{}", open.out);
}

#[test]
fn a_note_below_the_table_is_no_record_of_a_draft() {
    let folder = Folder::new();
    let rows: String = (0..20).map(|n| format!("K{n:03},{n}\n")).collect();
    folder.write("sample.csv", format!("Ref,Menge\n{rows}All figures without guarantee,\n"));
    let text = drafted(&folder, "sample.csv");
    let said = "Row 22, the last one, looks like a note below the table and was left out";
    assert!(text.contains(said) && text.contains("pattern = \"K[0-9]{3}\""), "{text}");
    // Nor is a total above it, or another note.
    folder.write("sample.csv", format!("Ref,Menge\n{rows}Total,190\nSeen by nobody yet,\nMade by hand,\n"));
    let text = drafted(&folder, "sample.csv");
    let left_out =
        ["Row 22 looks like a total", "Row 23 looks like a note", "Row 24, the last one, looks like a note"];
    assert!(left_out.iter().all(|said| text.contains(said)) && text.contains("K[0-9]{3}"), "{text}");
}

#[test]
fn months_in_other_languages_are_told_with_what_reads_them() {
    let folder = Folder::new();
    let months = ["janvier", "février", "mars", "avril", "mai", "juin", "juillet", "août", "septembre"];
    let row = |n: usize, day: &str| format!("K{n:03},{day},\"{},{:02}-\"\n", 10 + n % 45, n % 45);
    let rows = |months: &[&str]| -> String {
        (0..150)
            .map(|n| row(n, &format!("{} {} {}", n % 28 + 1, months[n % months.len()], 1870 + n)))
            .collect()
    };
    folder.write("sample.csv", format!("Ref,Né le,Solde\n{}", rows(&months)));
    let text = drafted(&folder, "sample.csv").replace("\n#   ", " ");
    let said = "they look like days with the name of their month: kind = \"date\", and language = \"fr\" under [read] of a plan, read them";
    assert!(text.contains(said), "{text}");
    // The minus behind a number counts for its range, and is none of its decimals.
    assert!(
        text.contains("digits = { after = 2 }") && text.contains("range = { min = -100, max = -10 }"),
        "{text}"
    );
    // What is said leads to an open gate.
    let field = text.find("Né le").unwrap();
    let read =
        format!("{}{}", &text[..field], text[field..].replacen("kind = \"text\"", "kind = \"date\"", 1));
    folder.write("d.record.toml", read);
    folder.write("p.plan.toml", "format = 1\n[read]\nlanguage = \"fr\"\n");
    let ran = folder.run("check sample.csv --record d.record.toml --plan p.plan.toml --today 2026-01-01");
    assert_eq!(ran.code, 0, "{}", ran.out);
    // Words that are no months are none of any language.
    folder.write("sample.csv", format!("Ref,Né le,Solde\n{}", rows(&["oak", "ash", "lime"])));
    assert!(!drafted(&folder, "sample.csv").contains("name of their month"));
}

/// A cell with a unit is a text for whoever adds up by a spreadsheet, and a number for whoever does by hand.
#[test]
fn a_total_may_count_what_has_a_unit_or_not() {
    let folder = Folder::new();
    folder.write(
        "d.record.toml",
        "format = 1\nrecord = \"d\"\nkey = [\"ref\"]\n[[field]]\nname = \"ref\"\nkind = \"text\"\n[[field]]\nname = \"kg\"\nkind = \"decimal\"\n",
    );
    // A mark by which no cell can be read sums nothing.
    for (total, said) in [
        ("5", "total-row"),
        ("7.5", "total-row"),
        ("7.5 kg", "total-row"),
        ("8", "total-wrong"),
        ("0", "total-wrong"),
    ] {
        folder.write("t.csv", format!("ref,kg\na,1.5\nb,2.5 kg\nc,3.5\nTotal,{total}\n"));
        let ran = folder.run("check t.csv --record d.record.toml --format json");
        assert!(ran.out.contains(said), "{total}: {}", ran.out);
    }
}

/// Each source of the demo, lines of its draft, and what it says it did not understand.
#[test]
fn descriptions_of_other_systems_are_drafted() {
    let cases: [(&str, &[&str], &[&str]); 4] = [
        (
            "register.sql --table tree",
            &[
                "key = [\"tag_no\"]",
                "unique = [[\"site_code\", \"position_no\"]]",
                "pattern = \"HT-[0-9]{7}\"",
                "to = \"site\"",
                "range = { min = 1, max = 999 }",
                "digits = { before = 4, after = 1 }",
                "picklist = \"tree_condition\"",
                "read_only = true",
                "default = \"false\"",
                "help = \"The number on the aluminium tag.\"",
                "# the target computes it as girth_cm * height_m / 40",
                "[[rule]]\nname = \"removal after inspection\"\nmust = \"removal_due >= inspected_on\"",
            ],
            &["outline: the type geometry"],
        ),
        (
            "tree-dictionary.csv",
            &[
                "record = \"tree\"",
                "key = [\"tag_no\"]",
                "length = { max = 10 }",
                "required = \"add\"",
                "{ code = \"E\", label = \"Excellent\" }",
                "digits = { before = 4, after = 1 }",
                "range = { min = \"1850-01-01\", max = \"today\" }",
                "kind = \"email\"",
            ],
            &["the column \"Data owner\"", "crown: the type \"Polygon\"", "crown: required \"if surveyed\""],
        ),
        (
            "tree.csv-metadata.json",
            &[
                "record = \"trees\"",
                "also = [\"Tree tag\"]",
                "dates = [\"dd/MM/yyyy\"]",
                "to = \"site\"",
                "many = { separator = \"|\" }",
                "{ code = \"E\" }",
                "default = \"N\"",
            ],
            &["source: a virtual column"],
        ),
        (
            "tree.schema.json",
            &[
                "label = \"Street tree\"",
                "range = { min = 1, max = 999 }",
                "digits = { after = 1 }",
                "{ code = \"E\", label = \"Excellent\" }",
                "many = { separator = \";\", max = 3 }",
                "read_only = true",
                "name = \"place.easting\"",
                "length = { min = 8, max = 8 }",
            ],
            &["outline: an object without known properties"],
        ),
    ];
    for (words, lines, not_understood) in cases {
        let folder = with(&[
            "register.sql",
            "tree-dictionary.csv",
            "tree.csv-metadata.json",
            "tree.schema.json",
            "ward-3-survey.csv",
        ]);
        let text = drafted(&folder, words);
        for line in lines {
            assert!(text.contains(line), "{words}: {line} in {text}");
        }
        for line in not_understood {
            assert!(text.contains(&format!("# NOT UNDERSTOOD: {line}")), "{words}: {line} in {text}");
        }
        // Beside the file, on standard output, it is the same.
        let ran = folder.run(&format!("draft {words}"));
        assert_eq!(ran.out, text);
        assert!(not_understood.iter().all(|line| ran.err.contains(line)), "{}", ran.err);
        let ran = folder.run("check ward-3-survey.csv --record d.record.toml");
        assert!(ran.code < 2, "{words}: {}", ran.err);
    }
    // The dictionary describes the survey so well that the gate opens; the dialect of CSVW makes a plan.
    let folder = with(&["tree-dictionary.csv", "tree.csv-metadata.json", "ward-3-survey.csv"]);
    drafted(&folder, "tree-dictionary.csv");
    assert_eq!(folder.run("check ward-3-survey.csv --record d.record.toml").code, 0);
    drafted(&folder, "tree.csv-metadata.json");
    let table = "Trees of Harrowmere\n\nTag number;Site;Condition;Planted on;Girth (cm);Protected\n\
                 HT-0000001;W07-MILL;G;03/04/2019;1.012,5;Y\nHT-0000002;W07-MILL;E;n/a;12;N\n";
    let bytes = table.as_bytes();
    folder.write("trees.csv", bytes);
    let ran = folder.run("check trees.csv --plan d.plan.toml --ready ready.csv");
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(
        folder.read("ready.csv").contains("HT-0000001,W07-MILL,03/04/2019,1012.5,G,true"),
        "{}",
        folder.read("ready.csv")
    );
}

#[test]
fn several_tables_want_a_name_and_nothing_is_told_as_such() {
    let folder = with(&["register.sql"]);
    folder
        .write("empty.sql", "SELECT 1;")
        .write("empty.json", "{\"$schema\": \"x\", \"type\": \"object\", \"properties\": 3}");
    folder.write("none.csv", "");
    for (words, message) in [
        ("register.sql", "it describes several tables: site, tree"),
        ("register.sql --table trees", "it describes no table trees"),
        ("empty.sql", "it holds no CREATE TABLE"),
        ("empty.json --as json-schema", ""),
        ("none.csv", "holds no headings to draft from"),
        ("register.sql --table site -o register.sql --force", "register.sql"),
    ] {
        let ran = folder.run(&format!("draft {words}"));
        assert!(
            ran.code == 2 && ran.err.contains(message) && !ran.err.is_empty(),
            "{words}: {} {}",
            ran.code,
            ran.err
        );
    }
}

#[test]
fn sql_of_several_engines_is_read() {
    for (sql, lines) in [
        (
            "CREATE TABLE `t` (`id` int unsigned NOT NULL AUTO_INCREMENT, `code` enum('a','b') NOT NULL COMMENT 'which', \
             `ok` tinyint(1) DEFAULT '0', PRIMARY KEY (`id`), UNIQUE KEY `u` (`code`)) ENGINE=InnoDB;",
            vec![
                "key = [\"code\"]",
                "read_only = true",
                "{ code = \"b\" }",
                "help = \"which\"",
                "kind = \"boolean\"",
            ],
        ),
        (
            "CREATE TABLE [dbo].[t] ([id] uniqueidentifier PRIMARY KEY, [name] nvarchar(40) NOT NULL, [n] decimal(8,2) CHECK ([n] >= 0));\nGO\n",
            vec!["key = [\"id\"]", "kind = \"uuid\"", "length = { max = 40 }", "range = { min = 0 }"],
        ),
        (
            "CREATE TABLE t (id INTEGER PRIMARY KEY, state TEXT CHECK (state IN ('on', 'off')), note TEXT CHECK (length(note) <= 20));",
            vec!["key = [\"id\"]", "{ code = \"off\" }", "length = { max = 20 }"],
        ),
        (
            "CREATE TABLE public.t (k character varying(9) NOT NULL, s text,\n CONSTRAINT c CHECK (((s)::text = ANY ((ARRAY['x'::character varying, \
             'y'::character varying])::text[]))));\nALTER TABLE ONLY public.t ADD CONSTRAINT t_pkey PRIMARY KEY (k);\nCOPY public.t (k) FROM stdin;\n1; DROP\n\\.\n",
            vec!["key = [\"k\"]", "length = { max = 9 }", "{ code = \"y\" }"],
        ),
    ] {
        let folder = Folder::new();
        folder.write("t.sql", sql);
        let text = drafted(&folder, "t.sql");
        for line in lines {
            assert!(text.contains(line), "{line} in {text}");
        }
    }
}

#[test]
fn the_key_is_the_column_that_is_called_one_in_whatever_language() {
    let not_told = "LOOK: neither its heading nor its form says that it is the key";
    for (headings, rows, key, is_told) in [
        ("Nätter,Bokningsnr,Gäst", "3,B1000,Ana\n2,B1001,Eva\n", "Bokningsnr", true),
        ("Jahr,Kundennummer,Ort", "1999,77,Aue\n2001,78,Ulm\n", "Kundennummer", true),
        ("Код,Год,Название", "Ж1,1999,Дуб\nЖ2,2001,Ясень\n", "Код", true),
        ("Code,Nom,Code postal", "G-a,Ay,51160\nG-b,Albi,81000\n", "Code", true),
        ("Name,Phone no.,Item #", "Ana,112,7\nEva,115,9\n", "item", true),
        // Numbers that begin with a year look like days.
        ("Qty,Order no", "3,20240101\n4,20240102\n5,20240103\n", "order_no", true),
        ("Keeper,Queens,Hive", "Ana,3,H1\nEva,4,H2\n", "Hive", false),
        ("Keeper,Queens", "Ana,3\nEva,4\n", "Queens", false),
    ] {
        let folder = Folder::new();
        folder.write("t.csv", format!("{headings}\n{rows}"));
        let draft = folder.run("draft t.csv").out;
        let named = draft.lines().find(|line| line.starts_with("key = ")).unwrap_or_default();
        assert_eq!(named.to_lowercase(), format!("key = [\"{}\"]", key.to_lowercase()), "{draft}");
        assert_eq!(draft.contains(not_told), !is_told, "{draft}");
    }
}
