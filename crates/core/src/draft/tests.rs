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

/// Names in quotes may hold what a record schema's cannot.
#[test]
fn names_that_are_not_seen_whole_are_put_right() {
    let sql = "CREATE TABLE tree (\"tag\u{0}\n  no\" varchar(9) NOT NULL, girth int, PRIMARY KEY (\"tag\u{0}\n  no\"))";
    let mut draft = from_sql(sql, None).expect("it is a table");
    draft.settle();
    let made = "CREATE TABLE tree (no int GENERATED ALWAYS AS IDENTITY, ward int, UNIQUE (no, ward), PRIMARY KEY (ward, no))";
    let mut other = from_sql(made, None).expect("it is a table");
    other.settle();
    readable(Ok(other)).expect("it can be read");
    assert_eq!((draft.key.as_slice(), draft.fields[0].name.as_str()), (&["tag no".to_owned()][..], "tag no"));
    readable(Ok(draft)).expect("it can be read");
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

/// Bounds that a record schema does not take are left out, whatever the kind.
#[test]
fn bounds_of_each_kind_are_sound_or_left_out() {
    let kinds = [
        ("integer", "1", "9"),
        ("decimal", "1.5", "9.5"),
        ("date", "2026-01-01", "2026-12-31"),
        ("dateTime", "2026-01-01T00:00:00", "2026-12-31T00:00:00"),
        ("time", "09:00", "17:00"),
        ("duration", "PT5M", "P1D"),
    ];
    for (base, min, max) in kinds {
        for (low, high, kept) in [(min, max, 2), (max, min, 0), ("noon", max, 1), (min, "later", 1)] {
            let text = format!(
                r#"{{"url": "t.csv", "tableSchema": {{"columns": [{{"name": "a",
                    "datatype": {{"base": "{base}", "minimum": "{low}", "maximum": "{high}"}}}}]}}}}"#
            );
            let mut draft = from_csvw(&text, None, "t").unwrap();
            draft.settle();
            let written = draft.to_toml();
            let ends = ["min = ", "max = "].into_iter().filter(|end| written.contains(end)).count();
            assert_eq!(ends, kept, "{base} from {low} to {high}: {written}");
            readable(Ok(draft)).unwrap();
        }
    }
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

/// A workbook of lists.
struct Sheets;

impl crate::schema::ListSource for Sheets {
    fn table(&mut self, _: &str, sheet: Option<&str>) -> Result<crate::schema::ListTable, String> {
        let owned = |cells: &[&str]| cells.iter().map(|cell| (*cell).to_owned()).collect::<Vec<_>>();
        let table = |headings: &[&str], rows: &[&[&str]]| crate::schema::ListTable {
            headings: owned(headings),
            rows: rows.iter().map(|row| owned(row)).collect(),
        };
        match sheet {
            Some("Site lists") => Ok(table(
                &["State", "Label"],
                &[&["0", "Off"], &["1", "On"], &["2", "Broken"], &["9", "Lost"]],
            )),
            Some("Wards") => Ok(table(&["Code", "Name"], &[&["W01", "Mill"], &["W02", "Bank"]])),
            Some("lamps") => Ok(table(&["made", "Lamps"], &[&["x", "LED"], &["y", "Gas"]])),
            _ => Err("there is no such sheet".to_owned()),
        }
    }
}

/// What people write into dictionaries: types, defaults, when a field may be changed, and lists that stand elsewhere.
#[test]
fn dictionaries_say_lists_defaults_and_changes_in_many_ways() {
    let text = "Field name|Type|Required|Allowed values|Default|May be changed\n\
        lamp_no|CHAR(8)|Yes|||never\n\
        watts|DEC(6,1)|No||0|always\n\
        state|Picklist|No|'Site lists'!$A$2:$B$4|1|\n\
        code|Text|No|=Wards!A2:A3||\n\
        ward|Picklist|No|see sheet Wards|none|\n\
        lit|Yes/No|No||No|Yes\n\
        seen_by|Text|No||none|only on creation\n\
        made|Date|No||-|system\n\
        lamps|Picklist|No||||\n\
        gone|Picklist|No|Nowhere!A2:A9||\n\
        fixed|Text|No|||never\n";
    let rows: Vec<Vec<String>> =
        text.lines().map(|line| line.split('|').map(str::to_owned).collect()).collect();
    let (headings, rows) = rows.split_first().unwrap();
    let draft =
        Dictionary::new(headings).draft(rows, None, "lamp", &mut Lists::of("d.xlsx", &mut Sheets)).unwrap();
    let field = |name: &str| draft.fields.iter().find(|field| field.name == name).unwrap();
    let codes = |name: &str| {
        let list =
            draft.picklists.iter().find(|list| Some(&list.name) == field(name).picklist.as_ref()).unwrap();
        list.values
            .iter()
            .map(|(code, label)| format!("{code}={}", label.as_deref().unwrap_or("-")))
            .collect::<Vec<_>>()
    };
    assert_eq!(codes("state"), ["0=Off", "1=On", "2=Broken"]);
    assert_eq!(codes("code"), ["W01=-", "W02=-"]);
    assert_eq!(codes("ward"), ["W01=Mill", "W02=Bank"]);
    assert_eq!(codes("lamps"), ["LED=-", "Gas=-"]);
    let defaults: Vec<_> = ["watts", "state", "lit", "seen_by", "made"]
        .iter()
        .map(|name| field(name).default.as_deref().unwrap_or("-"))
        .collect();
    assert_eq!(defaults, ["0", "1", "No", "none", "-"]);
    let read_only: Vec<_> =
        draft.fields.iter().filter(|field| field.read_only).map(|field| field.name.as_str()).collect();
    assert_eq!(read_only, ["made", "fixed"]);
    let is_told = |name: &str| field(name).remarks.iter().any(|remark| remark.starts_with("LOOK"));
    assert_eq!(["lamp_no", "seen_by", "fixed", "made", "lit"].map(is_told), [true, true, true, false, false]);
    assert_eq!((field("lamp_no").length, field("watts").digits), ((None, Some(8)), (Some(5), Some(1))));
    readable(Ok(draft)).unwrap();
}

/// Checks and short types of SQL, defaults and separators of CSVW.
#[test]
fn what_a_description_says_is_kept() {
    let sql = "CREATE TABLE lamp (no INT PRIMARY KEY, lit CHAR(1) DEFAULT 'N' CHECK (lit IN ('Y','N')), \
        ok INT CHECK (ok IN (0, 1)), kind VARCHAR(9) CHECK (kind IN ('A','B')), poles DEC(4), watts DEC(6,1));";
    let draft = from_sql(sql, None).unwrap();
    let kinds: Vec<_> = draft.fields.iter().map(|field| field.kind.name()).collect();
    assert_eq!(kinds, ["integer", "boolean", "boolean", "picklist", "integer", "decimal"]);
    assert_eq!(draft.fields[1].default.as_deref(), Some("N"));
    readable(Ok(draft)).unwrap();
    let csvw = r#"{"url": "t.csv", "tableSchema": {"columns": [
        {"name": "n", "datatype": "integer", "default": "0"},
        {"name": "tags", "separator": "|", "datatype": "string"}]}}"#;
    let draft = from_csvw(csvw, None, "t").unwrap();
    assert_eq!(draft.fields[0].default.as_deref(), Some("0"));
    assert_eq!(draft.fields[1].many, Some(("|".to_owned(), None)));
    assert!(draft.picklists[0].open && draft.picklists[0].values.is_empty());
    readable(Ok(draft)).unwrap();
}
