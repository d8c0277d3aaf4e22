//! No rules: a column without a field, or one whose values are not judged.

use super::judging::Judging;
use super::value::Value;
use crate::gate::plain_text::is_ink_at;
use crate::gate::sweep::{Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
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
        sweep.over_flat(|start, _| is_ink_at(buffer, start, dialect))
    }

    fn is_verbatim(&self) -> bool {
        true
    }

    fn tells_apart(&self) -> bool {
        false
    }
}
