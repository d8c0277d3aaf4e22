//! Faults that nearly all stand in rows with one value of another column: one sender, one month, one ward.

use super::catalogue::CauseCode;
use super::cause::{Cause, Remedy};
use super::evidence::{Findings, Origin, origin};
use super::weigh::{Weigher, cells};
use crate::block::Block;
use crate::catalogue::{Code, Level};
use crate::gate::{Clue, Gate};
use crate::numerals::{counted, grouped};
use crate::rows::{Cells, text_of};
use std::collections::{BTreeMap, HashMap, HashSet};

/// So few findings have no pattern.
const FEW: u64 = 8;
/// A column with more different values tells no groups.
const MOST_VALUES: usize = 200;
/// So many columns are looked at.
const MOST_COLUMNS: usize = 200;

/// How often each value of a column stands in all rows, and in those of each fault.
#[derive(Debug, Default)]
struct Column {
    values: HashMap<String, (u64, BTreeMap<usize, u64>)>,
    is_full: bool,
}

/// What is known of the faults that no cause explains.
#[derive(Debug)]
pub(crate) struct Shared {
    faults: Vec<Origin>,
    columns: Vec<Column>,
    rows: u64,
    cells: Cells,
}

impl Shared {
    /// For the faults that are frequent enough; nothing where there are none.
    pub(crate) fn of(gate: &Gate, rest: &BTreeMap<Origin, Findings>) -> Option<Self> {
        let is_meant = |(origin, found): &(&Origin, &Findings)| found.count >= FEW && is_fault(origin, found);
        let faults: Vec<Origin> = rest.iter().filter(is_meant).map(|fault| fault.0.clone()).collect();
        let columns = (0..gate.width().min(MOST_COLUMNS)).map(|_| Column::default()).collect();
        (!faults.is_empty()).then(|| Self { faults, columns, rows: 0, cells: Cells::default() })
    }

    /// Takes up the rows of a block with its clues.
    pub(crate) fn look_at(&mut self, gate: &Gate, block: &Block, clues: &[Clue], swapped: &[(usize, usize)]) {
        self.cells.short_rows_are_blank = gate.table().short_rows_are_blank;
        self.cells.lay_out(block, gate.table().dialect, gate.width(), 0);
        let mut faulty: HashMap<u64, HashSet<usize>> = HashMap::new();
        for clue in clues {
            let origin = origin(clue, swapped);
            if let Some(fault) = self.faults.iter().position(|fault| *fault == origin) {
                faulty.entry(clue.row).or_default().insert(fault);
            }
        }
        self.rows += self.cells.len() as u64;
        for (number, column) in self.columns.iter_mut().enumerate().filter(|column| !column.1.is_full) {
            for row in 0..self.cells.len() {
                let raw = self.cells.stored(block, row, number);
                let Ok(text) = text_of(raw, gate.table().dialect) else { continue };
                let text = text.trim();
                let place = block.first_row + u64::from(self.cells.place(row));
                if column.values.len() >= MOST_VALUES && !column.values.contains_key(text) {
                    (column.is_full, column.values) = (true, HashMap::new());
                    break;
                }
                if !column.values.contains_key(text) {
                    column.values.insert(text.to_owned(), (0, BTreeMap::new()));
                }
                let Some(slot) = column.values.get_mut(text) else { continue };
                slot.0 += 1;
                for fault in faulty.get(&place).into_iter().flatten() {
                    *slot.1.entry(*fault).or_default() += 1;
                }
            }
        }
    }

    /// The causes among them.
    pub(crate) fn causes(&self, weigher: &Weigher<'_>, rest: &BTreeMap<Origin, Findings>) -> Vec<Cause> {
        let mut causes = Vec::new();
        for (number, fault) in self.faults.iter().enumerate() {
            let Some(found) = rest.get(fault) else { continue };
            let told = self.columns.iter().enumerate().filter(|(column, _)| !found.columns.contains(column));
            let best = told.filter_map(|(at, column)| Some((self.telling(column, number, found)?, at)));
            // The value that tells best; of equals the one of the first column.
            let best =
                best.max_by(|one, other| one.0.1.total_cmp(&other.0.1).then_with(|| other.1.cmp(&one.1)));
            if let Some(((value, _, with), column)) = best {
                causes.push(cause(weigher, found, (column, value, with)));
            }
        }
        causes
    }

    /// A value whose rows have the fault far more often than others and hold most of it: with how well it tells, and how
    /// many rows have it.
    fn telling<'a>(
        &'a self,
        column: &'a Column,
        fault: usize,
        found: &Findings,
    ) -> Option<(&'a str, f64, u64)> {
        if column.is_full || column.values.len() < 2 {
            return None;
        }
        let (value, (all, faults)) = column
            .values
            .iter()
            .max_by_key(|(value, (_, faults))| (faults.get(&fault), std::cmp::Reverse(*value)))?;
        let with = faults.get(&fault).copied().unwrap_or_default();
        let others = self.rows.saturating_sub(*all);
        if value.is_empty() || others == 0 || with < FEW {
            return None;
        }
        let hold = share(with, found.rows);
        let (rate, elsewhere) = (share(with, *all), share(found.rows.saturating_sub(with), others));
        // Most of the fault, in few of the rows, and far more often than anywhere else.
        let is_telling =
            hold >= 0.8 && share(*all, self.rows) <= 0.5 && rate >= 0.3 && rate >= 8.0 * elsewhere;
        is_telling.then_some((value.as_str(), hold * rate, *all))
    }
}

#[expect(clippy::cast_precision_loss, reason = "shares, not counts")]
fn share(part: u64, all: u64) -> f64 {
    part as f64 / all.max(1) as f64
}

/// Whether findings are faults that somebody made, and no notes on how a file is written.
fn is_fault(origin: &Origin, found: &Findings) -> bool {
    let is_of_rows =
        matches!(origin, Origin::Rest(..) | Origin::Blank(_) | Origin::Moved(..) | Origin::Unit(..));
    let is_grave = found.claims.keys().any(|claim| claim.level != Level::Note);
    let is_suspicion = matches!(origin, Origin::Rest(_, Code::Placeholder | Code::FormulaLike, _));
    is_of_rows && is_grave && !is_suspicion
}

fn cause(weigher: &Weigher<'_>, found: &Findings, (column, value, with): (usize, &str, u64)) -> Cause {
    let heading = weigher.title(column);
    let shown = match weigher.gate.is_sensitive(column) {
        true => "one value".to_owned(),
        false => format!("\"{}\"", value.chars().take(60).collect::<String>()),
    };
    let code = found.claims.keys().next().map_or("fault", |claim| claim.code.name());
    let place = match found.columns.is_empty() {
        true => String::new(),
        false => format!(" of {}", weigher.titles(found)),
    };
    let explanation = format!(
        "{}{place} with {code}: nearly all stand in the {} rows whose {heading} is {shown}",
        if found.columns.is_empty() { counted(found.rows, "row", "rows") } else { cells(found) },
        grouped(with)
    );
    let text =
        format!("Please look at the rows whose {heading} is {shown}: nearly all of this fault stands there.");
    let mut cause = weigher.of(CauseCode::OneValue, found, explanation, Remedy::sender(text));
    cause.fields.extend(weigher.field(column).map(|field| field.name.clone()));
    cause
}
