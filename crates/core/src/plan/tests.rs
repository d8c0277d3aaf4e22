//! Plans from texts, and texts of plans changed.

use super::*;
use crate::headings::{ColumnName, PlanPairing};
use crate::schema::{NoLists, RecordSchema};
use proptest::prelude::*;

fn schema() -> RecordSchema {
    let text = "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"text\"\n\
                [[field]]\nname = \"two words\"\nkind = \"date\"\n[[field]]\nname = \"n\"\nkind = \"decimal\"\n";
    RecordSchema::read(text, &mut NoLists).unwrap()
}

#[test]
fn columns_are_found_by_heading_loosely_and_by_letter() {
    let text = "format = 1\n[columns]\n\"Key \" = \"k\"\n\"when-it was\" = \"two words\"\n\"@D\" = \"n\"\n\"gone\" = false\n";
    let plan = PlanText::read(text).against(&schema()).unwrap();
    let headings = ["Key", "When it was", "When  it was", "n"].map(str::to_owned);
    let found = PlanPairing::new(&plan.columns, &headings);
    // Two headings that are loosely the same: neither is taken.
    assert_eq!(found.columns, [Some(Some(0)), None, None, Some(Some(2))]);
    assert_eq!(found.gone.len(), 2);
}

#[test]
fn a_key_at_another_place_is_told_where_it_stands() {
    let text = "format = 1\ndates = [\"dd/MM/yyyy\"]\noverwrite = \"all\"\nmodes = [\"add\"]\nplan = \"e.plan.toml\"\n[write]\nsheet = \"A\"\n\
                released = []\n[read]\nheading_row = 2\nsomething = 1\n";
    let faults = PlanText::read(text).against(&schema()).unwrap_err();
    let told: Vec<_> = faults.iter().map(|fault| fault.help.as_deref().unwrap_or_default()).collect();
    insta::assert_snapshot!(told.join("\n"), @r"
    `dates` stands under [read] or [write] or [read.fields.NAME]
    `overwrite` stands under [existing]
    `modes` stands under [scope]
    `plan` stands under [existing]
    `sheet` stands under [file] or [references.NAME]
    `released` stands under [existing]
    `heading_row` stands under [file]
    permitted: dates, times, language, zone, decimal_mark, group_mark, blank, clear, true, false, trim, fields
    ");
}

#[test]
fn tolerance_counts_with_its_ends() {
    for (tolerance, held, records, covers) in [
        (Tolerance::PerMillion(20_000), 2, 100, true),
        (Tolerance::PerMillion(20_000), 3, 100, false),
        (Tolerance::PerMillion(5_000), 1, 199, false),
        (Tolerance::PerMillion(5_000), 1, 200, true),
        (Tolerance::Rows(20), 20, 20, true),
        (Tolerance::default(), 1, u64::MAX, false),
        (Tolerance::PerMillion(1_000_000), u64::MAX, u64::MAX, true),
    ] {
        assert_eq!(tolerance.covers(held, records), covers, "{tolerance} {held} of {records}");
    }
    assert_eq!(Tolerance::PerMillion(2_500).to_string(), "0.25%");
}

#[test]
fn a_changed_plan_keeps_everything_else() {
    let text = "# mine\nformat = 1   # yes\n\n[columns]\n# the key\n\"K\" = \"k\"\n\"Old\" = \"n\" # was so\n\n[read]\ntrim = false\n";
    let edit = PlanEdit {
        columns: vec![
            (ColumnName::Heading("New \"n\"".to_owned()), Some("n".to_owned())),
            (ColumnName::Place(27), None),
        ],
        defaults: vec![("two words".to_owned(), "2024-01-01".to_owned())],
        heading_row: Some(3),
        ..PlanEdit::default()
    };
    let changed = edited(text, &edit).unwrap();
    for line in [
        "# mine",
        "format = 1   # yes",
        "# the key\n\"K\" = \"k\"",
        "trim = false",
        "\"@AB\" = false",
        "heading_row = 3",
    ] {
        assert!(changed.contains(line), "{line} in {changed}");
    }
    assert!(!changed.contains("Old"), "one field has one column");
    let plan = PlanText::read(&changed).against(&schema()).unwrap();
    assert_eq!((plan.columns.len(), plan.file.heading_row), (3, Some(3)));
    assert_eq!(edited(&changed, &edit).unwrap(), changed, "the same again changes nothing");
}

proptest! {
    #[test]
    fn no_text_makes_the_reader_panic(text in "[a-z=\\[\\]\"{}#, .0-9\\n]{0,120}", key in "\\PC{0,12}") {
        let _ = PlanText::read(&text).against(&schema());
        // Any heading can be kept in a plan.
        if !key.trim().is_empty() && !key.starts_with('@') {
            let edit = PlanEdit { columns: vec![(ColumnName::Heading(key.clone()), None)], ..PlanEdit::default() };
            let changed = edited(EMPTY, &edit).unwrap();
            let plan = PlanText::read(&changed).against(&schema()).unwrap();
            prop_assert_eq!(&plan.columns[0].name, &ColumnName::Heading(key));
        }
    }
}
