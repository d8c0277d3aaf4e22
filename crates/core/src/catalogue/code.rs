//! The codes of findings.

use schemars::JsonSchema;
use serde::Serialize;

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
    ExistingRepeated = "existing-repeated",
    ExistingUnread = "existing-unread",
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
    KeyExists = "key-exists",
    KeyNearlyRepeated = "key-nearly-repeated",
    KeyNone = "key-none",
    KeyNotFound = "key-not-found",
    KeyNumbered = "key-numbered",
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
    ReadOnlyChanged = "read-only-changed",
    RecordUnreadable = "record-unreadable",
    ReferenceCycle = "reference-cycle",
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
    UniqueExists = "unique-exists",
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
