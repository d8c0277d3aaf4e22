//! How an export of the target is written: what a plan does not state of ready files is taken over from it.

use super::references::refused;
use super::stated::local_date;
use crate::failure::Failure;
use crate::interrupt::INTERRUPTED;
use std::path::Path;
use tidy_gate_core::block::Block;
use tidy_gate_core::existing::Former;
use tidy_gate_core::gate::{Gate, RecordsOf, RunState, Settings, date_candidates};
use tidy_gate_core::headings::Paired;
use tidy_gate_core::mode::Mode;
use tidy_gate_core::plan::{LineEnd, Plan, Writing, WrittenColumn};
use tidy_gate_core::run::{self, BlockSource, Replay, Unlisted, Unwatched};
use tidy_gate_core::schema::{Kind, RecordSchema};
use tidy_gate_core::value::{Date, DatePattern, DateReading, truth_words};
use tidy_gate_files::{Error, Input, ReadOptions, TableFile};

/// Takes over from the export that the plan names what it does not state itself.
pub(super) fn take_over(plan: &mut Plan, folder: &Path, schema: &RecordSchema) -> anyhow::Result<()> {
    let Some(like) = &plan.write.like else { return Ok(()) };
    let path = folder.join(like);
    let read = |options: &ReadOptions| look(&path, plan, schema, options);
    let seen = ReadOptions::default()
        .reading(read, |error: &anyhow::Error| error.downcast_ref::<Error>())
        .map_err(|error| match error.downcast::<Error>() {
            Ok(error) => refused(error.into()),
            Err(error) => error,
        })?;
    let own = &plan.write;
    let is_stated = |key: &str| own.stated.contains(&key);
    let mut write = own.clone();
    if !is_stated("columns") && !is_stated("headings") {
        write.columns = seen.columns;
    } else if !is_stated("columns") {
        let columns = seen.columns.into_iter().flatten();
        write.columns = Some(columns.map(|column| WrittenColumn { heading: None, ..column }).collect());
    }
    if !is_stated("truth") {
        write.truth = seen.truth;
    }
    if !is_stated("dates") {
        write.dates = seen.dates;
    }
    if !is_stated("decimal_mark") {
        write.decimal_mark = seen.decimal_mark;
    }
    if !is_stated("delimiter") {
        write.delimiter = seen.delimiter;
    }
    if !is_stated("encoding") {
        write.encoding = seen.encoding;
    }
    if !is_stated("line_end") {
        write.line_end = seen.line_end;
    }
    if !is_stated("quote") {
        write.quotes_all = seen.quotes_all;
    }
    plan.write = write;
    Ok(())
}

/// What can be seen of how an export is written.
fn look(path: &Path, plan: &Plan, schema: &RecordSchema, options: &ReadOptions) -> anyhow::Result<Writing> {
    let input = Input::open(path)?;
    let file = TableFile::open_sheet(input, None, options, Some(schema), true, &INTERRUPTED)?;
    let mut settings = Settings::plain(Mode::Update, local_date());
    settings.plan.reading.truth = plan.reading.truth.clone();
    let mut gate = Gate::new(schema.clone().as_it_stands(), settings, file.table().clone());
    let is_paired = |paired: &Paired| matches!(paired, Paired::Field { .. });
    if !gate.pairing().columns.iter().any(is_paired) {
        let message = format!("{}: none of its columns is a field of {}", path.display(), schema.record);
        let help = "name an export of this record under `like` of [write]".to_owned();
        return Err(Failure::usage(message, help).into());
    }
    let mut unlisted = || Ok(None::<Unlisted>);
    let (outcome, _) = run::check(&mut gate, &file, 1, &Unwatched, &mut unlisted)?;
    let mut seen = Writing { columns: Some(columns(&gate)), ..Writing::default() };
    if file.form() == "csv" {
        let (headings, line_break) = file.heading_row();
        seen.delimiter = file.table().dialect.delimiter;
        seen.encoding = file.encoding();
        seen.line_end = match line_break {
            _ if file.returns_alone() => LineEnd::Cr,
            b"\r\n" => LineEnd::CrLf,
            _ => LineEnd::Lf,
        };
        let cells = headings.split(|byte| *byte == seen.delimiter);
        seen.quotes_all = !headings.is_empty() && cells.clone().all(|cell| cell.starts_with(b"\""));
    }
    let decided = gate.decided(&outcome.votes);
    let comma = decided.fields.iter().filter_map(|field| field.decimal_mark).next();
    seen.decimal_mark = comma.unwrap_or('.');
    let decided: Vec<&String> = decided.fields.iter().flat_map(|field| &field.dates).collect();
    let only_so: Vec<DatePattern> = if decided.is_empty() { of_one_order() } else { Vec::new() };
    let sources = decided.into_iter().map(String::as_str).chain(only_so.iter().map(DatePattern::source));
    let forms: Vec<DatePattern> = sources.flat_map(forms).collect();
    values(&gate, &Replay::new(&file, &outcome), &forms, &mut seen)?;
    Ok(seen)
}

