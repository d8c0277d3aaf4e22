//! What only a workbook can have.

use super::code::Code;
use super::entry::{Entry, Scope, Tag};
use super::level::Level;

pub(super) const ENTRIES: &[Entry] = &[
    Entry {
        why: "Several sheets could be the one that was meant. The wrong one would load old or copied rows.",
        remedy: "Name the sheet: `--sheet NAME`.",
        bad: "the sheets Survey and Survey (2), both with the record's headings",
        good: "--sheet Survey",
        least: Level::Stop,
        tags: &[Tag::EndsWork],
        ..Entry::new(Code::SheetUnclear, Scope::File, Level::Stop, "several sheets hold data that fits")
    },
    Entry {
        why: "Somebody may have hidden the rows to leave them out; they are read and judged like all others.",
        remedy: "Show the rows and look at them; delete those that are not to be loaded.",
        bad: "rows 12 to 40 hidden",
        good: "all rows shown",
        ..Entry::new(Code::RowsHidden, Scope::File, Level::Warn, "rows are hidden")
    },
    Entry {
        why: "The columns are read like all others, though nobody who opens the sheet sees them.",
        remedy: "Show them and look whether they are meant to be loaded.",
        bad: "column C hidden",
        good: "all columns shown",
        ..Entry::new(Code::ColumnsHidden, Scope::File, Level::Note, "columns are hidden")
    },
    Entry {
        why: "Whoever prepared the sheet saw a part of its rows; all of them are read.",
        remedy: "Take the filter off and look at the rows it hid.",
        bad: "a filter on Ward = 7",
        good: "no filter",
        ..Entry::new(Code::FilterActive, Scope::File, Level::Warn, "a filter was left on")
    },
    Entry {
        why: "A merged range has one value, at its top left; the cells below and beside it are blank.",
        remedy: "Undo the merging and write the value into each cell.",
        bad: "A2:A9 merged",
        good: "the value in each of A2 to A9",
        ..Entry::new(Code::CellsMerged, Scope::File, Level::Warn, "cells are merged")
    },
    Entry {
        why: "The formula was never calculated, so the file holds no value there; the cell was taken as blank.",
        remedy: "Open the file in a spreadsheet program, let it calculate, and save it.",
        bad: "=B2*2 without a result",
        good: "=B2*2 with its result 25",
        ..Entry::new(Code::FormulaStale, Scope::Values, Level::Warn, "a formula without a stored result")
    },
    Entry {
        why: "The sheet keeps the number as text: it does not sort or sum there. It can be read all the same.",
        remedy: "Nothing needs to be done for the load; turn the column into numbers in the spreadsheet.",
        bad: "'12.5 (as text)",
        good: "12.5 (as a number)",
        ..Entry::new(Code::NumberAsText, Scope::Values, Level::Note, "a number kept as text")
    },
];
