use super::code::Code;
use super::entry::{Entry, Scope, Tag};
use super::level::Level;

pub(super) const ENTRIES: &[Entry] = &[
    Entry {
        why: "Blank rows are no records and are in no count; some programs stop reading at the first of them.",
        remedy: "Delete them if another program reads the file; the check passes over them.",
        bad: "an empty line between two records",
        good: "(no such line)",
        ..Entry::new(
            Code::RowBlank,
            Scope::Rows,
            Level::Note,
            "rows without a value stand between the others",
        )
    },
    Entry {
        otherwise: Some("the level that the rule states"),
        why: "The record schema states a condition between fields, and this row does not keep it.",
        remedy: "Correct the fields that the finding names; the rule stands in the record schema.",
        bad: "inspected_on 2019-04-01, planted_on 2020-11-20, with must = \"inspected_on >= planted_on\"",
        good: "inspected_on 2021-04-01, planted_on 2020-11-20",
        tags: &[Tag::Rule],
        ..Entry::new(Code::RuleBroken, Scope::Rows, Level::Stop, "a condition between fields is broken")
    },
    Entry {
        otherwise: Some("the level that the rule states"),
        why: "A rule of the record schema asks for this field in rows like this one.",
        remedy: "Fill the field, or correct the one that makes the rule apply.",
        bad: "condition D and no removal_due, with when = \"condition = 'D'\" and require = [\"removal_due\"]",
        good: "condition D, removal_due 2027-03-01",
        tags: &[Tag::Rule],
        ..Entry::new(Code::RuleRequired, Scope::Rows, Level::Stop, "a rule requires this field here")
    },
    Entry {
        otherwise: Some("the level that the rule states"),
        why: "A rule of the record schema wants this field blank in rows like this one.",
        remedy: "Clear the field, or correct the one that makes the rule apply.",
        bad: "protected No and an order_no, with when = \"NOT protected\" and forbid = [\"order_no\"]",
        good: "protected No, order_no blank",
        tags: &[Tag::Rule],
        ..Entry::new(Code::RuleForbidden, Scope::Rows, Level::Stop, "a rule forbids this field here")
    },
    Entry {
        why: "These fields belong together: a part of them says nothing, or something wrong.",
        remedy: "Fill the missing fields of the block, or clear all of it.",
        bad: "easting 412300, northing blank",
        good: "easting 412300, northing 287150",
        tags: &[Tag::Rule],
        ..Entry::new(Code::BlockIncomplete, Scope::Rows, Level::Stop, "a block of fields is filled in part")
    },
    Entry {
        why: "Each value is on its list, but the target does not permit them together.",
        remedy: "Correct one of the two; the finding says what goes with the other.",
        bad: "form B, box 2 (B permits box 1 alone)",
        good: "form B, box 1",
        tags: &[Tag::Rule],
        ..Entry::new(
            Code::CombinationNotPermitted,
            Scope::Rows,
            Level::Stop,
            "these values are not permitted together",
        )
    },
    Entry {
        otherwise: Some("warn where the plan leaves such rows out"),
        why: "The plan says which records this file may change, and this row is none of them.",
        remedy: "Take the row out, or widen `where` of [scope] in the plan if the file may change it.",
        bad: "site_code W09-KILN, with where = \"site_code LIKE 'W07-%'\"",
        good: "site_code W07-MILL",
        least: Level::Stop,
        ..Entry::new(
            Code::RowOutOfScope,
            Scope::Rows,
            Level::Stop,
            "the row is not one that this file may change",
        )
    },
];
