//! `duration`: a length of time, such as a running time or a retention period.

use super::from::From;
use super::judging::Judging;
use super::ranges::between;
use super::value::Value;
use crate::catalogue::Code;
use crate::condition::Scalar;
use crate::gate::verdict::{Given, Verdict};
use crate::schema::{Field, Kind, Range};
use crate::value::{Duration as Length, DurationUnit, Marks, Picklist};
use rust_decimal::Decimal;

/// The unit of plain numbers, and the range.
#[derive(Debug)]
pub(crate) struct Duration {
    unit: Option<DurationUnit>,
    range: Range<Length>,
    marks: Option<Marks>,
}

impl Duration {
    pub(super) fn of(field: &Field, from: From<'_>) -> Option<Self> {
        let Kind::Duration { unit, range } = &field.kind else { return None };
        Some(Self { unit: *unit, range: range.clone(), marks: from.reading.marks })
    }

    fn length(&self, given: Given<'_>) -> Option<Length> {
        let has_comma = self.marks.is_some_and(|marks| marks.decimal == ',');
        let is_comma = has_comma && !given.is_stored && !given.text.contains('.');
        let in_unit = |unit| match is_comma {
            true => Length::in_unit(&given.text.replace(',', "."), unit),
            false => Length::in_unit(given.text, unit),
        };
        Length::read(given.text).or_else(|| self.unit.and_then(in_unit))
    }
}

impl Judging for Duration {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        let length = self.length(given).map(|length| Value::Text(length.to_string().into()));
        length.ok_or_else(|| Verdict::one(Code::TimeBad))
    }

    fn judge(&self, given: Given<'_>, _: &[Picklist]) -> Verdict {
        match self.length(given) {
            None => Verdict::one(Code::TimeBad),
            Some(length) if !self.range.holds(&length) => Verdict::one(Code::OutOfRange),
            Some(_) => Verdict::SOUND,
        }
    }

    /// Conditions see seconds.
    fn scalar<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Option<Scalar<'a>> {
        Decimal::from_str_exact(&self.length(given)?.seconds()).ok().map(Scalar::Number)
    }

    fn is_stored_as_such(&self) -> bool {
        true
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        match code {
            Code::TimeBad => {
                let numbers = if self.unit.is_some() { ", 90 min" } else { "" };
                Some(format!("a length of time such as 2:30{numbers} or PT2H30M"))
            }
            Code::OutOfRange => between(&self.range, ToString::to_string),
            _ => None,
        }
    }

    fn detail(&self, code: Code, text: &str, sensitive: bool) -> Option<String> {
        let is_unitless = code == Code::TimeBad && self.unit.is_none() && !sensitive;
        let is_number = is_unitless && Length::in_unit(text, DurationUnit::Minute).is_some();
        is_number.then(|| "numbers are read where the record schema states a `unit`".to_owned())
    }
}
