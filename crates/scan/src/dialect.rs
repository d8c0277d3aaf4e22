/// How a delimited text marks its cells: RFC 4180 with a choice of delimiter.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Dialect {
    /// The byte between two cells.
    pub delimiter: u8,
    /// The byte around a cell that holds delimiters or line breaks.
    pub quote: u8,
    /// Whether cells may begin with a mark: the text was made from a sheet.
    pub marks: bool,
}

/// Stands before a text that looks like a stored number.
pub const MARK_TEXT: u8 = 2;
/// Stands before a stored number that is shown as a percentage.
pub const MARK_PERCENT: u8 = 4;
/// Stands for a formula whose result is not stored.
pub const MARK_STALE: u8 = 3;

/// Whether a byte is one of the marks.
#[must_use]
pub const fn is_mark(byte: u8) -> bool {
    matches!(byte, MARK_TEXT | MARK_STALE | MARK_PERCENT)
}

impl Default for Dialect {
    fn default() -> Self {
        Self { delimiter: b',', quote: b'"', marks: false }
    }
}

impl Dialect {
    /// A byte that is neither quote, delimiter nor line break: fills a step that is not whole.
    pub(crate) fn filler(self) -> u8 {
        if self.delimiter == b'.' { b'_' } else { b'.' }
    }
}
