//! The plan that goes with a text of held rows: what the whole file decided of how its columns are written, the few rows
//! that come back no longer show.

use super::references;
use super::setup::{Setup, relative};
use crate::args::CheckArgs;
use crate::failure::Failure;
use std::path::Path;
use tidy_gate_core::gate::Gate;
use tidy_gate_core::mode::Mode;
use tidy_gate_core::plan::{EMPTY, ExistingPlan, PlanEdit, edited};
use tidy_gate_core::run::Outcome;
use tidy_gate_files::{Outputs, plan_of_held};

/// Writes it beside the held rows, where there is anything to keep; a workbook keeps it within itself.
pub(crate) fn write(
    args: &CheckArgs,
    setup: &Setup,
    gate: &Gate,
    outcome: &Outcome,
    held: &Path,
    outputs: &mut Outputs,
) -> anyhow::Result<()> {
    let decided = gate.decided(&outcome.votes);
    let is_workbook = held.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("xlsx"));
    if decided.fields.is_empty() || is_workbook {
        return Ok(());
    }
    let path = plan_of_held(held);
    let base = setup.plan_file.as_ref();
    let text = base.map_or(EMPTY, |(_, text)| text.as_str());
    let folder = base.and_then(|(path, _)| path.parent()).unwrap_or(Path::new(""));
    let stated = references::planned(&args.references, &setup.schema, |file| relative(&path, file))?;
    let mut references: Vec<_> = setup.plan.references.clone();
    let moved = |file: &str| relative(&path, &folder.join(file));
    references.iter_mut().for_each(|planned| planned.source = planned.source.moved(moved));
    references.retain(|planned| stated.iter().all(|stated| stated.name != planned.name));
    references.extend(stated);
    let edit = PlanEdit {
        record: Some(relative(&path, &setup.record)),
        mode: args.mode.map(Mode::from),
        dates: args.dates.clone(),
        reads: decided.fields,
        references,
        existing: setup.plan.existing.as_ref().map(|existing| ExistingPlan {
            source: existing.source.moved(moved),
            plan: existing.plan.as_deref().map(moved),
            released: existing.released.iter().map(|file| moved(file)).collect(),
            ..existing.clone()
        }),
        // Held rows lie in a file of their own, under the headings or the names of their fields.
        without_file: true,
        without_columns: setup.plan.file.by_position == Some(true),
        ..PlanEdit::default()
    };
    let text = edited(text, &edit).map_err(|error| Failure::usage(error.to_string(), None))?;
    let mut output = outputs.create(&path, "the plan of held rows", ".toml")?;
    output.write(text.as_bytes())?;
    outputs.complete(output)?;
    Ok(())
}
