//! The catalogue of causes: what each is, how it comes about, what removes it.

use schemars::JsonSchema;
use serde::Serialize;
use std::fmt;
use std::str::FromStr;

/// A kind of cause and what is known of it.
#[derive(Debug, Clone, Copy)]
pub struct CauseEntry {
    /// The code.
    pub code: CauseCode,
    /// What it is, in one line.
    pub title: &'static str,
    /// How it comes about, and how it is told.
    pub why: &'static str,
    /// What removes it.
    pub remedy: &'static str,
    /// What whoever prepared the file can do.
    pub ask: &'static str,
    /// An example.
    pub example: &'static str,
}

macro_rules! causes {
    ($($variant:ident = $name:literal: $title:literal, $why:literal, $remedy:literal, $ask:literal, $example:literal;)*) => {
        /// The stable code of a kind of cause.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, JsonSchema)]
        pub enum CauseCode {
            $(#[doc = $title] #[serde(rename = $name)] $variant,)*
        }

        impl CauseCode {
            /// All codes.
            pub const ALL: &[Self] = &[$(Self::$variant),*];

            /// Its name.
            #[must_use]
            pub const fn name(self) -> &'static str {
                match self { $(Self::$variant => $name,)* }
            }
        }

        const ENTRIES: &[CauseEntry] = &[$(CauseEntry {
            code: CauseCode::$variant, title: $title, why: $why, remedy: $remedy, ask: $ask, example: $example,
        },)*];
    };
}

