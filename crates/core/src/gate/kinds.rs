//! What each kind is to the gate, one room a kind: how a cell is read, its quick sweep beside its plain judge, what is
//! expected, what its faults are called. A new kind is a file here and a row in the table below.

mod boolean;
mod date;
mod datetime;
mod decimal;
mod duration;
mod email;
mod fixed_date;
mod free;
mod from;
mod integer;
mod judging;
mod lengths;
mod many;
mod phone;
mod picklist;
mod ranges;
mod reference;
mod text;
mod time;
mod url;
mod uuid;
mod value;

#[cfg(test)]
pub(super) use date::DateVerdict;
pub(super) use date::writes;
pub(super) use judging::Nature;

pub(super) use value::Value;

use super::settings::Settings;
use super::verdict::{Given, Verdict};
use crate::plan::Reading;
use crate::schema::{Field, RecordSchema};
use crate::value::Picklist;
use from::From;
use judging::Judging;
use std::borrow::Cow;
use std::ops::Deref;

macro_rules! kinds {
    ($($kind:ident: $room:ty,)*) => {
        /// The rules of one column.
        #[derive(Debug)]
        pub(crate) enum Program {
            $($kind($room),)*
            /// Several values in one cell.
            Many(many::Many),
            /// No rules.
            Free(free::Free),
        }

        impl Program {
            /// The rules of one value: those of the kind that takes the field.
            fn of_one(field: &Field, from: From<'_>) -> Self {
                if field.unjudged.is_some() {
                    return Self::FREE;
                }
                $(if let Some(kind) = <$room>::of(field, from) {
                    return Self::$kind(kind);
                })*
                Self::FREE
            }
        }

        impl Program {
            /// The same, where any kind will do.
            fn boxed(field: &Field, from: From<'_>) -> Box<dyn Judging> {
                if field.unjudged.is_some() {
                    return Box::new(free::Free);
                }
                $(if let Some(kind) = <$room>::of(field, from) {
                    return Box::new(kind);
                })*
                Box::new(free::Free)
            }
        }

        impl Deref for Program {
            type Target = dyn Judging;

            fn deref(&self) -> &Self::Target {
                match self {
                    $(Self::$kind(kind) => kind,)*
                    Self::Many(many) => many,
                    Self::Free(free) => free,
                }
            }
        }
    };
}

// One row a kind.
kinds! {
    Text: text::Text,
    Integer: integer::Integer,
    Decimal: decimal::Decimal,
    Boolean: boolean::Boolean,
    Date: date::Dates,
    Picklist: picklist::PicklistKind,
    Time: time::Time,
    Datetime: datetime::Datetime,
    Duration: duration::Duration,
    Phone: phone::Phone,
    Url: url::Url,
    Uuid: uuid::Uuid,
    Reference: reference::Reference,
    Email: email::Email,
}

impl Program {
    /// Without rules.
    pub(crate) const FREE: Self = Self::Free(free::Free);

    /// The program of a field.
    pub(crate) fn of(field: &Field, schema: &RecordSchema, settings: &Settings, reading: &Reading) -> Self {
        Self::made(field, From { schema, settings, reading, is_own: false })
    }

    /// The rules by which values in the target's own form are read, whatever a plan says of cells.
    pub(crate) fn own(field: &Field, schema: &RecordSchema, settings: &Settings) -> Self {
        Self::made(field, From { schema, settings, reading: &Reading::default(), is_own: true })
    }

    fn made(field: &Field, from: From<'_>) -> Self {
        match &field.stated.many {
            Some(many) => Self::Many(many::Many::new(Self::boxed(field, from), many, &from.schema.picklists)),
            None => Self::of_one(field, from),
        }
    }

    /// Whether it is a date that stands in ISO form in the target.
    pub(crate) fn is_iso_date(&self) -> bool {
        matches!(self, Self::Date(dates) if dates.is_iso)
    }

    /// Judges a value: trimmed, not blank.
    pub(crate) fn judge<'a>(&self, given: impl Into<Given<'a>>, lists: &[Picklist]) -> Verdict {
        (**self).judge(given.into(), lists)
    }

    /// The value in one form; nothing when the text has no value of the kind. Equal values have equal forms, and
    /// others have others.
    pub(crate) fn standard<'a>(
        &self,
        given: impl Into<Given<'a>>,
        lists: &'a [Picklist],
    ) -> Option<Cow<'a, str>> {
        self.read(given.into(), lists).ok().map(value::Value::standard)
    }

    /// Whether two texts are one value. Several values in a cell have no order: none of them stands twice.
    pub(crate) fn is_same(&self, one: &str, other: &str, lists: &[Picklist]) -> bool {
        let sorted = |text| {
            let mut several = self.several(text, lists)?;
            several.sort();
            Some(several)
        };
        match self {
            Self::Many(_) => sorted(one).is_some_and(|one| sorted(other) == Some(one)),
            _ => self.standard(one, lists).is_some_and(|one| self.standard(other, lists) == Some(one)),
        }
    }

    /// The several codes of a cell; nothing where it is for one value, or one is none.
    pub(crate) fn several(&self, text: &str, lists: &[Picklist]) -> Option<Vec<String>> {
        match self {
            Self::Many(many) => many.standards(text, lists),
            _ => None,
        }
    }
}
