//! In what form a value is handed on.

use crate::plan::Writing;
use crate::schema::{Field, Kind};
use crate::value::DatePattern;

/// In what form a value is handed on.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Form {
    /// The standard one.
    Standard,
    /// A date in this pattern.
    Dated(DatePattern),
    /// With this mark before the decimals.
    Marked(char),
    /// The label of a value of this picklist.
    Labelled(usize),
    /// These words for yes and no.
    Truth(String, String),
}

impl Form {
    pub(super) fn of(field: &Field, write: &Writing) -> Self {
        match (&field.kind, &write.dates) {
            (Kind::Date { .. }, Some(pattern)) => Self::Dated(pattern.clone()),
            (Kind::Decimal { .. }, _) if write.decimal_mark != '.' => Self::Marked(write.decimal_mark),
            (Kind::Picklist(list), _) if write.value_labels => Self::Labelled(*list),
            (Kind::Boolean, _) => match &write.truth {
                Some((yes, no)) => Self::Truth(yes.clone(), no.clone()),
                None => Self::Standard,
            },
            _ => Self::Standard,
        }
    }
}
