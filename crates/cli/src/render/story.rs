//! What a check says to people: the verdict, the facts, the columns, the findings in groups, the next steps. It is made
//! once, as data, and drawn by whatever shows it: nothing here knows of colours, widths or marks.
//!
//! Texts from outside are safe to show. What is cut is cut where it is drawn, but for names within sentences.

mod causes;
mod columns;
mod context;
mod effects;
mod facts;
mod groups;
mod next;
mod since;
mod verdict;

use crate::terminal::shown;
use tidy_gate_core::report::{Report, Verdict};

pub(crate) use causes::CauseTold;
pub(crate) use columns::{Columns, OtherColumn, PairedColumn};
pub(crate) use context::Context;
pub(crate) use effects::in_one_line;
pub(crate) use facts::{Fact, Flow};
pub(crate) use groups::{Cell, Group, Sample};
pub(crate) use next::Step;
pub(crate) use since::{GroupTold, SinceTold};

/// What a check says.
#[derive(Debug)]
pub(crate) struct Story<'a> {
    /// Whether the gate is open.
    pub(crate) gate: Verdict,
    /// The verdict in a sentence.
    pub(crate) verdict: String,
    /// What was read and how, what was left out, what defaults fill, what is not judged.
    pub(crate) facts: Vec<Fact>,
    /// What became of an earlier round, where one was named.
    pub(crate) since: Option<SinceTold>,
    /// Which column is which field.
    pub(crate) columns: Columns,
    /// What explains many findings at once, and how much all of it explains.
    pub(crate) causes: (Vec<CauseTold>, String),
    /// What no cause explains, by level, code and field, what holds rows first.
    pub(crate) groups: Vec<Group<'a>>,
    /// The files that were written.
    pub(crate) written: Vec<String>,
    /// What to do next.
    pub(crate) next: Vec<Step>,
}

/// One line for whoever hears nothing else: the gate is shut, and why.
pub(crate) fn said_shut(report: &Report, file: &std::path::Path) -> String {
    format!("gate shut: {}: {}", file.display(), verdict::verdict(report))
}

impl Story<'_> {
    /// How many causes there are, and how much they explain.
    pub(crate) fn causes_said(&self) -> String {
        let what = if self.causes.0.len() == 1 { " cause" } else { " causes" };
        self.causes.1.replacen(',', &format!("{what},"), 1)
    }
}

impl<'a> Story<'a> {
    /// The story of a report; `most` groups are told whole, of the others only what is counted.
    pub(crate) fn of(report: &'a Report, context: &Context, most: usize) -> Self {
        Self {
            gate: report.gate,
            verdict: verdict::verdict(report),
            facts: facts::facts(report, context),
            since: since::told(report),
            columns: columns::columns(report),
            causes: causes::causes(report),
            groups: groups::groups(report, most),
            written: context.written.iter().map(|path| shown(path)).collect(),
            next: next::steps(report, context),
        }
    }
}
