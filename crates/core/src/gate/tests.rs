//! The fast ways against the plain judges: the same cells, the same codes.

use super::compiled::Column;
use super::kinds::Program;
use super::seen::Seen;
use super::verdict::Given;
use super::writing::{self, Cell};
use super::*;
use crate::block::Block;
use crate::catalogue::{Code, Tag};
use crate::finding::Finding;
use crate::mode::Mode;
use crate::plan::Reading;
use crate::rows::text_of;
use crate::schema::{NoLists, RecordSchema, References};
use crate::table::{Medium, Table};
use crate::value::{Date, DatePattern, FoldedWords, Group, Marks};
use proptest::prelude::*;
use proptest::test_runner::{TestCaseError, TestCaseResult};

const SCHEMA: &str = r#"
format = 1
record = "tree"

[[field]]
name = "short"
kind = "text"
length = { max = 6 }
[[field]]
name = "tag"
kind = "text"
pattern = "HT-[0-9]{3}"
case = "upper"
[[field]]
name = "word"
kind = "text"
length = { min = 2, max = 8, unit = "byte" }
case = "lower"
[[field]]
name = "free_form"
kind = "text"
pattern = "[a-z]+( [a-z]+)*"
[[field]]
name = "stems"
kind = "integer"
range = { min = -5, max = 1500 }
[[field]]
name = "count"
kind = "integer"
required = true
[[field]]
name = "girth"
kind = "decimal"
digits = { before = 3, after = 2 }
range = { min = -1.5, max = 250.25 }
[[field]]
name = "rate"
kind = "decimal"
range = { min = 0.1 }
[[field]]
name = "protected"
kind = "boolean"
[[field]]
name = "planted"
kind = "date"
range = { min = "1850-01-01", max = "today" }
[[field]]
name = "seen"
kind = "date"
dates = ["dd/MM/yyyy", "d MMM yy"]
[[field]]
name = "condition"
kind = "picklist"
picklist = "condition"
[[field]]
name = "mail"
kind = "email"
length = { max = 24 }
[[field]]
name = "hazards"
kind = "picklist"
picklist = "condition"
many = { separator = ";", max = 2 }
[[field]]
name = "site"
kind = "reference"
to = "site"
[[field]]
name = "sites"
kind = "reference"
to = "site"
many = { separator = "/" }
[[field]]
name = "at"
kind = "time"
range = { min = "06:00", max = "21:59:59" }
[[field]]
name = "moment"
kind = "datetime"
range = { max = "2024-02-29T12:00:00Z" }
[[field]]
name = "id"
kind = "uuid"
[[field]]
name = "felled"
kind = "date"
dates = ["d MMM yyyy"]
range = { min = "1850-01-01" }
[[field]]
name = "due"
kind = "date"
dates = ["dd-MMM-yyyy", "yyyy-MM-dd"]
[[field]]
name = "page"
kind = "url"
length = { max = 40 }
[[field]]
name = "call"
kind = "phone"
region = "GB"
[[field]]
name = "fax"
kind = "phone"

[picklist.condition]
values = [
  { code = "E", label = "Excellent", also = ["very, very good"] },
  { code = "G", label = "Good enough for now" },
  { code = "X", label = "Not assessed", retired = true },
]
"#;

/// The columns.
const WIDTH: usize = 24;

/// What a file states of its cells, or a sheet knows of them.
#[derive(Debug, Clone, Copy)]
enum World {
    Bare,
    /// A plan with words for blank and for emptying, and with a comma before decimals.
    Planned,
    /// A sheet, whose cells carry marks.
    Sheet,
}

const WORLDS: [World; 3] = [World::Bare, World::Planned, World::Sheet];

