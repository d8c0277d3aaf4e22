use super::{Code, Entry, Level, Scope};

pub(super) const ENTRIES: &[Entry] = &[
    Entry {
        why: "Without its key a record cannot be told from others, found again or updated.",
        remedy: "Fill the key of the record.",
        bad: "(blank tag number)",
        good: "HT-0004213",
        ..Entry::new(Code::KeyBlank, Scope::Keys, Level::Stop, "the key, or a part of it, is missing")
    },
    Entry {
        why: "Two rows would become the same record: the later one would overwrite the earlier, or fail.",
        remedy: "Decide which row is right, or give one of them its own key; every row of the repeat is held until then.",
        bad: "HT-0004213 in rows 5 and 88",
        good: "HT-0004213 once",
        ..Entry::new(Code::KeyRepeated, Scope::Keys, Level::Stop, "the same key stands in several rows")
    },
    Entry {
        why: "The target permits this combination of values once.",
        remedy: "Decide which row is right; every row of the repeat is held until then.",
        bad: "site W07-MILL, position 12 in rows 5 and 88",
        good: "site W07-MILL, position 12 once",
        ..Entry::new(
            Code::UniqueRepeated,
            Scope::Keys,
            Level::Stop,
            "a combination that must not repeat stands in several rows",
        )
    },
    Entry {
        why: "The record schema names no key, so rows that are the same record cannot be seen.",
        remedy: "Name the key in the record schema: `key = [\"tag_no\"]`.",
        bad: "a record schema without `key`",
        good: "key = [\"tag_no\"]",
        ..Entry::new(Code::KeyNone, Scope::Keys, Level::Note, "the record has no key")
    },
];
