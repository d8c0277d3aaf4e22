//! Whatever is drafted, from whatever source, can be read as a record schema.

use super::*;
use crate::block::Block;
use crate::plan::PlanText;
use crate::scan::Dialect;
use crate::schema::{NoLists, RecordSchema};
use crate::value::Date;
use proptest::prelude::*;

const SQL: &str = include_str!("../../../../demo/register.sql");
const DICTIONARY: &str = include_str!("../../../../demo/tree-dictionary.csv");
const CSVW: &str = include_str!("../../../../demo/tree.csv-metadata.json");
const JSON_SCHEMA: &str = include_str!("../../../../demo/tree.schema.json");

fn readable(draft: Result<Draft, DraftFault>) -> Result<(), TestCaseError> {
    let Ok(draft) = draft else { return Ok(()) };
    let text = draft.to_toml();
    let read = RecordSchema::read(&text, &mut NoLists);
    prop_assert!(read.is_ok(), "{:?} in\n{}", read.err(), text);
    if let (Some(plan), Ok(schema)) = (&draft.plan, RecordSchema::read(&text, &mut NoLists)) {
        let read = PlanText::read(plan).against(&schema);
        prop_assert!(read.is_ok(), "{:?} in\n{}", read.err(), plan);
    }
    Ok(())
}

/// A text with some of its pieces cut out, doubled or replaced by others of it.
fn spoilt(text: &'static str) -> impl Strategy<Value = String> {
    let pieces: Vec<&str> = text.split_inclusive([' ', ',', '(', ')', '"', '\n']).collect();
    let count = pieces.len();
    prop::collection::vec((0..count, 0..count, 0..4_u8), 0..8).prop_map(move |changes| {
        let mut pieces = pieces.clone();
        for (at, from, kind) in changes {
            let other = pieces[from];
            match kind {
                0 => pieces[at] = "",
                1 => pieces[at] = other,
                2 => pieces[at] = "'é\u{0}\\\"]} ",
                _ => pieces.swap(at, from),
            }
        }
        pieces.concat()
    })
}

fn cells(text: &str) -> Vec<Vec<String>> {
    text.lines().map(|line| line.split(',').map(str::to_owned).collect()).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn descriptions_however_spoilt(
        sql in spoilt(SQL), dictionary in spoilt(DICTIONARY), csvw in spoilt(CSVW), json in spoilt(JSON_SCHEMA)
    ) {
        readable(from_sql(&sql, Some("tree")))?;
        readable(from_csvw(&csvw, None, "trees"))?;
        readable(from_json_schema(&json, None, "tree"))?;
        let rows = cells(&dictionary);
        if let Some((headings, rows)) = rows.split_first() {
            readable(Dictionary::new(headings).draft(rows, None, "tree", &mut Lists::of("tree", &mut NoLists)))?;
        }
    }

    /// Samples of odd cells: the draft can be read, and does not depend on how the rows were shared out.
    #[test]
    fn samples_of_anything(rows in prop::collection::vec(prop::collection::vec(cell(), 4), 0..60), cut in 0_usize..60) {
        let headings: Vec<String> = ["a", "b,", "A", "é x"].map(str::to_owned).to_vec();
        let today = Date::new(2026, 11, 25).unwrap();
        let block = |rows: &[Vec<String>], first| {
            Block::of(rows.iter().map(|row| row.join("\t") + "\n").collect::<String>().as_bytes(), first)
        };
        let look = |parts: &[Block]| {
            let looks = parts.iter().map(|part| {
                let dialect = Dialect { delimiter: b'\t', ..Dialect::default() };
                let mut look = SampleLook::new(4, dialect, today, true);
                look.look_at(part);
                look
            });
            SampleLook::join(looks.collect()).draft(&headings, "t", "a test", today)
        };
        let cut = cut.min(rows.len());
        let whole = look(&[block(&rows, 2)]);
        let shared = look(&[block(&rows[..cut], 2), block(&rows[cut..], 2 + cut as u64)]);
        prop_assert_eq!(whole.to_toml(), shared.to_toml());
        let turned = look(&[block(&rows[cut..], 2 + cut as u64), block(&rows[..cut], 2)]);
        prop_assert_eq!(whole.to_toml(), turned.to_toml());
        readable(Ok(whole))?;
    }
}

fn cell() -> impl Strategy<Value = String> {
    prop_oneof![
        3 => prop::sample::select(vec![
            "", "1", "12", "-3", "4.50", "007", "0.5", "1,5", "yes", "No", "2024-02-29", "2024-02-03", "03/04/2024", "31/12/2024",
            "3 May 2024", "12:30", "a@b.example", "x;y", "y", "x|z", "Good", "Poor", "HT-001", "HT-002", "1900-01-01 10:00",
        ]).prop_map(str::to_owned),
        1 => "[ -~]{0,12}",
        1 => "\\PC{0,6}",
    ]
    .prop_map(|text| text.replace(['\t', '\n', '\r', '"'], "_"))
}

/// A dialect can hold what a plan may not; the rest of it stays.
#[test]
fn what_a_plan_may_not_say_of_a_dialect_is_told() {
    let text = r#"{"url": "t.csv",
        "dialect": {"encoding": "no-such-thing", "delimiter": "ab\u0001", "skipRows": 18446744073709551615},
        "tableSchema": {"columns": [
            {"name": "a", "null": ["-"], "datatype": {"base": "decimal", "format": {"decimalChar": "x"}}},
            {"name": "b", "datatype": {"base": "boolean", "format": "Y|Y"}}]}}"#;
    let draft = from_csvw(text, None, "t").unwrap();
    assert_eq!(draft.not_understood.len(), 5, "{:?}", draft.not_understood);
    assert!(draft.plan.as_ref().unwrap().contains("blank = [\"-\"]"));
    readable(Ok(draft)).unwrap();
}

/// Checks between columns become rules; what the language of conditions has not is told.
#[test]
fn checks_between_columns_become_rules() {
    let text = "CREATE TABLE visit (code VARCHAR(8) PRIMARY KEY, begins DATE, ends DATE, cost DECIMAL(8,2), \
        CONSTRAINT ends_late CHECK (begins IS NULL OR ends >= begins), CHECK (ends IS NULL OR cost > 0), \
        CHECK (cost IS NULL OR (cost IS NOT NULL AND cost <= 9)), \
        CHECK (known_to(code, cost)));";
    let draft = from_sql(text, None).unwrap();
    let rules: Vec<_> = draft.rules.iter().map(|rule| (rule.name.as_str(), rule.must.as_str())).collect();
    let plain = "ends IS NULL OR cost > 0";
    assert_eq!(rules, [("ends late", "begins IS NULL OR ends >= begins"), (plain, plain)]);
    assert_eq!(draft.not_understood, ["CHECK (known_to(code, cost))"]);
    let cost = draft.fields.iter().find(|field| field.name == "cost").unwrap();
    assert_eq!((cost.required, &cost.range), (DraftRequired::No, &(None, Some("9".to_owned()))));
    readable(Ok(draft)).unwrap();
}
