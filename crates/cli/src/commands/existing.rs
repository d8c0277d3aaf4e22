//! The records that the target already holds: read before the check, as far as the file speaks of them.

mod reading;

use super::references::{planned_place, refused};
use super::setup::{Setup, text_of, threads};
use super::stated::Stated;
use reading::{Asked, Reading, by_plan};

use crate::args::{CheckArgs, LayoutArgs, ModeArg};
use crate::failure::Failure;
use crate::interrupt::INTERRUPTED;
use crate::render::faults;
use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use tidy_gate_core::block::Block;
use tidy_gate_core::existing::{Existing, Former};
use tidy_gate_core::gate::{Cycles, Gate, RecordsOf, RunState, Settings};
use tidy_gate_core::headings::{ColumnName, PlanColumn};
use tidy_gate_core::mode::Mode;
use tidy_gate_core::plan::{Plan, PlanText, scoped};
use tidy_gate_core::run::{BlockSource, OwnReferences, Replay, wanted_by};
use tidy_gate_core::schema::References;
use tidy_gate_core::table::Table;
use tidy_gate_files::{Error, Input, ReadOptions, TableFile};
use tidy_gate_targets::{At, Place};

/// Existing records, and the files that they were read from.
pub(crate) type Found = (Option<Arc<dyn Existing>>, Vec<PathBuf>);

/// What references of the record to itself are held against, where that is known, and the circles that they make.
type Own = (Option<Arc<References>>, Arc<Cycles>);

/// For which file existing records are read, and where they are by the command line.
#[derive(Debug, Clone, Copy)]
pub(crate) struct ExistingOf<'a> {
    pub(crate) file: &'a Path,
    pub(crate) existing: Option<&'a str>,
    pub(crate) released: &'a [PathBuf],
    pub(crate) threads: usize,
    /// Whether the records are listed that the file does not speak of.
    pub(crate) lists: bool,
}

impl<'a> ExistingOf<'a> {
    pub(crate) fn check(args: &'a CheckArgs) -> Self {
        let existing = args.existing.as_deref();
        Self { file: &args.file, existing, released: &args.released, threads: threads(args), lists: false }
    }
}

/// Where existing records are, by the command line or else by the plan, and how they are read.
struct Source {
    place: Place,
    /// A plan by which an export is read.
    plan: Option<PathBuf>,
}

impl Source {
    /// The place, and the plan by which it is read: that says how an export is laid out, too.
    fn with_plan(mut self, setup: &Setup) -> anyhow::Result<(Place, Plan)> {
        let mut plan = match self.plan {
            Some(path) => plan_of(&path, setup)?,
            None => setup.plan.of_exports(),
        };
        self.place.table =
            self.place.table.or_else(|| LayoutArgs::default().sheet(&plan.file).map(str::to_owned));
        let renamed = setup.plan.existing.iter().flat_map(|existing| &existing.columns);
        plan.columns.extend(renamed.map(|(name, field)| PlanColumn {
            name: ColumnName::Heading(name.clone()),
            field: Some(*field),
        }));
        Ok((self.place, plan))
    }
}

fn source(args: &ExistingOf<'_>, setup: &Setup) -> anyhow::Result<Option<Source>> {
    if let Some(stated) = args.existing {
        let place = Place::read(stated).map_err(refused)?;
        return Ok(Some(Source { place, plan: None }));
    }
    let Some(planned) = &setup.plan.existing else { return Ok(None) };
    let folder = folder_of_plan(setup);
    let place = planned_place(folder, &planned.source, planned.table.as_ref());
    Ok(Some(Source { place, plan: planned.plan.as_ref().map(|plan| folder.join(plan)) }))
}

/// Reads the existing records, where any are named, and over them the rows that were handed over earlier. What the file at
/// hand does not speak of is not kept.
pub(crate) fn read(
    args: &ExistingOf<'_>,
    setup: &Setup,
    settings: &Settings,
    (options, sheet): (&ReadOptions, Option<&str>),
) -> anyhow::Result<Found> {
    let source = source(args, setup)?;
    let released = released(args, setup);
    if source.is_none() && released.is_empty() {
        return Ok((None, Vec::new()));
    }
    refuse_what_is_not_told_apart(setup, settings.mode)?;
    let mut asked =
        options.clone().reading(|options| asked(args, setup, settings, (options, sheet)), Error::itself)?;
    let ready = setup.plan.of_ready_rows();
    let released: Vec<Place> =
        released.into_iter().map(|file| Place { at: At::File(file), table: None }).collect();
    for place in &released {
        by_plan(&ready, |options| {
            let reading = Reading {
                setup,
                settings,
                asked: &Asked::default(),
                threads: args.threads,
                lists: args.lists,
                kept: None,
                counted: Arc::default(),
            };
            let more = reading.keys(place, &ready, options)?;
            if let Some(wanted) = &mut asked.wanted {
                Arc::make_mut(wanted).join_keys(more);
            }
            Ok(())
        })?;
    }
    let mut reading = Reading {
        setup,
        settings,
        asked: &asked,
        threads: args.threads,
        lists: args.lists,
        kept: None,
        counted: Arc::default(),
    };
    let mut files: Vec<PathBuf> =
        released.iter().filter_map(|place| place.file().map(Path::to_owned)).collect();
    if let Some(source) = source {
        files.extend(source.place.file().map(Path::to_owned).into_iter().chain(source.plan.clone()));
        let (place, plan) = source.with_plan(setup)?;
        by_plan(&plan, |options| reading.existing(&place, &plan, options))?;
    }
    for place in &released {
        by_plan(&ready, |options| reading.released(place, &ready, options))?;
    }
    let kept = reading.kept.map(|kept| Arc::new(kept) as Arc<dyn Existing>);
    Ok((kept, files))
}

