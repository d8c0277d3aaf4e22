//! `fields`: the fields of a record schema, listed, searched, or handed to other systems.

use super::setup::read_schema;
use crate::args::{FieldsArgs, FieldsFormatArg};
use crate::ended::Ended;
use crate::render::{self, json, text};
use std::path::PathBuf;
use tidy_gate_core::export::{COLUMNS, Exported, csvw, json_schema, markdown, table};
use tidy_gate_core::fields::{Hit, search};
use tidy_gate_core::letters::{harmless, in_json};
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_files::{Error, Outputs};

pub(crate) fn run(args: &FieldsArgs) -> anyhow::Result<Ended> {
    let (schema, lists) = read_schema(&args.record)?;
    let hits = search(&schema, &args.words);
    let fields: Vec<usize> = hits.iter().map(|hit| hit.field).collect();
    let Exported { text, unsaid } = match args.format {
        FieldsFormatArg::Text => Exported {
            text: text::fields::list(&schema, &hits, args, crate::terminal::width()),
            unsaid: Vec::new(),
        },
        FieldsFormatArg::Json => Exported { text: of_json(&schema, &hits)?, unsaid: Vec::new() },
        FieldsFormatArg::Csv => of_csv(&schema, &fields),
        FieldsFormatArg::Markdown => markdown(&schema, &fields),
        FieldsFormatArg::Csvw => csvw(&schema, &fields),
        FieldsFormatArg::JsonSchema => json_schema(&schema, &fields),
    };
    let text = match args.format {
        FieldsFormatArg::Csvw | FieldsFormatArg::JsonSchema => in_json(&text).into_owned(),
        _ => text,
    };
    match &args.output {
        Some(path) => write(args, path, &text, lists)?,
        None => render::to_stdout(&text)?,
    }
    if !unsaid.is_empty() {
        text::say_aside("this form cannot say:", &unsaid);
    }
    Ok(if hits.is_empty() { Ended::Shut } else { Ended::Well })
}

fn of_csv(schema: &RecordSchema, fields: &[usize]) -> Exported {
    let (rows, unsaid) = table(schema, fields);
    let mut writer = csv::Writer::from_writer(Vec::new());
    // Writing to memory cannot fail.
    let _ = writer.write_record(COLUMNS);
    for row in rows {
        let _ = writer.write_record(row.iter().map(|cell| harmless(cell).into_owned()));
    }
    let bytes = writer.into_inner().unwrap_or_default();
    Exported { text: String::from_utf8_lossy(&bytes).into_owned(), unsaid }
}

fn of_json(schema: &RecordSchema, hits: &[Hit]) -> anyhow::Result<String> {
    Ok(json::pretty(&tidy_gate_core::fields::report(schema, hits))?)
}

fn write(args: &FieldsArgs, path: &std::path::Path, text: &str, lists: Vec<PathBuf>) -> Result<(), Error> {
    let endings = match args.format {
        FieldsFormatArg::Text => ".txt",
        FieldsFormatArg::Json | FieldsFormatArg::Csvw | FieldsFormatArg::JsonSchema => ".json",
        FieldsFormatArg::Csv => ".csv",
        FieldsFormatArg::Markdown => ".md",
    };
    let mut outputs = Outputs::new(args.force);
    outputs.guard(&args.record, "the record schema");
    lists.iter().for_each(|list| outputs.guard(list, "a picklist of the record schema"));
    let mut output = outputs.create(path, "the fields", endings)?;
    crate::interrupt::take_away(Some(output.temporary()));
    output.write(text.as_bytes())?;
    outputs.complete(output)?;
    outputs.persist().map(drop)
}
