use super::code::Code;
use super::entry::{Entry, Scope, Tag};
use super::level::Level;

pub(super) const ENTRIES: &[Entry] = &[
    Entry {
        why: "There is nothing to load. Often the wrong file was sent, or an export ran before its data was there.",
        remedy: "Ask the sender for the file with its rows.",
        bad: "tag_no,site_code (and no further line)",
        good: "tag_no,site_code / HT-0004213,W07-MILL",
        least: Level::Stop,
        ..Entry::new(Code::FileEmpty, Scope::File, Level::Stop, "the file holds no rows")
    },
    Entry {
        why: "Everything behind the open quote was swallowed as one cell: rows are missing that nobody sees.",
        remedy: "Close the quoted cell where it should end; a quote inside a quoted cell is doubled.",
        bad: "HT-0004213,\"leans over path",
        good: "HT-0004213,\"leans over path\"",
        least: Level::Stop,
        ..Entry::new(Code::QuoteOpen, Scope::File, Level::Stop, "a quoted cell never closes")
    },
    Entry {
        why: "The mark was read as a character, or text behind a closing quote was appended; other programs \
              may read the row differently.",
        remedy: "Put the whole cell in quotes and double the quote inside it.",
        bad: "girth 5\" at base",
        good: "\"girth 5\"\" at base\"",
        ..Entry::new(Code::QuoteStray, Scope::File, Level::Warn, "a quote stands where it has no place")
    },
    Entry {
        otherwise: Some("a note where the surplus cells are blank, or missing ones are stated to be"),
        why: "The cells of the row may stand under the wrong headings, so none of them is judged.",
        remedy: "Look for a delimiter that is not in quotes, or a cell that was dropped. Some programs drop the blank \
                 cells at a row's end: `--short-rows blank` says that this one does.",
        bad: "HT-0004213,Mill Lane, north side,G (under three headings)",
        good: "HT-0004213,\"Mill Lane, north side\",G",
        least: Level::Stop,
        ..Entry::new(
            Code::RowWidth,
            Scope::File,
            Level::Stop,
            "the row has more or fewer cells than there are headings",
        )
    },
    Entry {
        otherwise: Some("a warning where the text was encoded twice, so that é became Ã©"),
        why: "The bytes are no text in the file's encoding, or the text was spoilt on its way here; what would be \
              loaded is not what was written.",
        remedy: "Save the file as UTF-8, or ask the sender for it in that encoding.",
        bad: "Caf\u{FFFD} Row (the byte E9 in a UTF-8 file)",
        good: "Café Row",
        ..Entry::new(
            Code::EncodingDoubt,
            Scope::File,
            Level::Stop,
            "a cell holds bytes that cannot be read in the file's encoding",
        )
    },
    Entry {
        why: "Nobody stated how the file is laid out, so it was read off the file itself. A wrong guess would \
              misread every row.",
        remedy: "Look whether it is right; state it with --delimiter, --encoding, --heading-row, --first-row or \
                 --last-row where it is not.",
        bad: "(semicolons between the cells, and a title above the headings)",
        good: "(commas, UTF-8, headings in the first row)",
        tags: &[Tag::Layout],
        ..Entry::new(Code::LayoutGuessed, Scope::File, Level::Note, "the layout was read off the file")
    },
    Entry {
        why: "The row, the last one or above the notes below the table, sums the rows above it; loaded, it would become a \
              record of its own. It was left out.",
        remedy: "Delete the row; where it is a record after all, state the last row with --last-row.",
        bad: "Total,,3481",
        good: "(no such row)",
        tags: &[Tag::Layout],
        ..Entry::new(Code::TotalRow, Scope::File, Level::Warn, "the last row is a total")
    },
    Entry {
        why: "The row is the example of the template, not a record. It was left out.",
        remedy: "Delete the row; where it is a record after all, state the first row with --first-row.",
        bad: "HT-0004213,W07-MILL (the examples of the record schema, right under the headings)",
        good: "(no such row)",
        tags: &[Tag::Layout],
        ..Entry::new(Code::ExampleRow, Scope::File, Level::Warn, "the template's example was left in")
    },
    Entry {
        why: "Characters that steer old terminals and printers stand in no value; many targets refuse them or \
              cut the value there.",
        remedy: "Delete them; they often come from a copy out of another program.",
        bad: "Mill Lane (with the character U+0007 in it)",
        good: "Mill Lane",
        ..Entry::new(Code::ControlCharacters, Scope::File, Level::Warn, "a control character in a cell")
    },
    Entry {
        why: "Rows of delimiters without a value stand at the end of the file. They are no records and are in \
              no count.",
        remedy: "Nothing needs to be done; delete the rows if other programs load them as blank records.",
        bad: ",,,, (as the last lines)",
        good: "(no such lines)",
        ..Entry::new(Code::BlankTail, Scope::File, Level::Note, "the file ends in rows without values")
    },
    Entry {
        otherwise: Some(
            "a warning where a column that was left out on purpose is gone, where there is a new one, and \
                         where the headings have moved",
        ),
        why: "The plan was made for a file that looked otherwise: what it says of columns and rows may no longer hold.",
        remedy: "Look at the file with `tidy-gate match FILE --plan PLAN`, and save what is right: `--save PLAN`.",
        bad: "a plan with \"Cond.\" = \"condition\", and a file that has \"Condition (A-E)\"",
        good: "\"Condition (A-E)\" = \"condition\"",
        ..Entry::new(Code::PlanOutdated, Scope::File, Level::Stop, "the plan no longer fits the file")
    },
    Entry {
        why: "The file was filled on a template of another version of the record schema: fields and picklists may \
              have changed since.",
        remedy: "Check the findings as usual, and hand out a new template: `tidy-gate template RECORD`.",
        bad: "a template of version 2025.2, checked against version 2026.1",
        good: "a template of version 2026.1",
        ..Entry::new(
            Code::TemplateOutdated,
            Scope::File,
            Level::Warn,
            "the template is of another version of the record schema",
        )
    },
    Entry {
        why: "The last row, or that above the notes below the table, is called a total, but its numbers do not sum the \
              rows above it: rows are missing or stand twice, or a number was changed after the total was made. It is no record, and is judged no further.",
        remedy: "Find what the total counts that the rows do not, or the other way round; then delete the row.",
        bad: "Queue,4 / Bob,5 / Total,12",
        good: "Queue,4 / Bob,5 / Total,9",
        least: Level::Stop,
        ..Entry::new(
            Code::TotalWrong,
            Scope::File,
            Level::Stop,
            "the last row is called a total, but does not sum",
        )
    },
    Entry {
        why: "The last row, or one of the last, holds one text that is no value of the field above it, where other rows \
              hold more: a note below the table, such as who made it.",
        remedy: "Nothing needs doing; delete the row if another program reads the file.",
        bad: "Prepared by the survey office",
        good: "(no such line)",
        tags: &[Tag::Layout],
        ..Entry::new(Code::FooterRow, Scope::File, Level::Warn, "the last row is a note below the table")
    },
    Entry {
        why: "One record of the file breaks the rules of JSON, so nothing of it can be judged; the others are.",
        remedy: "Correct the line that is named, or have the file written again by a program.",
        bad: "{\"tag_no\": \"HT-0004213\", \"girth_cm\": }",
        good: "{\"tag_no\": \"HT-0004213\", \"girth_cm\": null}",
        least: Level::Stop,
        ..Entry::new(Code::RecordUnreadable, Scope::File, Level::Stop, "the record cannot be read")
    },
];
