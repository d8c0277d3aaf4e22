//! Tables of records on their way into memory.

use crate::args::LayoutArgs;
use crate::commands::references::refused;
use crate::commands::setup::Setup;
use crate::failure::Failure;
use crate::interrupt::INTERRUPTED;
use std::sync::{Arc, Mutex, PoisonError};
use tidy_gate_core::existing::{Batch, Kept, KeptOf, Plainly, Probe, Wanted};
use tidy_gate_core::gate::{Gate, Settings};
use tidy_gate_core::headings::Paired;
use tidy_gate_core::likeness;
use tidy_gate_core::mode::Mode;
use tidy_gate_core::plan::{Plan, ScopeOf};
use tidy_gate_core::run::{self, Outcome, OwnReferences, Replay, read_existing, read_released, wanted_by};
use tidy_gate_core::table::Table;
use tidy_gate_files::{Error, ReadOptions, TableFile};
use tidy_gate_targets::Place;

/// What a file asks of existing records.
#[derive(Default)]
pub(super) struct Asked {
    /// What it holds, where that can be told before all of it was read.
    pub(super) wanted: Option<Arc<Wanted>>,
    /// The fields, where they are known.
    pub(super) fields: Option<Vec<usize>>,
    /// What it looks for beside keys.
    pub(super) probes: Vec<Probe>,
}

impl Asked {
    fn asks(&self, field: usize) -> bool {
        self.fields.as_ref().is_none_or(|fields| fields.contains(&field))
    }
}

/// Existing records on their way into memory.
pub(super) struct Reading<'a> {
    pub(super) setup: &'a Setup,
    pub(super) settings: &'a Settings,
    pub(super) asked: &'a Asked,
    pub(super) threads: usize,
    /// Whether the records are listed that the file does not speak of.
    pub(super) lists: bool,
    pub(super) kept: Option<Kept>,
    /// Records that a database counted without handing them on.
    pub(super) counted: Arc<Mutex<Batch>>,
}

/// Reads a table by a plan; once more where its encoding turns out to be another one.
pub(super) fn by_plan(
    plan: &Plan,
    read: impl FnMut(&ReadOptions) -> anyhow::Result<()>,
) -> anyhow::Result<()> {
    let options = LayoutArgs::default().options(&plan.file);
    options.reading(read, |error: &anyhow::Error| error.downcast_ref())
}

