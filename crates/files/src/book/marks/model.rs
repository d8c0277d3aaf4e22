//! What a sheet is marked with, what could not be done, and what was.

use super::styles::Kind;
use crate::book::marked::Marked;
use tidy_gate_core::catalogue::Level;

/// A row with marks.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct RowMarks {
    /// The row, as a spreadsheet shows it.
    pub(crate) row: u64,
    /// Whether it counts as a marked row.
    pub(crate) counts: bool,
    /// What stands in the columns of marks.
    pub(crate) own: [(String, Kind); 2],
    /// Its cells.
    pub(crate) cells: Vec<CellMark>,
}

/// A cell with a mark.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct CellMark {
    /// The column, from 0.
    pub(crate) column: usize,
    /// What its fill tells; none where it has a note alone.
    pub(crate) level: Option<Level>,
    /// What its note says.
    pub(crate) note: String,
}

/// A drop-down for a column.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct DropDown {
    /// The column, from 0.
    pub(crate) column: usize,
    /// What is offered.
    pub(crate) values: Vec<String>,
    /// Whether other values are permitted.
    pub(crate) is_open: bool,
}

/// What is marked, and where.
#[derive(Debug)]
pub(crate) struct Marking<'a> {
    /// The part that holds the sheet, and the sheet's name.
    pub(crate) part: &'a str,
    /// See there.
    pub(crate) sheet: &'a str,
    /// The form of the file that is marked, and how many columns its table has.
    pub(crate) form: &'a str,
    /// See there.
    pub(crate) width: usize,
    /// The row of the headings, the first that can be a record, and the last.
    pub(crate) heading_row: Option<u64>,
    /// See there.
    pub(crate) first_row: u64,
    /// See there.
    pub(crate) last_row: u64,
    /// The first column of marks, from 0; none where there is no room.
    pub(crate) own: Option<usize>,
    /// The marks of an earlier check.
    pub(crate) had: Option<&'a Marked>,
    /// The drop-downs of columns that hold picklists.
    pub(crate) lists: &'a [DropDown],
    /// Whether the workbook is of the strict form; found out here.
    pub(crate) is_strict: bool,
}

/// What could not be done, or not in full.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Limit {
    /// So many cells have the plain style of their level: the workbook has room for no more styles.
    PlainStyles(u64),
    /// So many notes were shortened.
    NotesCut(u64),
    /// So many cells have no note.
    NotesLeftOut(u64),
    /// There is no room for the columns of marks.
    NoColumns,
    /// The sheet has a filter over something else.
    OwnFilter,
    /// The sheet is protected.
    Protected,
    /// So many columns of picklists have no drop-down, since there is room for no more.
    ListsLeftOut(u64),
    /// Another sheet is the one that is shown first.
    OtherSheetShown,
    /// So many reasons were cut to what a cell may hold.
    ReasonsCut(u64),
    /// The file was written anew as a workbook: what beside its cells it held is not in it.
    WrittenAnew,
}

/// What was marked.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct MarkSum {
    /// Rows with reasons.
    pub rows: u64,
    /// Cells with a note.
    pub cells: u64,
    /// The name of the sheet that was marked.
    pub sheet: String,
    /// The name of the sheet in front.
    pub front: String,
    /// What could not be done.
    pub limits: Vec<Limit>,
}
