//! Faults that nearly all stand in rows with one value of another column: one sender, one month, one ward.
//!
//! A few rows of each fault are read first, then a few of the whole file: only where both speak for a column is it counted
//! over all rows.

use super::catalogue::CauseCode;
use super::cause::{Cause, Remedy};
use super::weigh::{Weigher, cells};
use crate::block::Block;
use crate::catalogue::{Code, Level};
use crate::gate::{Clue, ClueWalk, Texts};
use crate::numerals::{counted, grouped};
use crate::order::in_order;
use crate::origins::{Findings, Origin, origin};
use crate::run::{BlockSource, Outcome};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::atomic::{AtomicUsize, Ordering};

/// So few findings have no pattern.
const FEW: u64 = 8;
/// A column with more different values tells no groups.
const MOST_VALUES: usize = 200;
/// So many columns are looked at.
const MOST_COLUMNS: usize = 200;
/// So many faults are, those that stand most often.
const MOST_FAULTS: usize = 100;
/// So many rows of a fault are looked at first.
const FIRST_ROWS: u64 = 64;
/// Of so many rows of the whole file, spread over it, it is told how frequent a value is.
const SPREAD_ROWS: u64 = 2_048;
/// A value stands all over a file if it does in so many places of these.
const ALL_OVER: usize = 8;

type Faults<'a> = [(&'a Origin, &'a Findings)];

/// The causes among what no other cause explains.
///
/// # Errors
/// When the rows cannot be read again.
pub(crate) fn causes<S: BlockSource>(
    weigher: &Weigher<'_>,
    source: &S,
    rest: &BTreeMap<Origin, Findings>,
    threads: usize,
) -> Result<Vec<Cause>, S::Error> {
    let rows = weigher.outcome.counts.rows;
    let is_meant = |(origin, found): &(&Origin, &Findings)| {
        // No value of a cause stands in so many rows that it could hold most of a fault that is nearly everywhere.
        let is_everywhere = LEAST_HELD * share(found.rows, rows) > MOST_SHARE;
        found.count >= FEW && !is_everywhere && is_fault(origin, found)
    };
    let mut faults: Vec<(&Origin, &Findings)> = rest.iter().filter(is_meant).collect();
    faults.sort_by_key(|(_, found)| std::cmp::Reverse(found.count));
    faults.truncate(MOST_FAULTS);
    let mut suspects = frequent(weigher, source, &faults)?;
    spread(weigher, source, &faults, &mut suspects)?;
    if suspects.is_empty() {
        return Ok(Vec::new());
    }
    let counted = count(weigher, source, (&faults, &suspects), threads)?;
    let mut causes = Vec::new();
    for (number, (_, found)) in faults.iter().enumerate() {
        let asked = suspects.range((number, 0)..(number + 1, 0)).map(|(suspect, _)| suspect.1);
        let told = asked.filter_map(|column| Some((counted.columns.get(&column)?, column)));
        let best = told.filter_map(|(column, at)| Some((counted.telling(column, number, found)?, at)));
        // The value that tells best; of equals the one of the first column.
        let best = best.max_by(|one, other| one.0.1.total_cmp(&other.0.1).then_with(|| other.1.cmp(&one.1)));
        if let Some(((value, _, with), column)) = best {
            causes.push(cause(weigher, found, (column, value, with)));
        }
    }
    Ok(causes)
}

/// Faults and columns that may tell of them, each with the value that is most frequent in the fault's rows.
type Suspects = BTreeMap<(usize, usize), String>;

/// The columns one value of which stands in at least half of those rows of a fault that are looked at.
fn frequent<S: BlockSource>(
    weigher: &Weigher<'_>,
    source: &S,
    faults: &Faults<'_>,
) -> Result<Suspects, S::Error> {
    let mut rows: Vec<(u64, usize)> = Vec::new();
    for (number, (_, found)) in faults.iter().enumerate() {
        rows.extend(some_of(&found.runs, FIRST_ROWS).into_iter().map(|row| (row, number)));
    }
    rows.sort_unstable();
    let width = weigher.gate.width().min(MOST_COLUMNS);
    let mut seen: BTreeMap<(usize, usize), HashMap<String, usize>> = BTreeMap::new();
    let (mut texts, mut block) = (Texts::new(weigher.gate), Block::default());
    let mut looked_at = vec![0_usize; faults.len()];
    for (extent, mine) in weigher.outcome.extents.around(&rows, |row| row.0) {
        source.again(&extent, &mut block)?;
        texts.lay_out(&block);
        for (number, fault) in mine {
            let Some(row) = texts.find(&block, *number) else { continue };
            if let Some(count) = looked_at.get_mut(*fault) {
                *count += 1;
            }
            for column in 0..width {
                if let Some(text) = texts.text(&block, row, column) {
                    *seen.entry((*fault, column)).or_default().entry(text).or_default() += 1;
                }
            }
        }
    }
    let most = |((fault, column), values): ((usize, usize), HashMap<String, usize>)| {
        let (_, found) = faults.get(fault)?;
        let (value, count) = values
            .into_iter()
            .filter(|value| !value.0.is_empty())
            .max_by(|one, other| one.1.cmp(&other.1).then_with(|| other.0.cmp(&one.0)))?;
        let is_frequent = count * 2 >= looked_at.get(fault).copied().unwrap_or_default();
        (is_frequent && !found.columns.contains(&column)).then_some(((fault, column), value))
    };
    Ok(seen.into_iter().filter_map(most).collect())
}