impl Reading<'_> {
    /// The keys of a table, and to which other records each of its records refers.
    pub(super) fn own(
        &self,
        own: &mut OwnReferences,
        place: &Place,
        plan: &Plan,
        options: &ReadOptions,
    ) -> anyhow::Result<()> {
        let (file, gate, outcome) = self.open(place, plan, options)?;
        match outcome {
            Some(outcome) => own.read(&gate, &Replay::new(&file, &outcome), false)?,
            None => own.read(&gate, &file, false)?,
        }
        Ok(())
    }

    /// The keys of a table.
    pub(super) fn keys(&self, place: &Place, plan: &Plan, options: &ReadOptions) -> anyhow::Result<Wanted> {
        let (file, gate, outcome) = self.open(place, plan, options)?;
        Ok(match outcome {
            Some(outcome) => wanted_by(&gate, &Replay::new(&file, &outcome), &[], self.threads)?,
            None => wanted_by(&gate, &file, &[], self.threads)?,
        })
    }

    /// The records of the target itself.
    pub(super) fn existing(
        &mut self,
        place: &Place,
        plan: &Plan,
        options: &ReadOptions,
    ) -> anyhow::Result<()> {
        let (file, mut gate, votes) = self.open_unsettled(place, plan, options)?;
        let (wanted, has_votes) = (self.asked.wanted.as_deref(), votes.is_some());
        let mut kept = self.none_yet(place.name(), &gate);
        match votes.filter(|_| !gate.reads_before_votes(&self.asked.probes)) {
            Some(votes) => {
                let outcome = settle(&mut gate, &votes, &file, self.threads)?;
                let source = Replay::new(&file, &outcome);
                read_existing(&gate, &source, self.threads, (wanted, false), &mut kept)?;
            }
            // What their cells say is counted while they are read.
            None => {
                let votes = read_existing(&gate, &file, self.threads, (wanted, has_votes), &mut kept)?;
                if has_votes {
                    gate.settle_ways(&votes);
                }
            }
        }
        kept.join(&std::mem::take(&mut *self.counted.lock().unwrap_or_else(PoisonError::into_inner)));
        kept.read_by(Arc::new(gate));
        self.kept = Some(kept);
        Ok(())
    }

    /// Rows that were handed over earlier.
    pub(super) fn released(
        &mut self,
        place: &Place,
        plan: &Plan,
        options: &ReadOptions,
    ) -> anyhow::Result<()> {
        let (file, gate, outcome) = self.open(place, plan, options)?;
        let mut kept = self.kept.take().unwrap_or_else(|| {
            let mut kept = self.none_yet(String::new(), &gate);
            kept.read_by(gate.clone());
            kept
        });
        kept.begin_released(&place.name());
        match outcome {
            Some(outcome) => {
                read_released(&gate, &Replay::new(&file, &outcome), self.threads, &mut kept)?;
            }
            None => read_released(&gate, &file, self.threads, &mut kept)?,
        }
        self.kept = Some(kept);
        Ok(())
    }

    /// No records yet; what reads their cells is said when it is known.
    fn none_yet(&self, source: String, gate: &Gate) -> Kept {
        let has_column = |field: &usize| gate.pairing().column_of.get(*field).copied().flatten().is_some();
        let all = 0..self.setup.schema.fields.len();
        Kept::new(KeptOf {
            source,
            fields: all.filter(|field| has_column(field) && self.asked.asks(*field)).collect(),
            former: Arc::new(Plainly),
            probes: self.asked.probes.clone(),
            header: self.setup.schema.lines.as_ref().map(|lines| lines.header.clone()),
            names_keys: gate.key_is_one(),
            unmentioned: (self.asked.wanted.is_some() && self.settings.mode.updates(), self.lists),
        })
    }

    /// A table, with the gate by which it is read; and what its judging came to, where only all its rows tell how it is
    /// written.
    pub(super) fn open(
        &self,
        place: &Place,
        plan: &Plan,
        options: &ReadOptions,
    ) -> anyhow::Result<(TableFile, Arc<Gate>, Option<Outcome>)> {
        let (file, mut gate, votes) = self.open_unsettled(place, plan, options)?;
        let outcome = votes.map(|votes| settle(&mut gate, &votes, &file, self.threads)).transpose()?;
        Ok((file, Arc::new(gate), outcome))
    }

    /// A table, with the gate by which it is read; and where only all its rows tell how it is written, one that looks
    /// for that alone.
    fn open_unsettled(
        &self,
        place: &Place,
        plan: &Plan,
        options: &ReadOptions,
    ) -> anyhow::Result<(TableFile, Gate, Option<Gate>)> {
        let setup = self.setup;
        let settings = Settings {
            // A blank of an existing record is what it has: no default fills it.
            mode: Mode::Update,
            dates: plan.dates.clone(),
            plan: Plan { scope: of_records(&setup.plan), ..plan.clone() },
            existing: None,
            ..self.settings.clone()
        };
        let gate_of = |table: Table| Gate::new(setup.schema.clone().as_it_stands(), settings.clone(), table);
        let column_of = |gate: &Gate, field: &usize| gate.pairing().column_of.get(*field).copied().flatten();
        let lines = setup.schema.lines.iter().filter(|_| self.settings.mode.updates());
        let keys = || setup.schema.key.iter().chain(lines.clone().flat_map(|lines| &lines.key));
        let wants = |headings: &[String]| {
            let gate = gate_of(Table::with_headings(headings.to_vec()));
            // Without the key nothing is read, but told.
            if keys().any(|field| column_of(&gate, field).is_none()) {
                return tidy_gate_targets::Asked::default();
            }
            let is_asked =
                |paired: &Paired| matches!(paired, Paired::Field { field, .. } if self.asked.asks(*field));
            let columns = gate.pairing().columns.iter().enumerate();
            let columns = columns.filter(|(_, paired)| is_asked(paired)).map(|(at, _)| at).collect();
            // What no row speaks of is only counted.
            let wanted = self.asked.wanted.as_ref();
            let sieve =
                wanted.and_then(|wanted| gate.sieve(wanted, (&self.asked.probes, self.lists), &self.counted));
            tidy_gate_targets::Asked { columns, sieve }
        };
        let schema = plan.widened(setup.schema.clone());
        let file = tidy_gate_targets::open(place, &schema, options, &wants, &INTERRUPTED).map_err(refused)?;
        let gate = gate_of(file.table().clone());
        if let Some(field) = keys().find(|field| column_of(&gate, field).is_none()) {
            return Err(without_key(place, setup, *field, &file).into());
        }
        // How an export writes its dates and numbers, all its rows decide.
        let votes = (!place.is_database() && gate.has_votes())
            .then(|| gate_of(file.table().clone()).only_for_votes());
        Ok((file, gate, votes))
    }
}

/// Reads a table for how its columns are written.
fn settle(gate: &mut Gate, votes: &Gate, file: &TableFile, threads: usize) -> Result<Outcome, Error> {
    let outcome = run::look(votes, file, threads)?;
    gate.settle_ways(&outcome.votes);
    Ok(outcome)
}

/// What of a plan's scope concerns records as they are.
fn of_records(plan: &Plan) -> Option<ScopeOf> {
    let condition = plan.scope.as_ref()?.condition.clone();
    condition.is_some().then(|| ScopeOf { condition, ..ScopeOf::default() })
}

fn without_key(place: &Place, setup: &Setup, field: usize, file: &TableFile) -> Failure {
    let name = setup.schema.fields.get(field).map(|field| field.name.clone()).unwrap_or_default();
    let headings = &file.table().headings;
    let near = likeness::nearest(&name, headings.iter().map(|heading| (heading.as_str(), heading)));
    let help = match near {
        Some(near) => format!("is it \"{near}\"? Say so under [existing.columns] of the plan"),
        None => {
            format!(
                "its columns are {}; [existing.columns] of the plan says which is which",
                headings.join(", ")
            )
        }
    };
    Failure::usage(format!("{} has no column for {name}, which the key needs", place.name()), help)
}
