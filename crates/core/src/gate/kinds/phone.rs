//! `phone`: a number that can be dialled, in international form or that of a region.

use super::from::From;
use super::judging::Judging;
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::sweep::{Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::schema::{Field, Kind};
use crate::value::{Picklist, phone};

/// The region whose national forms are read too.
#[derive(Debug)]
pub(crate) struct Phone {
    region: Option<phone::Region>,
}

impl Phone {
    pub(super) fn of(field: &Field, _: From<'_>) -> Option<Self> {
        let Kind::Phone(region) = &field.kind else { return None };
        Some(Self { region: region.as_deref().and_then(phone::region) })
    }
}

impl Judging for Phone {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        let number = phone::read(given.text, self.region.as_ref());
        number.map(|number| Value::Text(number.into())).ok_or_else(|| Verdict::one(Code::PhoneBad))
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let buffer = sweep.buffer;
        sweep.over_written(|start, end| {
            phone::plain(buffer.get(start..end).unwrap_or_default(), self.region.as_ref())
        })
    }

    fn stands(&self, sound: &[u8]) -> bool {
        phone::plain(sound, None) == Some(true)
    }

    fn varies(&self) -> bool {
        true
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        (code == Code::PhoneBad).then(|| "a number such as +44 20 7946 0018".to_owned())
    }
}
