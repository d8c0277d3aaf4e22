//! Every finding the gate knows: its code, its level, what it means and how to put it right.
//!
//! Codes are stable. One ordered slice, [`entries`], feeds `explain`, the documentation page and the
//! machine reports; the files of this folder hold the entries of one scope each.

mod file;
mod headings;
mod keys;
mod lines;
mod rows;
mod sheets;
mod values;
mod writing;

use schemars::JsonSchema;
use serde::Serialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// How grave a finding is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Level {
    /// Holds its row; without a row, every row.
    Stop,
    /// Holds nothing; somebody should look.
    Warn,
    /// Holds nothing; said so that nothing is silent.
    Note,
}

impl Level {
    /// All levels, the gravest first.
    pub const ALL: [Self; 3] = [Self::Stop, Self::Warn, Self::Note];

    /// The word for it.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Stop => "stop",
            Self::Warn => "warn",
            Self::Note => "note",
        }
    }
}

/// What a finding concerns.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scope {
    /// The file as a whole.
    File,
    /// Its headings and columns.
    Headings,
    /// One cell's value.
    Values,
    /// One row.
    Rows,
    /// Keys and other combinations that must not repeat.
    Keys,
    /// Several rows that make one record.
    Lines,
}

impl Scope {
    /// All scopes, in the order of the catalogue.
    pub const ALL: [Self; 6] =
        [Self::File, Self::Headings, Self::Values, Self::Rows, Self::Keys, Self::Lines];

    /// The heading under which its codes stand.
    #[must_use]
    pub const fn title(self) -> &'static str {
        match self {
            Self::File => "The file",
            Self::Headings => "Headings",
            Self::Values => "Values",
            Self::Rows => "Rows",
            Self::Keys => "Keys",
            Self::Lines => "Lines",
        }
    }
}

/// One kind of finding.
#[derive(Debug, Clone, Copy)]
pub struct Entry {
    /// The code.
    pub code: Code,
    /// The level it has unless its place lowers it.
    pub level: Level,
    /// What may lower or raise the level, if anything.
    pub otherwise: Option<&'static str>,
    /// What it concerns.
    pub scope: Scope,
    /// What it says, in one line.
    pub title: &'static str,
    /// Why it matters.
    pub why: &'static str,
    /// How to put it right.
    pub remedy: &'static str,
    /// An example that has it.
    pub bad: &'static str,
    /// The same example put right.
    pub good: &'static str,
}

impl Entry {
    /// An entry whose texts are still to be filled in.
    const fn new(code: Code, scope: Scope, level: Level, title: &'static str) -> Self {
        Self { code, level, otherwise: None, scope, title, why: "", remedy: "", bad: "", good: "" }
    }
}

macro_rules! codes {
    ($($variant:ident = $name:literal,)*) => {
        /// The stable code of a kind of finding. The order is that of the names.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, JsonSchema)]
        pub enum Code {
            $(#[doc = concat!("`", $name, "`")] #[serde(rename = $name)] $variant,)*
        }

        impl Code {
            /// All codes, in the order of their names.
            pub const ALL: &[Self] = &[$(Self::$variant,)*];

            /// The code as it is written.
            #[must_use]
            pub const fn name(self) -> &'static str {
                match self { $(Self::$variant => $name,)* }
            }
        }
    };
}

codes! {
    BlankTail = "blank-tail",
    BlockIncomplete = "block-incomplete",
    BooleanBad = "boolean-bad",
    CaseWrong = "case-wrong",
    CellsMerged = "cells-merged",
    CharactersInvisible = "characters-invisible",
    CharactersLookalike = "characters-lookalike",
    ClearNotAllowed = "clear-not-allowed",
    ColumnMisfit = "column-misfit",
    ColumnsHidden = "columns-hidden",
    CombinationNotPermitted = "combination-not-permitted",
    ControlCharacters = "control-characters",
    DateAsNumber = "date-as-number",
    DateBad = "date-bad",
    DateImpossible = "date-impossible",
    DateOrderBorrowed = "date-order-borrowed",
    DateTwoDigitYear = "date-two-digit-year",
    DateUnclear = "date-unclear",
    DecimalBad = "decimal-bad",
    DecimalMark = "decimal-mark",
    DefaultOverColumn = "default-over-column",
    DigitsTooMany = "digits-too-many",
    DuplicateLikely = "duplicate-likely",
    EmailBad = "email-bad",
    EncodingDoubt = "encoding-doubt",
    ExampleRow = "example-row",
    FieldMissing = "field-missing",
    FieldOutOfScope = "field-out-of-scope",
    FieldReadOnly = "field-read-only",
    FileEmpty = "file-empty",
    FilterActive = "filter-active",
    FooterRow = "footer-row",
    FormGuessed = "form-guessed",
    FormulaLike = "formula-like",
    FormulaStale = "formula-stale",
    HeaderDiffers = "header-differs",
    HeadingBlank = "heading-blank",
    HeadingClose = "heading-close",
    HeadingRepeated = "heading-repeated",
    HeadingShared = "heading-shared",
    HeadingUnpaired = "heading-unpaired",
    IntegerBad = "integer-bad",
    KeyBlank = "key-blank",
    KeyNearlyRepeated = "key-nearly-repeated",
    KeyNone = "key-none",
    KeyRepeated = "key-repeated",
    LayoutGuessed = "layout-guessed",
    LineRepeated = "line-repeated",
    LineWithoutHeader = "line-without-header",
    LinesApart = "lines-apart",
    LinesTooFew = "lines-too-few",
    LinesTooMany = "lines-too-many",
    ListRepeated = "list-repeated",
    ListSeparator = "list-separator",
    ListTooMany = "list-too-many",
    ModeOutOfScope = "mode-out-of-scope",
    NumberAsText = "number-as-text",
    NumberUnclear = "number-unclear",
    OffList = "off-list",
    OffListRetired = "off-list-retired",
    OutOfRange = "out-of-range",
    PatternBroken = "pattern-broken",
    PhoneBad = "phone-bad",
    Placeholder = "placeholder",
    PlanOutdated = "plan-outdated",
    PrecisionLost = "precision-lost",
    QuoteOpen = "quote-open",
    QuoteStray = "quote-stray",
    RecordUnreadable = "record-unreadable",
    ReferenceUnchecked = "reference-unchecked",
    ReferenceUnclear = "reference-unclear",
    ReferenceUnknown = "reference-unknown",
    RequiredBlank = "required-blank",
    RowBlank = "row-blank",
    RowOutOfScope = "row-out-of-scope",
    RowRepeated = "row-repeated",
    RowWidth = "row-width",
    RowsHidden = "rows-hidden",
    RuleBroken = "rule-broken",
    RuleForbidden = "rule-forbidden",
    RuleRequired = "rule-required",
    RuleUnchecked = "rule-unchecked",
    SheetUnclear = "sheet-unclear",
    SpaceStray = "space-stray",
    SpreadsheetError = "spreadsheet-error",
    TemplateOutdated = "template-outdated",
    TextTooLong = "text-too-long",
    TextTooShort = "text-too-short",
    TimeBad = "time-bad",
    TotalRow = "total-row",
    TotalWrong = "total-wrong",
    UniqueRepeated = "unique-repeated",
    UrlBad = "url-bad",
    UuidBad = "uuid-bad",
    ZerosLost = "zeros-lost",
}

