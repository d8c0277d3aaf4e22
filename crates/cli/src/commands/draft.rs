//! `draft`: a record schema from what there is already.

use super::references::refused;
use super::setup::text_of;
use super::stated::local_date;
use crate::args::{DraftArgs, SourceArg};
use crate::ended::Ended;
use crate::failure::Failure;
use crate::interrupt::{self, INTERRUPTED};
use crate::progress::Progress;
use crate::render::{self, text};
use std::path::{Path, PathBuf};
use tidy_gate_core::block::Block;
use tidy_gate_core::draft::{
    Dictionary, Draft, DraftFault, Lists, SampleLook, from_csvw, from_json_schema, from_sql,
};
use tidy_gate_core::gate::{Gate, Settings};
use tidy_gate_core::mode::Mode;
use tidy_gate_core::order::in_order;
use tidy_gate_core::plan::PlanFile;
use tidy_gate_core::profile::Profiler;
use tidy_gate_core::run::{BlockSource, Watch};
use tidy_gate_core::schema::{NoLists, RecordSchema};
use tidy_gate_files::{Error, Input, ListFiles, Outputs, ReadOptions, TableFile};
use tidy_gate_targets::Place;

/// No dictionary has more rows.
const MOST_FIELDS: usize = 20_000;

pub(crate) fn run(args: &DraftArgs) -> anyhow::Result<Ended> {
    let mut draft = drafted(args)?;
    if let Some(name) = &args.name {
        draft.record.clone_from(name);
    }
    let text = draft.to_toml();
    // What is written can be read: a fault here is one of the draft's own.
    RecordSchema::read(&text, &mut NoLists)
        .map_err(|found| Failure::Faults(render::faults::draw("the draft", &text, &found)))?;
    match &args.output {
        Some(path) => {
            let written = write(args, path, &text, &draft)?;
            let text = text::draft::summary(&draft, &written, crate::terminal::width());
            render::to_stdout_beside(&text, &written)?;
        }
        None => {
            render::to_stdout(&text)?;
            text::say_aside("not understood:", &draft.not_understood);
            if draft.plan.is_some() {
                text::say_aside(
                    "the source says how files are laid out:",
                    &["-o writes that as a plan beside".to_owned()],
                );
            }
        }
    }
    Ok(Ended::Well)
}

fn stem(args: &DraftArgs) -> String {
    let name = args.source.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let stem = name.split('.').next().unwrap_or_default();
    if stem.is_empty() || stem == "-" { "record".to_owned() } else { stem.to_owned() }
}

fn drafted(args: &DraftArgs) -> anyhow::Result<Draft> {
    if let Some(draft) = of_database(args)? {
        return Ok(draft);
    }
    let stem = args.name.clone().unwrap_or_else(|| stem(args));
    let table = args.table.as_deref();
    let told = |fault: DraftFault| -> anyhow::Error {
        let help = match &fault {
            DraftFault::Several(tables) => {
                format!(
                    "name one with --table, such as --table {}",
                    tables.first().map_or("NAME", String::as_str)
                )
            }
            DraftFault::NoTable(_) => "without --table the message names those there are".to_owned(),
            _ => "--as says what the source is: sample, dictionary, sql, csvw or json-schema".to_owned(),
        };
        Failure::usage(format!("{}: {fault}", args.source.display()), help).into()
    };
    let source = match args.source_is {
        Some(source) => source,
        None => kind_of(&args.source)?,
    };
    match source {
        SourceArg::Sql => from_sql(&text_of(&args.source, "SQL")?, table).map_err(told),
        SourceArg::Csvw => from_csvw(&text_of(&args.source, "CSVW metadata")?, table, &stem).map_err(told),
        SourceArg::JsonSchema => {
            from_json_schema(&text_of(&args.source, "a JSON Schema")?, table, &stem).map_err(told)
        }
        SourceArg::Dictionary => dictionary(args)?
            .ok_or_else(|| DraftFault::Nothing("no column of it names fields".to_owned()))
            .and_then(|(dictionary, rows)| described(args, &dictionary, &rows, &stem))
            .map_err(told),
        SourceArg::Sample => {
            if args.source_is.is_none()
                && args.source.as_os_str() != "-"
                && let Some((dictionary, rows)) = dictionary(args)?
                && dictionary.is_one(&rows)
            {
                return described(args, &dictionary, &rows, &stem).map_err(told);
            }
            sample(args, &stem)
        }
    }
}

/// The draft of a table of a database; nothing where the source is none.
fn of_database(args: &DraftArgs) -> anyhow::Result<Option<Draft>> {
    let stated = args.source.to_string_lossy();
    if args.source_is.is_some() || stated == "-" {
        return Ok(None);
    }
    let mut place = Place::read(&stated).map_err(refused)?;
    place.table = args.table.clone().filter(|_| place.is_database()).or(place.table);
    let Some((sql, table)) = tidy_gate_targets::definition(&place).map_err(refused)? else { return Ok(None) };
    let told = |fault: DraftFault| Failure::usage(format!("{}: {fault}", place.name()), None);
    Ok(Some(from_sql(&sql, Some(&table)).map_err(told)?))
}

/// The draft of a dictionary; its picklists may stand on other sheets.
fn described(
    args: &DraftArgs,
    dictionary: &Dictionary,
    rows: &Rows,
    stem: &str,
) -> Result<Draft, DraftFault> {
    let name = args.source.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let mut files = ListFiles::beside(&args.source);
    dictionary.draft(rows, args.table.as_deref(), stem, &mut Lists::of(&name, &mut files))
}

