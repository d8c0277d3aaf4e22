//! Walks over the rows of a judged file, and gathers the marks of its findings and rows.

use super::content::{Content, asks_for_cells};
use super::earlier::Earlier;
use super::row_sets::RowSet;
use crate::block::Block;
use crate::catalogue::{Code, Level};
use crate::finding::Finding;
use crate::gate::{Gate, RowView, RowsOf};
use crate::prints::{Group, Salt};
use crate::report::{Region, Report};
use crate::run::Outcome;
use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

/// Rows are followed without the fields of so many combinations; what is beyond is followed by all its cells.
const MOST_SETS: usize = 64;
/// So many cells must be left for a row to be known by them: other rows may be like it in fewer.
const LEAST_CELLS: usize = 3;

/// What a finding of the report is found again by.
type Wanted = (Option<u64>, Option<usize>, Code, Option<String>, Vec<String>);

/// Makes marks of rows and findings.
#[derive(Debug)]
pub struct Gatherer<'a> {
    gate: &'a Gate,
    outcome: &'a Outcome,
    pub(super) salt: Salt,
    pub(super) earlier: Option<&'a Earlier>,
    /// The fields whose cells tell rows apart, with their columns.
    pub(super) content: Content,
    /// The same for the earlier report.
    earlier_content: Content,
    /// Whether rows of that may be known by their cells alone.
    asks_for_cells: bool,
    /// The numbers of the report's findings.
    wanted: HashMap<Wanted, usize>,
}

/// By what a row is known.
#[derive(Debug, Clone)]
enum Own {
    Key(u64),
    /// By cells: without those of some fields, and by all.
    Content {
        without: Vec<String>,
        mark: u64,
        whole: u64,
    },
}

/// A row that is held or has findings.
#[derive(Debug)]
struct RowSeen {
    held: bool,
    own: Own,
    candidates: Vec<(usize, u64)>,
    findings: Vec<(Group, Option<usize>)>,
    /// Where the cells of those stand.
    regions: Vec<(usize, Region)>,
}

/// A row that is held or has findings, to be followed when all of them are known.
#[derive(Debug)]
pub(super) struct Pending {
    pub(super) held: bool,
    /// The mark that it has here.
    pub(super) mark: u64,
    /// The rows of the earlier report that it may be: the number of their set, and the mark.
    pub(super) candidates: Vec<(usize, u64)>,
    /// Its findings, each with its number among those of the report.
    pub(super) findings: Vec<(Arc<Group>, Option<usize>)>,
}

/// The rows of one block.
#[derive(Debug, Default)]
pub struct PartOfRounds {
    rows: Vec<RowSeen>,
    clean: Vec<Vec<(usize, u64)>>,
}

/// The marks of rows that are followed in one way: held ones, and others.
pub(super) type RowMarks = (Vec<u64>, Vec<u64>);

/// What was gathered.
#[derive(Debug, Default)]
pub struct Gathered {
    /// The marks of findings.
    pub(super) groups: BTreeMap<Arc<Group>, Vec<u64>>,
    /// The marks of rows.
    pub(super) rows: BTreeMap<Option<Vec<String>>, RowMarks>,
    /// Where the cells of the report's findings stand.
    pub(super) regions: BTreeMap<usize, Region>,
    /// The marks of the report's findings, by their numbers.
    pub(super) told: HashMap<usize, u64>,
    pub(super) held: u64,
    /// Rows to be followed.
    pub(super) pending: Vec<Pending>,
    /// Rows without findings that may have had some.
    pub(super) clean: Vec<Vec<(usize, u64)>>,
}

impl<'a> Gatherer<'a> {
    /// For a file that has been judged, and its report.
    #[must_use]
    pub fn new(
        gate: &'a Gate,
        outcome: &'a Outcome,
        report: &Report,
        salt: Salt,
        earlier: Option<&'a Earlier>,
    ) -> Self {
        let fields = &gate.schema().fields;
        let column_of = |name: &str| gate.column_of(gate.schema().field(name)?);
        let content = fields.iter().filter_map(|field| {
            let column = column_of(&field.name)?;
            Some((field.name.clone(), Some(column)))
        });
        let earlier_content = earlier.map(|earlier| &earlier.content).into_iter().flatten();
        let earlier_content = earlier_content.map(|name| (name.clone(), column_of(name)));
        let wanted = report.findings.iter().enumerate().map(|(number, finding)| (wanted(finding), number));
        let salt = earlier.map_or(salt, Earlier::salt);
        Self {
            gate,
            outcome,
            salt,
            earlier,
            content: Content::of(content, salt),
            earlier_content: Content::of(earlier_content, salt),
            asks_for_cells: earlier.is_some_and(|earlier| asks_for_cells(&earlier.rows)),
            wanted: wanted.collect(),
        }
    }

