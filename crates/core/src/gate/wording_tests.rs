//! The words of every finding at a cell, as a steward reads them.

use super::*;
use crate::block::Block;
use crate::mode::Mode;
use crate::schema::{NoLists, RecordSchema};
use crate::table::Table;
use crate::value::Date;

const SCHEMA: &str = r#"
format = 1
record = "tree"
key = ["tag"]
[[field]]
name = "tag"
kind = "text"
pattern = "HT-[0-9]{3}"
pattern_says = "HT- and three digits"
case = "upper"
length = { max = 12 }
[[field]]
name = "code"
kind = "text"
required = true
pattern = "[a-z]{2}"
example = "ab"
[[field]]
name = "bare"
kind = "text"
pattern = "[0-9]+"
length = { min = 2, max = 4, unit = "byte" }
[[field]]
name = "stems"
kind = "integer"
range = { min = 1, max = 12000 }
[[field]]
name = "girth"
kind = "decimal"
digits = { before = 4, after = 1 }
range = { max = 1500.5 }
[[field]]
name = "height"
kind = "decimal"
digits = { after = 0 }
range = { min = -0.5 }
[[field]]
name = "protected"
kind = "boolean"
[[field]]
name = "planted"
kind = "date"
range = { min = 1850-01-01, max = "today" }
[[field]]
name = "seen"
kind = "date"
dates = ["dd/MM/yyyy", "MM/dd/yyyy", "d MMM yy"]
[[field]]
name = "condition"
kind = "picklist"
picklist = "condition"
[[field]]
name = "species"
kind = "picklist"
picklist = "species"
[[field]]
name = "mail"
kind = "email"
sensitive = true
length = { min = 12 }

[picklist.condition]
values = [{ code = "E", label = "Excellent" }, { code = "G", label = "Good" }, { code = "X", label = "Old", retired = true }]
[picklist.species]
open = true
exact = true
values = [{ code = "a1" }, { code = "b1" }, { code = "c1" }, { code = "d1" }, { code = "e1" }, { code = "f1" }, { code = "g1" }]
"#;

