//! What is stated of how a text is laid out, and how large its parts may be.

use crate::error::Error;
use encoding_rs::Encoding;

/// What is stated; all else is read off the file.
#[derive(Debug, Clone, Default)]
pub struct ReadOptions {
    /// The byte between two cells.
    pub delimiter: Option<u8>,
    /// The encoding.
    pub encoding: Option<&'static Encoding>,
    /// An encoding that an earlier try at this file has led to.
    pub turned_to: Option<&'static Encoding>,
    /// The row that holds the headings.
    pub heading_row: Option<u64>,
    /// Whether the heading row is a plan's: then the file may have changed since.
    pub heading_row_is_planned: bool,
    /// The first row of the data.
    pub first_row: Option<u64>,
    /// The last row of the data.
    pub last_row: Option<u64>,
    /// The row that holds an example.
    pub example_row: Option<u64>,
    /// Whether there is no heading row.
    pub by_position: bool,
    /// Whether cells that are missing at a row's end are blank.
    pub short_rows_are_blank: bool,
    /// Whether the text was made here, from a sheet or from records: then it is one, whatever its cells hold.
    pub is_made: bool,
    /// Whether its cells carry marks that say how they are stored.
    pub has_marks: bool,
    /// Where the array of records of a JSON text stands, as a JSON Pointer (RFC 6901).
    pub at: Option<String>,
    /// The options that were typed, without their hyphens: those that do not apply to the file are refused.
    pub typed: Vec<&'static str>,
    /// How large its parts may be.
    pub limits: Limits,
}

impl ReadOptions {
    /// Reads a file with these options; anew where bytes beyond ASCII show late that it is in another encoding than its
    /// first bytes let on. `cause` finds our own error in one of `read`.
    ///
    /// # Errors
    /// Those of `read`.
    pub fn reading<T, E>(
        mut self,
        mut read: impl FnMut(&Self) -> Result<T, E>,
        cause: impl Fn(&E) -> Option<&Error>,
    ) -> Result<T, E> {
        loop {
            let done = read(&self);
            let error = done.as_ref().err().and_then(&cause);
            let Some(Error::OtherEncoding { encoding, .. }) = error.filter(|_| self.turned_to.is_none())
            else {
                return done;
            };
            self.turned_to = Encoding::for_label(encoding.as_bytes());
            if self.turned_to.is_none() {
                return done;
            }
        }
    }
}

/// How large the parts of a text may be.
#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// The longest row, and so the largest cell, in bytes of UTF-8.
    pub row: usize,
    /// The most columns.
    pub columns: usize,
    /// How many times its packed size a packed text may hold, beyond [`Limits::UNPACKED_FREELY`] bytes.
    pub expansion: u64,
}

impl Limits {
    /// The most columns that can be permitted.
    pub const MOST_COLUMNS: usize = 65_534;
    /// The longest row that can be permitted.
    pub const MOST_ROW: usize = 1 << 30;
    /// So many bytes are unpacked whatever their packed size.
    pub const UNPACKED_FREELY: u64 = 256 << 20;
}

impl Default for Limits {
    fn default() -> Self {
        // As many columns as a spreadsheet has.
        Self { row: 32 << 20, columns: 16_384, expansion: 200 }
    }
}
