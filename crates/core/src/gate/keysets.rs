//! Which combinations of a record must not repeat, or tell near ones.

use super::alike;
use super::keyset::KeySet;
use crate::catalogue::{Code, Level};
use crate::existing::Existing;
use crate::mode::Mode;
use crate::schema::RecordSchema;

/// The combinations whose columns are all there. `varies` says whether a column's sound values can differ in case,
/// spaces or leading zeros alone; under blank cells records that are there and that are updated keep what they have.
pub(super) fn keysets(
    schema: &RecordSchema,
    mode: Mode,
    column_of: &[Option<usize>],
    varies: &dyn Fn(usize) -> bool,
    existing: Option<&dyn Existing>,
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
        let column = |field: &usize| column_of.get(*field).copied().flatten();
        let is_outcome = code == Code::UniqueRepeated && fields.len() > 1 && existing.is_some();
        let columns: Vec<usize> = match existing.filter(|_| is_outcome) {
            Some(existing) => {
                let is_known = |field: &usize| column(field).is_some() || existing.knows(*field);
                fields.iter().all(is_known).then(|| fields.iter().filter_map(column).collect())?
            }
            None => telling.map(column).collect::<Option<_>>()?,
        };
        if columns.is_empty() {
            return None;
        }
        let per_record = is_of_header(&fields);
        Some(KeySet { columns, per_record, is_outcome, fields, code, level: Level::Stop })
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
            is_outcome: false,
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
        is_outcome: false,
    })
}
