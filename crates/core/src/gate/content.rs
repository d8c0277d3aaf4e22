//! What columns hold, held against what fields ask: a column that does not fit its field, and fields that a column
//! without one would fit. Content proposes; it never decides.

use super::at_heading::title;
use super::compiled::Compiled;
use super::evidence::Votes;
use super::kinds::Program;
use super::seen::Seen;
use super::verdict::{Given, Verdict};
use crate::block::Block;
use crate::catalogue::{Code, Tag};
use crate::finding::letter;
use crate::headings::Paired;
use crate::profile::{Class, Kinds};
use crate::rows::Cells;
use crate::schema::Field;
use crate::value::Picklist;
use std::collections::HashMap;

/// So many different values of a column are kept, each with how many cells hold it.
const MOST: usize = 5_000;
/// So many of them tell whether the others need be asked.
const FIRST: usize = 100;
/// So few prove nothing.
const FEW: usize = 3;

/// Some of the different values of each column.
#[derive(Debug)]
pub struct Contents {
    columns: Vec<Values>,
    /// What the cells of each column say of how it is written.
    votes: Vec<Votes>,
    cells: Cells,
    kinds: Kinds,
}

#[derive(Debug, Default)]
struct Values {
    values: Vec<Value>,
    known: HashMap<String, usize>,
}

#[derive(Debug)]
struct Value {
    text: String,
    /// Whether a sheet stores it as what it looks like.
    is_stored: bool,
    cells: u64,
}

/// How many of a column's cells fit a field, in thousandths; all of them alone are a thousand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Fit(pub usize);

impl Values {
    fn count(&mut self, given: Given<'_>) {
        if let Some(value) = self.known.get(given.text).and_then(|at| self.values.get_mut(*at)) {
            value.cells += 1;
        } else if self.values.len() < MOST {
            let text = given.text.to_owned();
            self.known.insert(text.clone(), self.values.len());
            self.values.push(Value { text, is_stored: given.is_stored, cells: 1 });
        }
    }
}

impl Contents {
    /// Nothing seen yet.
    #[must_use]
    pub fn new(gate: &Compiled) -> Self {
        let columns = (0..gate.width()).map(|_| Values::default()).collect();
        let votes = vec![Votes::default(); gate.width()];
        Self { columns, votes, cells: Cells::default(), kinds: Kinds::new(gate.settings.today) }
    }

    /// Takes the values of a block.
    pub fn look_at(&mut self, gate: &Compiled, block: &Block) {
        self.cells.short_rows_are_blank = gate.table.short_rows_are_blank;
        self.cells.lay_out(block, gate.table.dialect, gate.width(), gate.probe);
        for (number, (values, votes)) in self.columns.iter_mut().zip(&mut self.votes).enumerate() {
            let Some(column) = gate.columns.get(number) else { continue };
            let has_vote = column.program.has_vote();
            for row in 0..self.cells.len() {
                let raw = self.cells.stored(block, row, number);
                let (Seen::Value(text) | Seen::Clear(text)) = column.see(raw, gate.table.dialect) else {
                    continue;
                };
                let given = Given::of(text.trim(), raw, gate.table.dialect);
                if has_vote && !given.is_stored {
                    votes.add(column.program.vote(given));
                }
                values.count(given);
            }
        }
    }

    /// What the cells that were looked at say of how columns are written.
    #[must_use]
    pub fn votes(&self) -> &[Votes] {
        &self.votes
    }

    /// How many different values of a column are known.
    #[must_use]
    pub fn count(&self, column: usize) -> usize {
        self.columns.get(column).map_or(0, |values| values.values.len())
    }

    /// A few of a column's values.
    pub fn first(&self, column: usize) -> impl Iterator<Item = &str> {
        let values = self.columns.get(column).map(|values| values.values.as_slice()).unwrap_or_default();
        values.iter().take(3).map(|value| value.text.as_str())
    }

