//! Which combinations of a record must not repeat, or tell near ones.

use super::alike;
use super::keyset::KeySet;
use crate::catalogue::{Code, Level};
use crate::mode::Mode;
use crate::schema::RecordSchema;

/// The combinations whose columns are all there. `varies` says whether a column's sound values can differ in case,
/// spaces or leading zeros alone.
pub(super) fn keysets(
    schema: &RecordSchema,
    mode: Mode,
    column_of: &[Option<usize>],
    varies: &dyn Fn(usize) -> bool,
) -> Vec<KeySet> {
    let key_code = if schema.lines.is_some() { Code::LinesApart } else { Code::KeyRepeated };
    let key = Some(&schema.key).filter(|key| !key.is_empty()).map(|key| (key_code, key.clone()));
    let unique = schema.unique.iter().map(|unique| (Code::UniqueRepeated, unique.clone()));
    let lines = schema.lines.as_ref().filter(|lines| !lines.key.is_empty());
    let lines = lines.map(|lines| (Code::LineRepeated, [schema.key.as_slice(), &lines.key].concat()));
    let sets = key.into_iter().chain(unique).chain(lines);
    let is_of_header = |fields: &[usize]| {
        schema.lines.as_ref().is_some_and(|lines| fields.iter().all(|f| lines.header.contains(f)))
    };
    let is_constant = |field: &usize| {
        let has_default = schema.fields.get(*field).is_some_and(|field| field.default.is_some());
        has_default && mode.adds() && column_of.get(*field).copied().flatten().is_none()
    };
    sets.filter_map(|(code, fields)| {
        // What a default fills in every row tells no rows apart.
        let telling = fields.iter().filter(|field| !is_constant(field));
        let columns: Vec<usize> =
            telling.map(|field| column_of.get(*field).copied().flatten()).collect::<Option<_>>()?;
        if columns.is_empty() {
            return None;
        }
        Some(KeySet { columns, per_record: is_of_header(&fields), fields, code, level: Level::Stop })
    })
    .chain(nearly(schema, column_of, varies))
    .chain(alike::keyset(schema, mode, column_of))
    .collect()
}

/// Keys that are nearly the same; or, in a record without a key, whole rows that are.
fn nearly(
    schema: &RecordSchema,
    column_of: &[Option<usize>],
    varies: &dyn Fn(usize) -> bool,
) -> Option<KeySet> {
    let column = |field: &usize| column_of.get(*field).copied().flatten();
    if schema.key.is_empty() {
        let fields: Vec<usize> = (0..schema.fields.len()).filter(|field| column(field).is_some()).collect();
        let columns: Vec<usize> = fields.iter().filter_map(column).collect();
        return (columns.len() > 1).then_some(KeySet {
            columns,
            fields,
            code: Code::RowRepeated,
            level: Level::Warn,
            per_record: false,
        });
    }
    let columns: Vec<usize> = schema.key.iter().map(column).collect::<Option<_>>()?;
    let (code, fields) = (Code::KeyNearlyRepeated, schema.key.clone());
    columns.iter().any(|column| varies(*column)).then_some(KeySet {
        columns,
        fields,
        code,
        level: Level::Warn,
        per_record: schema.lines.is_some(),
    })
}
