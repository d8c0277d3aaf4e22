//! `check`: the gate itself.

use crate::Ended;
use crate::args::{CheckArgs, FormatArg};
use crate::failure::Failure;
use crate::interrupt::{self, INTERRUPTED};
use crate::progress::Progress;
use crate::render::{self, faults, json, text};
use encoding_rs::Encoding;
use std::path::{Path, PathBuf};
use tidy_gate_core::gate::{Gate, Mode, Settings};
use tidy_gate_core::report::{FileFacts, Report, Tool, Verdict};
use tidy_gate_core::run::{self, FindingSink, Outcome};
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_core::value::{Date, DatePattern};
use tidy_gate_files::{
    Error, FindingsFile, Input, ListFiles, Output, Outputs, RowWriters, TextFile, write_rows,
};

pub(crate) fn run(args: &CheckArgs) -> anyhow::Result<Ended> {
    let (report, written) = check(args)?;
    let text = match args.format {
        FormatArg::Json => json::report(&report)?,
        FormatArg::Text => {
            let context = text::Context::new(args, &written);
            text::report(&report, &context, crate::terminal::width())
        }
    };
    render::to_stdout(&text)?;
    Ok(if report.gate == Verdict::Open { Ended::Well } else { Ended::Shut })
}

/// Checks the file and writes the outputs asked for; gives the report and the files written.
pub(crate) fn check(args: &CheckArgs) -> anyhow::Result<(Report, Vec<PathBuf>)> {
    let settings = settings(args)?;
    let record = args.record.as_deref().ok_or_else(|| no_record(&args.file))?;
    let (schema, lists) = read_schema(record)?;
    if schema.key.is_empty() && settings.mode != Mode::Add {
        let message =
            format!("{} names no key, so records cannot be found again to update them", record.display());
        return Err(Failure::usage(
            message,
            "name the `key` in the record schema, or use --mode add".to_owned(),
        )
        .into());
    }
    let mut outputs = Outputs::new(args.force);
    outputs.guard(&args.file, "the input");
    outputs.guard(record, "the record schema");
    lists.iter().for_each(|list| outputs.guard(list, "a picklist of the record schema"));
    let mut findings = begin(&mut outputs, args.findings.as_deref(), "findings", FindingsFile::ENDINGS)?;
    let ready = begin(&mut outputs, args.ready.as_deref(), "ready rows", ".csv")?;
    let held = begin(&mut outputs, args.held.as_deref(), "held rows", ".csv")?;

    let threads = threads(args);
    let mut options = args.layout.options();
    let (file, gate, list, outcome) = loop {
        let input = Input::open(&args.file)?;
        let sheet = args.layout.sheet.as_deref();
        let file = TextFile::open_sheet(input, sheet, &options, Some(&schema), true, &INTERRUPTED)?;
        let gate = Gate::new(schema.clone(), settings.clone(), file.table().clone());
        let mut list = findings.as_ref().map(FindingsFile::new).transpose()?;
        let progress = Progress::new(file.size());
        let sink = list.as_mut().map(|list| list as &mut dyn FindingSink<Error>);
        match run::judge(&gate, &file, threads, &progress, sink) {
            // The file began with ASCII alone; now that more is known of it, it is read anew.
            Err(Error::OtherEncoding { encoding, .. }) if options.turned_to.is_none() => {
                options.turned_to = Encoding::for_label(encoding.as_bytes());
            }
            outcome => break (file, gate, list, outcome?),
        }
    };
    file.confirm_unchanged()?;
    let report = Report::new(&gate, &outcome, facts(&args.file, &file), tool());

    if let (Some(output), Some(list)) = (&mut findings, list) {
        write_findings(list, output, &gate, &file, &outcome, &report)?;
    }
    // A file without rows ends the work: there are none to be handed on.
    if outcome.counts.records() > 0 {
        let mut writers = RowWriters { ready, held };
        if writers.ready.is_some() || writers.held.is_some() {
            write_rows(&file, &gate, &outcome, threads, &Progress::new(file.size()), &mut writers)?;
            file.confirm_unchanged()?;
        }
        for output in [writers.ready, writers.held].into_iter().flatten() {
            outputs.complete(output)?;
        }
    }
    if let Some(output) = findings {
        outputs.complete(output)?;
    }
    Ok((report, outputs.persist()?))
}

fn begin(
    outputs: &mut Outputs,
    path: Option<&Path>,
    what: &'static str,
    endings: &'static str,
) -> Result<Option<Output>, Error> {
    let output = path.map(|path| outputs.create(path, what, endings)).transpose()?;
    interrupt::take_away(output.as_ref().map(Output::temporary));
    Ok(output)
}

