//! The plain state machine: one row at a time, to the letter of the dialect. It is the reference that the
//! masks of `rows` are compared with, and it takes over wherever a quote stands in an odd place.

use super::dialect::Dialect;

/// What walking over one row found.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RowWalk {
    /// The row ends before this position, its line feed included.
    Whole {
        /// The position behind the line feed.
        end: usize,
        /// Whether a line feed stands inside a quoted cell.
        inner_line_feed: bool,
    },
    /// The bytes end before the row does.
    Open {
        /// Where the quoted cell began that is still open, if it is a quoted cell that is open.
        quote: Option<usize>,
    },
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum State {
    CellStart,
    Unquoted,
    Quoted,
    QuoteInQuoted,
    Tail,
}

/// Walks over the row that begins at `start`; `bytes` is the content alone. The ends of its cells are
/// pushed to `ends` (the position of each delimiter, and of the line feed), and the number of each cell
/// with a stray quote to `strays`: a quote inside an unquoted cell is a character, and text after a
/// closing quote is appended to the cell.
///
/// ```
/// use tidy_gate_scan::{Dialect, RowWalk, walk_row};
/// let mut ends = Vec::new();
/// let walk = walk_row(b"a,\"b,c\"\n", 0, Dialect::default(), |end| ends.push(end), |_| ());
/// assert_eq!((walk, ends), (RowWalk::Whole { end: 8, inner_line_feed: false }, vec![1, 7]));
/// ```
pub fn walk_row(
    bytes: &[u8],
    start: usize,
    dialect: Dialect,
    mut ends: impl FnMut(usize),
    mut strays: impl FnMut(usize),
) -> RowWalk {
    let mut state = State::CellStart;
    let (mut cell, mut opened, mut stray, mut inner_line_feed) = (0, start, false, false);
    let tail = bytes.get(start..).unwrap_or_default();
    for (i, &byte) in tail.iter().enumerate() {
        let at = start + i;
        if state == State::Quoted {
            if byte == dialect.quote {
                state = State::QuoteInQuoted;
            }
            inner_line_feed |= byte == b'\n';
            continue;
        }
        if byte == dialect.delimiter || byte == b'\n' {
            if stray {
                strays(cell);
            }
            ends(at);
            if byte == b'\n' {
                return RowWalk::Whole { end: at + 1, inner_line_feed };
            }
            (cell, stray, state) = (cell + 1, false, State::CellStart);
            continue;
        }
        state = match state {
            State::CellStart if byte == dialect.quote => {
                opened = at;
                State::Quoted
            }
            State::QuoteInQuoted if byte == dialect.quote => State::Quoted,
            State::QuoteInQuoted => {
                stray |= !(byte == b'\r' && tail.get(i + 1) == Some(&b'\n'));
                State::Tail
            }
            State::CellStart | State::Unquoted => {
                stray |= byte == dialect.quote;
                State::Unquoted
            }
            State::Tail | State::Quoted => State::Tail,
        };
    }
    RowWalk::Open { quote: (state == State::Quoted).then_some(opened) }
}
