//! How much a file may change.

use crate::args::CheckArgs;
use crate::failure::Failure;
use crate::render::words::counted;
use tidy_gate_core::gate::Settings;
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::plan::Tolerance;
use tidy_gate_core::report::{Report, Verdict};

/// What is asked of effects can only be told where existing records are known.
pub(super) fn refuse_without_existing(
    args: &CheckArgs,
    settings: &Settings,
    lists: bool,
) -> Result<(), Failure> {
    let is_asked = lists || args.most_changes.is_some() || args.most_emptied.is_some();
    if is_asked && settings.existing.is_none() { Err(nothing_known(args)) } else { Ok(()) }
}

pub(super) fn nothing_known(args: &CheckArgs) -> Failure {
    let message = format!("{}: no existing records are named to compare it with", args.file.display());
    Failure::usage(message, "name them with --existing SOURCE, or under [existing] of a plan".to_owned())
}

/// Shuts the gate where the effects go beyond what is permitted.
pub(super) fn limit(args: &CheckArgs, report: &mut Report) {
    let Some(effects) = &mut report.effects else { return };
    let (changed, emptied, there) =
        (effects.records.added + effects.records.changed, effects.emptied(), effects.records.before);
    let mut beyond = Vec::new();
    if let Some(most) = args.most_changes.filter(|most| !most.covers(changed, there)) {
        let most = match most {
            Tolerance::Rows(most) => grouped(most),
            share => format!("{share} of {}", grouped(there)),
        };
        let changed = counted(changed, "record", "records");
        beyond.push(format!("{changed} would be added or changed, at most {most} may be"));
    }
    if let Some(most) = args.most_emptied.filter(|most| emptied > *most) {
        let emptied = counted(emptied, "value", "values");
        beyond.push(format!("{emptied} would be emptied, at most {} may be", grouped(most)));
    }
    let beyond = (!beyond.is_empty()).then(|| beyond.join("; "));
    if beyond.is_some() {
        report.gate = Verdict::Shut;
    }
    effects.beyond = beyond;
}
