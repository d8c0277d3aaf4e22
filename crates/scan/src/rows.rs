//! Where rows and cells end, by masks over 64 bytes a step.
//!
//! The masks are right only while every opening quote stands at the start of a cell and every closing one is
//! followed by a delimiter, a row end or another quote. Both are tested on the masks themselves. At the
//! first place that breaks the rule, the row concerned is walked over by the plain machine, and the masks
//! go on behind it: so a cut is always proven, and a stray quote costs its own row only.
//!
//! Before you change this: `cut` and `index` follow one set of masks, and both call the plain machine at the same places;
//! `rows/tests.rs` holds them against `machine` for every dialect, and `lanes` against its portable twin.

use super::dialect::Dialect;
use super::machine::{RowWalk, walk_row};
use super::oddities::Oddities;
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

/// The cells of a block: positions of every delimiter and row end outside quotes, in order. The list is
/// kept and used again for the next block.
#[derive(Debug, Default)]
pub struct RowIndex {
    ends: Vec<u32>,
    len: usize,
    /// Cells with a stray quote: the position of the cell in `ends`.
    pub strays: Vec<u32>,
    /// What unusual bytes the block holds.
    pub oddities: Oddities,
}

impl RowIndex {
    /// The positions found.
    #[must_use]
    pub fn ends(&self) -> &[u32] {
        self.ends.get(..self.len).unwrap_or_default()
    }

    fn reserve(&mut self, wanted: usize) {
        if self.ends.len() < wanted {
            self.ends = vec![0; wanted.next_power_of_two()];
        }
    }

    fn push(&mut self, at: usize) {
        if let Some(slot) = self.ends.get_mut(self.len) {
            *slot = position(at);
            self.len += 1;
        }
    }

    /// Writes the position of each set bit. The slots behind the last one may be scribbled on.
    #[inline(always)]
    fn push_mask(&mut self, base: usize, mut mask: u64) {
        let count = mask.count_ones() as usize;
        let Some(slots) = self.ends.get_mut(self.len..self.len + 64) else { return };
        let Some((slots, _)) = slots.split_first_chunk_mut::<64>() else { return };
        let base = position(base);
        // Eight at a time whether so many are there or not: a count would be guessed wrong too often.
        let mut write = |slots: &mut [u32; 8]| {
            for slot in slots {
                *slot = base.wrapping_add(mask.trailing_zeros());
                mask &= mask.wrapping_sub(1);
            }
        };
        let (eights, _) = slots.as_chunks_mut::<8>();
        for (done, slots) in eights.iter_mut().enumerate() {
            write(slots);
            if count <= 8 * (done + 1) {
                break;
            }
        }
        self.len += count;
    }
}

#[expect(clippy::cast_possible_truncation, reason = "blocks are under 4 GiB, see `index`")]
const fn position(at: usize) -> u32 {
    at as u32
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
    with_lanes(dialect, CutTask { walk: Walk::new(buffer, len, dialect) })
}

/// Lists the cells of the first `len` bytes of `buffer`: whole rows, at most 4 GiB, with [`PADDING`] bytes
/// behind them.
pub fn index(buffer: &[u8], len: usize, dialect: Dialect, into: &mut RowIndex) {
    debug_assert!(buffer.len() >= len + PADDING);
    debug_assert!(u32::try_from(len).is_ok());
    into.len = 0;
    into.strays.clear();
    into.reserve(len + PADDING);
    into.oddities = with_lanes(dialect, IndexTask { walk: Walk::new(buffer, len, dialect), into });
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
            self.whole += if ends == 0 { 0 } else { std::mem::take(&mut self.open) };
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

struct CutTask<'a> {
    walk: Walk<'a>,
}

