//! Where rows and cells end, by masks over 64 bytes a step.
//!
//! The masks are right only while every opening quote stands at the start of a cell and every closing one is
//! followed by a delimiter, a row end or another quote. Both are tested on the masks themselves. At the
//! first place that breaks the rule, the row concerned is walked over by the plain machine, and the masks
//! go on behind it: so a cut is always proven, and a stray quote costs its own row only.
//!
//! Before you change this: `cut` and `index` are one walk, which lists cells or does not; `rows/tests.rs` holds both against
//! `machine` for every dialect, on every kind of lanes.

use super::dialect::Dialect;
use super::machine::{RowWalk, walk_row};
use super::row_index::RowIndex;
use crate::lanes::{Lanes, Task, with_lanes};
use crate::padding::PADDING;

/// What `cut` found in a buffer that begins at the start of a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Cut {
    /// The position behind the last row end; 0 when no row ends.
    pub end: usize,
    /// The rows up to there.
    pub rows: u64,
    /// The line feeds up to there, those inside quoted cells among them.
    pub lines: u64,
}

/// Finds the last row end among the first `len` bytes of `buffer`, which begins at the start of a row and
/// has [`PADDING`] bytes behind `len`.
///
/// ```
/// use tidy_gate_scan::{Dialect, PADDING, cut};
/// let mut buffer = b"a,\"1\n2\"\nb".to_vec();
/// let len = buffer.len();
/// buffer.resize(len + PADDING, 0);
/// let found = cut(&buffer, len, Dialect::default());
/// assert_eq!((found.rows, found.lines, found.end), (1, 2, 8));
/// ```
#[must_use]
pub fn cut(buffer: &[u8], len: usize, dialect: Dialect) -> Cut {
    debug_assert!(buffer.len() >= len + PADDING);
    with_lanes(dialect, WalkTask { walk: Walk::new(buffer, len, dialect), listing: () })
}

/// Does what [`cut`] does, and lists the cells of the whole rows found; at most 4 GiB. What unusual bytes there are is
/// said of these rows, and perhaps of bytes that follow them.
pub fn index(buffer: &[u8], len: usize, dialect: Dialect, into: &mut RowIndex) -> Cut {
    debug_assert!(buffer.len() >= len + PADDING);
    debug_assert!(u32::try_from(len).is_ok());
    into.begin(len);
    let found = with_lanes(dialect, WalkTask { walk: Walk::new(buffer, len, dialect), listing: &mut *into });
    into.shorten(found.end);
    found
}

impl Cut {
    /// Takes the row ends at these bits of the step at `at`.
    #[inline(always)]
    fn take(&mut self, at: usize, ends: u64) {
        // Without a branch: in which step a row ends is guessed wrong too often.
        self.rows += u64::from(ends.count_ones());
        let last = at + 64 - ends.leading_zeros() as usize;
        self.end = std::hint::select_unpredictable(ends == 0, self.end, last);
    }
}

/// How the walk stands between two steps.
#[derive(Clone, Copy)]
struct State {
    /// All ones inside quotes.
    carry: u64,
    /// 1 when the byte just before closed a quote.
    closed: u64,
}

impl State {
    /// At the start of a row.
    const ROW: Self = Self { carry: 0, closed: 0 };
}

/// A step of the walk: what is proven of it.
struct Step {
    /// Separators outside quotes.
    outside: u64,
    /// The bits before the first broken place; all when there is none.
    proven: u64,
    /// How the walk stands behind it.
    state: State,
}

/// The bytes that are walked over.
#[derive(Clone, Copy)]
struct Walk<'a> {
    /// The content and the padding behind it.
    buffer: &'a [u8],
    content: &'a [u8],
    dialect: Dialect,
}

impl<'a> Walk<'a> {
    fn new(buffer: &'a [u8], len: usize, dialect: Dialect) -> Self {
        Self { buffer, content: buffer.get(..len).unwrap_or_default(), dialect }
    }