fn gate(world: World) -> Gate {
    let schema = RecordSchema::read(SCHEMA, &mut NoLists).unwrap();
    let headings = schema.fields.iter().map(|field| field.name.clone()).collect();
    let mut settings = Settings::plain(Mode::Add, Date::new(2026, 11, 25).unwrap());
    let keys = ["E", "HT-123", "W07", "é"].map(|key| (key.to_owned(), vec!["mill".to_owned()]));
    settings.references.insert("site".to_owned(), References::new("sites".to_owned(), keys));
    let mut table = Table::with_headings(headings);
    match world {
        World::Bare => {}
        World::Planned => {
            settings.plan.reading = Reading {
                blank: FoldedWords::new(["n/a", "-", "TBC", "99999", "ab  cd"]),
                clear: Some("xxxx".to_owned()),
                marks: Some(Marks { decimal: ',', group: Group::Mark('.') }),
                ..Reading::default()
            };
        }
        World::Sheet => {
            table.medium = Medium::Sheet("S".to_owned());
            table.dialect.marks = true;
        }
    }
    Gate::new(schema, settings, table)
}

/// In each column how many cells ready rows write otherwise, by the plain judges alone.
fn plainly_unlike(gate: &Gate, rows: &[Vec<String>]) -> Vec<u64> {
    let is_unlike = |column: &Column, raw: &[u8]| match column.see(raw, gate.table.dialect) {
        Seen::Value(text) => {
            let cell = Cell::of(&text, raw, gate.table.dialect);
            let verdict = writing::judge(&column.program, &gate.schema.picklists, cell);
            let given = Given::of(text.trim(), raw, gate.table.dialect);
            !verdict.codes().any(|code| code.is(Tag::NoValue)) && gate.is_unlike(column, &text, given)
        }
        Seen::Blank { is_word } => is_word,
        _ => false,
    };
    let of = |(number, column): (usize, &Column)| {
        rows.iter().filter(|row| is_unlike(column, row[number].as_bytes())).count() as u64
    };
    gate.columns.iter().enumerate().map(of).collect()
}

/// The codes of each cell by the plain judges alone, column by column.
fn plainly(gate: &Gate, rows: &[Vec<String>]) -> Vec<(u64, usize, Code)> {
    let mut found = Vec::new();
    for (number, row) in (2..).zip(rows) {
        for (column, raw) in row.iter().enumerate() {
            let (rules, dialect) = (&gate.columns[column], gate.table.dialect);
            let mut tell = |code| found.push((number, column + 1, code));
            let seen = rules.see(raw.as_bytes(), dialect);
            match &seen {
                Seen::Broken => tell(Code::EncodingDoubt),
                Seen::Stale => tell(Code::FormulaStale),
                Seen::Clear(_) if !rules.may_clear => tell(Code::ClearNotAllowed),
                Seen::Blank { .. } | Seen::Clear(_) => {}
                Seen::Value(text) => {
                    let cell = Cell::of(text, raw.as_bytes(), dialect);
                    let verdict = writing::judge(&rules.program, &gate.schema.picklists, cell);
                    verdict.codes().for_each(tell);
                }
            }
            if matches!(seen, Seen::Blank { .. } | Seen::Stale) {
                found.extend(rules.blank.map(|blank| (number, column + 1, blank.0)));
            }
        }
    }
    found.sort_unstable();
    found
}

fn same(world: World, rows: &[Vec<String>]) -> TestCaseResult {
    let gate = gate(world);
    let text: String = rows.iter().map(|row| row.join(",") + "\r\n").collect();
    let state = RunState::default();
    let mut judge = Judge::new(&gate, &state, true);
    let judged = judge.judge(&Block::of(text.as_bytes(), 2));
    // Stray quotes and blank rows are told beside; they are no matter of the kinds.
    let beside = [Code::QuoteStray, Code::RowWidth];
    let found: Vec<_> = judged
        .findings
        .iter()
        .filter(|finding| !beside.contains(&finding.code))
        .map(Finding::order)
        .collect();
    let rows: Vec<_> = rows
        .iter()
        .map(|row| {
            let blank =
                row.iter().all(|raw| text_of(raw.as_bytes(), gate.table.dialect).unwrap().trim().is_empty());
            if blank { Vec::new() } else { row.clone() }
        })
        .collect();
    prop_assert_eq!(found, plainly(&gate, &rows), "{:?}: {}", world, text);
    let rows: Vec<_> = rows.into_iter().filter(|row| !row.is_empty()).collect();
    let unlike: Vec<_> = judge.finish().rewriting.iter().map(|found| found.unlike).collect();
    prop_assert_eq!(unlike, plainly_unlike(&gate, &rows), "{:?}: {}", world, text);
    Ok(())
}