/// At most so many rows of the runs, evenly spread.
fn some_of(runs: &[[u64; 2]], most: u64) -> Vec<u64> {
    let all: u64 = runs.iter().map(|run| run[1] - run[0] + 1).sum();
    let take = all.min(most);
    let mut rows = Vec::new();
    let (mut before, mut next) = (0, 0);
    for run in runs {
        let len = run[1] - run[0] + 1;
        while next < take && next * all / take < before + len {
            rows.push(run[0] + next * all / take - before);
            next += 1;
        }
        before += len;
    }
    rows
}

/// Drops those whose value is all over the file: more frequent than the value of a cause can be.
fn spread<S: BlockSource>(
    weigher: &Weigher<'_>,
    source: &S,
    faults: &Faults<'_>,
    suspects: &mut Suspects,
) -> Result<(), S::Error> {
    let pieces = weigher.outcome.extents.spread(SPREAD_ROWS);
    if suspects.is_empty() || weigher.outcome.counts.rows < 8 * SPREAD_ROWS {
        return Ok(());
    }
    let (mut texts, mut block, mut rows) = (Texts::new(weigher.gate), Block::default(), 0);
    let mut met: BTreeMap<(usize, usize), (u64, usize)> = BTreeMap::new();
    for piece in &pieces {
        source.again(piece, &mut block)?;
        texts.lay_out(&block);
        rows += texts.rows() as u64;
        for (suspect, value) in suspects.iter() {
            let mut count = 0;
            texts.each(&block, suspect.1, |_, text| {
                count += u64::from(text == value);
                true
            });
            let met = met.entry(*suspect).or_default();
            *met = (met.0 + count, met.1 + usize::from(count > 0));
        }
    }
    suspects.retain(|suspect, _| {
        let Some((_, found)) = faults.get(suspect.0) else { return false };
        let (count, places) = met.get(suspect).copied().unwrap_or_default();
        // With some room for chance: see `telling`.
        let most = (4.0 * share(found.rows, weigher.outcome.counts.rows) / LEAST_RATE).min(MOST_SHARE + 0.15);
        places < ALL_OVER || share(count, rows) <= most
    });
    Ok(())
}

/// How often each value of a column stands in all rows, and in those of each fault.
#[derive(Debug, Default)]
struct Column {
    values: HashMap<String, (u64, BTreeMap<usize, u64>)>,
    is_full: bool,
}

impl Column {
    fn take(&mut self, text: &str, faults: &[usize]) {
        if self.values.len() >= MOST_VALUES && !self.values.contains_key(text) {
            (self.is_full, self.values) = (true, HashMap::new());
        }
        if self.is_full {
            return;
        }
        if !self.values.contains_key(text) {
            self.values.insert(text.to_owned(), (0, BTreeMap::new()));
        }
        let Some(slot) = self.values.get_mut(text) else { return };
        slot.0 += 1;
        for fault in faults {
            *slot.1.entry(*fault).or_default() += 1;
        }
    }

    fn join(&mut self, other: Self) {
        self.is_full |= other.is_full;
        for (value, (all, faults)) in other.values {
            let slot = self.values.entry(value).or_default();
            slot.0 += all;
            for (fault, count) in faults {
                *slot.1.entry(fault).or_default() += count;
            }
        }
        if self.is_full || self.values.len() > MOST_VALUES {
            (self.is_full, self.values) = (true, HashMap::new());
        }
    }
}

/// What was counted over all rows.
#[derive(Debug, Default)]
struct Counts {
    columns: BTreeMap<usize, Column>,
    rows: u64,
}

