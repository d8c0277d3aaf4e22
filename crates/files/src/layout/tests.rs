//! Layouts by the shape of their rows.

use super::*;
use std::path::Path;
use tidy_gate_core::schema::NoLists;
use tidy_gate_core::schema::RecordSchema;

const SCHEMA: &str = "format = 1\nrecord = \"tree\"\nkey = [\"tag_no\"]\n\
    [[field]]\nname = \"tag_no\"\nlabel = \"Tag number\"\nkind = \"text\"\nexample = \"HT-1\"\n\
    [[field]]\nname = \"site\"\nlabel = \"Site\"\nkind = \"text\"\nexample = \"Mill\"\n\
    [[field]]\nname = \"girth\"\nlabel = \"Girth\"\nkind = \"decimal\"\n\
    [[field]]\nname = \"height\"\nlabel = \"Height\"\nkind = \"decimal\"\n";

fn rows(text: &str) -> Vec<FirstRow> {
    let cells = |line: &str| line.split('|').map(|cell| cell.trim().to_owned()).collect();
    (1..).zip(text.split('/')).map(|(number, line)| FirstRow { number, cells: cells(line) }).collect()
}

/// The heading row, the first row, and how many rows between are left out.
fn laid_out(text: &str, with_schema: bool) -> (Option<u64>, u64, u64) {
    let schema = RecordSchema::read(SCHEMA, &mut NoLists).unwrap();
    let rows = rows(text);
    let found =
        lay_out(Path::new("f"), &rows, 0, StatedRows::default(), with_schema.then_some(&schema)).unwrap();
    (found.heading.map(|at| rows[at].number), found.first_row, found.left_out)
}

#[test]
fn headings_are_found_by_what_they_name_then_by_shape() {
    for (text, with_schema, without) in [
        ("tag_no|site|girth/1|2|3", (Some(1), 2, 0), Some(1)),
        ("Survey of ward 7//Tag number|Site|Girth|Height/HT-9|Mill|2|3", (Some(3), 4, 0), Some(3)),
        (
            "Site: Mill|||/by|A. Example||/Tag number|Site|Girth|Height/HT-9|Mill|2|3/HT-8|Mill|2|3",
            (Some(3), 4, 0),
            Some(3),
        ),
        // The labels and the names: the first of equals, and the names are left out.
        ("Tag number|Site|Girth/tag_no|site|girth/HT-9|Mill|2", (Some(1), 3, 1), Some(1)),
        ("Tag number|Site|Girth|Height/||(cm)|m/HT-9|Mill|2|3", (Some(1), 3, 1), Some(1)),
        (
            "Tag number|Site|Girth|Height/tag_no|site|girth|height/||cm|m/HT-1|Mill|2|3/HT-9|Mill|2|3",
            (Some(1), 5, 3),
            Some(1),
        ),
        // Nothing is left out on weaker grounds.
        ("Tag number|Site|Girth|Height/HT-1|cm|2|3", (Some(1), 2, 0), Some(1)),
        ("Tag number|Site|Girth|Height/|Mill|cm|m/HT-9|Mill|2|3", (Some(1), 2, 0), Some(1)),
        ("Tag number|Site/tag_no|site/HT-9|Mill", (Some(1), 2, 0), Some(1)),
        ("Tag number|Girth/HT-1|2", (Some(1), 2, 0), Some(1)),
        ("A|B|C/1|2|3/4|5|6", (Some(1), 2, 0), Some(1)),
        ("//", (None, 1, 0), None),
    ] {
        assert_eq!(laid_out(text, true), with_schema, "{text}");
        assert_eq!(laid_out(text, false).0, without, "{text}");
    }
}

#[test]
fn what_is_stated_comes_first_and_must_fit() {
    let schema = RecordSchema::read(SCHEMA, &mut NoLists).unwrap();
    let rows = rows("Tag number|Site|Girth/tag_no|site|girth//HT-9|Mill|2");
    let try_it = |heading_row, first_row, by_position| {
        let stated = StatedRows { heading_row, first_row, by_position, ..StatedRows::default() };
        lay_out(Path::new("f.csv"), &rows, 0, stated, Some(&schema))
            .map(|found| (found.heading, found.first_row, found.left_out))
            .map_err(|error| error.to_string())
    };
    assert_eq!(try_it(Some(2), None, false), Ok((Some(1), 3, 0)));
    assert_eq!(try_it(None, Some(4), false), Ok((Some(0), 4, 0)));
    assert_eq!(try_it(None, None, true), Ok((None, 1, 0)));
    assert_eq!(try_it(None, Some(4), true), Ok((None, 4, 0)));
    assert!(try_it(Some(2), Some(2), false).unwrap_err().contains("row 2"));
    assert!(try_it(Some(3), None, false).unwrap_err().contains("row 3 holds nothing"));
    assert!(try_it(Some(9), None, false).unwrap_err().contains("no row 9"));
}