impl std::fmt::Display for Code {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.pad(self.name())
    }
}

impl std::str::FromStr for Code {
    type Err = ();

    fn from_str(text: &str) -> Result<Self, ()> {
        Self::ALL.iter().copied().find(|code| code.name() == text).ok_or(())
    }
}

/// All entries, scope by scope.
pub fn entries() -> impl Iterator<Item = &'static Entry> {
    [
        file::ENTRIES,
        sheets::ENTRIES,
        headings::ENTRIES,
        values::ENTRIES,
        writing::ENTRIES,
        rows::ENTRIES,
        keys::ENTRIES,
        lines::ENTRIES,
    ]
    .into_iter()
    .flatten()
}

/// The entry of a code.
#[must_use]
pub fn entry(code: Code) -> &'static Entry {
    static BY_CODE: LazyLock<BTreeMap<Code, &'static Entry>> =
        LazyLock::new(|| entries().map(|entry| (entry.code, entry)).collect());
    BY_CODE.get(&code).unwrap_or_else(|| unreachable!("a test finds an entry for each code"))
}

/// The least level that a plan may give a code: a stop for all that would load wrong data.
#[must_use]
pub const fn least(code: Code) -> Level {
    use Code as C;
    match code {
        C::BooleanBad
        | C::ClearNotAllowed
        | C::DateAsNumber
        | C::DateBad
        | C::DateImpossible
        | C::DateUnclear
        | C::DecimalBad
        | C::DecimalMark
        | C::EmailBad
        | C::FieldMissing
        | C::FieldOutOfScope
        | C::FileEmpty
        | C::HeadingShared
        | C::IntegerBad
        | C::KeyBlank
        | C::KeyRepeated
        | C::LineRepeated
        | C::LineWithoutHeader
        | C::LinesApart
        | C::ListSeparator
        | C::PhoneBad
        | C::ReferenceUnclear
        | C::ReferenceUnknown
        | C::TimeBad
        | C::UrlBad
        | C::UuidBad
        | C::ModeOutOfScope
        | C::NumberUnclear
        | C::QuoteOpen
        | C::RecordUnreadable
        | C::RequiredBlank
        | C::RowOutOfScope
        | C::RowWidth
        | C::SheetUnclear
        | C::SpreadsheetError
        | C::TotalWrong
        | C::UniqueRepeated => Level::Stop,
        C::DefaultOverColumn => Level::Warn,
        _ => Level::Note,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_code_has_one_whole_entry_and_a_well_formed_name() {
        let names: Vec<_> = Code::ALL.iter().map(|code| code.name()).collect();
        assert!(names.is_sorted(), "codes are compared by their names");
        for code in Code::ALL {
            let found: Vec<_> = entries().filter(|entry| entry.code == *code).collect();
            assert_eq!(found.len(), 1, "{code}");
            let entry = found[0];
            for text in [entry.title, entry.why, entry.remedy, entry.bad, entry.good] {
                assert!(!text.trim().is_empty(), "{code}");
            }
            assert!(
                !entry.title.ends_with('.') && entry.why.ends_with('.') && entry.remedy.ends_with('.'),
                "{code}"
            );
            assert!(code.name().bytes().all(|b| b.is_ascii_lowercase() || b == b'-'), "{code}");
            assert_eq!(code.name().parse(), Ok(*code));
        }
    }
}
