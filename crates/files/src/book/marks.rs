//! Marks on a sheet of an XLSX or XLSM workbook (ECMA-376): fills and notes on faulty cells, reasons in columns at the
//! right end, a filter over them, drop-downs, and a sheet in front that says what to do. All parts that none of this
//! concerns are copied byte by byte as they are packed.

mod elements;
mod frame;
mod front;
mod model;
mod notes;
mod parts;
mod put;
mod sheet;
mod source;
mod styles;
mod target;
mod wiring;

pub use front::{FrontLine, FrontLook};
pub(crate) use model::{CellMark, DropDown, Marking, RowMarks};
pub use model::{Limit, MarkSum};
pub(crate) use put::put_marks;
pub(crate) use sheet::{NextMarks, push_text};
pub(crate) use styles::Kind;
