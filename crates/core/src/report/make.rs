//! From what a check came to its report.

use super::columns::columns;
use super::rewriting::{filled_by_defaults, to_rewrite, translated};
use super::shown::shown;
use super::totals::{count_finding, explained, totals};
use super::v1::{FileFacts, RecordFacts, Report, ReportCounts, Tool, Total, Unjudged, Verdict};
use crate::catalogue::{Code, Level};
use crate::causes::Cause;
use crate::effects::Effects;
use crate::finding::Finding;
use crate::gate::Gate;
use crate::mode::Mode;
use crate::plan::Tolerance;
use crate::run::Outcome;
use std::collections::BTreeMap;

impl Report {
    /// The report of a check.
    #[must_use]
    pub fn new(gate: &Gate, outcome: &Outcome, file: FileFacts, plan: Option<&str>, tool: Tool) -> Self {
        let mut kept: Vec<Finding> = outcome.kept.clone();
        kept.extend(gate.opening_of(&outcome.filled));
        let mut totals = totals(gate, outcome);
        // Rows that a plan leaves out are rows.
        let passed = outcome.counts.left_out - gate.table().left_out - outcome.endings;
        let is_empty = outcome.counts.records() == 0 && passed == 0;
        if is_empty && !gate.ends_work() {
            let empty = gate.table().placed(empty_file(gate));
            count_finding(&mut totals, &empty, None);
            kept.push(empty);
        }
        let totals: Vec<Total> = totals.into_values().collect();
        let counts = counts(outcome, &totals);
        let all = counts.stops + counts.warns + counts.notes;
        let findings = shown(kept);
        let tolerate = gate.settings().plan.tolerate;
        // What holds no row of its own is tolerated by no number of rows.
        let is_of_none = |total: &Total| {
            matches!(total.code, Code::RowBlank | Code::BlankTail) && total.level == Level::Stop
        };
        let is_tolerated = !outcome.all_held
            && !is_empty
            && !totals.iter().any(is_of_none)
            && tolerate.covers(counts.held, outcome.counts.records());
        let is_open = counts.stops == 0 || is_tolerated;
        let schema = gate.schema();
        Self {
            format: 1,
            tool,
            gate: if is_open { Verdict::Open } else { Verdict::Shut },
            tolerate: plan.filter(|_| tolerate != Tolerance::default()).map(|_| tolerate.to_string()),
            mode: gate.settings().mode,
            today: gate.settings().today.to_string(),
            file,
            record: RecordFacts::of(schema),
            plan: plan.map(ToOwned::to_owned),
            later: Vec::new(),
            columns: columns(gate, &outcome.filled),
            filled: filled_by_defaults(gate, outcome),
            translated: translated(gate, outcome),
            to_rewrite: to_rewrite(gate, outcome),
            held_replaced: 0,
            causes: Vec::new(),
            explained: Vec::new(),
            findings_left_out: all - findings.len() as u64,
            totals,
            findings,
            counts,
            effects: None,
            since: None,
            basis: None,
            fingerprints: None,
            regions: BTreeMap::new(),
            unjudged: unjudged(gate),
            headings_may_be_data: gate.headings_may_be_data(),
        }
    }
}

impl Report {
    /// Takes up the causes of what was found.
    pub fn take_causes(&mut self, gate: &Gate, causes: Vec<Cause>) {
        self.explained = explained(gate, &causes, &self.totals);
        self.causes = causes;
    }

    /// Takes up what loading would do, where that is known. A default fills what is new alone.
    pub fn take_effects(&mut self, effects: Option<Effects>) {
        if let Some(effects) = effects.as_ref().filter(|_| self.mode == Mode::Both) {
            let columns = &self.columns;
            let has_column = |name: &String| columns.iter().any(|column| column.field.as_ref() == Some(name));
            for filled in self.filled.iter_mut().filter(|filled| !has_column(&filled.field)) {
                filled.rows = effects.records.added;
            }
            self.filled.retain(|filled| filled.rows > 0);
        }
        self.effects = effects;
    }
}

fn counts(outcome: &Outcome, totals: &[Total]) -> ReportCounts {
    let sum = |level| totals.iter().filter(|total| total.level == level).map(|total| total.count).sum();
    ReportCounts {
        rows: outcome.counts.rows,
        held: outcome.counts.held,
        ready: outcome.counts.records() - outcome.counts.held,
        left_out: outcome.counts.left_out,
        stops: sum(Level::Stop),
        warns: sum(Level::Warn),
        notes: sum(Level::Note),
        records: outcome.records.map(|records| records.all),
        records_held: outcome.records.map(|records| records.held),
    }
}

/// The fields that are not judged yet.
fn unjudged(gate: &Gate) -> Vec<Unjudged> {
    let fields = gate.schema().fields.iter();
    fields
        .filter_map(|field| Some(Unjudged { field: field.name.clone(), why: field.unjudged.clone()? }))
        .collect()
}

fn empty_file(gate: &Gate) -> Finding {
    let message = match gate.width() {
        0 => "the file holds no headings and no rows",
        _ => "the file holds headings, but no rows below them",
    };
    Finding::new(Code::FileEmpty, Level::Stop, message.to_owned())
}