/// Counts the values of the suspected columns over all rows.
fn count<S: BlockSource>(
    weigher: &Weigher<'_>,
    source: &S,
    (faults, suspects): (&Faults<'_>, &Suspects),
    threads: usize,
) -> Result<Counts, S::Error> {
    let (gate, outcome) = (weigher.gate, weigher.outcome);
    let asked: BTreeSet<usize> = suspects.keys().map(|suspect| suspect.1).collect();
    let has_all = faults.iter().all(|fault| fault.1.has_all_runs);
    let make = || {
        let clues = (!has_all).then(|| ClueWalk::new(gate, &outcome.state, outcome.misfits.is_empty()));
        (clues, Texts::new(gate), Counts::default())
    };
    let states = each_block(source, outcome, threads, make, |(clues, texts, counts), block| {
        texts.lay_out(block);
        let faulty = match clues {
            Some(clues) => by_clues(faults, clues, block, &outcome.misfits),
            None => by_runs(faults, block),
        };
        counts.rows += texts.rows() as u64;
        for number in &asked {
            let column = counts.columns.entry(*number).or_default();
            texts.each(block, *number, |row, text| {
                let none: &[usize] = &[];
                let of_row = match faulty.is_empty() {
                    true => none,
                    false => faulty.get(&texts.number(block, row)).map_or(none, Vec::as_slice),
                };
                column.take(text, of_row);
                !column.is_full
            });
        }
    })?;
    let mut all = Counts::default();
    for (_, _, counts) in states {
        all.rows += counts.rows;
        for (number, column) in counts.columns {
            all.columns.entry(number).or_default().join(column);
        }
    }
    Ok(all)
}

/// The faults of the rows of a block, by their number.
type Faulty = HashMap<u64, Vec<usize>>;

fn by_runs(faults: &Faults<'_>, block: &Block) -> Faulty {
    let (mut faulty, end) = (Faulty::new(), block.first_row + block.rows);
    for (number, (_, found)) in faults.iter().enumerate() {
        let from = found.runs.partition_point(|run| run[1] < block.first_row);
        for run in found.runs.get(from..).unwrap_or_default().iter().take_while(|run| run[0] < end) {
            for row in run[0].max(block.first_row)..=run[1].min(end - 1) {
                faulty.entry(row).or_default().push(number);
            }
        }
    }
    faulty
}

fn by_clues(
    faults: &Faults<'_>,
    clues: &mut ClueWalk<'_>,
    block: &Block,
    swapped: &[(usize, usize)],
) -> Faulty {
    let mut faulty = Faulty::new();
    let clues = clues.of(block);
    let fault_of = |clue: &Clue| {
        let origin = origin(clue, swapped);
        faults.iter().position(|fault| *fault.0 == origin)
    };
    let told: Vec<Option<usize>> = clues.distinct.iter().map(fault_of).collect();
    for (row, number) in clues.found() {
        if let Some(fault) = told.get(number).copied().flatten() {
            let of_row = faulty.entry(row).or_default();
            if !of_row.contains(&fault) {
                of_row.push(fault);
            }
        }
    }
    faulty
}

/// Reads every block again, in any order; gives what the threads made of them.
///
/// # Errors
/// When the rows cannot be read again.
pub(crate) fn each_block<S: BlockSource, T: Send>(
    source: &S,
    outcome: &Outcome,
    threads: usize,
    mut make: impl FnMut() -> T,
    look_at: impl Fn(&mut T, &Block) + Sync,
) -> Result<Vec<T>, S::Error> {
    let counter = AtomicUsize::new(0);
    let states = in_order(
        threads,
        || (make(), Block::for_threads(threads)),
        |(_, block)| {
            let number = counter.fetch_add(1, Ordering::Relaxed);
            let Some(extent) = outcome.extents.blocks().get(number) else { return Ok(None) };
            source.again(extent, block)?;
            Ok(Some(number as u64))
        },
        |(state, block)| look_at(state, block),
        |()| Ok(()),
    )?;
    Ok(states.into_iter().map(|state| state.0).collect())
}

/// So much of all rows may have the value of a cause.
const MOST_SHARE: f64 = 0.5;
/// So much of the fault stands in the rows with the value.
const LEAST_HELD: f64 = 0.8;
/// So much of the rows with the value have the fault.
const LEAST_RATE: f64 = 0.3;

impl Counts {
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
        let is_telling = hold >= LEAST_HELD
            && share(*all, self.rows) <= MOST_SHARE
            && rate >= LEAST_RATE
            && rate >= 8.0 * elsewhere;
        is_telling.then_some((value.as_str(), hold * rate, *all))
    }
}

#[expect(clippy::cast_precision_loss, reason = "shares, not counts")]
fn share(part: u64, all: u64) -> f64 {
    part as f64 / all.max(1) as f64
}

/// Whether findings are faults that somebody made, and no notes on how a file is written.
fn is_fault(origin: &Origin, found: &Findings) -> bool {
    let is_of_rows = matches!(
        origin,
        Origin::Rest(..) | Origin::Blank(_) | Origin::Moved(..) | Origin::Unit(..) | Origin::Times(_)
    );
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
