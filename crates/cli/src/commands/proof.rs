//! The receipt that a check writes: which bytes passed, and by what they were judged.

use super::begin::begin;
use super::setup::{Setup, text_of};
use crate::args::CheckArgs;
use crate::failure::Failure;
use std::path::Path;
use tidy_gate_core::existing::Existing;
use tidy_gate_core::gate::{Gate, Settings};
use tidy_gate_core::receipt::{
    Counts, FileProof, KeyFault, KeysProof, PrivateKey, Receipt, RecordProof, Tolerances,
};
use tidy_gate_core::report::{Report, Verdict};
use tidy_gate_files::{Digest, Error, Output, Outputs, digest_of};

/// A receipt that was asked for.
pub(super) struct Proof {
    output: Output,
    key: Option<PrivateKey>,
    judged_by: JudgedBy,
}

/// What the file is judged by, as it stood when the run began.
#[derive(PartialEq, Eq)]
struct JudgedBy {
    record: RecordProof,
    lists: Vec<FileProof>,
    plan: Option<FileProof>,
}

impl JudgedBy {
    fn of(setup: &Setup) -> Result<Self, Error> {
        let plan = setup.plan_file.as_ref().map(|(path, _)| of_file(path)).transpose()?;
        Ok(Self { record: record_of(setup)?, lists: lists_of(setup)?, plan })
    }
}

impl Proof {
    pub(super) fn begin(
        args: &CheckArgs,
        setup: &Setup,
        outputs: &mut Outputs,
    ) -> anyhow::Result<Option<Self>> {
        let key = args.signed_by.as_deref().map(|path| key(path, PrivateKey::read)).transpose()?;
        args.signed_by.iter().for_each(|path| outputs.guard(path, "the key that signs"));
        let output = begin(outputs, args.receipt.as_deref(), "a receipt", ".json")?;
        let one = |output| Ok(Self { output, key, judged_by: JudgedBy::of(setup)? });
        output.map(one).transpose()
    }

    /// Writes the receipt where the gate is open and ready rows were written.
    pub(super) fn write(
        mut self,
        (args, setup): (&CheckArgs, &Setup),
        (gate, report): (&Gate, &Report),
        input: Option<&Digest>,
        outputs: &mut Outputs,
    ) -> anyhow::Result<()> {
        let ready = args.ready.as_deref().and_then(|ready| Some((ready, outputs.digest(ready)?)));
        let (Verdict::Open, Some((ready_path, ready))) = (report.gate, ready) else { return Ok(()) };
        let Some(input) = input else {
            let message =
                format!("{} was not read to its end, so its bytes cannot be proved", args.file.display());
            return Err(Failure::usage(message, "keep it in a file, and check that".to_owned()).into());
        };
        let settings = gate.settings();
        // What was changed meanwhile is not what the rows were judged by.
        if self.judged_by != JudgedBy::of(setup)? {
            let message =
                "the record schema, a list of it or the plan was changed while the file was checked";
            return Err(Failure::usage(message, "check it again".to_owned()).into());
        }
        let JudgedBy { record, lists, plan } = self.judged_by;
        let mut receipt = Receipt {
            format: 1,
            tool: report.tool.clone(),
            made: jiff::Timestamp::now().strftime("%Y-%m-%dT%H:%M:%SZ").to_string(),
            input: proof(&args.file, input),
            ready: proof(ready_path, &ready?),
            record,
            lists,
            plan,
            mode: report.mode,
            today: report.today.clone(),
            existing: settings.existing.as_ref().map(|existing| existing_of(existing.as_ref())),
            references: references_of(settings, setup),
            counts: Counts {
                rows: report.counts.rows,
                ready: report.counts.ready,
                held: report.counts.held,
                left_out: report.counts.left_out,
                stops: report.counts.stops,
                warns: report.counts.warns,
                notes: report.counts.notes,
            },
            tolerances: Tolerances {
                held: report.tolerate.clone().filter(|_| report.counts.held > 0),
                most_changes: args.most_changes.map(|most| most.to_string()),
                most_emptied: args.most_emptied,
            },
            seal: String::new(),
            signature: None,
        };
        receipt.seal(self.key.as_ref())?;
        self.output.write(crate::render::json::pretty(&receipt)?.as_bytes())?;
        outputs.complete(self.output)?;
        Ok(())
    }
}

/// Reads a key.
pub(super) fn key<K>(path: &Path, read: impl Fn(&str) -> Result<K, KeyFault>) -> anyhow::Result<K> {
    let text = text_of(path, "a key in PEM")?;
    let help = "an Ed25519 key in PEM: openssl genpkey -algorithm ed25519 -out key.pem makes one, and openssl pkey \
                -in key.pem -pubout -out public.pem its public half";
    let failed = |fault| Failure::usage(format!("{}: {fault}", path.display()), help.to_owned());
    Ok(read(&text).map_err(failed)?)
}

/// A file, by its bytes.
pub(super) fn of_file(path: &Path) -> Result<FileProof, Error> {
    Ok(proof(path, &digest_of(path)?))
}

fn proof(path: &Path, digest: &Digest) -> FileProof {
    let name = path.file_name().unwrap_or(path.as_os_str()).to_string_lossy().into_owned();
    FileProof { name, bytes: digest.bytes, sha256: digest.sha256.clone() }
}

/// The record schema.
pub(super) fn record_of(setup: &Setup) -> Result<RecordProof, Error> {
    let (record, version) = (setup.schema.record.clone(), setup.schema.version.clone());
    Ok(RecordProof { record, version, file: of_file(&setup.record)? })
}

/// The lists that it reads from files.
pub(super) fn lists_of(setup: &Setup) -> Result<Vec<FileProof>, Error> {
    setup.lists.iter().map(|list| of_file(list)).collect()
}

/// The records that the target holds.
pub(super) fn existing_of(existing: &dyn Existing) -> KeysProof {
    KeysProof {
        name: existing.source().to_owned(),
        count: existing.count(),
        keys: format!("{:032x}", existing.key_sum()),
    }
}

/// What references are held against.
pub(super) fn references_of(settings: &Settings, setup: &Setup) -> Vec<KeysProof> {
    // References of the record to itself are held against the file, too.
    let of_others = settings.references.iter().filter(|(name, _)| **name != setup.schema.record);
    of_others
        .map(|(name, keys)| KeysProof {
            name: name.clone(),
            count: keys.len() as u64,
            keys: format!("{:032x}", keys.key_sum()),
        })
        .collect()
}
