//! Conditions against a plain evaluation by another hand: SQLite is the referee.

use super::*;
use crate::schema::{NoLists, RecordSchema};
use proptest::prelude::*;
use rusqlite::Connection;

const SCHEMA: &str = r#"
format = 1
record = "t"
[[field]]
name = "a"
kind = "integer"
[[field]]
name = "b"
kind = "decimal"
[[field]]
name = "t"
kind = "text"
[[field]]
name = "Two words"
kind = "text"
[[field]]
name = "d"
kind = "date"
[[field]]
name = "e"
kind = "date"
[[field]]
name = "p"
kind = "boolean"
[[field]]
name = "c"
kind = "picklist"
picklist = "c"
[[field]]
name = "m"
kind = "picklist"
picklist = "c"
many = { separator = ";" }
[picklist.c]
values = [{ code = "G", label = "Good" }, { code = "X", label = "Excellent" }]
"#;

fn schema() -> RecordSchema {
    RecordSchema::read(SCHEMA, &mut NoLists).unwrap()
}

struct Row(Vec<Option<Scalar<'static>>>);

impl Cells for Row {
    fn held(&self, field: usize) -> Held<'_> {
        match self.0.get(field) {
            Some(Some(value)) => Held::Value(value.clone()),
            _ => Held::Null,
        }
    }

    fn today(&self) -> Date {
        Date::new(2026, 11, 25).unwrap()
    }
}

fn text(text: &str) -> Scalar<'static> {
    Scalar::Text(Cow::Owned(text.to_owned()))
}

#[test]
fn conditions_are_asked_and_refused() {
    let schema = schema();
    let day = |text: &str| Scalar::Date(Date::iso(text).unwrap());
    let row = Row(vec![
        Some(Scalar::Number(Decimal::from(5))),
        None,
        Some(text("Oak")),
        None,
        Some(day("2024-02-28")),
        Some(day("2024-03-01")),
        Some(Scalar::Boolean(true)),
        Some(text("G")),
    ]);
    for (condition, wanted) in [
        ("A = 5 AND t LIKE 'O%'", Holds::Yes),
        ("b > 0", Holds::Unknown),
        ("b > 0 OR a > 0", Holds::Yes),
        ("NOT (b > 0)", Holds::Unknown),
        ("b IS NULL", Holds::Yes),
        ("\"Two words\" IS NOT NULL", Holds::No),
        ("e - d = 2", Holds::Yes),
        ("d + 2 = e", Holds::Yes),
        ("d + 1 = DATE '2024-02-29'", Holds::Yes),
        ("e > '2024-02-29'", Holds::Yes),
        ("d <= CURRENT_DATE", Holds::Yes),
        ("p", Holds::Yes),
        ("p AND c = 'G'", Holds::Yes),
        ("c IN ('X', 'G')", Holds::Yes),
        ("c NOT IN ('X', NULL)", Holds::Unknown),
        ("a BETWEEN 1 AND 5", Holds::Yes),
        ("a / 0 = 1", Holds::Unknown),
        ("a / 2 = 2.5", Holds::Yes),
        ("a * 0.1 = 0.5", Holds::Yes),
        ("LENGTH(t) = 3 AND UPPER(t) = 'OAK'", Holds::Yes),
        ("COALESCE(b, a) = 5", Holds::Yes),
        ("ABS(0 - a) = 5", Holds::Yes),
        ("t LIKE 'O!%' ESCAPE '!'", Holds::No),
        ("t = 'oak'", Holds::No),
        ("m IS NULL", Holds::Yes),
        ("'G' MEMBER OF (m)", Holds::Unknown),
        ("(b = 1) IS UNKNOWN", Holds::Yes),
        ("a * 79228162514264337593543950335 > 0", Holds::Unknown),
    ] {
        assert_eq!(parse(condition, &schema).unwrap().holds(&row), wanted, "{condition}");
    }
    for (condition, message) in [
        ("a = 'x'", "a number cannot be compared with text"),
        ("d > 5", "a date cannot be compared with a number"),
        ("c = 'Good'", "'Good' is no code of the picklist c"),
        ("nme = 1", "the record has no field `nme`"),
        ("a", "this is a number, not a condition"),
        ("a = 1 b", "the condition ends before `b`"),
        ("a == ", "not a condition"),
        ("a IN (SELECT 1)", "is not among the conditions"),
        ("CASE WHEN p THEN 1 END = 1", "is not among the conditions"),
        ("t LIKE a", "a text in single quotes"),
        ("d > DATE '31/12/2024'", "'31/12/2024' is no date"),
        ("m = 'G'", "holds several values"),
        ("'G' MEMBER OF (c)", "holds one value only"),
        ("1 + d > d", "a number + a date is not read"),
        ("p > TRUE", "yes and no have no order"),
        ("random() = 1", "is not among the functions"),
        ("a = 1 AND", "not a condition"),
        ("t = \"x\"", "the record has no field `x`"),
    ] {
        let fault = parse(condition, &schema).unwrap_err();
        assert!(fault.message.contains(message), "{condition}: {fault:?}");
    }
    let deep = "(".repeat(5_000) + "p" + &")".repeat(5_000);
    assert!(parse(&deep, &schema).is_err());
    assert!(parse(&("NOT ".repeat(900) + "p"), &schema).is_err());
}

