//! Conditions against a plain evaluation by another hand: SQLite is the referee.

use super::*;
use crate::schema::{NoLists, RecordSchema};
use crate::value::Date;
use proptest::prelude::*;
use rusqlite::Connection;
use rust_decimal::Decimal;
use std::borrow::Cow;

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

/// A fraction, exact: the referee of sums, products and quotients.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Fraction {
    over: i128,
    under: i128,
}

impl Fraction {
    fn new(over: i128, under: i128) -> Option<Self> {
        let divisor = |mut one: i128, mut other: i128| {
            while other != 0 {
                (one, other) = (other, one % other);
            }
            one.abs().max(1)
        };
        let by = divisor(over, under) * under.signum();
        (under != 0).then(|| Self { over: over / by, under: under / by })
    }

    /// Nothing where the result is beyond what the referee holds, or there is none.
    fn with(self, sign: char, other: Self) -> Option<Option<Self>> {
        let (a, b, c, d) = (self.over, self.under, other.over, other.under);
        let product = |one: i128, other: i128| one.checked_mul(other);
        let (over, under) = match sign {
            '+' => (product(a, d)?.checked_add(product(c, b)?)?, product(b, d)?),
            '-' => (product(a, d)?.checked_sub(product(c, b)?)?, product(b, d)?),
            '*' => (product(a, c)?, product(b, d)?),
            _ => (product(a, d)?, product(b, c)?),
        };
        Some(Self::new(over, under))
    }

    fn order(self, other: Self) -> Option<std::cmp::Ordering> {
        Some(self.over.checked_mul(other.under)?.cmp(&other.over.checked_mul(self.under)?))
    }
}

/// An expression as text, and what it comes to: unknown where it divides by nought.
type Sum = (String, Option<Fraction>);

fn numbers() -> impl Strategy<Value = Sum> {
    let scaled = (prop_oneof![Just(0_i128), -20..20_i128, -99_999..99_999_i128], 0_u32..4);
    scaled.prop_map(|(digits, scale)| {
        let decimal = Decimal::from_i128_with_scale(digits, scale);
        let text = if digits < 0 { format!("(0 - {})", -decimal) } else { decimal.to_string() };
        (text, Fraction::new(digits, 10_i128.pow(scale)))
    })
}

/// Expressions whose value the referee can hold.
fn sums() -> impl Strategy<Value = Sum> {
    numbers().prop_recursive(3, 12, 2, |inner| {
        (inner.clone(), prop_oneof![Just('+'), Just('-'), Just('*'), Just('/')], inner).prop_filter_map(
            "beyond the referee",
            |((one, first), sign, (other, second))| {
                let value = match (first, second) {
                    (Some(first), Some(second)) => first.with(sign, second)?,
                    _ => None,
                };
                Some((format!("({one} {sign} {other})"), value))
            },
        )
    })
}

proptest! {
    #[test]
    fn sums_and_quotients_are_exact_or_unknown(one in sums(), other in sums(), order in 0..6_usize) {
        let sign = ["=", "<>", "<", "<=", ">", ">="][order];
        let condition = parse(&format!("{} {sign} {}", one.0, other.0), &schema());
        let Ok(condition) = condition else { return Ok(()) };
        let found = condition.holds(&Row(vec![None; 9]));
        let wanted = match (one.1, other.1) {
            (Some(first), Some(second)) => first.order(second).map(|order| match sign {
                "=" => order.is_eq(),
                "<>" => order.is_ne(),
                "<" => order.is_lt(),
                "<=" => order.is_le(),
                ">" => order.is_gt(),
                _ => order.is_ge(),
            }),
            _ => None,
        };
        // What the program cannot hold is unknown to it; it never takes one truth for the other.
        match (found, wanted) {
            (Holds::Yes, Some(truth)) => prop_assert!(truth, "{} {sign} {}", one.0, other.0),
            (Holds::No, Some(truth)) => prop_assert!(!truth, "{} {sign} {}", one.0, other.0),
            (Holds::Unknown, _) => {}
            (found, None) if one.1.is_none() || other.1.is_none() => {
                prop_assert!(false, "{found:?} of a quotient by nought: {} {sign} {}", one.0, other.0);
            }
            _ => {}
        }
        // And what is short is known.
        if one.0.len() + other.0.len() < 30 && wanted.is_some() {
            prop_assert!(found != Holds::Unknown, "{} {sign} {}", one.0, other.0);
        }
    }
}

#[test]
fn long_numbers_are_compared_digit_by_digit() {
    let schema = schema();
    let nines = "9".repeat(28);
    let long = format!("1{}", "0".repeat(27));
    for (condition, wanted) in [
        (format!("{nines} > {long}"), Some(Holds::Yes)),
        (format!("{nines} = {nines}"), Some(Holds::Yes)),
        (format!("{nines} - {nines} = 0"), Some(Holds::Yes)),
        (format!("{nines} - {nines} = 0.0000001"), Some(Holds::No)),
        (format!("{long} + 0.1 > {long}"), None),
        (format!("{nines} + 1 > {nines}"), None),
        (format!("{nines} * {nines} > 1"), None),
        (format!("0.{} < 0.{}", "0".repeat(27), format_args!("{}1", "0".repeat(27))), Some(Holds::Yes)),
        ("1 / 3 * 3 = 1".to_owned(), Some(Holds::Yes)),
        ("1 / 0 = 1".to_owned(), Some(Holds::Unknown)),
        ("0 / 7 = 0".to_owned(), Some(Holds::Yes)),
        ("2 / 3 > 0.6666666666666666666666666666".to_owned(), Some(Holds::Yes)),
        ("2 / 3 < 0.6666666666666666666666666667".to_owned(), Some(Holds::Yes)),
        ("ABS(0 - 1.50) = 1.5".to_owned(), Some(Holds::Yes)),
    ] {
        let found = parse(&condition, &schema).unwrap().holds(&Row(vec![None; 9]));
        // Where the digits do not suffice it is unknown or right, never wrong.
        match wanted {
            Some(wanted) => assert_eq!(found, wanted, "{condition}"),
            None => assert_ne!(found, Holds::No, "{condition}"),
        }
    }
    // A number of more digits than can be held is no constant that could be compared.
    let fault = parse(&format!("a > {}", "9".repeat(40)), &schema);
    assert!(fault.is_err(), "{fault:?}");
}
