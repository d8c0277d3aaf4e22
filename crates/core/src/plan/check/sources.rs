//! Where a plan says that existing records and the values of references are.

use super::fields::field_of;
use crate::fault::Fault;
use crate::likeness;
use crate::plan::raw::{RawOverwrite, RawPlan, RawRest};
use crate::plan::stated::{ExistingPlan, ReferencePlan};
use crate::schema::RecordSchema;
use toml::Spanned;

/// Where existing records are. What cannot be followed yet is a fault: a plan is never obeyed in part.
pub(super) fn existing(
    raw: &RawPlan,
    schema: &RecordSchema,
    faults: &mut Vec<Fault>,
) -> Option<ExistingPlan> {
    let raw = raw.existing.as_ref()?;
    let (spot, existing) = (raw.span(), raw.get_ref());
    let sources = [&existing.file, &existing.sqlite, &existing.postgres];
    one_source(sources, &existing.table, "[existing]", spot.clone(), faults);
    if let Some(postgres) = &existing.postgres {
        let fault = Fault::new(postgres.span(), "[existing] cannot be followed: PostgreSQL is not read yet");
        faults.push(fault.help("export the records to a file, and name it with `file`"));
    }
    database_wants_table(&existing.sqlite, &existing.table, "[existing]", faults);
    if let Some(overwrite) = &existing.overwrite
        && *overwrite.get_ref() == RawOverwrite::BlankOnly
    {
        let fault = Fault::new(overwrite.span(), "`overwrite = \"blank-only\"` cannot be followed yet");
        faults.push(fault.help("take it out; then what the file says is what the record gets"));
    }
    if schema.key.is_empty() {
        let fault = Fault::new(spot, "the record has no key, so existing records cannot be told apart");
        faults.push(fault.help("name the `key` in the record schema, or take [existing] out"));
    }
    let column = |(name, field): (&String, &Spanned<String>)| {
        Some((name.clone(), field_of(field.get_ref(), &field.span(), schema, faults)?))
    };
    let columns = existing.columns.iter().filter_map(column).collect();
    Some(ExistingPlan {
        file: existing.file.as_ref().or(existing.sqlite.as_ref())?.get_ref().clone(),
        table: existing.table.as_ref().map(|table| table.get_ref().clone()),
        plan: existing.plan.clone(),
        columns,
        leaves_unmatched: existing.unmatched == Some(RawRest::LeaveOut),
    })
}

/// Where the values of references come from. What cannot be followed yet is a fault: a plan is never obeyed in part.
pub(super) fn references(
    raw: &RawPlan,
    schema: &RecordSchema,
    faults: &mut Vec<Fault>,
) -> Vec<ReferencePlan> {
    let mut references = Vec::new();
    for (name, reference) in &raw.references {
        let spot = reference.span();
        let reference = reference.get_ref();
        let what = format!("[references.{name}]");
        let targets: Vec<&str> =
            schema.fields.iter().filter_map(|field| field.stated.to.as_deref()).collect();
        if !targets.contains(&name.as_str()) {
            let fault = Fault::new(spot.clone(), format!("no field of the record refers to `{name}`"));
            faults.push(match likeness::nearest(name, targets.iter().map(|to| (*to, *to))) {
                Some(near) => fault.help(format!("did you mean `{near}`?")),
                None => fault,
            });
        }
        let source = reference.file.as_ref().or(reference.sqlite.as_ref());
        if let (Some(file), Some(column)) = (source, &reference.column) {
            references.push(ReferencePlan {
                name: name.clone(),
                file: file.get_ref().clone(),
                sheet: reference.sheet.clone(),
                table: reference.table.as_ref().map(|table| table.get_ref().clone()),
                column: column.get_ref().clone(),
                also_by: reference.also_by.clone().unwrap_or_default(),
            });
        }
        if let Some(postgres) = &reference.postgres {
            let fault =
                Fault::new(postgres.span(), format!("{what} cannot be followed: PostgreSQL is not read yet"));
            faults.push(fault.help("export the keys to a file, and name it with `file`"));
        }
        database_wants_table(&reference.sqlite, &reference.table, &what, faults);
        let sources = [&reference.file, &reference.sqlite, &reference.postgres];
        one_source(sources, &reference.table, &what, spot.clone(), faults);
        if reference.column.is_none() {
            let fault = Fault::new(spot, format!("{what} names no column"));
            faults.push(fault.help("add `column`, the one that holds the key"));
        }
    }
    references
}

fn database_wants_table(
    database: &Option<Spanned<String>>,
    table: &Option<Spanned<String>>,
    what: &str,
    faults: &mut Vec<Fault>,
) {
    if let (Some(database), None) = (database, table) {
        let fault = Fault::new(database.span(), format!("{what} names a database and no table"));
        faults.push(fault.help("add `table`, the table or view that holds the records"));
    }
}

fn one_source(
    sources: [&Option<Spanned<String>>; 3],
    table: &Option<Spanned<String>>,
    what: &str,
    spot: std::ops::Range<usize>,
    faults: &mut Vec<Fault>,
) {
    let [file, ..] = sources;
    match sources.into_iter().flatten().collect::<Vec<_>>().as_slice() {
        [] => {
            let fault = Fault::new(spot, format!("{what} names no source"));
            faults.push(fault.help("name one of `file`, `sqlite` and `postgres`"));
        }
        [_] => {}
        [_, second, ..] => faults.push(Fault::new(second.span(), format!("{what} names two sources"))),
    }
    if let (Some(_), Some(table)) = (file, table) {
        faults.push(Fault::new(table.span(), "a file has no `table`"));
    }
}