fn folder_of_plan(setup: &Setup) -> &Path {
    setup.plan_file.as_ref().and_then(|(path, _)| path.parent()).unwrap_or(Path::new(""))
}

/// What references of the record to itself are held against: the keys of the records that are there, of rows handed over
/// earlier and of the file; with the circles that they make. Nothing where there are none, where other keys were given for
/// them, or the file cannot be read twice; without existing records the circles alone.
pub(crate) fn own_references(
    args: &ExistingOf<'_>,
    setup: &Setup,
    settings: &Settings,
    (options, sheet): (&ReadOptions, Option<&str>),
) -> anyhow::Result<Option<Own>> {
    let Some(mut own) = OwnReferences::of(&setup.schema) else { return Ok(None) };
    let is_file = std::fs::metadata(args.file).is_ok_and(|facts| facts.is_file());
    if settings.references.contains_key(&setup.schema.record) || !is_file {
        return Ok(None);
    }
    let all = Asked::default();
    let reading = Reading {
        setup,
        settings,
        asked: &all,
        threads: args.threads,
        lists: false,
        kept: None,
        counted: Arc::default(),
    };
    if let Some(source) = source(args, setup)? {
        let (place, plan) = source.with_plan(setup)?;
        by_plan(&plan, |options| reading.own(&mut own, &place, &plan, options))?;
    }
    let ready = setup.plan.of_ready_rows();
    for path in released(args, setup) {
        let place = Place { at: At::File(path), table: None };
        by_plan(&ready, |options| reading.own(&mut own, &place, &ready, options))?;
    }
    let widened = setup.plan.widened(setup.schema.clone());
    let mut of_file = |options: &ReadOptions| {
        let input = Input::open(args.file)?;
        let file = TableFile::open_sheet(input, sheet, options, Some(&widened), false, &INTERRUPTED)?;
        let gate = Gate::new(setup.schema.clone(), settings.clone(), file.table().clone());
        if gate.ends_work() { Ok(()) } else { own.read(&gate, &file, true) }
    };
    options.clone().reading(&mut of_file, Error::itself)?;
    let (references, cycles) = own.finish();
    // What the target has is not known without its records.
    let references = settings.existing.as_ref().map(|_| references);
    Ok(Some((references, Arc::new(cycles))))
}

/// The files of rows that were handed over earlier: those of the command line and those of the plan.
fn released(args: &ExistingOf<'_>, setup: &Setup) -> Vec<PathBuf> {
    let folder = folder_of_plan(setup);
    let planned = setup.plan.existing.iter().flat_map(|existing| &existing.released);
    planned.map(|file| folder.join(file)).chain(args.released.iter().cloned()).collect()
}

fn refuse_what_is_not_told_apart(setup: &Setup, mode: Mode) -> Result<(), Failure> {
    if setup.schema.key.is_empty() {
        let message =
            format!("{} names no key, so existing records cannot be told apart", setup.record.display());
        return Err(Failure::usage(message, "name the `key` in the record schema".to_owned()));
    }
    let lines = setup.schema.lines.as_ref();
    if lines.is_some_and(|lines| lines.key.is_empty()) && mode.updates() {
        let message =
            format!("{} does not say what tells the lines of a record apart", setup.record.display());
        let help = "name the fields in `key` under [lines] of the record schema: without them no line can be found \
                    among those that are there";
        return Err(Failure::usage(message, help.to_owned()));
    }
    Ok(())
}

/// The plan by which an export is read; what it says of columns is over what the other says.
fn plan_of(path: &Path, setup: &Setup) -> anyhow::Result<Plan> {
    let text = text_of(path, "a plan")?;
    let plan = PlanText::read(&text).against(&setup.schema);
    Ok(plan.map_err(|found| Failure::Faults(faults::draw(&path.display().to_string(), &text, &found)))?)
}

