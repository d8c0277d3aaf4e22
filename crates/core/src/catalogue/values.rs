use super::code::Code;
use super::entry::{Entry, Scope, Tag};
use super::level::Level;

pub(super) const ENTRIES: &[Entry] = &[
    Entry {
        otherwise: Some("a warning for an advised field"),
        why: "The target refuses a record without this value.",
        remedy: "Fill the cell. If the value is not known, ask whoever prepared the file.",
        bad: "(blank)",
        good: "W07-MILL",
        least: Level::Stop,
        ..Entry::new(Code::RequiredBlank, Scope::Values, Level::Stop, "a required value is missing")
    },
    Entry {
        why: "The target stores whole numbers here and would refuse the cell or cut it.",
        remedy: "Write digits alone, with a minus where needed: no decimals, units or spaces.",
        bad: "4.0, 12 cm, 1e3",
        good: "4",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind],
        ..Entry::new(Code::IntegerBad, Scope::Values, Level::Stop, "not a whole number")
    },
    Entry {
        why: "The target stores numbers here and would refuse the cell.",
        remedy: "Write digits with a decimal point: no units, no grouping marks.",
        bad: "142cm, 1,5",
        good: "142, 1.5",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind],
        ..Entry::new(Code::DecimalBad, Scope::Values, Level::Stop, "not a number")
    },
    Entry {
        why: "The target would round the number or refuse it.",
        remedy: "Round the number on purpose, or check that it stands in the right column.",
        bad: "142.375 (one decimal permitted)",
        good: "142.4",
        ..Entry::new(Code::DigitsTooMany, Scope::Values, Level::Stop, "more digits than the field holds")
    },
    Entry {
        why: "The value is outside what is possible or permitted; often a slipped digit or another unit.",
        remedy: "Check the value at its source.",
        bad: "14200 (between 1 and 1,500)",
        good: "142",
        ..Entry::new(Code::OutOfRange, Scope::Values, Level::Stop, "outside the permitted range")
    },
    Entry {
        why: "The target would cut the text or refuse the record.",
        remedy: "Shorten the text, or move a part of it to another field.",
        bad: "a name of 61 characters (at most 60)",
        good: "a name of 60 characters",
        ..Entry::new(Code::TextTooLong, Scope::Values, Level::Stop, "longer than the field")
    },
    Entry {
        why: "So short a text is most likely a slip or a cut value.",
        remedy: "Write the whole value.",
        bad: "A (at least 3 characters)",
        good: "Ash",
        ..Entry::new(Code::TextTooShort, Scope::Values, Level::Stop, "shorter than permitted")
    },
    Entry {
        why: "The value does not have the form the target expects, so it identifies nothing there.",
        remedy: "Write the value in the form that the finding names.",
        bad: "4213 (HT- and seven digits)",
        good: "HT-0004213",
        tags: &[Tag::OtherKind],
        ..Entry::new(Code::PatternBroken, Scope::Values, Level::Stop, "not of the expected form")
    },
    Entry {
        why: "The target tells upper and lower case apart here: the same value in other letters is another value.",
        remedy: "Write the value in the case that the finding names.",
        bad: "ht-0004213",
        good: "HT-0004213",
        ..Entry::new(Code::CaseWrong, Scope::Values, Level::Stop, "in the wrong case")
    },
    Entry {
        why: "The target holds yes or no here and cannot tell which is meant.",
        remedy: "Write yes or no, true or false, y or n, 1 or 0.",
        bad: "perhaps",
        good: "yes",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind, Tag::Word],
        ..Entry::new(Code::BooleanBad, Scope::Values, Level::Stop, "neither yes nor no")
    },
    Entry {
        why: "The text is a date in none of the permitted forms, so no day can be read from it.",
        remedy: "Write the date in a permitted form, or state the form the file uses with `--dates`.",
        bad: "last May, 31.12.2019",
        good: "2019-12-31",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind],
        ..Entry::new(Code::DateBad, Scope::Values, Level::Stop, "not a date in any permitted form")
    },
    Entry {
        why: "The form is right, but there is no such day.",
        remedy: "Look the day up at its source; never guess a neighbour.",
        bad: "2021-06-31",
        good: "2021-06-30",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind],
        ..Entry::new(Code::DateImpossible, Scope::Values, Level::Stop, "a day that does not exist")
    },
    Entry {
        why: "The permitted forms read this cell as two different days.",
        remedy: "State one form alone: `--dates dd/MM/yyyy` or `--dates MM/dd/yyyy`.",
        bad: "03/04/2021 (both dd/MM/yyyy and MM/dd/yyyy permitted)",
        good: "2021-04-03",
        least: Level::Stop,
        tags: &[Tag::NoValue],
        ..Entry::new(Code::DateUnclear, Scope::Values, Level::Stop, "day and month could be either way round")
    },
    Entry {
        why: "The century was chosen by rule: within 80 years before and 20 years after today.",
        remedy: "Write the year with four digits.",
        bad: "31/12/19",
        good: "31/12/2019",
        ..Entry::new(Code::DateTwoDigitYear, Scope::Values, Level::Warn, "a year of two digits")
    },
    Entry {
        otherwise: Some("a warning on an open list"),
        why: "The target permits only the values of its picklist here.",
        remedy: "Use a permitted value; where a nearest one is named, check that it is what was meant.",
        bad: "Goood",
        good: "Good",
        tags: &[Tag::OtherKind, Tag::Word],
        ..Entry::new(Code::OffList, Scope::Values, Level::Stop, "not a value of the picklist")
    },
    Entry {
        why: "The value was permitted once; new records may no longer carry it.",
        remedy: "Choose the value that replaced it.",
        bad: "Not assessed (retired)",
        good: "Good",
        tags: &[Tag::Word],
        ..Entry::new(Code::OffListRetired, Scope::Values, Level::Stop, "a retired value of the picklist")
    },
    Entry {
        why: "No message could be sent to such an address.",
        remedy: "Write one plain address: name@example.org, with no name, brackets or second address beside it.",
        bad: "j.marsh@harrowmere",
        good: "j.marsh@harrowmere.example",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind],
        ..Entry::new(Code::EmailBad, Scope::Values, Level::Stop, "not an e-mail address")
    },
    Entry {
        why: "The number is not written with the marks that the plan states; read with the other ones it would be \
              another number.",
        remedy: "Write the column with one decimal mark, or state the right one in the plan's [read].",
        bad: "12.5, where decimal_mark = \",\"",
        good: "12,5",
        least: Level::Stop,
        tags: &[Tag::NoValue],
        ..Entry::new(
            Code::DecimalMark,
            Scope::Values,
            Level::Stop,
            "a number that reads well with the other decimal mark",
        )
    },
    Entry {
        why: "The plan's clear word empties a field, but this one must always have a value, or the record is only \
              being added and has nothing to be emptied.",
        remedy: "Leave the cell blank to keep what is there, or give a value.",
        bad: "(empty) under condition, which is required",
        good: "Good",
        least: Level::Stop,
        ..Entry::new(Code::ClearNotAllowed, Scope::Values, Level::Stop, "this cannot be emptied")
    },
    Entry {
        why: "The target cannot store what is no time of day, or no length of time.",
        remedy: "Write a time as HH:mm, or state its form with `times` in the plan's [read]; write a length of time as 2:30 or PT2H30M.",
        bad: "quarter past nine",
        good: "09:15",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind],
        ..Entry::new(Code::TimeBad, Scope::Values, Level::Stop, "not a time, or not a permitted form of one")
    },
    Entry {
        why: "A number that nobody can dial is worse than none.",
        remedy: "Write it with its country code, as +44 20 7946 0018; national forms are read where the field names its region.",
        bad: "7946",
        good: "+44 20 7946 0018",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind],
        ..Entry::new(Code::PhoneBad, Scope::Values, Level::Stop, "not a phone number")
    },
    Entry {
        why: "The link would lead nowhere, or somewhere unsafe.",
        remedy: "Write the whole address, beginning with https://.",
        bad: "www.trees.example",
        good: "https://www.trees.example/",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind],
        ..Entry::new(Code::UrlBad, Scope::Values, Level::Stop, "not an address of the web")
    },
    Entry {
        why: "The target expects 32 hexadecimal digits in five groups.",
        remedy: "Copy the identifier whole, with its hyphens.",
        bad: "123e4567e89b12d3",
        good: "123e4567-e89b-12d3-a456-426614174000",
        least: Level::Stop,
        tags: &[Tag::NoValue, Tag::OtherKind],
        ..Entry::new(Code::UuidBad, Scope::Values, Level::Stop, "not a UUID")
    },
    Entry {
        why: "The target has no room for so many values.",
        remedy: "Keep the values that matter most.",
        bad: "lean; fungus; deadwood; cavity; root (at most 4)",
        good: "lean; fungus; deadwood; cavity",
        ..Entry::new(
            Code::ListTooMany,
            Scope::Values,
            Level::Stop,
            "more values in a cell than the field takes",
        )
    },
    Entry {
        why: "A value can be given once; the second one may stand for another.",
        remedy: "Take the second one out, or correct it.",
        bad: "lean; fungus; lean",
        good: "lean; fungus",
        ..Entry::new(Code::ListRepeated, Scope::Values, Level::Stop, "the same value twice in one cell")
    },
    Entry {
        why: "Read as it stands, the cell is one value that is not on the list.",
        remedy: "Put the separator of the record schema between the values.",
        bad: "lean, fungus (the separator is ;)",
        good: "lean; fungus",
        least: Level::Stop,
        ..Entry::new(
            Code::ListSeparator,
            Scope::Values,
            Level::Stop,
            "several values with another separator between them",
        )
    },
    Entry {
        why: "The record that this refers to is not there; the load would fail or point nowhere.",
        remedy: "Correct the key, or add the record it refers to first.",
        bad: "W07-MIL",
        good: "W07-MILL",
        least: Level::Stop,
        tags: &[Tag::OtherKind, Tag::Word],
        ..Entry::new(Code::ReferenceUnknown, Scope::Values, Level::Stop, "no such key")
    },
    Entry {
        why: "Two records have this name, and nobody can tell which is meant.",
        remedy: "Give the key instead of the name.",
        bad: "Mill Lane (in two wards)",
        good: "W07-MILL",
        least: Level::Stop,
        tags: &[Tag::OtherKind, Tag::Word],
        ..Entry::new(Code::ReferenceUnclear, Scope::Values, Level::Stop, "this stands for several keys")
    },
    Entry {
        why: "Each of these records is, by way of others, its own parent: whatever walks up from one of them never arrives.",
        remedy: "Take one of the references out, or let it name the right record.",
        bad: "HT-1 below HT-2, and HT-2 below HT-1",
        good: "HT-2 below HT-1 alone",
        ..Entry::new(
            Code::ReferenceCycle,
            Scope::Values,
            Level::Warn,
            "records refer to each other in a circle",
        )
    },
    Entry {
        why: "Nothing was given to hold the references against, so that wrong ones cannot be seen.",
        remedy: "Give the keys with --reference NAME=FILE:COLUMN, or in the plan's [references.NAME]. References of a record to itself are held against the file, and against the existing records where those are given.",
        bad: "site_code, without --reference site=sites.csv:site_code",
        good: "--reference site=sites.csv:site_code",
        ..Entry::new(Code::ReferenceUnchecked, Scope::Headings, Level::Warn, "references were not looked up")
    },
    Entry {
        why: "Read with a comma before the decimals it is one number, read with one between thousands it is another a \
              thousand times as large, and no other cell of the column decides.",
        remedy: "State `decimal_mark` in the plan's [read], or write the column without marks between thousands.",
        bad: "1,234 in a column that holds no other mark",
        good: "1234, or decimal_mark = \",\" in the plan's [read]",
        least: Level::Stop,
        tags: &[Tag::NoValue],
        ..Entry::new(
            Code::NumberUnclear,
            Scope::Values,
            Level::Stop,
            "the mark could part thousands or begin the decimals",
        )
    },
    Entry {
        why: "No cell of this written form shows the order of day and month; those of other forms in the column do, \
              and theirs was taken. Two people may have written them, each in an order of their own.",
        remedy: "Ask whether the order is right; state the form in a plan, or have the dates written as yyyy-MM-dd.",
        bad: "03/14/2025, with 12.05.2025 beside it",
        good: "2025-03-14, 2025-12-05",
        ..Entry::new(
            Code::DateOrderBorrowed,
            Scope::Values,
            Level::Warn,
            "the order of day and month was taken over from dates of another form",
        )
    },
];