causes! {
    BlankBelowGroups = "blank-below-groups": "cells are blank below one that was meant for all of them",
        "A report shows a value once for a group of rows, or cells were merged; taken apart, the rows below have none. Told where the first row of a needed column is filled, half of its cells and more are blank, and each run of them stands below a filled one.",
        "Ask the sender to fill the value down; in a spreadsheet: select the column, go to the blank cells, enter \"= the cell above\" in all of them. Nothing is filled in on a guess.",
        "Fill each value down to all rows it is meant for.",
        "Ward 7, then two blank cells, then Ward 8";
    CellsShifted = "cells-shifted": "cells stand one column further right than they belong",
        "A text with a delimiter in it was written without quotes, or a cell was inserted: all that stands behind it moves. Told where rows have a cell too many, or where the cells behind a place fit the column on their left.",
        "Ask the sender to put texts that hold the delimiter in quotes, or to export again; a few rows are mended by hand.",
        "Export again with texts in quotes that hold the delimiter; or move the cells of these rows back to their headings.",
        "HT-0042,Lime, common,12.5 under Tag,Species,Girth";
    ColumnsSwapped = "columns-swapped": "the values of two columns stand under each other's headings",
        "Columns were moved, or headings typed over. Told where most values of a column do not fit its field and those of another column would.",
        "Pair the columns with the right fields in the plan, as the remedy shows.",
        "Put each column under its own heading again.",
        "dates under Girth, numbers under Planted on";
    DateForm = "date-form": "a column writes its dates or times in another form than was stated",
        "The sender's program writes them in the form of another country, or without marks. Told where one form reads nearly all that could not be read; of dates it is held against all of the column.",
        "State the form under [read.fields.FIELD] of the plan, as the remedy shows.",
        "Write dates and times as the schema has them, best as yyyy-MM-dd and HH:mm; or say which form this is.",
        "31/12/2025 where MM/dd/yyyy is stated";
    DateOrder = "date-order": "day and month could be either way round",
        "No day of the column is beyond the twelfth, so that its order cannot be told. Where another column of the file tells, the remedy goes by that.",
        "State the order under [read.fields.FIELD] of the plan; where the file does not tell, ask the sender.",
        "Say whether the day or the month comes first; best write dates as yyyy-MM-dd.",
        "03/04/2025 in all rows";
    DatesMoved = "dates-moved": "the dates of a column have all moved by the same time",
        "Two-digit years were read as another century, a workbook counts days from 1904, or a zone took a day away. Told where dates out of their range would all be within it after the same shift.",
        "Ask the sender for the right dates: which of the others have moved as well, only the sender knows.",
        "Look the right dates up: all of these have moved by the same time.",
        "1926-05-01 for 2026-05-01";
    DecimalMark = "decimal-mark-other": "numbers are written with the other decimal mark",
        "A program of another country wrote them. Told where numbers read well with comma and point turned about.",
        "State the mark under [read.fields.FIELD] of the plan where most numbers have it; else let `mend` write the others as the column does.",
        "Write all numbers with the same decimal mark.",
        "12,5 in a column of points";
    EncodingWrong = "encoding-wrong": "some bytes are no text in the file's encoding",
        "Parts of the file were written in another encoding than the rest, as when two exports are put one behind the other.",
        "Ask the sender to export again, as UTF-8 throughout.",
        "Export again, as UTF-8 throughout.",
        "Caf\\xE9 in a file in UTF-8";
    HeadingsRepeated = "headings-repeated": "the headings stand again among the rows",
        "Several sheets or exports were pasted one below the other, each with its headings.",
        "Delete the rows that the remedy names.",
        "Delete the rows in which the headings stand again.",
        "Tag,Species,Girth in row 120";
    KeysDragged = "keys-dragged": "values that count up row by row where they should stay or be others",
        "A cell was dragged down and the spreadsheet counted on. Told where unknown values rise by one from row to row.",
        "Ask the sender for the right values; nothing tells them from the file.",
        "Look the right values up: the spreadsheet counted on where they should stay.",
        "W03-MILL, W04-MILL, W05-MILL";
    LeadingZeros = "leading-zeros": "leading zeros are lost",
        "A spreadsheet took codes for numbers. Told where the field's pattern fits once zeros are put back.",
        "Let `mend` put them back.",
        "Format the column as text and put the leading zeros back.",
        "42 for 0042";
    LetterCase = "letter-case": "values are in the wrong case",
        "The schema asks for capital or small letters. Told where a value fits once its case is changed.",
        "Let `mend` write them as the schema asks.",
        "Write the values in the case that the schema asks for.",
        "w03-mill for W03-MILL";
    ModeWrong = "mode-wrong": "the file is loaded in the wrong mode",
        "Most keys are there already though records are to be added, or none is though they are to be updated.",
        "State the other mode in the plan, as the remedy shows, once it is clear what the file is for.",
        "Say whether these records are new or are to be changed.",
        "an update sent as new records";
    OneValue = "one-value": "nearly all of a fault stands in rows with one value of another column",
        "One sender, month, ward or kind made the fault. Told where rows with the value have it far more often than others and hold most of it.",
        "Ask whoever wrote those rows; a rule that does not hold for them belongs into the record schema.",
        "Look at the rows with this value: what is missing or wrong in nearly all of them?",
        "all blank girths are those of Ward 9";
    RecordWrong = "record-wrong": "few headings belong to this record schema",
        "The file is for another record, or another sheet of the workbook was meant.",
        "Name the record schema that the file is for with --record, or its sheet with --sheet.",
        "Send the sheet whose headings are those of the template.",
        "an export of sites checked as trees";
    RowsNotRecords = "rows-not-records": "totals or notes stand among the rows",
        "A report was sent instead of its rows: with sums of groups, or remarks between them.",
        "Delete the rows that the remedy names.",
        "Delete totals and notes: rows of records alone.",
        "Total ward 7, 120 in row 88";
    RowsPastedTwice = "rows-pasted-twice": "a block of rows stands in the file twice",
        "Rows were pasted or exported twice. Told where rows behind one another repeat rows behind one another, throughout.",
        "Delete the second block, whose rows the remedy names.",
        "Delete the second block of rows.",
        "rows 101 to 150 repeat rows 2 to 51";
    SeparatorOther = "separator-other": "several values of a cell are parted by another mark than the schema's",
        "Told where a cell holds permitted values alone once it is parted at another mark.",
        "Let `mend` write the schema's mark.",
        "Put the mark between several values that the schema has.",
        "Decay, Leaning for Decay; Leaning";
    StrayCharacters = "stray-characters": "cells hold spaces or invisible characters that nobody meant",
        "Texts were copied from pages or other programs. They are read as what they mean; whoever searches them later finds nothing.",
        "Let `mend` take them out; ready rows carry values without outer spaces in any case.",
        "Take out spaces and invisible characters that nobody meant; what was copied from pages often has them.",
        "a no-break space behind Lime";
    TextDecodedTwice = "text-decoded-twice": "letters beyond ASCII were turned into two or three others",
        "UTF-8 was read as Windows-1252 and written again.",
        "Ask the sender to export again as UTF-8.",
        "Export again as UTF-8; letters such as \u{e9} were turned into two others.",
        "Ã© for é";
    UnitInCells = "unit-in-cells": "units stand in the cells of a number",
        "Told where most numbers that could not be read are numbers with the same word or mark behind them.",
        "Let `mend` take it away where it is the field's own `unit`; else ask for numbers alone.",
        "Write the number alone; its unit belongs into the heading.",
        "18.4 cm";
    WordsOffList = "words-off-list": "words that are not on a field's list",
        "The sender uses other words, other spellings or another version of the list.",
        "Say under [values.FIELD] of the plan which value each word stands for, as the remedy shows; what is like nothing on the list goes back to the sender.",
        "Choose the words from the drop-down, or say what each of these means.",
        "Silver brich for Silver birch";
    YesNoWords = "yes-no-words": "yes and no in other words",
        "The sender writes another language, or other signs.",
        "Say under [values.FIELD] of the plan what each word means, as the remedy shows.",
        "Write yes or no, or say what each of these words means.",
        "ja and nein";
}

impl fmt::Display for CauseCode {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

impl FromStr for CauseCode {
    type Err = ();

    fn from_str(text: &str) -> Result<Self, ()> {
        Self::ALL.iter().find(|code| code.name() == text).copied().ok_or(())
    }
}

/// All causes, in the order of their names.
pub fn cause_entries() -> impl Iterator<Item = &'static CauseEntry> {
    ENTRIES.iter()
}

/// What is known of a cause.
#[must_use]
pub fn cause_entry(code: CauseCode) -> Option<&'static CauseEntry> {
    ENTRIES.iter().find(|entry| entry.code == code)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_cause_stands_once_in_the_order_of_the_names() {
        assert!(CauseCode::ALL.is_sorted_by_key(|code| code.name()));
        for code in CauseCode::ALL {
            assert_eq!(code.name().parse(), Ok(*code));
            assert!(cause_entry(*code).is_some());
        }
    }
}
