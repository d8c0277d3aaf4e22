//! The keys that references are held against, from columns of files.

use crate::failure::Failure;
use crate::interrupt::INTERRUPTED;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use tidy_gate_core::block::Block;
use tidy_gate_core::column_texts::ColumnTexts;
use tidy_gate_core::headings::loose;
use tidy_gate_core::likeness;
use tidy_gate_core::plan::{Plan, ReferencePlan, SourcePlan};
use tidy_gate_core::run::BlockSource;
use tidy_gate_core::schema::{RecordSchema, References};
use tidy_gate_core::template::OfferedKeys;
use tidy_gate_files::ReadOptions;
use tidy_gate_targets::{At, Place};

/// A source that was stated: the record, the file, the column, the columns that may stand for it.
struct Source {
    name: String,
    place: Place,
    column: String,
    also_by: Vec<String>,
}

/// The keys, by the name of their record.
type Keys = BTreeMap<String, Arc<References>>;

/// Reads what is stated with `--reference NAME=FILE:COLUMN`, and in the plan for other records; gives the files too.
pub(crate) fn read(
    stated: &[String],
    schema: &RecordSchema,
    plan: &Plan,
    plan_file: Option<&Path>,
) -> anyhow::Result<(Keys, Vec<PathBuf>)> {
    let mut sources = stated_sources(stated, schema)?;
    let folder = plan_file.and_then(Path::parent).unwrap_or(Path::new(""));
    for planned in &plan.references {
        if sources.iter().all(|source| source.name != planned.name) {
            sources.push(Source {
                name: planned.name.clone(),
                place: planned_place(
                    folder,
                    &planned.source,
                    planned.table.as_ref().or(planned.sheet.as_ref()),
                ),
                column: planned.column.clone(),
                also_by: planned.also_by.clone(),
            });
        }
    }
    let mut found = BTreeMap::new();
    for source in &sources {
        found.insert(source.name.clone(), keys(source)?);
    }
    let file = |source: &Source| source.place.file().map(Path::to_owned);
    Ok((found, sources.iter().filter_map(file).collect()))
}

/// What is stated with `--reference`, as a plan keeps it; the files are named as `name` says.
pub(crate) fn planned(
    stated: &[String],
    schema: &RecordSchema,
    name: impl Fn(&Path) -> String,
) -> Result<Vec<ReferencePlan>, Failure> {
    let one = |source: Source| ReferencePlan {
        name: source.name,
        source: match &source.place.at {
            At::Server(variable) => SourcePlan::Postgres(variable.clone()),
            At::File(file) if source.place.is_database() => SourcePlan::Sqlite(name(file)),
            At::File(file) => SourcePlan::File(name(file)),
        },
        sheet: source.place.table.clone().filter(|_| !source.place.is_database()),
        table: source.place.table.clone().filter(|_| source.place.is_database()),
        column: source.column,
        also_by: source.also_by,
    };
    Ok(stated_sources(stated, schema)?.into_iter().map(one).collect())
}

/// The place that a plan in this folder names.
pub(super) fn planned_place(folder: &Path, source: &SourcePlan, table: Option<&String>) -> Place {
    let at = match source {
        SourcePlan::File(file) | SourcePlan::Sqlite(file) => At::File(folder.join(file)),
        SourcePlan::Postgres(variable) => At::Server(variable.clone()),
    };
    Place { at, table: table.cloned() }
}

/// What a place of records refuses, with what to do.
pub(super) fn refused(error: tidy_gate_targets::Error) -> anyhow::Error {
    match error {
        // A file that turns out to be in another encoding is read once more.
        tidy_gate_targets::Error::Table(error) => error.into(),
        error => not_named(&error).into(),
    }
}

fn not_named(error: &tidy_gate_targets::Error) -> Failure {
    Failure::usage(error.to_string(), error.help())
}

fn stated_sources(stated: &[String], schema: &RecordSchema) -> Result<Vec<Source>, Failure> {
    let mut sources = Vec::new();
    for word in stated {
        let parts = word.split_once('=').and_then(|(name, rest)| Some((name, rest.rsplit_once(':')?)));
        let Some((name, (file, column))) =
            parts.filter(|(name, (file, _))| !name.is_empty() && !file.is_empty())
        else {
            let help =
                "write it as --reference NAME=FILE:COLUMN, such as site=sites.csv:site_code".to_owned();
            return Err(Failure::usage(
                format!("--reference {word}: not a record, a file and a column"),
                help,
            ));
        };
        let targets: Vec<&str> =
            schema.fields.iter().filter_map(|field| field.stated.to.as_deref()).collect();
        if !targets.contains(&name) {
            let help = match likeness::nearest(name, targets.iter().map(|to| (*to, *to))) {
                Some(near) => format!("did you mean {near}?"),
                None if targets.is_empty() => "the record schema has no field of kind reference".to_owned(),
                None => format!("its fields refer to {}", targets.join(", ")),
            };
            return Err(Failure::usage(format!("--reference {word}: no field refers to {name}"), help));
        }
        sources.push(Source {
            name: name.to_owned(),
            place: Place::read(file).map_err(|error| not_named(&error))?,
            column: column.to_owned(),
            also_by: Vec::new(),
        });
    }
    Ok(sources)
}