    /// Columns of the suspected ones that do not fit their field, each with another column that would.
    #[must_use]
    pub fn misfits(&self, gate: &Compiled, suspects: &[usize]) -> Vec<(usize, usize)> {
        let fits_not = |column: usize| {
            gate.columns.get(column).is_some_and(|column| column.program.tells_apart())
                && self.count(column) > 0
                && self.loosely(gate, column, column) < 500
        };
        // Each is held against all columns: of very many the first are enough to see what is wrong.
        const MOST_ASKED: usize = 64;
        let misfits: Vec<usize> = suspects.iter().copied().filter(|column| fits_not(*column)).collect();
        let mut is_misfit = vec![false; self.columns.len()];
        for column in &misfits {
            is_misfit.get_mut(*column).into_iter().for_each(|slot| *slot = true);
        }
        let other = |column: usize| {
            let stands_elsewhere = |other: usize| match gate.pairing.columns.get(other) {
                // Text takes anything, so that it says nothing of its own column.
                Some(Paired::Field { .. }) => {
                    is_misfit.get(other).copied().unwrap_or_default()
                        || gate.columns.get(other).is_some_and(|other| !other.program.tells_apart())
                }
                Some(Paired::Own | Paired::LeftOut) | None => false,
                Some(_) => true,
            };
            // So few values prove nothing, unless each of two columns holds what the other should.
            let is_turned_about = |other: usize| {
                is_misfit.get(other).copied().unwrap_or_default() && self.strictly(gate, column, other) >= 800
            };
            let is_enough = |other: usize| {
                self.count(column).min(self.count(other)) >= FEW
                    || self.count(other) >= self.count(column).min(FEW) && is_turned_about(other)
            };
            (0..self.columns.len())
                .filter(|other| *other != column && stands_elsewhere(*other) && is_enough(*other))
                .map(|other| (self.strictly(gate, other, column), other))
                .filter(|(fit, _)| *fit >= 800)
                .max_by_key(|(fit, other)| (*fit, usize::MAX - other))
                .map(|found| found.1)
        };
        misfits.iter().take(MOST_ASKED).filter_map(|column| Some((*column, other(*column)?))).collect()
    }

    /// Every paired column that does not fit its field, with another that would.
    #[must_use]
    pub fn all_misfits(&self, gate: &Compiled) -> Vec<(usize, usize)> {
        let paired: Vec<usize> = (0..gate.width()).filter(|column| gate.field(*column).is_some()).collect();
        self.misfits(gate, &paired)
    }

    /// How many of a thousand cells of a column fit the field of another.
    fn strictly(&self, gate: &Compiled, values: usize, field: usize) -> usize {
        let Some(column) = gate.columns.get(field) else { return 0 };
        self.share(values, |text, stored| fits(&column.program, text, stored, &gate.schema.picklists))
    }

    /// The same, where a number or a date in another notation fits too.
    fn loosely(&self, gate: &Compiled, values: usize, field: usize) -> usize {
        let Some(column) = gate.columns.get(field) else { return 0 };
        self.share(values, |text, stored| {
            fits(&column.program, text, stored, &gate.schema.picklists)
                || self.is_of_the_kind(&column.program, text)
        })
    }

    fn is_of_the_kind(&self, program: &Program, text: &str) -> bool {
        is_of_kind(&self.kinds, program, text)
    }

    /// How many of a thousand cells hold what fits.
    fn share(&self, column: usize, fits: impl Fn(&str, bool) -> bool) -> usize {
        let Some(values) = self.columns.get(column).filter(|values| !values.values.is_empty()) else {
            return 0;
        };
        let part = |values: &[Value]| {
            let (mut fitting, mut all) = (0, 0);
            for value in values {
                all += value.cells;
                fitting += if fits(&value.text, value.is_stored) { value.cells } else { 0 };
            }
            usize::try_from(fitting * 1000 / all.max(1)).unwrap_or(0)
        };
        let first = values.values.get(..FIRST.min(values.values.len())).unwrap_or_default();
        let share = part(first);
        // Where hardly any of the first fit, the others make no difference.
        if share < 250 || first.len() == values.values.len() { share } else { part(&values.values) }
    }