    /// Makes the marks of the rows of a block.
    #[must_use]
    pub fn part(&self, rows: &mut RowsOf<'_>, block: &Block, number: usize) -> PartOfRounds {
        let outcome = self.outcome;
        let told = rows.told(block, &outcome.repeats, &[Level::Stop, Level::Warn, Level::Note]);
        rows.read(block);
        let mut told = told.iter().peekable();
        let mut part = PartOfRounds::default();
        for row in rows.rows(block).filter(|row| !outcome.is_ending(row.row)) {
            while told.next_if(|finding| finding.row < Some(row.row)).is_some() {}
            let findings: Vec<&Finding> =
                std::iter::from_fn(|| told.next_if(|finding| finding.row == Some(row.row))).collect();
            let held = outcome.all_held || outcome.held.is_held(number, row.row - block.first_row);
            let candidates = self.candidates(&row);
            if !held && findings.is_empty() {
                part.clean.extend(Some(candidates).filter(|candidates| !candidates.is_empty()));
                continue;
            }
            let own = self.own(&row, &findings);
            let number = |finding: &Finding| self.number_of(finding);
            let of_cell = |finding: &&Finding| Some((number(finding)?, region(&row, finding.column?)?));
            let is_text = self.gate.table().is_text();
            let regions = findings.iter().filter(|_| is_text).filter_map(of_cell).collect();
            let findings = findings.iter().map(|finding| (Group::of(finding), number(finding))).collect();
            part.rows.push(RowSeen { held, own, candidates, findings, regions });
        }
        part
    }

    /// By what a row is known.
    fn own(&self, row: &RowView<'_>, findings: &[&Finding]) -> Own {
        // A key that is put right is another one then.
        if let Some(mark) =
            self.by_key(row).filter(|_| !findings.iter().any(|finding| self.is_of_key(finding)))
        {
            return Own::Key(mark);
        }
        let cells = self.content.row(row);
        let mut without: Vec<String> = findings
            .iter()
            .flat_map(|finding| finding.field.iter().chain(&finding.fields))
            .filter(|field| self.content.has(field))
            .cloned()
            .collect();
        without.sort_unstable();
        without.dedup();
        let rest = self.content.filled(&cells, &without);
        // In a narrow table, one cell alone may be passed over.
        if rest < LEAST_CELLS && !(without.len() == 1 && rest + 1 == LEAST_CELLS) {
            without.clear();
        }
        let mark = |without: &[String]| {
            self.content.mark(self.salt, &cells, without, row.raw, &self.key_beside(row, without))
        };
        Own::Content { mark: mark(&without), whole: mark(&[]), without }
    }

    /// Whether a finding says that the key itself is not written as it must be.
    fn is_of_key(&self, finding: &Finding) -> bool {
        const OF_OTHERS: [Code; 4] =
            [Code::KeyRepeated, Code::KeyNearlyRepeated, Code::KeyExists, Code::KeyNotFound];
        let schema = self.gate.schema();
        let field = finding.field.as_ref().and_then(|field| schema.field(field));
        let is_of_key = field.is_some_and(|field| schema.key.contains(&field));
        is_of_key && finding.rule.is_none() && !OF_OTHERS.contains(&finding.code)
    }

    fn by_key(&self, row: &RowView<'_>) -> Option<u64> {
        // Several rows of a record have one key.
        if self.gate.schema().lines.is_some() {
            return None;
        }
        let key = row.key_values().filter(|key| !key.is_empty())?;
        Some(self.salt.mark([b"key".as_slice(), &key]))
    }

    /// The key of a row's record, where several rows make one: the first of them holds it for all. One with a fault is
    /// another when it is put right.
    fn key_beside(&self, row: &RowView<'_>, without: &[String]) -> Vec<u8> {
        let schema = self.gate.schema();
        let mut of_key = schema.key.iter().filter_map(|field| schema.fields.get(*field));
        let keeps_key = schema.lines.is_some() && !of_key.any(|field| without.contains(&field.name));
        Some(row).filter(|_| keeps_key).and_then(RowView::key_values).unwrap_or_default()
    }

