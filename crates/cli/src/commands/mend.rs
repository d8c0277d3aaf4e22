//! `mend`: a copy in which all is mended that needs no guess.

use super::check::{Checked, Listed, check, checked};
use crate::args::{FormatArg, MendArgs};
use crate::ended::Ended;
use crate::failure::Failure;
use crate::free_name::log_name;
use crate::interrupt;
use crate::render::mended::{Mended, MendedCells};
use crate::render::story::Context;
use crate::render::{self, json, text};
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use tidy_gate_core::catalogue::Code;
use tidy_gate_core::gate::{Gate, MENDABLE};
use tidy_gate_core::likeness;
use tidy_gate_core::report::{Report, Verdict};
use tidy_gate_files::{MENDED_ENDINGS, MendSum, Mending, Output, Outputs, RowOutput, is_mended_anew, mend};

/// The rows that may be taken out.
const OF_ROWS: [Code; 4] = [Code::ExampleRow, Code::FooterRow, Code::RowBlank, Code::TotalRow];

pub(crate) fn run(args: &MendArgs) -> anyhow::Result<Ended> {
    let only = codes(&args.only)?;
    let of_file = args.check(None);
    if of_file.file == Path::new("-") {
        let message = "mend reads the file twice, which standard input does not give".to_owned();
        return Err(Failure::usage(message, "name a file".to_owned()).into());
    }
    let mut checked = checked(&of_file)?;
    let path = of_file.file.clone();
    let mut written = Vec::new();
    let log_path = log_of(args);
    let (sum, report) = match args.output.as_ref().filter(|_| !args.dry_run) {
        Some(place) => {
            let mut outputs = std::mem::take(&mut checked.outputs);
            refuse_another_form(&path, place, checked.file.form())?;
            let mut output = begin(&mut outputs, place, "a mended copy", MENDED_ENDINGS)?;
            let mut log = log_output(&mut outputs, log_path.as_deref())?;
            let sum = mended(&checked, (&path, &only), (&mut log, &mut output))?;
            checked.file.confirm_unchanged()?;
            outputs.complete(output)?;
            log.map(|log| outputs.complete_rows(log)).transpose()?;
            written = outputs.persist()?;
            (sum, check(&args.check(Some(place)), Listed::default())?.0)
        }
        None => {
            // A copy that nobody keeps tells what would be left.
            let folder = tempfile::tempdir()?;
            let name = path.file_name().map_or_else(|| PathBuf::from("copy"), PathBuf::from);
            let place = folder.path().join(name);
            let place =
                if is_mended_anew(checked.file.form()) { place.with_extension("xlsx") } else { place };
            let mut outputs = std::mem::take(&mut checked.outputs);
            let mut log = log_output(&mut outputs, args.log.as_deref())?;
            let mut output = Outputs::new(false).create(&place, "a mended copy", MENDED_ENDINGS)?;
            let sum = mended(&checked, (&path, &only), (&mut log, &mut output))?;
            let mut copies = Outputs::new(false);
            copies.complete(output)?;
            copies.persist()?;
            log.map(|log| outputs.complete_rows(log)).transpose()?;
            written.extend(outputs.persist()?);
            (sum, check(&args.check(Some(&place)), Listed::default())?.0)
        }
    };
    let mut told = told(args, &checked.gate, &sum, &report, &written);
    told.written_anew = is_mended_anew(checked.file.form());
    let text = match args.format {
        FormatArg::Json => json::pretty(&told)?,
        FormatArg::Text => {
            let again = args.output.as_deref().filter(|_| !args.dry_run).unwrap_or(&path);
            let context = Context::new(&args.check(Some(again)), &written, false);
            text::mended(&told, &context, crate::terminal::width())
        }
    };
    render::to_stdout_beside(&text, &written)?;
    Ok(if report.gate == Verdict::Open { Ended::Well } else { Ended::Shut })
}

fn mended(
    checked: &Checked,
    (path, only): (&Path, &[Code]),
    outputs: (&mut Option<RowOutput>, &mut Output),
) -> anyhow::Result<MendSum> {
    Ok(mend(&checked.file, &checked.gate, &checked.outcome, Mending { path, only }, outputs)?)
}