fn keys(source: &Source) -> anyhow::Result<Arc<References>> {
    ReadOptions::default().reading(|options| keys_by(source, options), |error| error.downcast_ref())
}

fn keys_by(source: &Source, options: &ReadOptions) -> anyhow::Result<Arc<References>> {
    let mut found = References::from_source(source.place.name());
    each_row(source, options, false, &mut |row| {
        if let Some((key, also)) = row.split_first() {
            found.add(key, also);
        }
    })?;
    if found.is_empty() {
        let message = format!("{} holds no keys in the column \"{}\"", source.place.name(), source.column);
        return Err(Failure::usage(message, None).into());
    }
    Ok(Arc::new(found))
}

/// The keys of what is stated with `--reference`, each with the name that stands beside it; by the name of their record.
pub(crate) fn offered(stated: &[String], schema: &RecordSchema) -> anyhow::Result<Vec<OfferedKeys>> {
    let mut offered = Vec::new();
    for source in stated_sources(stated, schema)? {
        let mut keys = Vec::new();
        ReadOptions::default().reading(
            |options| {
                keys.clear();
                each_row(&source, options, true, &mut |row| {
                    let mut cells = row.iter().filter(|cell| !cell.is_empty()).cloned();
                    keys.extend(cells.next().map(|key| (key, cells.next())));
                })
            },
            |error: &anyhow::Error| error.downcast_ref(),
        )?;
        offered.push((source.name, keys));
    }
    Ok(offered)
}

/// The column that names what a key stands for: one that is called so, else the first beside the key.
fn name_among<'a>(columns: &'a [String], source: &Source) -> Option<&'a String> {
    let names = ["name", "label", "title", "description"].map(str::to_owned);
    let of_record = names.iter().map(|name| format!("{} {name}", source.name));
    let wanted: Vec<String> = names.iter().cloned().chain(of_record).map(|name| loose(&name)).collect();
    let is_key = |column: &&String| loose(column) == loose(&source.column);
    let mut others = columns.iter().filter(|column| !is_key(column) && !column.trim().is_empty());
    others.clone().find(|column| wanted.contains(&loose(column))).or_else(|| others.next())
}

/// Reads the key of each row with what may stand for it; with `names` the name of what it stands for instead.
fn each_row(
    source: &Source,
    options: &ReadOptions,
    names: bool,
    take: &mut dyn FnMut(&[String]),
) -> anyhow::Result<()> {
    // Without a sheet's name, the one that has the heading is meant.
    let wanted = RecordSchema::of_headings(std::iter::once(&source.column).chain(&source.also_by));
    let besides = |columns: &[String]| match names {
        true => name_among(columns, source).into_iter().cloned().collect(),
        false => source.also_by.clone(),
    };
    let wants = |columns: &[String]| {
        let besides = besides(columns);
        let named = || std::iter::once(&source.column).chain(&besides);
        let is_named = |column: &String| named().any(|name| loose(name) == loose(column));
        let named = (0..columns.len()).filter(|at| columns.get(*at).is_some_and(is_named));
        named.collect::<Vec<_>>().into()
    };
    let file =
        tidy_gate_targets::open(&source.place, &wanted, options, &wants, &INTERRUPTED).map_err(refused)?;
    let table = file.table();
    let find = |wanted: &str| -> anyhow::Result<usize> {
        let exact = table.headings.iter().position(|heading| heading.trim() == wanted.trim());
        let found =
            exact.or_else(|| table.headings.iter().position(|heading| loose(heading) == loose(wanted)));
        found.ok_or_else(|| {
            let headings = table.headings.iter().map(|heading| (heading.as_str(), heading));
            let help = match likeness::nearest(wanted, headings) {
                Some(near) => format!("did you mean \"{near}\"?"),
                None => format!("its columns are {}", table.headings.join(", ")),
            };
            Failure::usage(format!("{} has no column \"{wanted}\"", source.place.name()), help).into()
        })
    };
    let besides = besides(&table.headings);
    let columns = std::iter::once(&source.column).chain(&besides).map(|column| find(column));
    let mut texts =
        ColumnTexts::new(table.headings.len(), table.dialect, columns.collect::<anyhow::Result<_>>()?);
    let mut block = Block::default();
    while file.next(&mut block)? {
        if std::str::from_utf8(block.content()).is_err()
            && let Some(error) = file.other_encoding(&block.extent())
        {
            return Err(error.into());
        }
        texts.of(&block).iter().for_each(|row| take(row));
    }
    Ok(())
}