/// The columns of the export, with their headings.
fn columns(gate: &Gate) -> Vec<WrittenColumn> {
    let paired = gate.table().headings.iter().zip(&gate.pairing().columns);
    let column = |(heading, paired): (&String, &Paired)| WrittenColumn {
        heading: Some(heading.clone()),
        field: match paired {
            Paired::Field { field, .. } => Some(*field),
            _ => None,
        },
    };
    paired.map(column).collect()
}

/// The common forms that read no day with day and month turned about: one date shows such a form.
fn of_one_order() -> Vec<DatePattern> {
    let all = date_candidates();
    let has_twin = |form: &DatePattern| all.iter().any(|other| form.is_twin_of(other));
    all.iter().filter(|form| !has_twin(form)).cloned().collect()
}

/// A form of dates, and the same with days and months of two digits.
fn forms(form: &str) -> Vec<DatePattern> {
    let mut padded = String::new();
    let letters: Vec<char> = form.chars().collect();
    for (at, letter) in letters.iter().enumerate() {
        let beside = |other: Option<&char>| other == Some(letter);
        let is_alone =
            !beside(at.checked_sub(1).and_then(|before| letters.get(before))) && !beside(letters.get(at + 1));
        padded.extend(std::iter::repeat_n(*letter, if is_alone && "dM".contains(*letter) { 2 } else { 1 }));
    }
    [padded.as_str(), form].iter().filter_map(|form| DatePattern::new(form).ok()).collect()
}

/// The words for yes and no, and the form in which the first date is written that shows one.
fn values<S: BlockSource>(
    gate: &Gate,
    source: &S,
    forms: &[DatePattern],
    seen: &mut Writing,
) -> Result<(), S::Error> {
    let state = RunState::default();
    let mut records = RecordsOf::new(gate, &state);
    let fields = || gate.schema().fields.iter().enumerate();
    let of_kind = |wanted: fn(&Kind) -> bool| -> Vec<usize> {
        fields().filter(|(_, field)| wanted(&field.kind)).map(|(number, _)| number).collect()
    };
    let truths = of_kind(|kind| matches!(kind, Kind::Boolean));
    let dates = of_kind(|kind| matches!(kind, Kind::Date { .. }));
    let (mut yes, mut no): (Option<String>, Option<String>) = (None, None);
    // Of each field the words that nobody stated, by what they mean in the languages that have them.
    let mut likely: Vec<[Option<String>; 2]> = vec![[None, None]; truths.len()];
    // Whether it is still open in which form dates are written.
    let mut is_open = !dates.is_empty();
    let mut block = Block::default();
    while source.next(&mut block)? {
        for row in 0..records.read(&block) {
            let text = |field: usize| {
                let column = gate.pairing().column_of.get(field).copied().flatten()?;
                let raw = records.cell(&block, row, column);
                Some((raw, std::str::from_utf8(raw).ok()?.trim_matches('"').to_owned()))
            };
            for (field, likely) in truths.iter().zip(&mut likely) {
                let Some((raw, text)) = text(*field) else { continue };
                match gate.formed(*field, raw).as_deref() {
                    Some("true") => yes = yes.or(Some(text)),
                    Some("false") => no = no.or(Some(text)),
                    _ => {
                        if let Some(is_yes) = truth_words::likely(&text)
                            && let Some(slot) = likely.get_mut(usize::from(is_yes))
                        {
                            slot.get_or_insert(text);
                        }
                    }
                }
            }
            let today = gate.settings().today;
            let days = if is_open { dates.as_slice() } else { &[] };
            for text in days.iter().filter_map(|field| Some(text(*field)?.1)) {
                let form = forms.iter().find(|form| writes(form, &text, today));
                is_open &= form.is_none() && Date::iso(&text).is_none();
                seen.dates = seen.dates.take().or_else(|| form.cloned());
            }
        }
        if yes.is_some() && no.is_some() && !is_open {
            break;
        }
    }
    // Words of two columns are no pair.
    let likely = || likely.into_iter().find_map(|[no, yes]| yes.zip(no));
    seen.truth =
        yes.zip(no).or_else(likely).filter(|(yes, no)| (yes.as_str(), no.as_str()) != ("true", "false"));
    Ok(())
}

/// Whether a form writes a date as it stands.
fn writes(form: &DatePattern, text: &str, today: Date) -> bool {
    matches!(form.read(text, today), DateReading::Day { date, .. } if form.write(date) == text)
}