/// What the file asks for, where it can be read twice.
fn asked(
    args: &ExistingOf<'_>,
    setup: &Setup,
    settings: &Settings,
    (options, sheet): (&ReadOptions, Option<&str>),
) -> Result<Asked, Error> {
    if !std::fs::metadata(args.file).is_ok_and(|facts| facts.is_file()) {
        let headings = setup.schema.fields.iter().map(|field| field.name.clone()).collect();
        let gate = Gate::new(setup.schema.clone(), settings.clone(), Table::with_headings(headings));
        return Ok(Asked { probes: gate.probes(), ..Asked::default() });
    }
    // What is outside the scope, only the records will tell.
    let mut settings = settings.clone();
    if let Some(scope) = &mut settings.plan.scope {
        (scope.leaves_out, scope.fields, scope.modes) = (false, None, None);
    }
    let widened = setup.plan.widened(setup.schema.clone());
    let input = Input::open(args.file)?;
    let file = TableFile::open_sheet(input, sheet, options, Some(&widened), false, &INTERRUPTED)?;
    let gate = Gate::new(setup.schema.clone(), settings.clone(), file.table().clone());
    let (fields, probes) = (Some(gate.asked_of_existing()), gate.probes());
    if gate.key_has_vote() || gate.ends_work() {
        return Ok(Asked { wanted: None, fields, probes });
    }
    let wanted = wanted_by(&gate, &file, &probes, args.threads)?;
    Ok(Asked { wanted: Some(Arc::new(wanted)), fields, probes })
}

/// The values of some fields of a record.
type Values = Vec<Option<String>>;

/// The records of a source for which a condition holds: the values of these fields, in the target's own form; and the file
/// that holds them.
pub(crate) fn records(
    record: &Path,
    existing: &str,
    fields: &[usize],
    condition: Option<&str>,
) -> anyhow::Result<(Vec<Values>, Option<PathBuf>)> {
    let mut setup = Setup::read(Some(record), None, record)?;
    refuse_what_is_not_told_apart(&setup, Mode::Add)?;
    if let Some(condition) = condition {
        let text = scoped(None, &[], Some(condition));
        let plan = PlanText::read(&text).against(&setup.schema);
        setup.plan = plan.map_err(|found| Failure::Faults(faults::draw("--where", &text, &found)))?;
    }
    let settings = setup.settings(Some(ModeArg::Update), &Stated::read(&[], None)?)?;
    let scope = setup.plan.scope.as_ref().and_then(|scope| scope.condition.as_ref());
    let asked: Vec<usize> = setup.schema.key.iter().chain(fields).copied().collect();
    let asked = asked.into_iter().chain(scope.iter().flat_map(|scope| scope.0.fields.clone()));
    let asked = Asked { fields: Some(asked.collect()), ..Asked::default() };
    let reading = Reading {
        setup: &setup,
        settings: &settings,
        asked: &asked,
        threads: 1,
        lists: false,
        kept: None,
        counted: Arc::default(),
    };
    let place = Place::read(existing).map_err(refused)?;
    let plan = setup.plan.of_exports();
    let mut found = Vec::new();
    by_plan(&plan, |options| {
        found.clear();
        let (file, gate, outcome) = reading.open(&place, &plan, options)?;
        let state = RunState::default();
        let mut records = RecordsOf::new(&gate, &state);
        let columns = records.columns(fields);
        let mut block = Block::default();
        let replay = outcome.as_ref().map(|outcome| Replay::new(&file, outcome));
        let next = |block: &mut Block| match &replay {
            Some(replay) => replay.next(block),
            None => file.next(block),
        };
        while next(&mut block)? {
            for row in 0..records.read(&block) {
                if !records.is_within(&block, row) {
                    continue;
                }
                let value = |(field, column): (&usize, &Option<usize>)| {
                    let value = gate.formed(*field, records.cell(&block, row, (*column)?))?;
                    Some(value.into_owned())
                };
                found.push(fields.iter().zip(&columns).map(value).collect());
            }
        }
        Ok(())
    })?;
    if setup.schema.lines.is_some() {
        stand_together(&mut found, &keys_among(fields, &setup.schema.key));
    }
    Ok((found, place.file().map(Path::to_owned)))
}

/// Where the key's fields stand among others.
fn keys_among(fields: &[usize], key: &[usize]) -> Vec<usize> {
    (0..fields.len()).filter(|at| fields.get(*at).is_some_and(|field| key.contains(field))).collect()
}

/// Puts the lines of each record together, as a table need not have them.
fn stand_together(rows: &mut [Values], keys: &[usize]) {
    let key = |row: &Values| keys.iter().map(|at| row.get(*at).cloned().flatten()).collect::<Values>();
    let mut firsts = HashMap::new();
    for row in rows.iter() {
        let next = firsts.len();
        firsts.entry(key(row)).or_insert(next);
    }
    rows.sort_by_key(|row| firsts.get(&key(row)).copied());
}
