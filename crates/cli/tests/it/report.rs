//! The report: as text at every width, and as JSON by its schema.

use crate::tool::{Folder, demo, project};
use serde_json::Value;

fn ward(name: &str) -> Folder {
    let folder = Folder::new();
    folder.write("table.csv", std::fs::read(demo().join(name)).unwrap());
    folder.write("species.csv", std::fs::read(demo().join("species.csv")).unwrap());
    folder.write("r.record.toml", std::fs::read(demo().join("tree.record.toml")).unwrap());
    folder
}

fn text(folder: &Folder, width: usize) -> String {
    let words = "check table.csv --record r.record.toml --today 2026-11-25";
    let output = folder.command(words).env("COLUMNS", width.to_string()).output().unwrap();
    crate::tool::ran(output).out
}

#[test]
fn a_sound_file_is_told_in_a_few_lines() {
    insta::assert_snapshot!(text(&ward("ward-3-survey.csv"), 80), @r"

     GATE OPEN   The ready rows may be loaded: all 148 rows are ready.

      File      table.csv  19.4 KB, CSV in UTF-8, commas, headings in row 1
      Record    Street tree (tree 2026.1)  mode add, today 2026-11-25
      Rows      148 rows: 148 ready, 0 held
      Findings  none

    Columns  all 14 have a field
      A Tag number → tag_no · B Site → site_code · C Position → position_no ·
      D Species · E Planted on · F Girth (cm) · G Height (m) · H Stems ·
      I Cond. → condition · J Inspected on · K Inspector → inspector_email ·
      L Protected · M Removal due · N Notes

    Next
      Load the ready rows, not the file; 14 headings and 239 values are not as the
      target writes them. To have them written:
        tidy-gate check table.csv --record r.record.toml --today 2026-11-25 \
          --ready ready.csv
    ");
}

#[test]
fn a_faulty_file_is_told_by_code_and_field() {
    insta::assert_snapshot!(text(&ward("ward-7-survey.csv"), 100), @r#"

      GATE SHUT   The file may not be loaded: 88 of 398 rows are held.

       File      table.csv  52.4 KB, CSV in UTF-8, commas, headings in row 4
       Record    Street tree (tree 2026.1)  mode add, today 2026-11-25
       Rows      398 rows: 308 ready, 88 held, 2 left out
       Findings  115 stops, 7 warnings, 9 notes
       Layout    headings: row 4; 14 of its 15 cells name a field of the record; 2 rows above it are
                 passed over
                 Planted on: read with day before month; 51 cells fit only that
                 Girth (cm): read with a point before the decimals; 334 cells fit only that; 1 cell
                 could be a thousand too
                 left out: row 5 holds units; no key, and every filled cell is a unit or a word in
                 brackets
                 left out: row 404 is a total; its numbers sum their columns

     Causes  6, which explain 81 of 131 findings

       rows-pasted-twice                                                        48 findings in 24 rows
             Rows 368 to 379 repeat rows 348 to 359.
             Rows   Delete the rows of the second block.
                      rows 368 to 379

       unit-in-cells  girth_cm                                                  20 findings in 20 rows
             20 cells of Girth (cm) hold a number with "cm" behind it, such as "18.4 cm" in F268.
             Sender Please give the numbers of Girth (cm) without "cm". (If that is the unit of the
                    field, say unit = "cm" in the record schema; then `mend` takes it away.)

       letter-case  tag_no                                                        4 findings in 4 rows
             4 cells of Tag number are in the wrong case and fit otherwise, such as "ht-0004214" in A20.
             Mend   Let `mend` write them in the case that the schema asks for.

       words-off-list  condition                                                  4 findings in 4 rows
             4 cells of Cond. hold 3 different words that are not on its list, each like one that is; 1
             further word is like none of it.
             "?" 2, "v. poor" → P 2, "Excelent" → E 1, "Goood" → G 1
             Plan   Look whether each word of Cond. means what is proposed, and put the lines into the
                    plan.
                      [values.condition]
                      "v. poor" = "P"
                      "Excelent" = "E"
                      "Goood" = "G"

       words-off-list  species                                                    3 findings in 3 rows
             3 cells of Species hold 3 different words that are not on its list, each like one that is.
             "FRA EXC" → FRA-EXC 1, "QUE-RUB" → QUE-ROB 1, "Silver brich" → BET-PEN 1
             Plan   Look whether each word of Species means what is proposed, and put the lines into the
                    plan.
                      [values.species]
                      "FRA EXC" = "FRA-EXC"
                      "QUE-RUB" = "QUE-ROB"
                      "Silver brich" = "BET-PEN"

       stray-characters  inspector_email, notes                                   2 findings in 2 rows
             2 cells of Inspecter, Notes hold spaces or invisible characters that nobody meant, such as
             "leans  over the path" in N69.
             Mend   Let `mend` take them out.

     Columns  14 with a field, 1 without
       A Tag number → tag_no · B Site → site_code · C Position → position_no · D Species ·
       E Planted on · F Girth (cm) · G Height (m) · H Stems · I Cond. → condition · J Inspected on ·
       K Inspecter → inspector_email · L Protected · M Removal due · N Notes
       O "Surveyor"  no field has this heading; left out

     Findings  that no cause explains, by code and field

       STOP  required-blank    Site (column B)                                                 5 times
             blank  expected a value, such as W07-MILL    rows 51, 52, 53, 230, 326
       STOP  date-as-number    Planted on (column E)                                           3 times
             "27911"  expected a date as yyyy-MM-dd or dd/MM/yyyy  nearest: 1976-05-31
             rows 156, 157, 158
       STOP  boolean-bad       Protected (column L)                                            2 times
             "TPO 12"  expected yes or no    rows 176, 177
       STOP  digits-too-many   Girth (cm) (column F)                                           2 times
             "14200"  5 before the point  expected at most 4 digits before and 1 after the point
             rows 60, 83

       and 34 findings of 28 kinds more: email-bad, integer-bad, off-list, off-list-retired,
       unique-repeated, date-bad, date-impossible, decimal-bad, key-blank, out-of-range,
       pattern-broken, row-width, rule-broken, rule-required, spreadsheet-error, text-too-long …

     Next
       Have all mended that needs no guess:
         tidy-gate mend table.csv --record r.record.toml --today 2026-11-25 -o mended.csv
       Have the words written into a plan with what they may mean, and decide each there:
         tidy-gate match table.csv --record r.record.toml --values condition,species \
           --save new.plan.toml
       How the first cause comes about and what removes it:
         tidy-gate explain rows-pasted-twice
       Take the 308 ready rows apart from the held ones, which go back with their reasons:
         tidy-gate check table.csv --record r.record.toml --today 2026-11-25 --ready ready.csv \
           --held held.csv
       Give the sender a workbook in which every faulty cell is marked:
         tidy-gate check table.csv --record r.record.toml --today 2026-11-25 --marked marked.xlsx
       All 131 findings, one a line:
         tidy-gate check table.csv --record r.record.toml --today 2026-11-25 --findings findings.csv
    "#);
}

/// A small file with a fault of the file, one of a heading and one of a value.
fn small() -> Folder {
    let folder = Folder::new();
    folder.write(
        "r.record.toml",
        "format = 1\nrecord = \"tree\"\nversion = \"7\"\nkey = [\"tag\"]\n[[field]]\nname = \"tag\"\nlabel = \"Tag number\"\nkind = \"integer\"\n\
         [[field]]\nname = \"site\"\nkind = \"reference\"\nto = \"site\"\n[[field]]\nname = \"height\"\nkind = \"decimal\"\n",
    );
    folder.write("table.csv", "TAG NUMBER,site,Hieght,height\n7,a,1,2.5\n007,b,,high\n\n8,c,,\n");
    folder
}

#[test]
fn the_report_in_json_has_these_keys() {
    insta::assert_snapshot!(serde_json::to_string_pretty(&small().report("")).unwrap(), @r#"
    {
      "format": 1,
      "tool": {
        "name": "tidy-gate",
        "version": "0.1.0"
      },
      "gate": "shut",
      "mode": "add",
      "today": "2026-11-25",
      "file": {
        "name": "table.csv",
        "bytes": 59,
        "form": "csv",
        "sheet": null,
        "encoding": "utf-8",
        "delimiter": ",",
        "heading_row": 1,
        "first_row": 2
      },
      "record": {
        "name": "tree",
        "label": "tree",
        "version": "7"
      },
      "plan": null,
      "tolerate": null,
      "later": [],
      "counts": {
        "rows": 3,
        "ready": 1,
        "held": 2,
        "left_out": 0,
        "stops": 3,
        "warns": 2,
        "notes": 1
      },
      "columns": [
        {
          "index": 1,
          "letter": "A",
          "heading": "TAG NUMBER",
          "field": "tag",
          "how": "label",
          "sure": true,
          "but_for": "case",
          "proposals": [],
          "filled": 3
        },
        {
          "index": 2,
          "letter": "B",
          "heading": "site",
          "field": "site",
          "how": "name",
          "sure": true,
          "proposals": [],
          "filled": 3
        },
        {
          "index": 3,
          "letter": "C",
          "heading": "Hieght",
          "field": null,
          "how": "likeness",
          "sure": false,
          "proposals": [
            {
              "field": "height",
              "why": "a heading like this one"
            }
          ],
          "filled": 1
        },
        {
          "index": 4,
          "letter": "D",
          "heading": "height",
          "field": "height",
          "how": "name",
          "sure": true,
          "proposals": [],
          "filled": 2
        }
      ],
      "filled": [],
      "translated": [],
      "to_rewrite": {
        "headings": 1,
        "values": 0,
        "columns": 1
      },
      "held_replaced": 0,
      "causes": [],
      "totals": [
        {
          "code": "decimal-bad",
          "level": "stop",
          "field": "height",
          "count": 1,
          "rows": 1,
          "first": {
            "row": 3,
            "column": 4,
            "letter": "D"
          }
        },
        {
          "code": "key-repeated",
          "level": "stop",
          "field": "tag",
          "count": 2,
          "rows": 2,
          "first": {
            "row": 2,
            "column": 1,
            "letter": "A"
          }
        },
        {
          "code": "heading-unpaired",
          "level": "warn",
          "field": null,
          "count": 1,
          "rows": 1,
          "first": {
            "row": 1,
            "column": 3,
            "letter": "C"
          }
        },
        {
          "code": "reference-unchecked",
          "level": "warn",
          "field": "site",
          "count": 1,
          "rows": 1,
          "first": {
            "row": 1,
            "column": 2,
            "letter": "B"
          }
        },
        {
          "code": "row-blank",
          "level": "note",
          "field": null,
          "count": 1,
          "rows": 1,
          "first": {
            "row": 4,
            "column": null,
            "letter": null
          }
        }
      ],
      "findings": [
        {
          "code": "reference-unchecked",
          "level": "warn",
          "row": 1,
          "line": 1,
          "column": 2,
          "letter": "B",
          "heading": "site",
          "field": "site",
          "message": "the keys of site were not given, so its references were not looked up"
        },
        {
          "code": "heading-unpaired",
          "level": "warn",
          "row": 1,
          "line": 1,
          "column": 3,
          "letter": "C",
          "heading": "Hieght",
          "field": null,
          "message": "no field has this heading; the column is left out",
          "suggestion": "height, which has column D"
        },
        {
          "code": "key-repeated",
          "level": "stop",
          "row": 2,
          "line": 2,
          "column": 1,
          "letter": "A",
          "heading": "TAG NUMBER",
          "field": "tag",
          "value": "7",
          "message": "this key stands in 2 rows; the rows differ elsewhere",
          "key": "7",
          "places": [
            2,
            3
          ]
        },
        {
          "code": "key-repeated",
          "level": "stop",
          "row": 3,
          "line": 3,
          "column": 1,
          "letter": "A",
          "heading": "TAG NUMBER",
          "field": "tag",
          "value": "007",
          "message": "this key stands in 2 rows; the rows differ elsewhere",
          "key": "007",
          "places": [
            2,
            3
          ]
        },
        {
          "code": "decimal-bad",
          "level": "stop",
          "row": 3,
          "line": 3,
          "column": 4,
          "letter": "D",
          "heading": "height",
          "field": "height",
          "value": "high",
          "expected": "a number such as 12.5",
          "message": "not a number, expected a number such as 12.5",
          "key": "007"
        },
        {
          "code": "row-blank",
          "level": "note",
          "row": 4,
          "field": null,
          "message": "the row holds no value"
        }
      ],
      "findings_left_out": 0,
      "unjudged": []
    }
    "#);
}

#[test]
fn a_wide_terminal_gets_one_line_where_it_can() {
    insta::assert_snapshot!(text(&small(), 160), @r#"

     GATE SHUT   The file may not be loaded: 2 of 3 rows are held.

      File      table.csv  59 bytes, CSV in UTF-8, commas, headings in row 1
      Record    tree (tree 7)  mode add, today 2026-11-25
      Rows      3 rows: 1 ready, 2 held
      Findings  3 stops, 2 warnings, 1 note

    Columns  3 with a field, 1 without
      A TAG NUMBER → tag · B site · D height
      C "Hieght"  no field; perhaps height; left out

    Findings  by code and field, what holds rows first

      STOP  key-repeated         TAG NUMBER (column A)                                                  2 times
            "7"  this key stands in 2 rows; the rows differ elsewhere    rows 2, 3

      STOP  decimal-bad          height (column D)                                                         once
            "high"  expected a number such as 12.5    row 3

      WARN  heading-unpaired     column C                                                                  once
            "Hieght": no field has this heading; the column is left out; perhaps height, which has column D
            column C

      WARN  reference-unchecked  site (column B)                                                           once
            the keys of site were not given, so its references were not looked up
            column B

      NOTE  row-blank                                                                                      once
            the row holds no value
            row 4

    Next
      What the most frequent stop means and how to put it right:
        tidy-gate explain key-repeated
      Take the 1 ready row apart from the held ones, which go back with their reasons:
        tidy-gate check table.csv --record r.record.toml --today 2026-11-25 --ready ready.csv --held held.csv
      Give the sender a workbook in which every faulty cell is marked:
        tidy-gate check table.csv --record r.record.toml --today 2026-11-25 --marked marked.xlsx
    "#);
}

#[test]
fn the_list_of_findings_opens_in_a_spreadsheet() {
    let folder = small();
    folder.write("table.csv", folder.read("table.csv") + "=1+1,@x,,-5-\n");
    folder.report("--findings all.csv");
    insta::assert_snapshot!(folder.read("all.csv").replace("\r\n", "\n"), @r#"
    ﻿level,code,sheet,row,line,column,letter,key,heading,field,value,expected,suggestion,message,rule,fields,places
    warn,reference-unchecked,,1,1,2,B,,site,site,,,,"the keys of site were not given, so its references were not looked up",,,
    warn,heading-unpaired,,1,1,3,C,,Hieght,,,,"height, which has column D",no field has this heading; the column is left out,,,
    stop,key-repeated,,2,2,1,A,7,TAG NUMBER,tag,7,,,this key stands in 2 rows; the rows differ elsewhere,,,2; 3
    stop,key-repeated,,3,3,1,A,007,TAG NUMBER,tag,007,,,this key stands in 2 rows; the rows differ elsewhere,,,2; 3
    stop,decimal-bad,,3,3,4,D,007,height,height,high,a number such as 12.5,,"not a number, expected a number such as 12.5",,,
    note,row-blank,,4,,,,,,,,,,the row holds no value,,,
    stop,integer-bad,,6,6,1,A,'=1+1,TAG NUMBER,tag,'=1+1,a whole number,,not a whole number,,,
    stop,decimal-bad,,6,6,4,D,'=1+1,height,height,'-5-,a number such as 12.5,,"not a number, expected a number such as 12.5",,,
    "#);
}

#[test]
fn files_without_rows_and_files_that_are_stopped_whole_say_so_first() {
    let folder = small();
    let mut told = Vec::new();
    for table in ["", "Tag number,site\n", "site,height\na,1\n", "tag,site\n1,\"open\n2,x\n", "tag\nx\ny\n"] {
        folder.write("table.csv", table);
        let text = text(&folder, 80);
        told.extend(
            text.lines().filter(|line| line.contains("GATE") || line.contains("STOP")).map(str::to_owned),
        );
    }
    insta::assert_snapshot!(told.join("\n"), @"
    GATE SHUT   The file may not be loaded: it holds no rows.
     STOP  field-missing     tag                                            once
     STOP  file-empty                                                       once
    GATE SHUT   The file may not be loaded: it holds no rows.
     STOP  file-empty                                                       once
    GATE SHUT   The file may not be loaded: what is wrong with it holds its 1 row.
     STOP  field-missing        tag                                         once
    GATE SHUT   The file may not be loaded: its 1 row is held.
     STOP  quote-open           site (column B)                             once
    GATE SHUT   The file may not be loaded: every one of its 2 rows is held.
     STOP  integer-bad       tag (column A)                              2 times
    ");
}

#[test]
fn the_report_stays_short_and_keeps_to_its_width() {
    let folder = ward("ward-7-survey.csv");
    let bad: String =
        (0..3000).map(|n| format!("x{n},?,,?,?,?,?,?,?,?,?,?,?,{}\n", "n".repeat(250))).collect();
    let head = "Tag number,Site,Position,Species,Planted on,Girth (cm),Height (m),Stems,Cond.,Inspected on,Inspector,Protected,Removal due,Notes\n";
    for table in [
        folder.read("table.csv"),
        head.to_owned() + &bad,
        head.to_owned(),
        String::new(),
        "a,\u{1b}[31mb\n\u{202e}1,\t2\n".to_owned(),
    ] {
        folder.write("table.csv", table);
        for width in [50, 80, 160] {
            let text = text(&folder, width);
            assert!(text.lines().count() <= 100, "{} lines", text.lines().count());
            let longest = text.lines().map(|line| line.chars().count()).max().unwrap_or(0);
            assert!(longest <= width.max(80), "{longest} columns at {width}\n{text}");
            assert!(!text.contains(['\u{1b}', '\u{202e}']), "hostile text is made harmless");
        }
    }
}

#[test]
fn colour_is_for_terminals_or_when_it_is_asked_for() {
    let folder = ward("ward-7-survey.csv");
    let words = "check table.csv --record r.record.toml";
    let plain = folder.command(words).env("NO_COLOR", "1").output().unwrap().stdout;
    let forced = folder.command(words).env("CLICOLOR_FORCE", "1").output().unwrap().stdout;
    assert!(!plain.contains(&0x1b) && forced.contains(&0x1b));
}

#[test]
fn the_report_in_json_keeps_to_its_schema() {
    let schema: Value =
        serde_json::from_slice(&std::fs::read(project().join("docs/schemas/report.schema.json")).unwrap())
            .unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    for name in ["ward-3-survey.csv", "ward-7-survey.csv"] {
        let report = ward(name).report("");
        let faults: Vec<_> = validator.iter_errors(&report).take(3).map(|error| error.to_string()).collect();
        assert_eq!(faults, Vec::<String>::new());
        for key in [
            "tool",
            "gate",
            "mode",
            "today",
            "file",
            "record",
            "plan",
            "counts",
            "columns",
            "causes",
            "totals",
            "findings",
            "findings_left_out",
        ] {
            assert!(report.get(key).is_some(), "{key}");
        }
    }
}

#[test]
fn the_next_step_explains_the_first_of_equally_frequent_stops() {
    let folder = Folder::new();
    folder.write(
        "r.record.toml",
        "format = 1\nrecord = \"r\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\n\
         [[field]]\nname = \"n\"\nkind = \"integer\"\n[[field]]\nname = \"d\"\nkind = \"date\"\n",
    );
    let cases = [
        ("k,n,d\na,x,y\n", "What the first stop means", "explain date-bad"),
        ("k,n,d\na,x,y\nb,z,2020-01-01\n", "What the most frequent stop means", "explain integer-bad"),
    ];
    for (table, says, command) in cases {
        let ran = folder.write("table.csv", table).run("check table.csv --record r.record.toml");
        assert!(ran.out.contains(says) && ran.out.contains(command), "{}", ran.out);
    }
}