impl Task for CutTask<'_> {
    type Output = Cut;

    #[inline(always)]
    fn run<L: Lanes>(self, lanes: L) -> Cut {
        let walk = self.walk;
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
            let quotes = lanes.quotes(step);
            let feeds = lanes.line_feeds(step);
            if quotes | state.closed == 0 {
                inner.count(feeds & state.carry, feeds & !state.carry);
                let outside = feeds & !state.carry;
                if outside != 0 {
                    found.rows += u64::from(outside.count_ones());
                    found.end = at + 64 - outside.leading_zeros() as usize;
                }
                at += 64;
                continue;
            }
            let resolved = walk.resolve(&lanes, at, step, quotes, state);
            let outside = feeds & resolved.outside & resolved.proven;
            inner.count(feeds & !resolved.outside, outside);
            if outside != 0 {
                found.rows += u64::from(outside.count_ones());
                found.end = at + 64 - outside.leading_zeros() as usize;
            }
            state = resolved.state;
            at += 64;
            if resolved.proven != u64::MAX {
                let Some((end, has_inner)) = plain_row(&walk, found.end) else { break };
                inner.open = 0;
                if has_inner {
                    let row = walk.content.get(found.end..end).unwrap_or_default();
                    inner.whole += memchr::memchr_iter(b'\n', row).count() as u64 - 1;
                }
                found.rows += 1;
                found.end = end;
                (at, state) = (end, State::ROW);
            }
        }
        found.lines = found.rows + inner.whole;
        found
    }
}

/// The end of the row at `start`, and whether a line feed stands inside a quoted cell of it.
#[cold]
#[inline(never)]
fn plain_row(walk: &Walk<'_>, start: usize) -> Option<(usize, bool)> {
    match walk_row(walk.content, start, walk.dialect, |_| (), |_| ()) {
        RowWalk::Whole { end, inner_line_feed } => Some((end, inner_line_feed)),
        RowWalk::Open { .. } => None,
    }
}

struct IndexTask<'a> {
    walk: Walk<'a>,
    into: &'a mut RowIndex,
}

impl Task for IndexTask<'_> {
    type Output = Oddities;

    #[inline(always)]
    fn run<L: Lanes>(self, mut lanes: L) -> Oddities {
        let (walk, into) = (self.walk, self.into);
        let (mut at, mut state, mut odd) = (0, State::ROW, Oddities::default());
        let mut last;
        while at < walk.content.len() {
            let step = match walk.whole_step(at) {
                Some(step) => step,
                None => {
                    last = walk.last_step(at);
                    &last
                }
            };
            lanes.watch(step);
            let quotes = lanes.quotes(step);
            if quotes | state.closed == 0 {
                into.push_mask(at, lanes.separators(step) & !state.carry);
                at += 64;
                continue;
            }
            let resolved = walk.resolve(&lanes, at, step, quotes, state);
            into.push_mask(at, resolved.outside & resolved.proven);
            state = resolved.state;
            at += 64;
            if resolved.proven != u64::MAX {
                let start = back_to_row_start(into, walk.content);
                let Some(end) = listed_row(into, &walk, start) else { break };
                odd.note(walk.content.get(at - 1..end).unwrap_or_default(), walk.dialect.delimiter);
                (at, state) = (end, State::ROW);
            }
        }
        odd.join(lanes.watched())
    }
}

/// Drops the positions of the row that is not yet whole; gives its start.
#[cold]
fn back_to_row_start(into: &mut RowIndex, content: &[u8]) -> usize {
    while let Some(&last) = into.ends().last() {
        if content.get(last as usize) == Some(&b'\n') {
            return last as usize + 1;
        }
        into.len -= 1;
    }
    0
}

/// Lists the cells of the row at `start` by the plain machine; gives its end.
#[cold]
#[inline(never)]
fn listed_row(into: &mut RowIndex, walk: &Walk<'_>, start: usize) -> Option<usize> {
    let mut strays = std::mem::take(&mut into.strays);
    let first = into.len;
    let row = walk_row(
        walk.content,
        start,
        walk.dialect,
        |at| into.push(at),
        |cell| strays.push(position(first + cell)),
    );
    into.strays = strays;
    match row {
        RowWalk::Whole { end, .. } => Some(end),
        RowWalk::Open { .. } => None,
    }
}

#[cfg(test)]
mod tests;