#[test]
fn every_message_says_what_was_found_and_what_was_expected() {
    let schema = RecordSchema::read(SCHEMA, &mut NoLists).unwrap();
    let headings: Vec<_> = schema.fields.iter().map(|field| field.name.clone()).collect();
    let settings = Settings::plain(Mode::Add, Date::new(2026, 11, 25).unwrap());
    let table = Table::with_headings(headings);
    let gate = Gate::new(schema, settings, table);
    let rows = "\
ht-001,AB,1,4.0,14200,12.5,perhaps,31/12/2019,03/04/2019,Excelent,a2,j.marsh\n\
HT-1,abc,12345,0,12.25,-1,maybe,2021-06-31,31 Feb 20,Old,B1,j@b@c\n\
HT-1234567890,,x,twelve,1e3,0.50,?,1799-01-01,3 May 19,bad,g1,a@b.co\n\
,ab,ab,12001,-1,high,y,2021-12-31T10:30,25/13/2020,x,zz,jürgen@b.example\n\
HT-001,ab,01,1,1,1,n,2021-13-01,2019-01-01,E,a1,.a@harrowmere.example\n";
    let state = RunState::default();
    let judged = Judge::new(&gate, &state, true).judge(&Block::of(rows.as_bytes(), 2));
    let told: Vec<_> = judged
        .findings
        .iter()
        .map(|finding| {
            let or_dash = |text: &Option<String>| text.clone().unwrap_or_else(|| "-".to_owned());
            format!(
                "{}{} {} {} | {} | {} | {}",
                finding.letter.as_deref().unwrap_or_default(),
                finding.row.unwrap_or_default(),
                finding.code,
                or_dash(&finding.value),
                finding.sentence(),
                or_dash(&finding.expected),
                or_dash(&finding.suggestion)
            )
        })
        .collect();
    insta::assert_snapshot!(told.join("\n"), @"
    A2 case-wrong ht-001 | in the wrong case, expected upper case | upper case | HT-001
    B2 case-wrong AB | in the wrong case, expected a value of the form of ab | a value of the form of ab | ab
    C2 text-too-short 1 | shorter than permitted: 1 byte, expected 2 to 4 bytes | 2 to 4 bytes | -
    D2 integer-bad 4.0 | not a whole number | a whole number | 4
    E2 digits-too-many 14200 | more digits than the field holds: 5 before the point, expected at most 4 digits before and 1 after the point | at most 4 digits before and 1 after the point | -
    E2 out-of-range 14200 | outside the permitted range, expected 1,500.5 or less | 1,500.5 or less | -
    F2 digits-too-many 12.5 | more digits than the field holds: 1 after the point, expected at most 0 digits after the point | at most 0 digits after the point | -
    G2 boolean-bad perhaps | neither yes nor no, expected yes or no | yes or no | -
    I2 date-unclear 03/04/2019 | day and month could be either way round: 2019-04-03 or 2019-03-04, expected a date as dd/MM/yyyy or MM/dd/yyyy or d MMM yy or yyyy-MM-dd | a date as dd/MM/yyyy or MM/dd/yyyy or d MMM yy or yyyy-MM-dd | -
    J2 off-list Excelent | not a value of the picklist, expected one of Excellent (E), Good (G) | one of Excellent (E), Good (G) | Excellent
    K2 off-list a2 | not a value of the picklist, expected one of 7 values of the picklist species | one of 7 values of the picklist species | -
    L2 email-bad *** | not an e-mail address: there is no @, expected one address such as name@example.org | one address such as name@example.org | -
    A3 pattern-broken HT-1 | not of the expected form, expected HT- and three digits | HT- and three digits | -
    B3 pattern-broken abc | not of the expected form, expected a value of the form of ab | a value of the form of ab | -
    C3 text-too-long 12345 | longer than the field: 5 bytes, expected 2 to 4 bytes | 2 to 4 bytes | -
    D3 out-of-range 0 | outside the permitted range, expected between 1 and 12,000 | between 1 and 12,000 | -
    E3 digits-too-many 12.25 | more digits than the field holds: 2 after the point, expected at most 4 digits before and 1 after the point | at most 4 digits before and 1 after the point | -
    F3 out-of-range -1 | outside the permitted range, expected -0.5 or more | -0.5 or more | -
    G3 boolean-bad maybe | neither yes nor no, expected yes or no | yes or no | -
    H3 date-impossible 2021-06-31 | a day that does not exist, expected a day that exists, as yyyy-MM-dd | a day that exists, as yyyy-MM-dd | -
    I3 date-impossible 31 Feb 20 | a day that does not exist, expected a day that exists, as dd/MM/yyyy or MM/dd/yyyy or d MMM yy or yyyy-MM-dd | a day that exists, as dd/MM/yyyy or MM/dd/yyyy or d MMM yy or yyyy-MM-dd | -
    J3 off-list-retired Old | a retired value of the picklist, expected one of Excellent (E), Good (G) | one of Excellent (E), Good (G) | -
    K3 off-list B1 | not a value of the picklist, expected one of 7 values of the picklist species | one of 7 values of the picklist species | b1
    L3 email-bad *** | not an e-mail address: there is more than one @, expected one address such as name@example.org | one address such as name@example.org | -
    A4 pattern-broken HT-1234567890 | not of the expected form, expected HT- and three digits | HT- and three digits | -
    A4 text-too-long HT-1234567890 | longer than the field: 13 characters, expected at most 12 characters | at most 12 characters | -
    B4 required-blank  | a required value is missing, expected a value, such as ab | a value, such as ab | -
    C4 pattern-broken x | not of the expected form, expected 1 or more digits | 1 or more digits | -
    C4 text-too-short x | shorter than permitted: 1 byte, expected 2 to 4 bytes | 2 to 4 bytes | -
    D4 integer-bad twelve | not a whole number | a whole number | -
    E4 decimal-bad 1e3 | not a number, expected a number such as 12.5 | a number such as 12.5 | -
    F4 digits-too-many 0.50 | more digits than the field holds: 1 after the point, expected at most 0 digits after the point | at most 0 digits after the point | -
    G4 boolean-bad ? | neither yes nor no, expected yes or no | yes or no | -
    H4 out-of-range 1799-01-01 | outside the permitted range, expected between 1850-01-01 and 2026-11-25 | between 1850-01-01 and 2026-11-25 | -
    I4 date-two-digit-year 3 May 19 | a year of two digits, expected a year of four digits | a year of four digits | -
    J4 off-list bad | not a value of the picklist, expected one of Excellent (E), Good (G) | one of Excellent (E), Good (G) | -
    L4 text-too-short *** | shorter than permitted: 6 characters, expected at least 12 characters | at least 12 characters | -
    A5 key-blank  | the key, or a part of it, is missing, expected a value | a value | -
    C5 pattern-broken ab | not of the expected form, expected 1 or more digits | 1 or more digits | -
    D5 out-of-range 12001 | outside the permitted range, expected between 1 and 12,000 | between 1 and 12,000 | -
    F5 decimal-bad high | not a number, expected a number such as 12.5 | a number such as 12.5 | -
    H5 date-bad 2021-12-31T10:30 | not a date in any permitted form: it carries a time of day, expected a date as yyyy-MM-dd | a date as yyyy-MM-dd | -
    I5 date-impossible 25/13/2020 | a day that does not exist, expected a day that exists, as dd/MM/yyyy or MM/dd/yyyy or d MMM yy or yyyy-MM-dd | a day that exists, as dd/MM/yyyy or MM/dd/yyyy or d MMM yy or yyyy-MM-dd | -
    J5 off-list-retired x | a retired value of the picklist, expected one of Excellent (E), Good (G) | one of Excellent (E), Good (G) | -
    K5 off-list zz | not a value of the picklist, expected one of 7 values of the picklist species | one of 7 values of the picklist species | -
    L5 email-bad *** | not an e-mail address: the part before the @ holds letters beyond a-z, expected one address such as name@example.org | one address such as name@example.org | -
    H6 date-bad 2021-13-01 | not a date in any permitted form: with day and month the other way round it would be 2021-01-13, expected a date as yyyy-MM-dd | a date as yyyy-MM-dd | -
    L6 email-bad *** | not an e-mail address: the part before the @ is not well formed, expected one address such as name@example.org | one address such as name@example.org | -
    ");
}
