//! The different values of fields, as `--values` asks for them.

use super::options::field;
use crate::args::MatchArgs;
use crate::commands::setup::layout_of;
use crate::failure::Failure;
use crate::interrupt::INTERRUPTED;
use tidy_gate_core::block::Block;
use tidy_gate_core::gate::{Gate, Settings, ValueCounts};
use tidy_gate_core::matching::FieldValues;
use tidy_gate_core::run::BlockSource;
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_files::{Error, Input, ReadOptions, TableFile};

/// The values of the fields that are asked for, each with what it is read as.
pub(super) fn of(
    args: &MatchArgs,
    schema: &RecordSchema,
    settings: &Settings,
) -> anyhow::Result<Vec<FieldValues>> {
    let names = args.values.iter().flat_map(|names| names.split(','));
    let names: Vec<String> = names.map(|name| field(name, "values", schema)).collect::<Result<_, _>>()?;
    if names.is_empty() {
        return Ok(Vec::new());
    }
    if !std::fs::metadata(&args.file).is_ok_and(|facts| facts.is_file()) {
        let message = "--values reads the file twice, which standard input does not give".to_owned();
        return Err(Failure::usage(message, "name a file".to_owned()).into());
    }
    let (options, sheet) = layout_of(&args.file, &args.layout, &settings.plan, schema)?;
    let (gate, counts) =
        options.reading(|options| read(args, schema, settings, (options, sheet)), Error::itself)?;
    let mut found = Vec::new();
    for name in names {
        let number = schema.field(&name);
        let column = number.and_then(|number| gate.pairing().column_of.get(number).copied().flatten());
        let Some(column) = column else {
            let message = format!("--values: no column is paired with {name}");
            return Err(Failure::usage(message, format!("say which is: --set \"HEADING={name}\"")).into());
        };
        if gate.is_sensitive(column) {
            let message = format!("--values: {name} is sensitive, and its values are not shown");
            return Err(Failure::usage(message, None).into());
        }
        found.push(FieldValues {
            field: name,
            values: counts.told(&gate, column),
            uncounted: counts.uncounted(),
        });
    }
    Ok(found)
}

fn read(
    args: &MatchArgs,
    schema: &RecordSchema,
    settings: &Settings,
    (options, sheet): (&ReadOptions, Option<&str>),
) -> Result<(Gate, ValueCounts), Error> {
    let input = Input::open(&args.file)?;
    let widened = settings.plan.widened(schema.clone());
    let file = TableFile::open_sheet(input, sheet, options, Some(&widened), false, &INTERRUPTED)?;
    let gate = Gate::new(schema.clone(), settings.clone(), file.table().clone());
    let columns: Vec<usize> = gate.pairing().column_of.iter().copied().flatten().collect();
    let mut counts = ValueCounts::new(&columns);
    let mut block = Block::default();
    while file.next(&mut block)? {
        if std::str::from_utf8(block.content()).is_err()
            && let Some(error) = file.other_encoding(&block.extent())
        {
            return Err(error);
        }
        if !gate.may_be_total(&block) {
            counts.look_at(&gate, &block);
        }
    }
    Ok((gate, counts))
}
