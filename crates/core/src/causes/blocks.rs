//! Blocks of rows that stand in a file twice.

use super::catalogue::CauseCode;
use super::cause::{Cause, CauseSample, Remedy};
use crate::catalogue::Code;
use crate::gate::{Counted, Gate};
use crate::numerals::{counted, grouped};
use crate::run::Outcome;
use std::collections::BTreeMap;

/// Fewer rows make no block.
const LEAST: u64 = 3;

/// A block that repeats another.
#[derive(Debug, Clone, Copy)]
struct Pasted {
    first: u64,
    last: u64,
    /// How far above it the same rows stand.
    above: u64,
}

/// What blocks explain, as it is counted.
type Claims = BTreeMap<Counted, u64>;

/// The blocks, and the findings that they explain.
fn blocks(gate: &Gate, outcome: &Outcome) -> (Vec<Pasted>, Claims) {
    let (mut blocks, mut claims) = (Vec::new(), Claims::new());
    let mut open: Option<(Pasted, Counted)> = None;
    let mut end = |open: Option<(Pasted, Counted)>| {
        let Some((block, counted)) = open else { return };
        let rows = block.last - block.first + 1;
        // A block that overlaps what it repeats is a run of equal rows.
        if rows >= LEAST && block.above >= rows {
            blocks.push(block);
            *claims.entry(counted).or_default() += 2 * rows;
        }
    };
    for (row, keyset, group) in outcome.repeats.each() {
        let counted = gate.repeat_counted(keyset, gate.repeat_level(keyset));
        let is_whole =
            matches!(counted.code, Code::KeyRepeated | Code::RowRepeated) && group.equal && group.count == 2;
        let Some(first) = group.rows.first().copied().filter(|first| is_whole && *first < row) else {
            continue;
        };
        match &mut open {
            Some((block, known))
                if block.last + 1 == row && block.above == row - first && *known == counted =>
            {
                block.last = row;
            }
            _ => end(open.replace((Pasted { first: row, last: row, above: row - first }, counted))),
        }
    }
    end(open);
    // What must not repeat beside the key repeats with it.
    for (row, keyset, group) in outcome.repeats.each() {
        let counted = gate.repeat_counted(keyset, gate.repeat_level(keyset));
        let above = group.rows.first().map_or(0, |first| row.saturating_sub(*first));
        let is_within = |block: &Pasted| (block.first..=block.last).contains(&row) && block.above == above;
        if counted.code == Code::UniqueRepeated && group.count == 2 && blocks.iter().any(is_within) {
            *claims.entry(counted).or_default() += 2;
        }
    }
    (blocks, claims)
}

/// The cause, where rows behind one another repeat rows behind one another throughout.
pub(super) fn pasted_twice(gate: &Gate, outcome: &Outcome) -> Option<Cause> {
    let (blocks, claims) = blocks(gate, outcome);
    let first = blocks.first()?;
    let rows: u64 = blocks.iter().map(|block| block.last - block.first + 1).sum();
    let named = format!(
        "rows {} to {} repeat rows {} to {}",
        grouped(first.first),
        grouped(first.last),
        grouped(first.first - first.above),
        grouped(first.last - first.above)
    );
    let more = blocks.len() as u64 - 1;
    let explanation = match more {
        0 => named,
        more => format!("{named}, and {} more", counted(more, "block stands twice", "blocks stand twice")),
    };
    let runs = blocks.iter().map(|block| [block.first, block.last]).collect();
    Some(Cause {
        code: CauseCode::RowsPastedTwice,
        fields: Vec::new(),
        findings: claims.values().sum(),
        rows: 2 * rows,
        explanation,
        remedy: Remedy::rows("Delete the rows of the second block.", runs),
        words: Vec::new(),
        sample: Some(CauseSample { row: first.first, letter: None, value: None }),
        claims,
    })
}
