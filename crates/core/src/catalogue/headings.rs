use super::code::Code;
use super::entry::{Entry, Scope, Tag};
use super::level::Level;

pub(super) const ENTRIES: &[Entry] = &[
    Entry {
        why: "A column without a heading belongs to no field; its values are left out.",
        remedy: "Give the column the heading of its field, or clear it.",
        bad: "tag_no,,condition",
        good: "tag_no,site_code,condition",
        ..Entry::new(
            Code::HeadingBlank,
            Scope::Headings,
            Level::Warn,
            "a column holds values but has no heading",
        )
    },
    Entry {
        why: "Nobody can tell the columns apart by name.",
        remedy: "Give each column a heading of its own, or delete the copy.",
        bad: "tag_no,remark,remark",
        good: "tag_no,remark,second remark",
        ..Entry::new(Code::HeadingRepeated, Scope::Headings, Level::Warn, "the same heading stands twice")
    },
    Entry {
        why: "The column belongs to no field of the record and is left out of the load.",
        remedy: "If the column is meant for a field, use the field's name or label as heading, or add the heading \
                 to the field's `also` in the record schema.",
        bad: "Conditon",
        good: "Condition",
        ..Entry::new(Code::HeadingUnpaired, Scope::Headings, Level::Warn, "no field has this heading")
    },
    Entry {
        why: "Taking either column could load the wrong data, so neither is taken.",
        remedy: "Keep the column that belongs to the field and rename or delete the other; or let a plan say which is which, by their letters: \"@K\" = \"notes\".",
        bad: "Tag number,TAG NUMBER",
        good: "Tag number",
        least: Level::Stop,
        ..Entry::new(Code::HeadingShared, Scope::Headings, Level::Stop, "two columns claim the same field")
    },
    Entry {
        why: "A record cannot be loaded without this field, and no column was found for it.",
        remedy: "Add the column, or correct its heading; see the columns without a field for a likely one.",
        bad: "condition,notes (for a record whose key is tag_no)",
        good: "tag_no,condition,notes",
        least: Level::Stop,
        ..Entry::new(Code::FieldMissing, Scope::Headings, Level::Stop, "a needed field has no column")
    },
    Entry {
        why: "The target computes this field itself; a load must not carry it.",
        remedy: "Nothing needs to be done: the column is left out. Delete it if another program loads the file.",
        bad: "canopy_m2 (computed by the target)",
        good: "(no such column)",
        ..Entry::new(
            Code::FieldReadOnly,
            Scope::Headings,
            Level::Warn,
            "a column for a field that the target computes",
        )
    },
    Entry {
        why: "The field may be set when a record is added and must not change later, or the target computes it: the cell differs from what the record has.",
        remedy: "Put back what the record has, or leave the cell blank; a cell that equals the record's is no fault. What the target computes is left out of ready rows and holds nothing.",
        bad: "planted_on 2019-03-01, where the record has 2018-03-01",
        good: "planted_on 2018-03-01, or blank",
        ..Entry::new(Code::ReadOnlyChanged, Scope::Values, Level::Stop, "a field would change that must not")
    },
    Entry {
        why: "The heading is nearly that of a field, but a likeness proves nothing: the column is left out until \
              somebody says so.",
        remedy: "If it is that field, correct the heading or pair the two in a plan: `tidy-gate match FILE --set \
                 \"HEADING=field\" --save NAME.plan.toml`.",
        bad: "Conditon",
        good: "Condition",
        ..Entry::new(
            Code::HeadingClose,
            Scope::Headings,
            Level::Warn,
            "the heading is like that of a field without a column",
        )
    },
    Entry {
        why: "The values under this heading do not fit its field, while those of another column would: two columns \
              are swapped or shifted, and each would load the other's data.",
        remedy: "Compare the headings with the values below them, and put the right heading over each column.",
        bad: "Condition over \"2024-05-02\", Inspected on over \"Good\"",
        good: "Condition over \"Good\", Inspected on over \"2024-05-02\"",
        ..Entry::new(
            Code::ColumnMisfit,
            Scope::Headings,
            Level::Stop,
            "most values do not fit the heading's field, and another column's would",
        )
    },
    Entry {
        why: "The plan lets this file change some fields only, and the column belongs to none of them.",
        remedy: "Delete the column or leave it out in the plan; if it is meant, add the field to the plan's [scope].",
        bad: "planted_on, where the scope is condition and hazards",
        good: "tag_no,condition,hazards",
        least: Level::Stop,
        tags: &[Tag::EndsWork],
        ..Entry::new(
            Code::FieldOutOfScope,
            Scope::Headings,
            Level::Stop,
            "a column for a field that this file may not change",
        )
    },
    Entry {
        why: "The plan lets this file be loaded in other modes only: adding where only updates are meant makes new \
              records.",
        remedy: "Use a mode that the plan's [scope] permits, or add this one there.",
        bad: "--mode add, where the scope is modes = [\"update\"]",
        good: "--mode update",
        least: Level::Stop,
        tags: &[Tag::EndsWork],
        ..Entry::new(
            Code::ModeOutOfScope,
            Scope::Headings,
            Level::Stop,
            "this file may not be loaded in this mode",
        )
    },
    Entry {
        why: "Nobody stated how the column is written, so its own cells decided: those that fit one way only.",
        remedy: "If it is right, nothing needs to be done; a plan that states `dates` or `decimal_mark` under [read] makes it sure.",
        bad: "03/04/2024 and 25/12/2023, with no form stated",
        good: "dates = [\"dd/MM/yyyy\"] in the plan's [read]",
        tags: &[Tag::Layout],
        ..Entry::new(
            Code::FormGuessed,
            Scope::Headings,
            Level::Note,
            "how the column is written was read off its cells",
        )
    },
    Entry {
        otherwise: Some("a warning where a plan says so"),
        why: "A field without a column gets its default in every row, while the file has a column that seems to be \
              meant for it: what people wrote there would be lost without a word.",
        remedy: "Pair the column with the field in a plan, or leave the column out there on purpose: `tidy-gate match`.",
        bad: "Paied beside a field Paid with default = \"No\"",
        good: "Paid",
        least: Level::Warn,
        ..Entry::new(
            Code::DefaultOverColumn,
            Scope::Headings,
            Level::Stop,
            "a default would fill a field that a column seems to be meant for",
        )
    },
    Entry {
        why: "A field of the condition has no column, so in every row it is unknown or blank: the rule finds nothing.",
        remedy: "Ask for the column, or give the existing records that hold the field.",
        bad: "must = \"inspected_on >= planted_on\", and no column for planted_on",
        good: "a column for each field of the condition",
        ..Entry::new(Code::RuleUnchecked, Scope::Headings, Level::Warn, "a rule was not checked")
    },
];
