//! Bytes only: where rows end, where cells end, which bytes a block holds, and the small number readers
//! that the judging of a cell is built on.
//!
//! Nothing here knows what a field or a finding is, and nothing allocates beyond the lists it is handed.
//! Every function with vector code has a portable twin, and tests compare the two; every fast way through
//! the bytes has a plain one (`machine`) that follows RFC 4180 to the letter and is the reference.

mod cell;
mod dialect;
mod digits;
mod email;
mod lanes;
mod letter_tables;
mod letters;
mod machine;
mod oddities;
mod padding;
mod places;
mod row_index;
mod rows;
mod sheet_mark;

pub use cell::{decode, is_plain, plain_text};
pub use dialect::Dialect;
pub use digits::{digits_alone, digits_at, digits_of, eight_digits, few_digits, short_word, sixteen};
pub use email::LONGEST as LONGEST_EMAIL;
pub use lanes::{Lanes, Numbers, Task, use_portable_lanes, with_lanes};
pub use letter_tables::letter_sum;
pub use letters::letter_sums;
pub use machine::{RowWalk, walk_row};
pub use oddities::{Oddities, is_odd_text};
pub use padding::PADDING;
pub use places::Places;
pub use row_index::RowIndex;
pub use rows::{Cut, cut, index};
pub use sheet_mark::{SheetMark, mark_of};

/// Whether the bytes are valid UTF-8 (RFC 3629).
#[must_use]
pub fn is_utf8(bytes: &[u8]) -> bool {
    simdutf8::basic::from_utf8(bytes).is_ok()
}
