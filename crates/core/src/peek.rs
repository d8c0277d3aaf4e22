//! What was seen of a file, as data: every renderer of `peek` reads this.

use crate::profile::ColumnProfile;
use crate::profile::RowLook;
use crate::profile::Seen;
use crate::report::{ColumnReport, FileFacts, RecordFacts, Tool};
use schemars::JsonSchema;
use serde::Serialize;

/// What a file holds, of format 1.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct PeekReport {
    /// The version of the format: 1.
    pub format: u32,
    /// What looked.
    pub tool: Tool,
    /// What was read.
    pub file: FileFacts,
    /// The record schema that helped, if one was named.
    pub record: Option<RecordFacts>,
    /// How the table was found to be laid out.
    pub layout: Vec<LayoutReport>,
    /// The sheets of a workbook.
    pub sheets: Vec<SheetReport>,
    /// How many rows there are.
    pub rows: PeekRows,
    /// The columns.
    pub columns: Vec<PeekColumn>,
    /// The first rows.
    pub first_rows: Vec<PeekRow>,
}

/// One thing about the layout.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct LayoutReport {
    /// What it is about, such as "delimiter".
    pub what: String,
    /// What was chosen.
    pub choice: String,
    /// On what evidence.
    pub evidence: String,
    /// Whether it was guessed; else it was stated, or is the plain form.
    pub guessed: bool,
}

/// A sheet of a workbook.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct SheetReport {
    /// Its name.
    pub name: String,
    /// Whether it is hidden.
    pub hidden: bool,
    /// How many rows it holds, where all of them were read.
    pub rows: Option<u64>,
    /// How many columns.
    pub columns: Option<u64>,
}

/// The rows that were looked at.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct PeekRows {
    /// How many rows with a value were looked at.
    pub read: u64,
    /// Whether these are all.
    pub all: bool,
    /// About how many there are in all, where not all were looked at and the size of the file is known.
    pub estimated: Option<u64>,
    /// Rows with more or fewer cells than there are columns.
    pub of_other_width: Count,
    /// Rows without a value.
    pub blank: Count,
    /// Cells with a stray quote.
    pub stray_quotes: Count,
}

/// How often something was seen.
#[derive(Debug, Clone, Copy, Serialize, JsonSchema)]
pub struct Count {
    /// How often.
    pub count: u64,
    /// In which row first.
    pub first_row: Option<u64>,
}

/// One column.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct PeekColumn {
    /// What a check says of it.
    #[serde(flatten)]
    pub column: ColumnReport,
    /// How many of its cells hold nothing.
    pub blank: u64,
    /// How many different values it holds; nothing beyond 1,000.
    pub distinct: Option<u64>,
    /// The likely kind of its values.
    pub kind: Option<String>,
    /// More of the kind, such as the form of dates.
    pub kind_form: Option<String>,
    /// How many of the filled cells fit the kind.
    pub fitting: u64,
    /// The first cell that does not.
    pub first_misfit: Option<PeekCell>,
    /// The characters of the shortest value.
    pub shortest: Option<u64>,
    /// The characters of the longest value.
    pub longest: Option<u64>,
    /// The lowest value, in the order of the kind.
    pub lowest: Option<String>,
    /// The highest value.
    pub highest: Option<String>,
    /// The first different values.
    pub examples: Vec<String>,
    /// What is odd about its cells.
    pub oddities: Vec<OddityReport>,
}

/// A cell.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct PeekCell {
    /// Its row.
    pub row: u64,
    /// Its text.
    pub value: String,
}

/// Something odd about cells.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct OddityReport {
    /// The code of the finding that a check would make.
    pub code: crate::catalogue::Code,
    /// In how many cells.
    pub count: u64,
    /// In which row first.
    pub first_row: u64,
}

/// One of the first rows.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct PeekRow {
    /// Its number.
    pub row: u64,
    /// Its cells.
    pub cells: Vec<String>,
}

impl PeekColumn {
    /// A column as a check and as the profile sees it; the values of a sensitive field are masked.
    #[must_use]
    pub fn new(column: ColumnReport, profile: ColumnProfile, is_sensitive: bool) -> Self {
        let mask = |text: String| if is_sensitive { crate::finding::MASK.to_owned() } else { text };
        let (lowest, highest) = profile.range.map(|(low, high)| (mask(low), mask(high))).unzip();
        Self {
            column: ColumnReport { filled: profile.filled, ..column },
            blank: profile.blank,
            distinct: profile.distinct,
            kind: profile.kind.map(ToOwned::to_owned),
            kind_form: profile.form,
            fitting: profile.fitting,
            first_misfit: profile.misfit.map(|(row, value)| PeekCell { row, value: mask(value) }),
            shortest: profile.lengths.map(|lengths| lengths.0),
            longest: profile.lengths.map(|lengths| lengths.1),
            lowest,
            highest,
            examples: profile.examples.into_iter().map(mask).collect(),
            oddities: profile
                .oddities
                .iter()
                .map(|oddity| OddityReport {
                    code: oddity.code,
                    count: oddity.seen.count,
                    first_row: oddity.seen.first,
                })
                .collect(),
        }
    }
}

impl PeekColumn {
    /// Takes all values away.
    pub fn mask(&mut self) {
        let mask = || crate::finding::MASK.to_owned();
        self.examples.iter_mut().for_each(|example| *example = mask());
        self.lowest.iter_mut().chain(&mut self.highest).for_each(|value| *value = mask());
        self.first_misfit.iter_mut().for_each(|cell| cell.value = mask());
    }
}

impl PeekRows {
    /// Of rows that were looked at.
    #[must_use]
    pub fn new(look: &RowLook, all: bool, estimated: Option<u64>) -> Self {
        let count =
            |seen: Seen| Count { count: seen.count, first_row: (seen.count > 0).then_some(seen.first) };
        Self {
            read: look.rows,
            all,
            estimated,
            of_other_width: count(look.misfits),
            blank: count(look.blank),
            stray_quotes: count(look.strays),
        }
    }
}