    /// The rows of the earlier report that this one may be.
    fn candidates(&self, row: &RowView<'_>) -> Vec<(usize, u64)> {
        let Some(earlier) = self.earlier else { return Vec::new() };
        let cells = self.asks_for_cells.then(|| self.earlier_content.row(row));
        let sets = earlier.rows.iter().enumerate();
        let mark = |(number, set): (usize, &RowSet)| {
            let mark = match (&set.without, &cells) {
                (Some(without), Some(cells)) => {
                    let key = self.key_beside(row, without);
                    self.earlier_content.mark(self.salt, cells, without, row.raw, &key)
                }
                _ => self.by_key(row)?,
            };
            set.has(mark).then_some((number, mark))
        };
        sets.filter_map(mark).collect()
    }

    /// The mark of a finding about a row or a place.
    pub(super) fn of_finding(&self, group: &Group, place: &[u8]) -> u64 {
        self.salt.mark([b"finding".as_slice()].into_iter().chain(group.parts()).chain([place]))
    }

    /// The findings that stand in no row that is judged.
    pub(super) fn besides(&self) -> impl Iterator<Item = Finding> {
        let mut besides = self.gate.opening_of(&self.outcome.filled);
        besides.extend(self.outcome.late.iter().cloned());
        besides.into_iter()
    }

    /// The number of a finding among those of the report.
    pub(super) fn number_of(&self, finding: &Finding) -> Option<usize> {
        self.wanted.get(&wanted(finding)).copied()
    }

    /// Takes the rows of the next block.
    pub fn take(&self, gathered: &mut Gathered, part: PartOfRounds) {
        gathered.clean.extend(part.clean);
        for row in part.rows {
            let (set, mark) = match &row.own {
                Own::Key(mark) => (None, *mark),
                Own::Content { without, mark, whole } => {
                    let set = Some(without.clone());
                    let has_room = gathered.rows.len() < MOST_SETS || gathered.rows.contains_key(&set);
                    if has_room { (set, *mark) } else { (Some(Vec::new()), *whole) }
                }
            };
            let is_content = set.is_some();
            gathered.held += u64::from(row.held);
            gathered.regions.extend(row.regions.iter().copied());
            if row.held || is_content {
                let of_set = gathered.rows.entry(set).or_default();
                if row.held { &mut of_set.0 } else { &mut of_set.1 }.push(mark);
            }
            let mut findings = Vec::with_capacity(row.findings.len());
            for (group, number) in row.findings {
                let print = self.of_finding(&group, &mark.to_be_bytes());
                gathered.told.extend(number.map(|number| (number, print)));
                // One group is kept once, however many findings it has.
                let known = gathered.groups.get_key_value(&group).map(|(known, _)| Arc::clone(known));
                let group = known.unwrap_or_else(|| Arc::new(group));
                gathered.groups.entry(Arc::clone(&group)).or_default().push(print);
                findings.push((group, number));
            }
            if self.earlier.is_some() {
                let (held, candidates) = (row.held, row.candidates);
                gathered.pending.push(Pending { held, mark, candidates, findings });
            }
        }
    }
}

impl Pending {
    /// A held row of which nothing is known but that it is one.
    pub(super) fn unknown(mark: u64, earlier: &Earlier) -> Self {
        let sets = earlier.rows.iter().enumerate();
        let own = |set: &RowSet| set.without.as_ref().is_some_and(Vec::is_empty) && set.has(mark);
        let candidates = sets.filter(|(_, set)| own(set)).map(|(number, _)| (number, mark)).collect();
        Self { held: true, mark, candidates, findings: Vec::new() }
    }
}

fn wanted(finding: &Finding) -> Wanted {
    (finding.row, finding.column, finding.code, finding.rule.clone(), finding.fields.clone())
}

/// Where a cell stands in its row.
fn region(row: &RowView<'_>, column: usize) -> Option<Region> {
    let (start, end) = row.cell_in_row(column.checked_sub(1)?)?;
    let place = |at: usize| {
        let before = row.raw.get(..at).unwrap_or_default();
        let line =
            memchr::memrchr(b'\n', before).map_or(before, |end| before.get(end + 1..).unwrap_or_default());
        let lines = memchr::memchr_iter(b'\n', before).count() as u64;
        (lines, String::from_utf8_lossy(line).chars().count() as u64 + 1)
    };
    Some(Region { start: place(start), end: place(end) })
}
