use super::code::Code;
use super::entry::{Entry, Scope};
use super::level::Level;

pub(super) const ENTRIES: &[Entry] = &[
    Entry {
        why: "Without its key a record cannot be told from others, found again or updated.",
        remedy: "Fill the key of the record.",
        bad: "(blank tag number)",
        good: "HT-0004213",
        least: Level::Stop,
        ..Entry::new(Code::KeyBlank, Scope::Keys, Level::Stop, "the key, or a part of it, is missing")
    },
    Entry {
        why: "Two rows would become the same record: the later one would overwrite the earlier, or fail.",
        remedy: "Decide which row is right, or give one of them its own key; every row of the repeat is held until then.",
        bad: "HT-0004213 in rows 5 and 88",
        good: "HT-0004213 once",
        least: Level::Stop,
        ..Entry::new(Code::KeyRepeated, Scope::Keys, Level::Stop, "the same key stands in several rows")
    },
    Entry {
        why: "The target permits this combination of values once.",
        remedy: "Decide which row is right; every row of the repeat is held until then.",
        bad: "site W07-MILL, position 12 in rows 5 and 88",
        good: "site W07-MILL, position 12 once",
        least: Level::Stop,
        ..Entry::new(
            Code::UniqueRepeated,
            Scope::Keys,
            Level::Stop,
            "a combination that must not repeat stands in several rows",
        )
    },
    Entry {
        why: "The file adds records, and the target already has one with this key: the load would fail, or overwrite it.",
        remedy: "Take the row out, give it a key of its own, or use mode `update` or `both` if the record is to be changed.",
        bad: "HT-0004213, which the registry has",
        good: "HT-0009001",
        least: Level::Stop,
        ..Entry::new(Code::KeyExists, Scope::Keys, Level::Stop, "a record with this key is there already")
    },
    Entry {
        why: "The target permits this combination of values once, and another record has it already: the load would fail, or break the rule. What counts is how records stand when all ready rows are loaded, so two records may swap their values in one file.",
        remedy: "Decide which record is to have it; give the other another value in the same file, or take the row out.",
        bad: "site W07-MILL, position 12, which HT-0004213 has",
        good: "site W07-MILL, position 31",
        least: Level::Stop,
        ..Entry::new(
            Code::UniqueExists,
            Scope::Keys,
            Level::Stop,
            "another record that is there has this combination",
        )
    },
    Entry {
        why: "The file changes records, and the target has none with this key.",
        remedy: "Correct the key; use mode `both` if the record is new; or let the plan leave such rows out: `unmatched = \"leave-out\"` under `[existing]`.",
        bad: "HT-0009999, which the registry has not",
        good: "HT-0004213",
        ..Entry::new(Code::KeyNotFound, Scope::Keys, Level::Stop, "no record with this key is there")
    },
    Entry {
        why: "The target gives this number when it adds the record; one that the file brings along would be refused, or take another record's place.",
        remedy: "Leave the cell blank; use mode `update` or `both` where the row is meant for a record that is there.",
        bad: "1042 in a file that adds",
        good: "(blank)",
        least: Level::Stop,
        ..Entry::new(Code::KeyNumbered, Scope::Keys, Level::Stop, "the target numbers new records itself")
    },
    Entry {
        why: "Several of the existing records have the same key, so that it is not known which one a row would change: the first is taken; or some have none, and no row can meet them.",
        remedy: "Look at the source of existing records: it may be no export of one table, or its key may be another than the record's.",
        bad: "HT-0004213 twice in the export",
        good: "each key once",
        ..Entry::new(Code::ExistingRepeated, Scope::Keys, Level::Warn, "existing records have the same key")
    },
    Entry {
        why: "Values are compared, not how they are written. What an existing record has, and its field cannot read, equals no value of the file, so that every row seems to change it.",
        remedy: "Say how the source is written, in a plan of its own: `plan = \"export.plan.toml\"` under [existing], and there `true`, `false` and `dates` under [read], or words under [values.FIELD].",
        bad: "oui in an export, where the record schema has a boolean",
        good: "true = [\"oui\"] under [read] of the export's plan",
        ..Entry::new(
            Code::ExistingUnread,
            Scope::Keys,
            Level::Warn,
            "values of existing records cannot be read",
        )
    },
    Entry {
        why: "The record schema names no key, so rows that are the same record cannot be seen.",
        remedy: "Name the key in the record schema: `key = [\"tag_no\"]`.",
        bad: "a record schema without `key`",
        good: "key = [\"tag_no\"]",
        ..Entry::new(Code::KeyNone, Scope::Keys, Level::Note, "the record has no key")
    },
    Entry {
        why: "Two keys that differ in case, spaces or leading zeros alone are most likely one record written twice.",
        remedy: "Write the key the same way in all rows, or correct the one that is wrong.",
        bad: "HT-0042 and ht-42",
        good: "HT-0042 and HT-0043",
        ..Entry::new(
            Code::KeyNearlyRepeated,
            Scope::Keys,
            Level::Warn,
            "the key is nearly the same as another",
        )
    },
    Entry {
        why: "The record has no key, and this row is equal to another in every field: it would be loaded twice.",
        remedy: "Delete the second one, unless both are meant.",
        bad: "W07-MILL,Good,2026-03-09 in rows 12 and 40",
        good: "W07-MILL,Good,2026-03-09 once",
        ..Entry::new(Code::RowRepeated, Scope::Keys, Level::Warn, "the whole row stands more than once")
    },
    Entry {
        why: "Different keys, but the fields that describe the record agree, case, accents, spaces and the order of words aside: the same thing was most likely written down twice.",
        remedy: "Look at the rows that the finding names; delete one of them, or leave both where they are two things.",
        bad: "HT-0004213 and HT-0004871, both Common Lime, W07-MILL, 2019-11-20, 52",
        good: "HT-0004213 and HT-0004871 with positions of their own",
        ..Entry::new(
            Code::DuplicateLikely,
            Scope::Keys,
            Level::Warn,
            "different keys, but the rows describe the same thing",
        )
    },
];
