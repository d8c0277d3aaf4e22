//! How a cell was written: damage done by spreadsheets, and suspicions.

use super::code::Code;
use super::entry::{Entry, Scope, Tag};
use super::level::Level;

pub(super) const ENTRIES: &[Entry] = &[
    Entry {
        why: "A formula failed in the spreadsheet, or its column was too narrow to show the value; the value \
              itself is not in the file.",
        remedy: "Put the formula or the column right in the spreadsheet and save the file again.",
        bad: "#N/A",
        good: "W07-MILL",
        least: Level::Stop,
        tags: &[Tag::NoValue],
        ..Entry::new(
            Code::SpreadsheetError,
            Scope::Values,
            Level::Stop,
            "a spreadsheet's error instead of a value",
        )
    },
    Entry {
        why: "A spreadsheet took the text for a number and dropped its leading zeros; the value would match no \
              record, or another one.",
        remedy: "Put the zeros back, and keep the column as text in the spreadsheet.",
        bad: "4213 (for seven digits)",
        good: "0004213",
        ..Entry::new(Code::ZerosLost, Scope::Values, Level::Stop, "leading zeros were lost")
    },
    Entry {
        why: "Spreadsheets keep fifteen digits of a number; those behind are gone for good.",
        remedy: "Take the value from its source again, and keep the column as text in the spreadsheet.",
        bad: "4.53958E+15",
        good: "4539578763621486",
        ..Entry::new(Code::PrecisionLost, Scope::Values, Level::Warn, "digits were lost in a spreadsheet")
    },
    Entry {
        why: "The spreadsheet wrote the number by which it counts days; no target reads it as a date.",
        remedy: "Give the column a date format in the spreadsheet and save the file again.",
        bad: "44197",
        good: "2021-01-01",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind],
        ..Entry::new(
            Code::DateAsNumber,
            Scope::Values,
            Level::Stop,
            "a spreadsheet's day number instead of a date",
        )
    },
    Entry {
        why: "Values that look alike do not match: spaces around a value, doubled or unusual ones tell them apart.",
        remedy: "Nothing needs to be done for outer spaces, which are not loaded; replace the others by one plain \
                 space.",
        bad: "Mill  Lane",
        good: "Mill Lane",
        ..Entry::new(Code::SpaceStray, Scope::Values, Level::Note, "stray spaces")
    },
    Entry {
        why: "Nobody sees the character, but it takes part in every comparison: the value matches no other.",
        remedy: "Type the value anew instead of copying it.",
        bad: "Mill\u{200B} Lane (with a zero-width space behind Mill)",
        good: "Mill Lane",
        ..Entry::new(Code::CharactersInvisible, Scope::Values, Level::Warn, "an invisible character")
    },
    Entry {
        why: "Letters of two scripts stand in one word. It looks right and matches nothing.",
        remedy: "Type the word anew.",
        bad: "M\u{430}ple (with a Cyrillic \u{430})",
        good: "Maple",
        ..Entry::new(
            Code::CharactersLookalike,
            Scope::Values,
            Level::Warn,
            "letters that only look like those beside them",
        )
    },
    Entry {
        why: "Some words and numbers only hold the place of a value that is still to come.",
        remedy: "Find the value, or leave the cell blank; where it is a value, name `placeholder` in the field's \
                 `ignore`.",
        bad: "TBC",
        good: "Mill Lane",
        ..Entry::new(Code::Placeholder, Scope::Values, Level::Note, "perhaps a placeholder")
    },
    Entry {
        why: "A spreadsheet that opens the loaded data runs the text as a formula; that can do harm, or show \
              something else than was written.",
        remedy: "Look at where the value comes from; write it so that it begins with a letter or a digit.",
        bad: "=HYPERLINK(\"http://example.org\")",
        good: "see the report",
        ..Entry::new(Code::FormulaLike, Scope::Values, Level::Warn, "text that a spreadsheet would run")
    },
];