    /// The 64 bytes at `at`, if the content holds so many.
    #[inline(always)]
    fn whole_step(&self, at: usize) -> Option<&'a [u8; 64]> {
        self.content.get(at..).and_then(|rest| rest.first_chunk())
    }

    /// The last bytes, filled up with bytes that mean nothing.
    #[cold]
    #[inline(never)]
    fn last_step(&self, at: usize) -> [u8; 64] {
        let mut step = [self.dialect.filler(); 64];
        for (to, from) in step.iter_mut().zip(self.content.get(at..).unwrap_or_default()) {
            *to = *from;
        }
        step
    }

    /// The bits of the step at `at` that are content.
    #[inline(always)]
    fn valid(&self, at: usize) -> u64 {
        match self.content.len().saturating_sub(at) {
            0 => 0,
            n @ 1..=63 => (1 << n) - 1,
            _ => u64::MAX,
        }
    }

    /// 1 when a cell may open at `at`: behind a delimiter or a row end, or, outside quotes, behind a closing one.
    #[inline(always)]
    fn may_open(&self, at: usize) -> u64 {
        match at.checked_sub(1).and_then(|before| self.buffer.get(before)) {
            None => 1,
            Some(&byte) => {
                u64::from(byte == self.dialect.delimiter || byte == b'\n' || byte == self.dialect.quote)
            }
        }
    }

    /// Resolves the quotes of a step that holds some, or that follows a closing one.
    #[inline(always)]
    fn resolve<L: Lanes>(&self, lanes: &L, at: usize, step: &[u8; 64], quotes: u64, before: State) -> Step {
        let inside = lanes.prefix_parity(quotes) ^ before.carry;
        let outside = lanes.separators(step) & !inside;
        let opening = quotes & inside;
        let closing = quotes & !inside;
        let after_closing = closing << 1 | before.closed;
        // Odd at first sight: what precedes the step, line ends of two bytes and the end are not looked at yet.
        let opening_odd = opening & !((outside | closing) << 1);
        let closing_odd = after_closing & !(outside | opening);
        let mut proven = u64::MAX;
        if opening_odd | closing_odd != 0 {
            let feeds = lanes.line_feeds(step);
            let crlf = lanes.carriage_returns(step) & (feeds >> 1 | self.feed_behind(at) << 63);
            let may_open = self.may_open(at) & !before.carry;
            let bad = (opening_odd & !may_open | closing_odd & !crlf) & self.valid(at);
            proven = if bad == 0 { u64::MAX } else { (bad & bad.wrapping_neg()) - 1 };
        }
        let carry = if inside >> 63 == 1 { u64::MAX } else { 0 };
        Step { outside, proven, state: State { carry, closed: closing >> 63 } }
    }

    /// 1 when the byte behind the step at `at` is a line feed.
    fn feed_behind(&self, at: usize) -> u64 {
        u64::from(self.buffer.get(at + 64) == Some(&b'\n'))
    }
}

/// Line feeds inside quotes.
#[derive(Default)]
struct InnerFeeds {
    /// Those of whole rows.
    whole: u64,
    /// Those behind the last row end.
    open: u64,
}

impl InnerFeeds {
    /// Takes up the inner ones of a step, and those that end rows.
    #[inline(always)]
    fn count(&mut self, inner: u64, ends: u64) {
        if inner == 0 {
            if self.open != 0 && ends != 0 {
                self.whole += std::mem::take(&mut self.open);
            }
            return;
        }
        let whole = u64::MAX.checked_shr(ends.leading_zeros()).unwrap_or(0);
        self.open += u64::from((inner & whole).count_ones());
        if ends != 0 {
            self.whole += std::mem::take(&mut self.open);
        }
        self.open += u64::from((inner & !whole).count_ones());
    }
}