    /// How well a column would do as the column of a field; nothing where the field asks nothing that could tell, or
    /// too few values are known.
    #[must_use]
    pub fn fit(&self, column: usize, probe: &FieldProbe, gate: &Compiled) -> Option<Fit> {
        let enough = self.count(column) >= if probe.is_listed { 1 } else { FEW };
        if let (true, Program::Text(_)) = (enough && !probe.tells, &probe.program) {
            // Days and addresses are no plain text.
            let is_other = |text: &str| {
                matches!(self.kinds.class(text).0, Class::Date(_) | Class::Datetime(_) | Class::Email)
            };
            let fit = self.share(column, |text, _| !is_other(text));
            return (fit < 500).then_some(Fit(fit));
        }
        (enough && probe.tells).then(|| {
            Fit(self.share(column, |text, stored| {
                fits(&probe.program, text, stored, &gate.schema.picklists)
                    || self.is_of_the_kind(&probe.program, text)
            }))
        })
    }
}

impl Compiled {
    /// Takes away what headings alone would propose, where most cells of the first rows do not fit it.
    pub(super) fn drop_unlikely(&mut self) {
        let kinds = Kinds::new(self.settings.today);
        let is_unlikely = |column: usize, field: usize| {
            let Some(stated) = self.schema.fields.get(field) else { return false };
            let probe = self.probe_of(field, stated);
            let cells = self.table.sample.iter().filter_map(|row| row.get(column));
            let cells: Vec<&String> = cells.filter(|cell| !cell.is_empty()).collect();
            if !probe.tells || cells.len() < FEW {
                return false;
            }
            let fits = |cell: &&&String| {
                fits(&probe.program, cell, true, &self.schema.picklists)
                    || fits(&probe.program, cell, false, &self.schema.picklists)
                    || is_of_kind(&kinds, &probe.program, cell)
            };
            cells.iter().filter(fits).count() * 2 < cells.len()
        };
        let mut columns = self.pairing.columns.clone();
        for (column, paired) in columns.iter_mut().enumerate() {
            if let Paired::Unknown { nearest } = paired {
                nearest.retain(|field| !is_unlikely(column, *field));
            }
        }
        self.pairing.columns = columns;
    }
}

/// What a field asks, made ready to be held against columns.
#[derive(Debug)]
pub struct FieldProbe {
    program: Program,
    /// Whether it asks anything that could tell columns apart.
    tells: bool,
    /// Whether hardly another column could fit it by chance.
    pub is_telling: bool,
    is_listed: bool,
}

impl Compiled {
    /// What a field asks.
    #[must_use]
    pub fn probe_of(&self, number: usize, field: &Field) -> FieldProbe {
        let program = Program::of(field, &self.schema, &self.settings, self.settings.plan.reading(number));
        let is_listed = matches!(program, Program::Picklist(_));
        let is_telling = program.is_telling(&self.schema.picklists);
        FieldProbe { tells: program.tells_apart(), is_telling, is_listed, program }
    }

    /// What is said of a column that does not fit its field while another would.
    #[must_use]
    pub fn misfit_message(&self, column: usize, other: usize) -> String {
        let title = self.field(column).map(title).unwrap_or_default();
        let heading = self.heading(other).filter(|heading| !heading.is_empty());
        let heading = heading.map(|heading| format!(" (\"{heading}\")")).unwrap_or_default();
        format!(
            "most values under this heading do not fit {title}; those of column {}{heading} would: swapped or shifted \
             columns",
            letter(other)
        )
    }

    /// The name of a column's field.
    #[must_use]
    pub fn field_name(&self, column: usize) -> Option<String> {
        self.field(column).map(|field| field.name.clone())
    }
}

fn fits(program: &Program, text: &str, is_stored: bool, picklists: &[Picklist]) -> bool {
    let given = Given { text, is_stored, is_percent: false };
    let verdict: Verdict = program.judge(given, picklists);
    let is_misfit = |code: Code| code.is(Tag::OtherKind) || code == Code::DecimalMark;
    !verdict.codes().any(is_misfit)
}

/// Whether a text is of the kind that a program asks for, perhaps in another notation.
fn is_of_kind(kinds: &Kinds, program: &Program, text: &str) -> bool {
    program.is_of_class(kinds.class(text).0, text)
}
