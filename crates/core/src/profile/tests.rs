//! Columns by what they hold.

use super::*;
use crate::block::Block;
use crate::scan::Dialect;
use crate::value::Date;

fn profile(cells: &[&str]) -> ColumnProfile {
    headed("First", cells)
}

fn headed(heading: &str, cells: &[&str]) -> ColumnProfile {
    let text: String = cells.iter().map(|cell| format!("\"{cell}\",x\n")).collect();
    let headings = [heading.to_owned(), "Second".to_owned()];
    let mut profiler = Profiler::new(&headings, Dialect::default(), 2, Date::new(2026, 11, 25).unwrap());
    profiler.look_at(&Block::of(text.as_bytes(), 2));
    profiler.finish().0.swap_remove(0)
}

#[test]
fn the_likely_kind_is_told_with_its_range() {
    let many = |values: &[&str]| profile(&values.repeat(8));
    for (values, kind, form, range) in [
        (&["9", "10", "-3"][..], "integer", None, ("-3", "10")),
        (&["9.5", "10", "100.25"], "decimal", None, ("9.5", "100.25")),
        (&["9,5", "10", "100,25"], "decimal", Some("decimal comma"), ("9,5", "100,25")),
        (&["007", "12", "0815"], "text", Some("digits with leading zeros"), ("007", "12")),
        (&["2024-03-01", "2023-12-31"], "date", Some("yyyy-MM-dd"), ("2023-12-31", "2024-03-01")),
        (&["03/04/2024", "31/12/2023"], "date", Some("dd/MM/yyyy"), ("31/12/2023", "03/04/2024")),
        (
            &["03/04/2024", "05/06/2023"],
            "date",
            Some("dd/MM/yyyy or MM/dd/yyyy"),
            ("05/06/2023", "03/04/2024"),
        ),
        (
            &["2024-03-01T10:15", "2024-03-01 09:00:00"],
            "datetime",
            Some("yyyy-MM-dd with a time"),
            ("2024-03-01T10:15", "2024-03-01T10:15"),
        ),
        (&["20240301", "19991231", "20240228"], "date", Some("yyyyMMdd"), ("19991231", "20240301")),
        (&["20240301", "20240332", "20240228"], "integer", None, ("20240228", "20240332")),
        (&["10:15", "9:05"], "time", None, ("9:05", "10:15")),
        (&["1:15 PM", "9:05 am"], "time", None, ("9:05 am", "1:15 PM")),
        (&["Yes", "no"], "boolean", None, ("Yes", "no")),
        (&["a@b.example", "c.d@e.example"], "email", None, ("a@b.example", "c.d@e.example")),
        (&["Good", "Fair", "Poor"], "picklist", None, ("Fair", "Poor")),
    ] {
        let found = many(values);
        assert_eq!((found.kind, found.form.as_deref()), (Some(kind), form), "{values:?}");
        assert_eq!(
            found.range.as_ref().map(|(low, high)| (low.as_str(), high.as_str())),
            Some(range),
            "{values:?}"
        );
        assert_eq!((found.fitting, found.distinct), (found.filled, Some(values.len() as u64)));
    }
    assert_eq!(profile(&["", " "]).kind, None);
    // Numbers that begin with a year.
    let numbers = ["20240101", "20240102", "20240103"];
    assert_eq!(
        ["Order no", "Posted"].map(|heading| headed(heading, &numbers).kind),
        [Some("integer"), Some("date")]
    );
}

#[test]
fn what_does_not_fit_and_what_is_odd_is_told_with_its_row() {
    let found = profile(&["1", "2", "3", " 4", "5", "6", "7", "8", "n/a", "#REF!"]);
    assert_eq!((found.kind, found.fitting, found.misfit), (Some("integer"), 8, Some((10, "n/a".to_owned()))));
    let odd: Vec<_> = found.oddities.iter().map(|odd| (odd.code.name(), odd.seen.first)).collect();
    assert_eq!(odd, [("placeholder", 10), ("space-stray", 5), ("spreadsheet-error", 11)]);
    assert_eq!(found.examples, ["1", "2", "3"]);
    let many: Vec<String> = (0..1500).map(|n| format!("tree {n}")).collect();
    let found = profile(&many.iter().map(String::as_str).collect::<Vec<_>>());
    assert_eq!((found.kind, found.distinct, found.lengths), (Some("text"), None, Some((6, 9))));
}
