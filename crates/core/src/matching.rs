//! Pairing made plain: every column with its field and how sure that is, likely fields for the others, and the fields
//! that are still without a column.

mod looks;

pub use looks::{FieldValues, looked_up};

use crate::finding::letter;
use crate::gate::{Contents, FieldProbe, Gate};
use crate::headings::{How, Likely, Paired};
use crate::peek::PeekColumn;
use crate::report::{FileFacts, Proposal, RecordFacts, Tool};
use crate::schema::Required;
use schemars::JsonSchema;
use serde::Serialize;

/// Which column is which field, of format 1.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct MatchReport {
    /// The version of the format: 1.
    pub format: u32,
    /// What looked.
    pub tool: Tool,
    /// What was read.
    pub file: FileFacts,
    /// The record schema.
    pub record: RecordFacts,
    /// The plan, if there was one.
    pub plan: Option<String>,
    /// The plan that was written.
    pub saved: Option<String>,
    /// Whether no needed field is open and no column of the plan gone.
    pub complete: bool,
    /// How many rows were looked at.
    pub rows: u64,
    /// The columns.
    pub columns: Vec<MatchColumn>,
    /// The fields without a column, those that are needed first.
    pub fields_without_column: Vec<OpenField>,
    /// The different values of the fields that were asked for.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub values: Vec<FieldValues>,
    /// What is to be said of the plan and of columns whose content does not fit.
    #[serde(serialize_with = "crate::report::v1::finding::told")]
    #[schemars(with = "Vec<crate::report::FindingReport<'static>>")]
    pub findings: Vec<crate::finding::Finding>,
}

/// A column, with what it holds.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct MatchColumn {
    /// The column and its profile.
    #[serde(flatten)]
    pub column: PeekColumn,
    /// What is to be said of its content, if it does not fit its field.
    pub misfit: Option<String>,
}

/// A field without a column.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct OpenField {
    /// Its name.
    pub field: String,
    /// Its label.
    pub label: String,
    /// Whether a record must have it: true, false, "add" or "advised".
    #[schemars(with = "RequiredShape")]
    pub required: serde_json::Value,
    /// Whether it is needed here: in this mode, and without a default.
    pub needed: bool,
    /// Whether it belongs to the key.
    pub key: bool,
    /// Its default.
    pub default: Option<String>,
}

#[derive(JsonSchema)]
#[serde(untagged)]
#[expect(dead_code, reason = "shows the shape in the JSON Schema")]
enum RequiredShape {
    Plain(bool),
    Word(String),
}

/// As a record schema writes it.
#[must_use]
pub fn required_value(required: Required) -> serde_json::Value {
    match required {
        Required::No => false.into(),
        Required::Always => true.into(),
        Required::Filled => "always".into(),
        Required::WhenAdding => "add".into(),
        Required::Advised => "advised".into(),
    }
}

/// The most fields proposed for a column.
const MOST: usize = 3;

/// Likely fields for the columns that have none: by their headings and by what they hold; the how says which came
/// first. Content takes part everywhere: a column of dates is no proposal for a picklist.
#[must_use]
pub fn proposals(gate: &Gate, contents: &Contents) -> Vec<(How, Vec<Proposal>)> {
    let fields = &gate.schema().fields;
    let is_open = |field: usize| {
        gate.pairing().column_of.get(field).copied().flatten().is_none()
            && fields.get(field).is_some_and(|field| !field.read_only)
            && !gate.pairing().shared.contains(&field)
    };
    let open: Vec<(usize, FieldProbe)> = fields
        .iter()
        .enumerate()
        .filter(|(number, _)| is_open(*number))
        .map(|(number, field)| (number, gate.probe_of(number, field)))
        .collect();
    let proposer = Proposer { gate, contents, open, likely: Likely::of(fields) };
    let columns = gate.pairing().columns.iter().enumerate();
    columns.map(|(column, paired)| proposer.propose(column, paired)).collect()
}

/// What proposals stand on.
struct Proposer<'a> {
    gate: &'a Gate,
    contents: &'a Contents,
    /// The fields that may still get a column.
    open: Vec<(usize, FieldProbe)>,
    likely: Likely,
}

/// A field that may be a column's: how likely, which, and why.
struct Candidate {
    weight: f64,
    field: usize,
    how: How,
    why: String,
}

