//! `phone`: a number that can be dialled, in international form or that of a region.

use super::from::From;
use super::judging::Judging;
use super::value::Value;
use crate::catalogue::Code;
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

    fn varies(&self) -> bool {
        true
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        (code == Code::PhoneBad).then(|| "a number such as +44 20 7946 0018".to_owned())
    }
}