/// Cells near the borders of what each column permits, as they are and in quotes.
fn cell() -> impl Strategy<Value = String> {
    let plain = prop_oneof![
        4 => prop::sample::select(vec![
            "", " ", "E", "x", "Excellent", "excellent", "Not assessed", "Good enough for now", "HT-123", "ht-123", "HT-1234",
            "1500", "1501", "-5", "-6", "+7", "007", "250.25", "250.26", "250.250", "1 234", "1\u{A0}234.5", "12\u{2019}345", "-1 500", "12 34", "0 123", "1 234 5",
            "-1.5", "-1.51", ".5", "5.", "0.1", "0.09",
            "-0", "1e3", "12345678", "123456789", "1234567890123456", "12345678901234567", "2024-02-29", "2023-02-29",
            "1849-12-31", "2026-11-25", "2026-11-26", "2024-2-9", "2024-02-29T00:00:00", "29/02/2024", "02/29/2024", "3 May 26",
            "yes", "NO", "tRuE", "1", "a@b.co", "a.b+c@x-y.example", "a@b.c", "a..b@c.example", "a@b-.example", "é", "naïve", "ß",
            "test", "TBC", "xxxx", "n/a", "?", "---", "=1+1", "@a", "+a", "-A1", "- b", "#N/A", "#REF!", "Err:502", "###",
            "1.23E+15", "1E+05", "1234567890123450", "1234567890123456", "99999", "-99999", "99998", "999999999999", "1900-01-01",
            "9999-12-31", "44197", "31/12/9999", "ab\u{200B}c", "m\u{430}ple", "caf\u{C3}\u{A9}", "a\tb", "a\u{7}", "a ", "Oak  b",
            "E;G", "E; G", "E;  G", "E;E", "G;e", "E;", ";E", "E;X", "E;G;G", "W07/E", "W07 / HT-123", "E/E", "mill", "09:30", "9:30",
            "05:59", "21:59:59", "22:00", "09:30:60", "24:00", "2024-02-29T11:00", "2024-02-29 11:00:00Z", "2024-02-29T13:00",
            "2024-02-30T11:00", "2024-02-29T11:00+01:00", "2024-02-29T1100", "123e4567-e89b-12d3-a456-42661417400A",
            "123e4567-e89b-12d3-a456-42661417400g", "1 May 2024", "01 May 2024", "31 Jun 2024", "29 feb 2023", "9 Sept 2020", "1 Jan 1900", "31 Dec 9999", "5 Mai 2020",
            "01-May-2024", "1-May-2024", "31-Feb-2024", "1 May 24", "https://a.example/b?c#d", "http://a.b", "https://a.b:80/",
            "https://-a.example", "https://a..example", "https://1.2.3.4/x", "https://a.example/%zz", "https://a.example/b c",
            "https://trees.harrowmere.example/abcdefgh", "https://trees.harrowmere.example/abcdefg", "HTTPS://a.example",
            "020 7946 0018", "020-7946 0018", "(020) 7946  0018", "02079460018", "+442079460018", "+44 20 7946 0018", "+44 (0)20 7946 0018",
            "+44 020 7946 0018", "0044 20 7946 0018", "020 7946 001", "07911 123456", "7911 123456", "+1", "+12345678", "+1234567890123456",
            "\u{A0}", "\u{A0}x", "\u{3000}", "ab cd", "ab  cd", "abcdefgh", "abcdefghi",
        ]).prop_map(str::to_owned),
        1 => "[a-zA-Z0-9@. /-]{0,12}",
        1 => "[0-9]{1,9}(\\.[0-9]{0,4})?",
        1 => "[0-9]{4}-[0-9]{2}-[0-9]{2}",
        1 => "(\\+|\\+44|0|020|07)[0-9 ().-]{4,14}",
        1 => "[0-9]{1,2}[ -](Jan|Feb|Jun|Jul|jul|Sep)[ -](19|20)[0-9]{1,2}",
    ];
    let written = (plain, 0..14_u8).prop_map(|(text, form)| match form {
        // What a sheet knows of a cell; elsewhere a control character.
        9 => format!("\u{2}{text}"),
        10 => format!("\u{4}{text}"),
        11 => "\u{3}".to_owned(),
        12 => format!("\"\u{2}{text}\""),
        0 => format!("\"{text}\""),
        1 => format!("\" {text}\""),
        2 if !text.is_empty() => format!("\"{text}\"\"\""),
        3 => format!(" {text}"),
        4 => format!("\"\"\"{text}\"\"\""),
        _ => text,
    });
    // Numbers as a comma and points part them.
    prop_oneof![12 => written, 1 => "\"-?[0-9]{1,3}(\\.[0-9]{3}){0,2}(,[0-9]{0,3})?\""]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 250, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn fast_ways_and_plain_judges_agree(
        // Cells are known sixteen at a time.
        rows in prop::collection::vec(prop::collection::vec(cell(), WIDTH), 1..50),
        world in prop::sample::select(WORLDS.to_vec()),
    ) {
        same(world, &rows)?;
    }
}