/// A condition in the words that SQLite has too, by depth.
fn condition() -> impl Strategy<Value = String> {
    let number = prop_oneof![
        Just("a"),
        Just("b"),
        Just("3"),
        Just("-2"),
        Just("0"),
        Just("(a + b)"),
        Just("(a - 2 * b)"),
        Just("ABS(b)"),
        Just("LENGTH(t)"),
        Just("COALESCE(b, 7)")
    ];
    let word = prop_oneof![
        Just("t"),
        Just("\"Two words\""),
        Just("'oak'"),
        Just("'Oak'"),
        Just("''"),
        Just("UPPER(t)"),
        Just("LOWER(t)")
    ];
    let order = prop_oneof![Just("="), Just("<>"), Just("<"), Just("<="), Just(">"), Just(">=")];
    let leaf = prop_oneof![
        (number.clone(), order.clone(), number.clone()).prop_map(|(a, o, b)| format!("{a} {o} {b}")),
        (word.clone(), order.clone(), word.clone()).prop_map(|(a, o, b)| format!("{a} {o} {b}")),
        (order, Just(())).prop_map(|(o, ())| format!("d {o} e")),
        number.clone().prop_map(|a| format!("{a} IS NULL")),
        word.clone().prop_map(|a| format!("{a} IS NOT NULL")),
        (number.clone(), number.clone(), number.clone())
            .prop_map(|(a, b, c)| format!("{a} BETWEEN {b} AND {c}")),
        (number.clone(), number.clone()).prop_map(|(a, b)| format!("{a} NOT IN ({b}, 5, NULL)")),
        (number.clone(), number).prop_map(|(a, b)| format!("{a} IN ({b}, 1)")),
        word.prop_map(|a| format!("{a} LIKE '%a_'")),
        Just("p".to_owned()),
        Just("c = 'G'".to_owned()),
    ];
    leaf.prop_recursive(4, 24, 2, |inner| {
        prop_oneof![
            (inner.clone(), inner.clone()).prop_map(|(a, b)| format!("({a}) AND ({b})")),
            (inner.clone(), inner.clone()).prop_map(|(a, b)| format!("({a}) OR ({b})")),
            inner.clone().prop_map(|a| format!("NOT ({a})")),
            inner.prop_map(|a| format!("({a}) IS TRUE")),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn sqlite_is_of_the_same_opinion(
        conditions in prop::collection::vec(condition(), 6),
        a in prop::option::of(-4_i64..6), b in prop::option::of(-4_i64..6),
        t in prop::option::of(prop::sample::select(vec!["oak", "Oak", "Ash", "", "tan"])),
        u in prop::option::of(prop::sample::select(vec!["oak", "OAK", "zan"])),
        d in prop::option::of(prop::sample::select(vec!["2024-01-31", "2024-02-29"])),
        e in prop::option::of(prop::sample::select(vec!["2024-02-29", "2023-12-31"])),
        p in prop::option::of(any::<bool>()), c in prop::option::of(prop::sample::select(vec!["G", "X"]))
    ) {
        let schema = schema();
        let number = |n: Option<i64>| n.map(|n| Scalar::Number(Decimal::from(n)));
        let day = |text: Option<&str>| text.map(|text| Scalar::Date(Date::iso(text).unwrap()));
        let row = Row(vec![number(a), number(b), t.map(text), u.map(text), day(d), day(e), p.map(Scalar::Boolean), c.map(text)]);
        let database = Connection::open_in_memory().unwrap();
        database.execute_batch("PRAGMA case_sensitive_like = ON; CREATE TABLE t (a, b, t, \"Two words\", d, e, p, c);").unwrap();
        database.execute("INSERT INTO t VALUES (?, ?, ?, ?, ?, ?, ?, ?)", rusqlite::params![a, b, t, u, d, e, p, c]).unwrap();
        for condition in conditions {
            let ours = parse(&condition, &schema).unwrap().holds(&row);
            let theirs: Option<bool> = database.query_row(&format!("SELECT ({condition}) FROM t"), [], |row| row.get(0)).unwrap();
            prop_assert_eq!(ours, Holds::from(theirs), "{}", condition);
        }
    }

    #[test]
    fn no_text_makes_the_reader_panic(text in "[a-zA-Z0-9' ()=<>+*/%,._\"-]{0,60}|\\PC{0,30}") {
        let _ = parse(&text, &schema());
    }
}

#[test]
fn fields_called_by_words_of_sql_are_read_or_told_to_be_quoted() {
    let names =
        ["all", "to", "date", "end", "order", "year", "user", "case", "from", "interval", "values", "left"];
    let fields = names.map(|name| format!("[[field]]\nname = \"{name}\"\nkind = \"text\"\n")).concat();
    let schema = RecordSchema::read(&format!("format = 1\nrecord = \"t\"\n{fields}"), &mut NoLists).unwrap();
    for name in names {
        assert!(parse(&format!("\"{name}\" = 'x'"), &schema).is_ok(), "{name}");
        if let Err(fault) = parse(&format!("{name} = 'x' OR {name} IS NULL"), &schema) {
            let help = fault.help.unwrap_or_default();
            assert!(
                help.contains("double quotes") && help.contains(&format!("\"{name}\"")),
                "{name}: {help}"
            );
        }
    }
}