fn write_findings(
    list: FindingsFile,
    output: &mut Output,
    gate: &Gate,
    file: &TextFile,
    outcome: &Outcome,
    report: &Report,
) -> Result<(), Error> {
    let mut besides: Vec<_> = gate.opening().iter().chain(&outcome.late).cloned().collect();
    if outcome.counts.records() == 0 {
        besides.extend(
            report
                .findings
                .iter()
                .filter(|finding| finding.row.is_none() && !besides.contains(finding))
                .cloned()
                .collect::<Vec<_>>(),
        );
    }
    besides.sort_by_key(tidy_gate_core::finding::Finding::order);
    list.write(output, &besides, |take| run::each_repeat(gate, file, outcome, take))
}

fn settings(args: &CheckArgs) -> Result<Settings, Failure> {
    let today = match &args.today {
        Some(text) => Date::iso(text).ok_or_else(|| {
            Failure::usage(
                format!("--today {text}: not a day"),
                "write it as yyyy-MM-dd, such as 2026-11-25".to_owned(),
            )
        })?,
        None => local_date(),
    };
    let pattern = |text: &String| {
        DatePattern::new(text).map_err(|fault| {
            Failure::usage(
                format!("--dates {text}: {fault}"),
                "such as dd/MM/yyyy, MM/dd/yyyy or d MMM yyyy".to_owned(),
            )
        })
    };
    let dates = args.dates.iter().map(pattern).collect::<Result<_, _>>()?;
    Ok(Settings { mode: args.mode.into(), dates, today })
}

pub(super) fn local_date() -> Date {
    let now = jiff::ZonedDateTime::now().date();
    let part = |part: i8| u8::try_from(part).unwrap_or(1);
    let date = Date::new(u16::try_from(now.year()).unwrap_or(1), part(now.month()), part(now.day()));
    date.or_else(|| Date::new(1, 1, 1)).unwrap_or_else(|| unreachable!("the first day exists"))
}

fn threads(args: &CheckArgs) -> usize {
    let processors = || std::thread::available_parallelism().map_or(1, usize::from);
    args.threads.map_or_else(processors, usize::from)
}

/// Reads a record schema; gives the files of its picklists too.
pub(super) fn read_schema(path: &Path) -> anyhow::Result<(RecordSchema, Vec<PathBuf>)> {
    let read = |source| Error::Read { path: path.to_owned(), source };
    if path.is_dir() {
        return Err(Error::Folder { path: path.to_owned() }.into());
    }
    let bytes = std::fs::read(path).map_err(read)?;
    let Ok(source) = String::from_utf8(bytes) else {
        let message = format!("{} is not a record schema: it is no text in UTF-8", path.display());
        return Err(Failure::usage(message, "--record takes a NAME.record.toml".to_owned()).into());
    };
    let source = source.strip_prefix('\u{FEFF}').unwrap_or(&source).replace("\r\n", "\n");
    let mut lists = ListFiles::beside(path);
    let schema = RecordSchema::read(&source, &mut lists)
        .map_err(|found| Failure::Faults(faults::draw(&path.display().to_string(), &source, &found)))?;
    Ok((schema, lists.read))
}

/// Says which record schemas stand beside the file.
fn no_record(file: &Path) -> Failure {
    let folder = file.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path());
    let is_schema = |path: &PathBuf| path.to_string_lossy().ends_with(".record.toml");
    let mut found: Vec<_> =
        entries.filter(is_schema).map(|path| format!("--record {}", path.display())).collect();
    found.sort();
    let help = match found.as_slice() {
        [] => "--record takes a NAME.record.toml; `tidy-gate demo` writes one to look at".to_owned(),
        found => {
            format!("beside the file there is: {}", found.join(", ").replace("--record ./", "--record "))
        }
    };
    Failure::usage("no record schema was named", help)
}

pub(super) fn facts(path: &Path, file: &TextFile) -> FileFacts {
    let table = file.table();
    let name = path.file_name().unwrap_or(path.as_os_str()).to_string_lossy().into_owned();
    let is_table = !table.headings.is_empty();
    FileFacts {
        name,
        bytes: file.bytes_read(),
        form: file.form().to_owned(),
        sheet: table.sheet.clone(),
        encoding: table.sheet.is_none().then(|| file.encoding()),
        delimiter: (file.form() == "csv").then(|| char::from(table.dialect.delimiter).to_string()),
        heading_row: table.heading_row.filter(|row| is_table && *row > 0),
        first_row: is_table.then_some(table.first_row),
    }
}

pub(super) fn tool() -> Tool {
    Tool { name: "tidy-gate".to_owned(), version: env!("CARGO_PKG_VERSION").to_owned() }
}