#[test]
fn bounds_are_exact_on_both_sides_of_zero() -> Result<(), TestCaseError> {
    let column = |cells: &[&str]| -> Vec<Vec<String>> {
        cells.iter().map(|cell| vec![(*cell).to_owned(); WIDTH]).collect()
    };
    let cells = ["-1.50", "-1.5", "-1.49", "-1", "0", "-0.0", "250.2", "250.25", "250.3", "999.99", "1000"];
    let commas = cells.map(|cell| format!("\"{}\"", cell.replace('.', ",")));
    same(World::Bare, &column(&cells))?;
    same(World::Sheet, &column(&cells))?;
    same(World::Planned, &column(&commas.each_ref().map(String::as_str)))
}

#[test]
fn every_program_survives_bytes_that_are_no_text() {
    let gate = gate(World::Bare);
    let row = vec![&b"\xFF\xFE"[..]; WIDTH].join(&b","[..]);
    let state = RunState::default();
    let judged = Judge::new(&gate, &state, true).judge(&Block::of(&row, 2));
    assert!(judged.findings.iter().all(|finding| finding.code == Code::EncodingDoubt));
    assert_eq!(judged.findings.len(), WIDTH);
}

/// Dates as people write them, in columns with no form stated, day first, month first, and by name: the day in
/// ISO, or b(ad), i(mpossible), u(nclear), each with `*` for a year of two digits.
const SPELLINGS: [(&str, [&str; 4]); 44] = [
    ("2024-05-06", ["2024-05-06", "2024-05-06", "2024-05-06", "2024-05-06"]),
    ("2024-5-6", ["2024-05-06", "2024-05-06", "2024-05-06", "2024-05-06"]),
    ("2024-02-29", ["2024-02-29", "2024-02-29", "2024-02-29", "2024-02-29"]),
    ("2023-02-29", ["i", "i", "i", "i"]),
    ("1900-02-29", ["i", "i", "i", "i"]),
    ("2000-02-29", ["2000-02-29", "2000-02-29", "2000-02-29", "2000-02-29"]),
    ("2024-04-31", ["i", "i", "i", "i"]),
    ("2024-13-01", ["b", "b", "b", "b"]),
    ("2024-00-00", ["i", "i", "i", "i"]),
    ("0000-00-00", ["i", "i", "i", "i"]),
    ("9999-12-31", ["9999-12-31", "9999-12-31", "9999-12-31", "9999-12-31"]),
    ("24-05-06", ["b", "b", "b", "b"]),
    ("2024/05/06", ["b", "b", "b", "b"]),
    ("2024.05.06", ["b", "b", "b", "b"]),
    ("20240506", ["b", "b", "b", "b"]),
    ("2024-05", ["b", "b", "b", "b"]),
    ("2024", ["b", "b", "b", "b"]),
    ("2024-05-06T00:00:00", ["2024-05-06", "2024-05-06", "2024-05-06", "2024-05-06"]),
    ("2024-05-06 00:00", ["2024-05-06", "2024-05-06", "2024-05-06", "2024-05-06"]),
    ("2024-05-06T00:00:00.000Z", ["2024-05-06", "2024-05-06", "2024-05-06", "2024-05-06"]),
    ("2024-05-06T09:30", ["b", "b", "b", "b"]),
    ("2024-05-06T00:00:00+02:00", ["b", "b", "b", "b"]),
    ("06/05/2024", ["b", "2024-05-06", "2024-06-05", "b"]),
    ("6/5/2024", ["b", "2024-05-06", "2024-06-05", "b"]),
    ("31/12/2024", ["b", "2024-12-31", "b", "b"]),
    ("12/31/2024", ["b", "b", "2024-12-31", "b"]),
    ("31/06/2024", ["b", "i", "i", "b"]),
    ("31/12/2024 00:00:00", ["b", "2024-12-31", "b", "b"]),
    ("31/12/24", ["b", "b", "b", "b"]),
    ("31.12.2024", ["b", "b", "b", "b"]),
    ("31-12-2024", ["b", "b", "b", "b"]),
    ("31 12 2024", ["b", "b", "b", "b"]),
    ("6 May 2024", ["b", "b", "b", "2024-05-06"]),
    ("06 may 2024", ["b", "b", "b", "2024-05-06"]),
    ("6 Sept. 2024", ["b", "b", "b", "2024-09-06"]),
    ("6 September 2024", ["b", "b", "b", "2024-09-06"]),
    ("31 June 2024", ["b", "b", "b", "i"]),
    ("6 Mai 2024", ["b", "b", "b", "b"]),
    ("May 6, 2024", ["b", "b", "b", "b"]),
    ("6th May 2024", ["b", "b", "b", "b"]),
    ("6 May 24", ["b", "b", "b", "2024-05-06*"]),
    ("45418", ["b", "b", "b", "b"]),
    ("today", ["b", "b", "b", "b"]),
    ("-", ["b", "b", "b", "b"]),
];

