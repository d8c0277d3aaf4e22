//! The records that the target already holds: read before the check, as far as the file speaks of them.

use super::references::refused;
use super::setup::{Setup, text_of, threads};
use crate::args::{CheckArgs, LayoutArgs};
use crate::failure::Failure;
use crate::interrupt::INTERRUPTED;
use crate::render::faults;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use tidy_gate_core::existing::{Existing, Kept, Wanted};
use tidy_gate_core::gate::{Gate, Settings};
use tidy_gate_core::headings::{ColumnName, Paired, PlanColumn};
use tidy_gate_core::likeness;
use tidy_gate_core::mode::Mode;
use tidy_gate_core::plan::{Plan, PlanText};
use tidy_gate_core::run::{self, Replay, Unlisted, Unwatched, keys_of, read_existing};
use tidy_gate_core::table::Table;
use tidy_gate_files::{Error, Input, ReadOptions, TableFile};
use tidy_gate_targets::Place;

/// Existing records, and the files that they were read from.
pub(crate) type Found = (Option<Arc<dyn Existing>>, Vec<PathBuf>);

/// Where existing records are, by the command line or else by the plan, and how they are read.
struct Source {
    place: Place,
    /// A plan by which an export is read.
    plan: Option<PathBuf>,
}

fn source(args: &CheckArgs, setup: &Setup) -> anyhow::Result<Option<Source>> {
    if let Some(stated) = &args.existing {
        let place = Place::read(stated).map_err(refused)?;
        return Ok(Some(Source { place, plan: None }));
    }
    let Some(planned) = &setup.plan.existing else { return Ok(None) };
    let folder = setup.plan_file.as_ref().and_then(|(path, _)| path.parent()).unwrap_or(Path::new(""));
    let place = Place { file: folder.join(&planned.file), table: planned.table.clone() };
    Ok(Some(Source { place, plan: planned.plan.as_ref().map(|plan| folder.join(plan)) }))
}

/// Reads the existing records, where any are named. What the file at hand does not speak of is not kept.
pub(crate) fn read(
    args: &CheckArgs,
    setup: &Setup,
    settings: &Settings,
    (options, sheet): (&ReadOptions, Option<&str>),
) -> anyhow::Result<Found> {
    let Some(source) = source(args, setup)? else { return Ok((None, Vec::new())) };
    if setup.schema.key.is_empty() {
        let message =
            format!("{} names no key, so existing records cannot be told apart", setup.record.display());
        return Err(Failure::usage(message, "name the `key` in the record schema".to_owned()).into());
    }
    if setup.schema.lines.is_some() {
        let message = format!("{} makes one record of several rows", setup.record.display());
        let help =
            "existing records of several rows are not read yet; leave them out of this check".to_owned();
        return Err(Failure::usage(message, help).into());
    }
    let plan = match &source.plan {
        Some(path) => plan_of(path, setup)?,
        None => Plan::default(),
    };
    let wanted =
        options.clone().reading(|options| wanted(args, setup, settings, (options, sheet)), Error::itself)?;
    let mut files = vec![source.place.file.clone()];
    files.extend(source.plan.clone());
    // Its plan says how an export is laid out, too.
    let unstated = LayoutArgs::default();
    let mut place = source.place;
    place.table = place.table.or_else(|| unstated.sheet(&plan.file).map(str::to_owned));
    let read = |options: &ReadOptions| {
        kept(&place, setup, settings, (&plan, options), (wanted.as_ref(), threads(args)))
    };
    let kept = unstated.options(&plan.file).reading(read, |error: &anyhow::Error| error.downcast_ref())?;
    Ok((Some(Arc::new(kept)), files))
}

/// The plan by which an export is read; what it says of columns is over what the other says.
fn plan_of(path: &Path, setup: &Setup) -> anyhow::Result<Plan> {
    let text = text_of(path, "a plan")?;
    let plan = PlanText::read(&text).against(&setup.schema);
    Ok(plan.map_err(|found| Failure::Faults(faults::draw(&path.display().to_string(), &text, &found)))?)
}

