//! No rules: a column without a field, or one whose values are not judged.

use super::judging::Judging;
use super::value::Value;
use crate::gate::plain_text::{are_ink_at, is_ink_at};
use crate::gate::sweep::{Sound, Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::scan::{Dialect, Lanes, Numbers};
use crate::value::Picklist;

/// Any text, as it stands.
#[derive(Debug)]
pub(crate) struct Free;

impl Judging for Free {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        Ok(Value::Text(given.text.into()))
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let (buffer, dialect) = (sweep.buffer, sweep.dialect);
        sweep.over(Ink { buffer, dialect })
    }

    fn is_verbatim(&self) -> bool {
        true
    }

    fn tells_apart(&self) -> bool {
        false
    }
}

/// Cells that hold something to be seen.
struct Ink<'a> {
    buffer: &'a [u8],
    dialect: Dialect,
}

impl Sound for Ink<'_> {
    const IS_FLAT: bool = true;
    const KNOWS_SIXTEEN: bool = true;

    #[inline(always)]
    fn sound<L: Lanes>(&self, _: &L, start: usize, _: usize) -> bool {
        is_ink_at(self.buffer, start, self.dialect)
    }

    #[inline(always)]
    fn sixteen<N: Numbers>(&self, numbers: N, starts: N::Sixteen, _: N::Sixteen) -> Option<N::Sixteen> {
        are_ink_at(numbers, self.buffer, starts, self.dialect)
    }
}