/// What becomes of the cells that a walk passes.
trait Listing {
    /// Looks at the bytes of a step.
    fn watch<L: Lanes>(&mut self, lanes: &mut L, step: &[u8; 64]);
    /// Takes the cells that end in the step at `at`, without quotes in it: `inside` are the bits inside quotes.
    fn take_plain<L: Lanes>(&mut self, lanes: &L, at: usize, step: &[u8; 64], inside: u64);
    /// Takes the cells that end at these bits of the step at `at`.
    fn take<L: Lanes>(&mut self, lanes: &L, at: usize, ends: u64);
    /// The walk goes back to the start of a row, which the plain machine takes; what is behind it was not taken.
    fn take_row(&mut self, walk: &Walk<'_>, start: usize) -> RowWalk;
    /// The row that the plain machine took ends at `end`, and the bytes from `at` on were in no step.
    fn watch_rest(&mut self, walk: &Walk<'_>, at: usize, end: usize);
    /// The bytes are over.
    fn close<L: Lanes>(&mut self, lanes: &L);
}

/// Cells are not listed.
impl Listing for () {
    #[inline(always)]
    fn watch<L: Lanes>(&mut self, _: &mut L, _: &[u8; 64]) {}

    #[inline(always)]
    fn take_plain<L: Lanes>(&mut self, _: &L, _: usize, _: &[u8; 64], _: u64) {}

    #[inline(always)]
    fn take<L: Lanes>(&mut self, _: &L, _: usize, _: u64) {}

    #[cold]
    #[inline(never)]
    fn take_row(&mut self, walk: &Walk<'_>, start: usize) -> RowWalk {
        walk_row(walk.content, start, walk.dialect, |_| (), |_| ())
    }

    fn watch_rest(&mut self, _: &Walk<'_>, _: usize, _: usize) {}

    fn close<L: Lanes>(&mut self, _: &L) {}
}

impl Listing for &mut RowIndex {
    #[inline(always)]
    fn watch<L: Lanes>(&mut self, lanes: &mut L, step: &[u8; 64]) {
        lanes.watch(step);
    }

    #[inline(always)]
    fn take_plain<L: Lanes>(&mut self, lanes: &L, at: usize, step: &[u8; 64], inside: u64) {
        self.push_mask(lanes, at, lanes.separators(step) & !inside);
    }

    #[inline(always)]
    fn take<L: Lanes>(&mut self, lanes: &L, at: usize, ends: u64) {
        self.push_mask(lanes, at, ends);
    }

    #[cold]
    #[inline(never)]
    fn take_row(&mut self, walk: &Walk<'_>, start: usize) -> RowWalk {
        self.list_row(walk.content, start, walk.dialect)
    }

    fn watch_rest(&mut self, walk: &Walk<'_>, at: usize, end: usize) {
        let rest = walk.content.get(at - 1..end).unwrap_or_default();
        self.oddities.note(rest, walk.dialect.delimiter);
    }

    fn close<L: Lanes>(&mut self, lanes: &L) {
        self.oddities = self.oddities.join(lanes.watched());
    }
}

struct WalkTask<'a, K> {
    walk: Walk<'a>,
    listing: K,
}

impl<K: Listing> Task for WalkTask<'_, K> {
    type Output = Cut;

    #[inline(always)]
    fn run<L: Lanes>(self, mut lanes: L) -> Cut {
        let Self { walk, mut listing } = self;
        let mut found = Cut::default();
        let (mut at, mut state) = (0, State::ROW);
        let mut inner = InnerFeeds::default();
        let mut last;
        while at < walk.content.len() {
            let step = match walk.whole_step(at) {
                Some(step) => step,
                None => {
                    last = walk.last_step(at);
                    &last
                }
            };
            listing.watch(&mut lanes, step);
            let quotes = lanes.quotes(step);
            let feeds = lanes.line_feeds(step);
            if quotes | state.closed == 0 {
                listing.take_plain(&lanes, at, step, state.carry);
                let outside = feeds & !state.carry;
                inner.count(feeds & state.carry, outside);
                found.take(at, outside);
                at += 64;
                continue;
            }
            let resolved = walk.resolve(&lanes, at, step, quotes, state);
            let ends = resolved.outside & resolved.proven;
            listing.take(&lanes, at, ends);
            let outside = feeds & ends;
            inner.count(feeds & !resolved.outside, outside);
            found.take(at, outside);
            state = resolved.state;
            at += 64;
            if resolved.proven != u64::MAX {
                let RowWalk::Whole { end, inner_line_feed } = listing.take_row(&walk, found.end) else {
                    break;
                };
                listing.watch_rest(&walk, at, end);
                inner.open = 0;
                if inner_line_feed {
                    let row = walk.content.get(found.end..end).unwrap_or_default();
                    inner.whole += memchr::memchr_iter(b'\n', row).count() as u64 - 1;
                }
                found.rows += 1;
                found.end = end;
                (at, state) = (end, State::ROW);
            }
        }
        listing.close(&lanes);
        found.lines = found.rows + inner.whole;
        found
    }
}

#[cfg(test)]
mod tests;
