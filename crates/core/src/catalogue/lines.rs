use super::code::Code;
use super::entry::{Entry, Scope};
use super::level::Level;

pub(super) const ENTRIES: &[Entry] = &[
    Entry {
        why: "The rows of one record carry different values in a field of which the record has one; which of them holds cannot be told.",
        remedy: "Correct the row that is wrong, or leave the cell blank: then it takes the value of the record's first row.",
        bad: "HT-0004213, W07-MILL in row 5 and HT-0004213, W09-KILN in row 6",
        good: "HT-0004213, W07-MILL in both rows",
        ..Entry::new(Code::HeaderDiffers, Scope::Lines, Level::Stop, "the rows of one record disagree")
    },
    Entry {
        why: "The key of a line must tell it from the other lines of its record: one of them would overwrite the other, or fail.",
        remedy: "Decide which row is right, or give one of them a key of its own.",
        bad: "HT-0004213, visit 2 in rows 5 and 7",
        good: "HT-0004213, visits 2 and 3",
        least: Level::Stop,
        ..Entry::new(
            Code::LineRepeated,
            Scope::Lines,
            Level::Stop,
            "the same line stands twice in one record",
        )
    },
    Entry {
        why: "The row leaves the record's key blank, which means \"as above\", but no record stands above it; or it has header cells of its own, and might begin another record as well as continue one.",
        remedy: "Fill the key; or leave all header cells blank in the further rows of a record. Where the target gives the number, say so in the record schema: `numbered = true`.",
        bad: "a first row with a blank tag number",
        good: "HT-0004213 in the first row, blank below it",
        least: Level::Stop,
        ..Entry::new(Code::LineWithoutHeader, Scope::Lines, Level::Stop, "a line stands above any record")
    },
    Entry {
        why: "The rows of a record stand together; a second run of rows with the same key is another record, or this one went astray.",
        remedy: "Sort the file by the record's key, or correct the key of the second run.",
        bad: "HT-0004213 in rows 5 to 7, and in row 30 again",
        good: "HT-0004213 in rows 5 to 8",
        least: Level::Stop,
        ..Entry::new(
            Code::LinesApart,
            Scope::Lines,
            Level::Stop,
            "the rows of one record do not stand together",
        )
    },
    Entry {
        why: "The record schema says how many lines a record has at least; rows of this record may be missing.",
        remedy: "Add the missing rows, or lower `min` in [lines] of the record schema.",
        bad: "one visit, with count = { min = 2 }",
        good: "two visits",
        ..Entry::new(Code::LinesTooFew, Scope::Lines, Level::Stop, "the record has too few lines")
    },
    Entry {
        why: "The record schema says how many lines a record may have; the target takes no more.",
        remedy: "Split the record, take lines out, or raise `max` in [lines] of the record schema.",
        bad: "five visits, with count = { max = 4 }",
        good: "four visits",
        ..Entry::new(Code::LinesTooMany, Scope::Lines, Level::Stop, "the record has too many lines")
    },
];
