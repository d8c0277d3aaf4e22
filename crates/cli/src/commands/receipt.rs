//! `receipt`: whether these are the bytes that passed.

use super::existing::{self, ExistingOf};
use super::proof::{existing_of, key, lists_of, of_file, record_of, references_of};
use super::references;
use super::setup::{Setup, layout_of};
use super::stated::Stated;
use crate::args::{FormatArg, LayoutArgs, ReceiptArgs};
use crate::ended::Ended;
use crate::failure::Failure;
use crate::render::{self, json, text};
use std::path::Path;
use tidy_gate_core::receipt::{FileProof, KeysProof, PublicKey, Receipt, Verified};
use tidy_gate_files::Error;

pub(crate) fn run(args: &ReceiptArgs) -> anyhow::Result<Ended> {
    let receipt = read(&args.with)?;
    let trust = args.trust.as_deref().map(|path| key(path, PublicKey::read)).transpose()?;
    let mut verified = Verified::of(&receipt, trust.as_ref());
    let given = |path: Option<&Path>| path.map(of_file).transpose();
    verified.file("ready rows", Some(&receipt.ready), given(Some(&args.file))?.as_ref());
    verified.file("input", Some(&receipt.input), given(args.input.as_deref())?.as_ref());
    let known = Known::read(args, &receipt)?;
    verified.file("record schema", Some(&receipt.record.file), known.record.as_ref());
    lists(&mut verified, &receipt.lists, known.lists.as_deref());
    verified.file("plan", receipt.plan.as_ref(), given(args.plan.as_deref())?.as_ref());
    verified.keys("existing records", receipt.existing.as_ref(), known.existing.as_ref());
    let names = receipt.references.iter().chain(&known.references).map(|of| of.name.as_str());
    let names: std::collections::BTreeSet<&str> = names.collect();
    for name in names {
        let of = |all: &[KeysProof]| all.iter().find(|of| of.name == name).cloned();
        let (then, now) = (of(&receipt.references), of(&known.references));
        verified.keys(&format!("references to {name}"), then.as_ref(), now.as_ref());
    }
    let text = match args.format {
        FormatArg::Json => json::pretty(&verified)?,
        FormatArg::Text => text::receipt(&verified, &args.file, crate::terminal::width()),
    };
    render::to_stdout(&text)?;
    if verified.valid {
        return Ok(Ended::Well);
    }
    render::aside_when_quiet(&format!("receipt void: {} must not be loaded on it", args.file.display()));
    Ok(Ended::Shut)
}

/// What is given beside the ready rows.
#[derive(Default)]
struct Known {
    record: Option<FileProof>,
    lists: Option<Vec<FileProof>>,
    existing: Option<KeysProof>,
    references: Vec<KeysProof>,
}

impl Known {
    fn read(args: &ReceiptArgs, receipt: &Receipt) -> anyhow::Result<Self> {
        let is_asked = args.existing.is_some() || !args.references.is_empty() || !args.released.is_empty();
        if args.record.is_none() && args.plan.is_none() {
            if is_asked {
                let message =
                    "existing records and references are read by a record schema, and none is named";
                return Err(Failure::usage(
                    message,
                    "name it with --record, or the plan with --plan".to_owned(),
                )
                .into());
            }
            return Ok(Self::default());
        }
        let setup = Setup::read(args.record.as_deref(), args.plan.as_deref(), &args.file)?;
        let mut known =
            Self { record: Some(record_of(&setup)?.file), lists: Some(lists_of(&setup)?), ..Self::default() };
        if !is_asked {
            return Ok(known);
        }
        let stated = Stated::read(&[], Some(&receipt.today))?;
        let mut settings = setup.settings(None, &stated)?;
        settings.mode = receipt.mode;
        let plan_path = setup.plan_file.as_ref().map(|(path, _)| path.as_path());
        if !args.references.is_empty() || !setup.plan.references.is_empty() {
            let (found, _) = references::read(&args.references, &setup.schema, &setup.plan, plan_path)?;
            settings.references = found;
            known.references = references_of(&settings, &setup);
        }
        if args.existing.is_some() || !args.released.is_empty() {
            let layout = LayoutArgs::default();
            let (options, sheet) = layout_of(&args.file, &layout, &setup.plan.of_ready_rows(), &setup.schema)
                .map(|(options, sheet)| (options, sheet.map(str::to_owned)))?;
            let of = ExistingOf {
                file: &args.file,
                existing: args.existing.as_deref(),
                released: &args.released,
                threads: std::thread::available_parallelism().map_or(1, usize::from),
                lists: false,
            };
            let (found, _) = existing::read(&of, &setup, &settings, (&options, sheet.as_deref()))?;
            known.existing = found.map(|found| existing_of(found.as_ref()));
        }
        Ok(known)
    }
}

/// The lists of the record schema, by their names.
fn lists(verified: &mut Verified, then: &[FileProof], now: Option<&[FileProof]>) {
    for list in then {
        let own = now.map(|now| now.iter().find(|other| other.name == list.name));
        match own {
            None => verified.file(&format!("list {}", list.name), Some(list), None),
            Some(own) => verified.file(&format!("list {}", list.name), Some(list), own),
        }
    }
    let more = now.unwrap_or_default().iter().filter(|own| then.iter().all(|list| list.name != own.name));
    more.for_each(|own| verified.file(&format!("list {}", own.name), None, Some(own)));
}

fn read(path: &Path) -> anyhow::Result<Receipt> {
    let failed = |source| Error::Read { path: path.to_owned(), source };
    if path.is_dir() {
        return Err(Error::Folder { path: path.to_owned() }.into());
    }
    let bytes = tidy_gate_files::read_small(path).map_err(failed)?;
    let help = "name the file that the check wrote with --receipt".to_owned();
    Receipt::read(&bytes).map_err(|fault| Failure::usage(format!("{}: {fault}", path.display()), help).into())
}