/// The codes of `--only`.
fn codes(words: &[String]) -> Result<Vec<Code>, Failure> {
    let known: Vec<Code> = MENDABLE.iter().chain(&OF_ROWS).copied().collect();
    let mut codes = Vec::new();
    for word in words.iter().map(|word| word.trim()).filter(|word| !word.is_empty()) {
        match word.parse::<Code>().ok().filter(|code| known.contains(code)) {
            Some(code) => codes.push(code),
            None => {
                let names = known.iter().map(|code| (code.name(), code.name()));
                let help = match likeness::nearest(word, names) {
                    Some(near) => format!("did you mean `{near}`?"),
                    None => {
                        let names: Vec<&str> = known.iter().map(|code| code.name()).collect();
                        format!("what can be mended: {}", names.join(", "))
                    }
                };
                let message = match word.parse::<Code>() {
                    Ok(_) => format!("--only: {word} cannot be mended without a guess"),
                    Err(_) => format!("--only: there is no finding `{word}`"),
                };
                return Err(Failure::usage(message, help));
            }
        }
    }
    Ok(codes)
}

/// Where the log goes: where it is stated, else beside the copy.
fn log_of(args: &MendArgs) -> Option<PathBuf> {
    args.log.clone().or_else(|| {
        let output = args.output.as_ref()?;
        Some(output.with_file_name(log_name(output.file_name()?)))
    })
}

fn log_output(outputs: &mut Outputs, path: Option<&Path>) -> anyhow::Result<Option<RowOutput>> {
    let Some(path) = path else { return Ok(None) };
    let output = begin(outputs, path, "a log of what was mended", RowOutput::ENDINGS)?;
    Ok(Some(RowOutput::new(output, encoding_rs::UTF_8)))
}

fn begin(
    outputs: &mut Outputs,
    path: &Path,
    what: &'static str,
    endings: &'static str,
) -> anyhow::Result<Output> {
    let output = outputs.create(path, what, endings)?;
    interrupt::take_away(Some(output.temporary()));
    Ok(output)
}

/// A copy has the form of its file.
fn refuse_another_form(path: &Path, place: &Path, form: &str) -> Result<(), Failure> {
    let ending = |path: &Path| {
        path.extension().map(|ending| ending.to_string_lossy().to_lowercase()).unwrap_or_default()
    };
    let (own, wanted) = (ending(path), ending(place));
    let is_book = |ending: &str| matches!(ending, "xlsx" | "xlsm" | "ods");
    let is_record = |ending: &str| matches!(ending, "json" | "ndjson" | "jsonl");
    let fits = match form {
        "xlsx" => own == wanted || !is_book(&own) && matches!(wanted.as_str(), "xlsx" | "xlsm"),
        "ods" => wanted == "ods",
        anew if is_mended_anew(anew) => wanted == "xlsx",
        "json" | "ndjson" => own == wanted || !is_record(&own) && wanted == form,
        _ => !is_book(&wanted) && !is_record(&wanted),
    };
    if fits {
        return Ok(());
    }
    let message = format!("{}: a mended copy has the form of its file, {}", place.display(), path.display());
    let kept = if is_mended_anew(form) {
        ".xlsx: it is written anew".to_owned()
    } else if own.is_empty() {
        "the same ending".to_owned()
    } else {
        format!(".{own}")
    };
    Err(Failure::usage(message, format!("end its name in {kept}")))
}

fn told(args: &MendArgs, gate: &Gate, sum: &MendSum, report: &Report, written: &[PathBuf]) -> Mended {
    let heading = |column: usize| {
        let heading = gate.table().headings.get(column).map(|heading| heading.trim().to_owned());
        heading.filter(|heading| !heading.is_empty()).or_else(|| gate.field_name(column))
    };
    let of_cells = sum.by_column.iter().map(|((column, code), count)| MendedCells {
        code: *code,
        heading: heading(*column),
        count: *count,
    });
    let of_rows: BTreeMap<Code, u64> =
        sum.by_code.iter().filter(|one| OF_ROWS.contains(one.0)).map(|one| (*one.0, *one.1)).collect();
    let of_rows = of_rows.into_iter().map(|(code, count)| MendedCells { code, heading: None, count });
    let path = |wanted: Option<&PathBuf>| {
        wanted.filter(|path| written.contains(path)).map(|path| path.display().to_string())
    };
    Mended {
        file: args.check(None).file.display().to_string(),
        output: path(args.output.as_ref()),
        log: path(log_of(args).as_ref()),
        written_anew: false,
        cells: sum.cells,
        rows: sum.rows,
        mended: of_cells.chain(of_rows).collect(),
        gate: report.gate,
        held: report.counts.held,
        stops: report.counts.stops,
    }
}
