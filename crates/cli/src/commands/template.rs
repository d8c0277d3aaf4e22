//! `template`: the sheet to fill.

use super::setup::read_schema;
use super::{existing, references};
use crate::args::TemplateArgs;
use crate::ended::Ended;
use crate::failure::Failure;
use crate::interrupt;
use crate::render::{self, text};
use std::path::PathBuf;
use tidy_gate_core::likeness;
use tidy_gate_core::mode::Mode;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::plan::Plan;
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_core::template::{Meant, Template};
use tidy_gate_files::{Outputs, TEMPLATE_ENDINGS, write_template};

pub(crate) fn run(args: &TemplateArgs) -> anyhow::Result<Ended> {
    let (schema, lists) = read_schema(&args.record)?;
    let fields = fields(args, &schema)?;
    let template = Template::new(&schema, &fields, mode_of(args));
    let (_, sources) = references::read(&args.references, &schema, &Plan::default(), None)?;
    let template = template.offering(&schema, &references::offered(&args.references, &schema)?);
    let (template, source) = filled(args, &schema, &fields, template)?;
    if args.example && !template.has_example() {
        let message =
            "an example row needs the `example` of two fields at least, or a check would take it for data";
        return Err(Failure::usage(message, "add `example` to fields of the record schema".to_owned()).into());
    }
    if args.example && is_text(args) && fields.len() < 3 {
        let message =
            "an example row in a .csv needs three fields at least, or a check would take it for data";
        return Err(Failure::usage(message, "write an .xlsx, or leave --example out".to_owned()).into());
    }
    let mut outputs = Outputs::new(args.force);
    outputs.guard(&args.record, "the record schema");
    lists.iter().for_each(|list| outputs.guard(list, "a picklist of the record schema"));
    sources.iter().chain(&source).for_each(|file| outputs.guard(file, "a source of records"));
    let mut output = outputs.create(&args.output, "a template", TEMPLATE_ENDINGS)?;
    interrupt::take_away(Some(output.temporary()));
    write_template(&template, args.example, &mut output)?;
    outputs.complete(output)?;
    let written = outputs.persist()?;
    let text = text::template::summary(&template, args, crate::terminal::width());
    render::to_stdout_beside(&text, &written)?;
    Ok(Ended::Well)
}

/// Whether the headings alone are written.
fn is_text(args: &TemplateArgs) -> bool {
    args.output.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("csv"))
}

/// What the sheet is for.
pub(crate) fn mode_of(args: &TemplateArgs) -> Mode {
    let usual = if args.existing.is_some() { Mode::Update } else { Mode::Add };
    args.mode.map_or(usual, Mode::from)
}

/// A sheet holds so many rows below its headings.
const MOST_ROWS: usize = 1_048_575;

/// The template with the records that are there, where they are named, and the file that holds them.
fn filled(
    args: &TemplateArgs,
    schema: &RecordSchema,
    fields: &[usize],
    template: Template,
) -> anyhow::Result<(Template, Option<PathBuf>)> {
    let Some(existing) = &args.existing else { return Ok((template, None)) };
    if args.example {
        let message = "an example row does not go with records that are there".to_owned();
        return Err(Failure::usage(message, "leave --example out".to_owned()).into());
    }
    let (rows, source) = existing::records(&args.record, existing, fields, args.condition.as_deref())?;
    if rows.len() > MOST_ROWS {
        let message = format!("{} records are more than a sheet holds", grouped(rows.len() as u64));
        return Err(Failure::usage(message, "name fewer of them with --where".to_owned()).into());
    }
    let named = fields.iter().filter_map(|field| schema.fields.get(*field)).map(|field| field.name.clone());
    let fields = if args.fields.is_empty() { Vec::new() } else { named.collect() };
    let meant = Meant { mode: mode_of(args).name().to_owned(), fields, condition: args.condition.clone() };
    if !is_text(args) && meant.as_property().is_none() {
        let message =
            "a sheet has no room to say which of so many fields it may change, or on which condition"
                .to_owned();
        let help = "name fewer fields, or shorten --where; all fields need no room".to_owned();
        return Err(Failure::usage(message, help).into());
    }
    Ok((template.filled_with(schema, rows, meant), source))
}

/// The fields of the sheet: those that are named, or all that a load can carry.
fn fields(args: &TemplateArgs, schema: &RecordSchema) -> Result<Vec<usize>, Failure> {
    if args.fields.is_empty() {
        let all = schema.fields.iter().enumerate().filter(|(_, field)| !field.read_only);
        return Ok(all.map(|(number, _)| number).collect());
    }
    let mut numbers = Vec::new();
    for name in args.fields.iter().map(|name| name.trim()).filter(|name| !name.is_empty()) {
        let Some(number) = schema.field(name) else {
            let names = schema.fields.iter().map(|field| (field.name.as_str(), &field.name));
            let help = likeness::nearest(name, names).map_or_else(
                || "`tidy-gate fields` lists them".to_owned(),
                |near| format!("did you mean `{near}`?"),
            );
            return Err(Failure::usage(format!("--fields: the record has no field `{name}`"), help));
        };
        if schema.fields.get(number).is_some_and(|field| field.read_only) {
            let message = format!("--fields: `{name}` is computed by the target; a load cannot carry it");
            return Err(Failure::usage(message, None));
        }
        if !numbers.contains(&number) {
            numbers.push(number);
        }
    }
    // Without its key no record could be told from another.
    let missing = schema.key.iter().copied().filter(|key| !numbers.contains(key)).collect::<Vec<_>>();
    Ok(missing.into_iter().chain(numbers).collect())
}
