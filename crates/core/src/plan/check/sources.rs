//! Where a plan says that existing records and the values of references are.

use super::fields::field_of;
use crate::fault::Fault;
use crate::likeness;
use crate::plan::raw::{RawOverwrite, RawPlan, RawRest};
use crate::plan::stated::{ExistingPlan, ReferencePlan, SourcePlan};
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
    database_wants_table(sources, &existing.table, "[existing]", faults);
    if schema.key.is_empty() {
        let fault = Fault::new(spot, "the record has no key, so existing records cannot be told apart");
        faults.push(fault.help("name the `key` in the record schema, or take [existing] out"));
    }
    let column = |(name, field): (&String, &Spanned<String>)| {
        Some((name.clone(), field_of(field.get_ref(), &field.span(), schema, faults)?))
    };
    let columns = existing.columns.iter().filter_map(column).collect();
    Some(ExistingPlan {
        source: source(sources, "[existing]", faults)?,
        table: existing.table.as_ref().map(|table| table.get_ref().clone()),
        plan: existing.plan.clone(),
        columns,
        leaves_unmatched: existing.unmatched == Some(RawRest::LeaveOut),
        fills_only: existing.overwrite.as_ref().is_some_and(|all| *all.get_ref() == RawOverwrite::BlankOnly),
        released: existing.released.clone(),
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
        let sources = [&reference.file, &reference.sqlite, &reference.postgres];
        if let (Some(source), Some(column)) = (source(sources, &what, faults), &reference.column) {
            references.push(ReferencePlan {
                name: name.clone(),
                source,
                sheet: reference.sheet.clone(),
                table: reference.table.as_ref().map(|table| table.get_ref().clone()),
                column: column.get_ref().clone(),
                also_by: reference.also_by.clone().unwrap_or_default(),
            });
        }
        database_wants_table(sources, &reference.table, &what, faults);
        one_source(sources, &reference.table, &what, spot.clone(), faults);
        if reference.column.is_none() {
            let fault = Fault::new(spot, format!("{what} names no column"));
            faults.push(fault.help("add `column`, the one that holds the key"));
        }
    }
    references
}

/// The source that is named, if one is.
fn source(
    [file, sqlite, postgres]: [&Option<Spanned<String>>; 3],
    what: &str,
    faults: &mut Vec<Fault>,
) -> Option<SourcePlan> {
    if let Some(file) = file {
        return Some(SourcePlan::File(file.get_ref().clone()));
    }
    if let Some(sqlite) = sqlite {
        return Some(SourcePlan::Sqlite(sqlite.get_ref().clone()));
    }
    let postgres = postgres.as_ref()?;
    let stated = postgres.get_ref();
    match stated.strip_prefix("env:") {
        Some(variable) => Some(SourcePlan::Postgres(variable.to_owned())),
        None if stated.is_empty() => Some(SourcePlan::Postgres(String::new())),
        None => {
            let fault = Fault::new(
                postgres.span(),
                format!("{what} names a database by something else than a variable"),
            );
            faults.push(fault.help(
                "a URL may hold a password: put it into a variable, and name that as \"env:VARIABLE\"",
            ));
            None
        }
    }
}

fn database_wants_table(
    [_, sqlite, postgres]: [&Option<Spanned<String>>; 3],
    table: &Option<Spanned<String>>,
    what: &str,
    faults: &mut Vec<Fault>,
) {
    if let (Some(database), None) = (sqlite.as_ref().or(postgres.as_ref()), table) {
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