#[test]
fn dates_are_read_as_stated_and_never_guessed() {
    use crate::gate::kinds::DateVerdict;
    let columns =
        [vec!["yyyy-MM-dd"], vec!["dd/MM/yyyy"], vec!["MM/dd/yyyy"], vec!["d MMM yyyy", "d MMM yy"]];
    for (number, stated) in columns.iter().enumerate() {
        let stated: Vec<_> = stated.iter().map(|pattern| DatePattern::new(pattern).unwrap()).collect();
        let source = "format = 1\nrecord = \"t\"\n[[field]]\nname = \"d\"\nkind = \"date\"\n";
        let schema = RecordSchema::read(source, &mut NoLists).unwrap();
        let program = Program::of(
            &schema.fields[0],
            &schema,
            &Settings {
                dates: stated.clone(),
                ..Settings::plain(Mode::Add, Date::new(2026, 11, 25).unwrap())
            },
            &Reading::default(),
        );
        let Program::Date(dates) = &program else { panic!("a date is a date") };
        for (text, wanted) in SPELLINGS {
            let found = match dates.read_cell(text.into()) {
                DateVerdict::Day { date, two_digit_year } => {
                    format!("{date}{}", if two_digit_year { "*" } else { "" })
                }
                DateVerdict::Impossible => "i".to_owned(),
                DateVerdict::Unclear(..) => "u".to_owned(),
                DateVerdict::Bad { .. } | DateVerdict::OtherWeekday(..) => "b".to_owned(),
            };
            assert_eq!(found, wanted[number], "{text} in column {number}");
            // What is read is written in the target's form, and read again as the same day.
            if let Some(written) = program.standard(text, &[]) {
                assert_eq!(Date::iso(&written).map(|date| date.to_string()).as_deref(), Some(&found[..10]));
            }
        }
    }
}