/// What a source is, by its ending and its first words.
fn kind_of(path: &Path) -> anyhow::Result<SourceArg> {
    let ending = path.extension().map(|ending| ending.to_string_lossy().to_lowercase()).unwrap_or_default();
    match ending.as_str() {
        "sql" | "ddl" => Ok(SourceArg::Sql),
        "json" => {
            let text = text_of(path, "JSON")?;
            let start: String = text.chars().take(1 << 16).collect();
            let has = |word: &str| start.contains(word);
            Ok(if has("\"tableSchema\"") || has("ns/csvw") {
                SourceArg::Csvw
            } else if has("\"properties\"") && (has("\"$schema\"") || has("\"type\"")) {
                SourceArg::JsonSchema
            } else {
                SourceArg::Sample
            })
        }
        _ => Ok(SourceArg::Sample),
    }
}

/// Opens the source as a table; anew where its encoding turns out to be another one.
fn with_file<T>(args: &DraftArgs, work: &dyn Fn(&TableFile, &Gate) -> Result<T, Error>) -> Result<T, Error> {
    let plan = PlanFile::default();
    let run = |options: &ReadOptions| {
        let input = Input::open(&args.source)?;
        let sheet = args.layout.sheet(&plan);
        let file = TableFile::open_sheet(input, sheet, options, None, false, &INTERRUPTED)?;
        let settings = Settings::plain(Mode::Add, local_date());
        let gate = Gate::new(RecordSchema::empty(), settings, file.table().clone());
        work(&file, &gate)
    };
    args.layout.options(&plan).reading(run, Error::itself)
}

/// The error for bytes that are those of another encoding than was taken.
fn other_encoding(file: &TableFile, block: &Block) -> Option<Error> {
    let is_broken = !block.content().is_ascii() && std::str::from_utf8(block.content()).is_err();
    is_broken.then(|| file.other_encoding(&block.extent())).flatten()
}

type Rows = Vec<Vec<String>>;

/// The table with all its rows, where its headings may be those of a dictionary.
fn dictionary(args: &DraftArgs) -> Result<Option<(Dictionary, Rows)>, Error> {
    with_file(args, &|file, _| {
        let table = file.table();
        let dictionary = Dictionary::new(&table.headings);
        // Headings alone tell that most tables are none.
        if !dictionary.names_fields() {
            return Ok(None);
        }
        let profiler = Profiler::new(&table.headings, table.dialect, MOST_FIELDS, local_date());
        let mut profiler = profiler.filling_short_rows(true);
        let mut block = Block::default();
        while file.next(&mut block)? {
            if let Some(error) = other_encoding(file, &block) {
                return Err(error);
            }
            profiler.look_at(&block);
            if profiler.rows() > MOST_FIELDS as u64 {
                return Ok(None);
            }
        }
        let (_, rows) = profiler.finish();
        Ok(Some((dictionary, rows.first.into_iter().map(|row| row.1).collect())))
    })
}

fn sample(args: &DraftArgs, stem: &str) -> anyhow::Result<Draft> {
    let processors = || std::thread::available_parallelism().map_or(1, usize::from);
    let threads = args.threads.map_or_else(processors, usize::from);
    let today = local_date();
    let draft = with_file(args, &|file, gate| {
        let table = file.table();
        let progress = Progress::new(file.size());
        let looks = in_order(
            threads,
            || {
                let width = table.headings.len();
                let look = SampleLook::new(width, table.dialect, today, table.short_rows_are_blank);
                (look, Block::default())
            },
            |(_, block)| Ok(file.next(block)?.then_some(block.number)),
            |(look, block)| {
                let error = other_encoding(file, block);
                // Of the last rows those that sum the others, or hold a note, are no records.
                match error.is_none() && gate.may_be_no_record(block) {
                    true => look.leave_out(block, gate.may_be_total(block)),
                    false => look.look_at(block),
                }
                (error, block.first_row + block.rows, block.offset + block.len as u64)
            },
            |(error, rows, bytes)| {
                progress.judged(rows, bytes);
                error.map_or(Ok(()), Err)
            },
        )?;
        let sampled = SampleLook::join(looks.into_iter().map(|(look, _)| look).collect());
        let headings: Vec<String> = match table.heading_row {
            Some(_) => table.headings.clone(),
            None => (1..=table.headings.len()).map(|number| format!("column_{number}")).collect(),
        };
        let name = args.source.file_name().unwrap_or(args.source.as_os_str()).to_string_lossy().into_owned();
        let source = match table.sheet() {
            Some(sheet) => format!("{name}, sheet {sheet}"),
            None => name,
        };
        Ok(sampled.draft(&headings, stem, &source, today))
    })?;
    if draft.fields.is_empty() {
        let message = format!("{} holds no headings to draft from", args.source.display());
        return Err(Failure::usage(message, "a sample needs a row of headings".to_owned()).into());
    }
    Ok(draft)
}

/// Writes the draft, and the plan that the source says.
fn write(args: &DraftArgs, path: &Path, text: &str, draft: &Draft) -> Result<Vec<PathBuf>, Error> {
    let mut outputs = Outputs::new(args.force);
    outputs.guard(&args.source, "the source");
    let mut output = outputs.create(path, "a record schema", ".toml")?;
    interrupt::take_away(Some(output.temporary()));
    output.write(text.as_bytes())?;
    outputs.complete(output)?;
    if let Some(plan) = &draft.plan {
        let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        let stem = name.trim_end_matches(".toml").trim_end_matches(".record").to_owned();
        let plan = plan.replacen(
            &format!("record = \"{}.record.toml\"", draft.record),
            &format!("record = {:?}", name),
            1,
        );
        let mut beside =
            outputs.create(&path.with_file_name(format!("{stem}.plan.toml")), "a plan", ".toml")?;
        interrupt::take_away(Some(beside.temporary()));
        beside.write(plan.as_bytes())?;
        outputs.complete(beside)?;
    }
    outputs.persist()
}
