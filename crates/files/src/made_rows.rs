//! Rows that are made from what is stored elsewhere, one behind the other, as a table that is read like any other.

use crate::book::{Stored, write_cell};
use crate::error::Error;
use crate::pieces::{PieceReader, Pieces};
use crate::text::Input;
use std::fmt::Display;
use std::io::Write;
use std::path::Path;

/// So many bytes are handed on at once, and so many pieces wait to be taken.
const PIECE: usize = 1 << 18;
const AHEAD: usize = 4;

/// Rows on their way to whoever reads the table.
pub struct MadeRows<'a> {
    text: Vec<u8>,
    /// Whether a cell stands in the row already.
    is_begun: bool,
    take: &'a mut dyn FnMut(Vec<u8>) -> bool,
    is_wanted: bool,
}

impl MadeRows<'_> {
    /// A cell that holds nothing.
    pub fn blank(&mut self) {
        self.next();
    }

    /// A cell that holds a text.
    pub fn text(&mut self, text: &str) {
        self.next();
        write_cell(&mut self.text, Stored::Text, text);
    }

    /// Whole rows of comma-separated text (RFC 4180), which end with a line break.
    pub fn rows(&mut self, text: &[u8]) -> bool {
        self.text.extend(text);
        if self.text.len() >= PIECE {
            self.hand_on();
        }
        self.is_wanted
    }

    /// A cell that holds a number, which is written with digits, a sign, a point and letters alone.
    pub fn number(&mut self, number: impl Display) {
        self.next();
        // Writing into memory cannot fail.
        write!(self.text, "{number}").unwrap_or_default();
    }

    fn next(&mut self) {
        if std::mem::replace(&mut self.is_begun, true) {
            self.text.push(b',');
        }
    }

    /// Ends the row. Whether further ones are wanted.
    pub fn end_row(&mut self) -> bool {
        self.text.push(b'\n');
        self.is_begun = false;
        if self.text.len() >= PIECE {
            self.hand_on();
        }
        self.is_wanted
    }

    fn hand_on(&mut self) {
        let text = std::mem::replace(&mut self.text, Vec::with_capacity(PIECE + 4096));
        self.is_wanted = self.is_wanted && (self.take)(text);
    }
}

impl Input {
    /// Rows that a thread of its own makes, the first of them the headings; `name` is for messages.
    ///
    /// # Errors
    /// When no thread can be started.
    pub fn made(
        name: &Path,
        make: impl FnOnce(&mut MadeRows<'_>) -> Result<(), Error> + Send + 'static,
    ) -> Result<Self, Error> {
        let pieces = Pieces::start(name, AHEAD, move |take| {
            let mut rows = MadeRows { text: Vec::new(), is_begun: false, take, is_wanted: true };
            make(&mut rows)?;
            rows.hand_on();
            Ok(())
        })?;
        Ok(Self::stream(name, Box::new(PieceReader::new(pieces))))
    }
}
