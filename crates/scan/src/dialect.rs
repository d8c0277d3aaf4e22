/// How a delimited text marks its cells: RFC 4180 with a choice of delimiter.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Dialect {
    /// The byte between two cells.
    pub delimiter: u8,
    /// The byte around a cell that holds delimiters or line breaks.
    pub quote: u8,
    /// Whether cells may begin with a [`SheetMark`](crate::SheetMark): the text was made from a sheet.
    pub marks: bool,
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
