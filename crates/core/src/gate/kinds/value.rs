//! The value of a cell.

use crate::condition::Scalar;
use crate::value::{Date, Moment, Number, TimeOfDay, truth};
use rust_decimal::Decimal;
use std::borrow::Cow;

/// What a cell gives when it is read.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Value<'a> {
    /// A text, a code or a key.
    Text(Cow<'a, str>),
    Number(Number<'a>),
    Truth(bool),
    Day(Date),
    Time(TimeOfDay),
    Moment(Moment),
}

impl<'a> Value<'a> {
    /// The value in one form: equal values have equal forms, and others have others.
    pub(crate) fn standard(self) -> Cow<'a, str> {
        match self {
            Self::Text(text) => text,
            Self::Number(number) => number.to_string().into(),
            Self::Truth(truth) => truth::written(truth).into(),
            Self::Day(date) => date.to_string().into(),
            Self::Time(time) => time.to_string().into(),
            // Those with a distance from UTC are instants; a local time is none.
            Self::Moment(moment) => match moment.offset {
                Some(_) => moment.instant().to_string().into(),
                None => moment.to_string().into(),
            },
        }
    }

    /// The value as conditions see it; nothing where they cannot hold it.
    pub(crate) fn scalar(self) -> Option<Scalar<'a>> {
        Some(match self {
            Self::Text(text) => Scalar::Text(text),
            Self::Number(number) => Scalar::Number(Decimal::from_str_exact(&number.to_string()).ok()?),
            Self::Truth(truth) => Scalar::Boolean(truth),
            Self::Day(date) => Scalar::Date(date),
            Self::Time(time) => Scalar::Time(time),
            Self::Moment(moment) => Scalar::Moment(moment.instant()),
        })
    }
}
