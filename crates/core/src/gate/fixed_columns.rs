//! Which columns must not change what is there.

use super::settings::Settings;
use crate::catalogue::{Code, Level};
use crate::headings::Pairing;
use crate::schema::RecordSchema;

/// A column that must not change what is there.
#[derive(Debug)]
pub(super) struct FixedColumn {
    /// The number of the column.
    pub(super) number: usize,
    pub(super) field: usize,
    pub(super) code: Code,
    pub(super) level: Level,
    /// Whether new records may have it.
    pub(super) is_set_at_first: bool,
}

/// The columns that must not change what is there; nothing where that is not known.
pub(super) fn fixed_columns(
    schema: &RecordSchema,
    settings: &Settings,
    pairing: &Pairing,
) -> Vec<FixedColumn> {
    let Some(existing) = settings.existing.as_deref().filter(|_| settings.mode.updates()) else {
        return Vec::new();
    };
    let of_field = |(number, field): (usize, &crate::schema::Field)| {
        let column = pairing.column_of.get(number).copied().flatten()?;
        let (code, level) = match (field.read_only, field.read_only_later) {
            (_, true) => (Code::ReadOnlyChanged, Level::Stop),
            (true, false) => (Code::ReadOnlyChanged, Level::Warn),
            _ if !settings.plan.is_in_scope(number) => (Code::FieldOutOfScope, Level::Stop),
            _ => return None,
        };
        existing.knows(number).then(|| FixedColumn {
            number: column,
            field: number,
            code,
            level,
            is_set_at_first: code == Code::ReadOnlyChanged && !field.read_only,
        })
    };
    schema.fields.iter().enumerate().filter_map(of_field).collect()
}