impl Proposer<'_> {
    fn propose(&self, column: usize, paired: &Paired) -> (How, Vec<Proposal>) {
        let heading = self.gate.table().headings.get(column).map(String::as_str).unwrap_or_default();
        let alike = match paired {
            Paired::Unclear { fields } => fields.iter().map(|field| (*field, 1.0)).collect(),
            Paired::Blank => Vec::new(),
            Paired::Unknown { .. } | Paired::Repeated { .. } => self.likely.to(heading),
            _ => return (How::None, Vec::new()),
        };
        let like = |field: usize| alike.iter().find(|found| found.0 == field).map(|found| found.1);
        let candidates =
            self.open.iter().filter_map(|(field, probe)| self.candidate(column, *field, probe, like(*field)));
        let mut found: Vec<Candidate> = candidates.collect();
        // Of equals, what is needed comes first.
        found.sort_by(|a, b| {
            let needed = |found: &Candidate| !self.gate.is_needed(found.field);
            b.weight.total_cmp(&a.weight).then(needed(a).cmp(&needed(b))).then(a.field.cmp(&b.field))
        });
        // Many fields that would do are no proposal.
        if found.iter().filter(|found| found.how == How::Content).count() > MOST {
            found.retain(|found| found.how != How::Content);
        }
        let how = found.first().map_or(How::None, |found| found.how);
        let fields = &self.gate.schema().fields;
        let name = |number: usize| fields.get(number).map(|field| field.name.clone()).unwrap_or_default();
        let proposal = |found: Candidate| Proposal { field: name(found.field), why: found.why };
        (how, found.into_iter().take(MOST).map(proposal).collect())
    }

    fn candidate(
        &self,
        column: usize,
        field: usize,
        probe: &FieldProbe,
        like: Option<f64>,
    ) -> Option<Candidate> {
        let fit = self.contents.fit(column, probe, self.gate).map(|fit| fit.0);
        let (weight, how, why) = match (like, fit) {
            (Some(like), None) => (like, How::Likeness, "a heading like this one".to_owned()),
            (Some(like), Some(fit)) if fit >= 500 => {
                let why = format!("a heading like this one, and {} of its values fit", share(fit));
                (like + 0.2, How::Likeness, why)
            }
            (None, Some(fit)) if fit >= 900 && probe.is_telling => {
                (0.6, How::Content, format!("{} of its values fit this field", share(fit)))
            }
            _ => return None,
        };
        Some(Candidate { weight, field, how, why })
    }
}

/// A share in thousandths, in words.
fn share(fit: usize) -> String {
    match (fit / 10, fit % 10) {
        (100, _) => "all".to_owned(),
        (whole, 0) => format!("{whole} %"),
        (whole, part) => format!("{whole}.{part} %"),
    }
}

/// The fields without a column, needed ones first; fields that a load cannot carry are none.
#[must_use]
pub fn open_fields(gate: &Gate) -> Vec<OpenField> {
    let schema = gate.schema();
    let mut open: Vec<OpenField> = schema
        .fields
        .iter()
        .enumerate()
        .filter(|(number, field)| {
            gate.pairing().column_of.get(*number).copied().flatten().is_none() && !field.read_only
        })
        .map(|(number, field)| OpenField {
            field: field.name.clone(),
            label: field.label.clone(),
            required: match schema.is_keyed(number) {
                true => true.into(),
                false => required_value(field.required),
            },
            needed: gate.is_needed(number),
            key: schema.is_keyed(number),
            default: field.default.clone(),
        })
        .collect();
    let is_required = |field: &OpenField| field.required != serde_json::Value::Bool(false);
    open.sort_by_key(|field| (!field.needed, !is_required(field)));
    open
}

/// The columns of a match report.
#[must_use]
pub fn columns(gate: &Gate, contents: &Contents, columns: Vec<PeekColumn>) -> Vec<MatchColumn> {
    let misfits = contents.all_misfits(gate);
    let proposed = proposals(gate, contents);
    columns
        .into_iter()
        .zip(proposed)
        .enumerate()
        .map(|(number, (mut column, (how, proposals)))| {
            if column.column.field.is_none() && column.column.how != How::LeftOut {
                // Of columns that quarrel about a field the report says so already.
                let shared = matches!(gate.pairing().columns.get(number), Some(Paired::Shared { .. }));
                if !shared {
                    (column.column.how, column.column.proposals) = (how, proposals);
                }
            }
            // What is likely one that must not be shown is not shown either.
            let is_sensitive = |proposal: &Proposal| {
                let field = gate.schema().fields.iter().find(|field| field.name == proposal.field);
                field.is_some_and(|field| field.sensitive)
            };
            if column.column.proposals.iter().any(is_sensitive) {
                column.mask();
            }
            let misfit = misfits.iter().find(|misfit| misfit.0 == number);
            MatchColumn { misfit: misfit.map(|(column, other)| gate.misfit_message(*column, *other)), column }
        })
        .collect()
}

/// A column as people name it.
#[must_use]
pub fn named(column: &PeekColumn) -> String {
    match column.column.heading.as_str() {
        "" => format!("column {}", letter(column.column.index - 1)),
        heading => format!("\"{heading}\""),
    }
}
