//! What `--set`, `--leave-out` and `--default` decide.

use crate::args::MatchArgs;
use crate::failure::Failure;
use tidy_gate_core::headings::ColumnName;
use tidy_gate_core::headings::loose;
use tidy_gate_core::likeness;
use tidy_gate_core::plan::{PlanEdit, place};
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_core::table::Table;

pub(super) fn edit(
    args: &MatchArgs,
    table: &Table,
    schema: &RecordSchema,
    by_position: bool,
) -> Result<PlanEdit, Failure> {
    let mut edit = PlanEdit { by_position, ..PlanEdit::default() };
    for set in &args.sets {
        let (heading, field) = parts(set, "set", "HEADING=FIELD", set.rsplit_once('='))?;
        let column = column(heading, "set", table, by_position)?;
        edit.columns.push((column, Some(self::field(field, "set", schema)?)));
    }
    for heading in &args.leave_out {
        edit.columns.push((column(heading, "leave-out", table, by_position)?, None));
    }
    for default in &args.defaults {
        let (field, value) = parts(default, "default", "FIELD=VALUE", default.split_once('='))?;
        edit.defaults.push((self::field(field, "default", schema)?, value.to_owned()));
    }
    edit.by_position &= !edit.columns.is_empty();
    Ok(edit)
}

fn parts<'a>(
    word: &str,
    option: &str,
    form: &str,
    parts: Option<(&'a str, &'a str)>,
) -> Result<(&'a str, &'a str), Failure> {
    parts.ok_or_else(|| {
        Failure::usage(
            format!("--{option} \"{word}\" has no `=`"),
            format!("write it as --{option} \"{form}\""),
        )
    })
}

/// The name of a field that was typed, perhaps as its label.
pub(super) fn field(word: &str, option: &str, schema: &RecordSchema) -> Result<String, Failure> {
    let word = word.trim();
    let by_name = schema.fields.iter().find(|field| field.name == word);
    let found = by_name.or_else(|| {
        let alike = schema
            .fields
            .iter()
            .filter(|field| [&field.name, &field.label].iter().any(|name| loose(name) == loose(word)));
        match alike.collect::<Vec<_>>().as_slice() {
            [field] => Some(*field),
            _ => None,
        }
    });
    if let Some(field) = found {
        return Ok(field.name.clone());
    }
    let words =
        schema.fields.iter().flat_map(|field| [(field.name.as_str(), field), (field.label.as_str(), field)]);
    let help = likeness::nearest(word, words).map_or_else(
        || "`tidy-gate fields` lists them".to_owned(),
        |near| format!("did you mean `{}`?", near.name),
    );
    Err(Failure::usage(format!("--{option}: the record has no field `{word}`"), help))
}

/// The column that a heading, a letter as @K, or in a file without headings a number or a letter names.
fn column(word: &str, option: &str, table: &Table, by_position: bool) -> Result<ColumnName, Failure> {
    let word = word.trim();
    let named = if by_position { place(word) } else { word.strip_prefix('@').and_then(place) };
    if let Some(place) = named {
        if place < table.headings.len() {
            return Ok(ColumnName::Place(place));
        }
        let message = format!("--{option}: there is no column {word}; the file has {}", table.headings.len());
        return Err(Failure::usage(message, None));
    }
    let exact = table.headings.iter().filter(|heading| heading.trim() == word).count();
    if exact == 1 {
        return Ok(ColumnName::Heading(word.to_owned()));
    }
    let alike: Vec<&String> = table.headings.iter().filter(|heading| loose(heading) == loose(word)).collect();
    match alike.as_slice() {
        [heading] if exact == 0 && !by_position => return Ok(ColumnName::Heading((*heading).clone())),
        [_, _, ..] if !by_position => {
            let message = format!("--{option}: several columns have the heading \"{word}\"");
            return Err(Failure::usage(message, "name the column by its letter, such as @K".to_owned()));
        }
        _ => {}
    }
    let headings = table.headings.iter().map(|heading| (heading.as_str(), heading));
    let help = likeness::nearest(word, headings).filter(|_| !by_position).map_or_else(
        || "name a column by its letter, such as @K, or in a file without headings by its number".to_owned(),
        |near| format!("did you mean \"{near}\"?"),
    );
    Err(Failure::usage(format!("--{option}: no column has the heading \"{word}\""), help))
}