/// The keys of the file, where it can be read twice and they can be told before all of it was read.
fn wanted(
    args: &CheckArgs,
    setup: &Setup,
    settings: &Settings,
    (options, sheet): (&ReadOptions, Option<&str>),
) -> Result<Option<Wanted>, Error> {
    if !std::fs::metadata(&args.file).is_ok_and(|facts| facts.is_file()) {
        return Ok(None);
    }
    let widened = setup.plan.widened(setup.schema.clone());
    let input = Input::open(&args.file)?;
    let file = TableFile::open_sheet(input, sheet, options, Some(&widened), false, &INTERRUPTED)?;
    let gate = Gate::new(setup.schema.clone(), settings.clone(), file.table().clone());
    if gate.key_has_vote() || gate.ends_work() {
        return Ok(None);
    }
    keys_of(&gate, &file, threads(args)).map(Some)
}

fn kept(
    place: &Place,
    setup: &Setup,
    settings: &Settings,
    (plan, options): (&Plan, &ReadOptions),
    (wanted, threads): (Option<&Wanted>, usize),
) -> anyhow::Result<Kept> {
    let mut plan = plan.clone();
    let renamed = setup.plan.existing.iter().flat_map(|existing| &existing.columns);
    plan.columns.extend(
        renamed
            .map(|(name, field)| PlanColumn { name: ColumnName::Heading(name.clone()), field: Some(*field) }),
    );
    let schema = plan.widened(setup.schema.clone());
    let settings = Settings {
        // A blank of an existing record is what it has: no default fills it.
        mode: Mode::Update,
        dates: plan.dates.clone(),
        plan,
        existing: None,
        ..settings.clone()
    };
    let gate_of = |table: Table| Gate::new(setup.schema.clone(), settings.clone(), table);
    let wants = |headings: &[String]| {
        let gate = gate_of(Table::with_headings(headings.to_vec()));
        let is_paired = |paired: &Paired| matches!(paired, Paired::Field { .. });
        gate.pairing()
            .columns
            .iter()
            .enumerate()
            .filter(|(_, paired)| is_paired(paired))
            .map(|(at, _)| at)
            .collect()
    };
    let file = tidy_gate_targets::open(place, &schema, options, &wants, &INTERRUPTED).map_err(refused)?;
    let mut gate = gate_of(file.table().clone());
    let column_of = |field: &usize| gate.pairing().column_of.get(*field).copied().flatten();
    if let Some(field) = setup.schema.key.iter().find(|field| column_of(field).is_none()) {
        let name = setup.schema.fields.get(*field).map(|field| field.name.clone()).unwrap_or_default();
        let headings = &file.table().headings;
        let near = likeness::nearest(&name, headings.iter().map(|heading| (heading.as_str(), heading)));
        let help = match near {
            Some(near) => format!("is it \"{near}\"? Say so under [existing.columns] of the plan"),
            None => format!(
                "its columns are {}; [existing.columns] of the plan says which is which",
                headings.join(", ")
            ),
        };
        let message = format!("{} has no column for {name}, which the key needs", place.name());
        return Err(Failure::usage(message, help).into());
    }
    let fields: Vec<usize> =
        (0..setup.schema.fields.len()).filter(|field| column_of(field).is_some()).collect();
    if place.is_database() || !gate.has_votes() {
        let mut kept = Kept::new(place.name(), fields, gate.key_is_one());
        read_existing(&gate, &file, wanted, &mut kept)?;
        return Ok(kept);
    }
    // How an export writes its dates and numbers, all its rows decide.
    let mut unlisted = || Ok(None::<Unlisted>);
    let (outcome, _) = run::check(&mut gate, &file, threads, &Unwatched, &mut unlisted)?;
    let mut kept = Kept::new(place.name(), fields, gate.key_is_one());
    read_existing(&gate, &Replay::new(&file, &outcome), wanted, &mut kept)?;
    Ok(kept)
}
