//! What rows share with other records that are there, settled when it is known which rows are held.

use super::outcome::Outcome;
use crate::catalogue::{Code, Level};
use crate::finding::Finding;
use crate::gate::{Gate, Shares};
use crate::numerals::grouped;
use std::collections::{HashMap, HashSet};

/// So many likely duplicates are always told.
const MOST_ALIKE: u64 = 100;

/// Tells the rows that share something with another record, and holds those that must not.
pub(super) fn settle_shared(
    gate: &Gate,
    (mut shares, gives_up): (Vec<Shares>, Vec<Shares>),
    outcome: &mut Outcome,
) {
    if shares.is_empty() {
        return;
    }
    let by_holder: HashMap<(usize, u64), u64> =
        gives_up.iter().map(|gone| ((gone.probe, gone.holder), gone.row)).collect();
    // Of rows that are like others of the file this is told already.
    let is_told = |share: &Shares| {
        let code = gate.shared_counted(share.probe).map(|counted| counted.0.code);
        let level = Level::Warn;
        outcome
            .repeats
            .of_row(share.row)
            .any(|group| Some(gate.repeat_counted(group.keyset, level).code) == code)
    };
    shares.retain(|share| !is_told(share));
    drop_common(gate, &mut shares, outcome);
    // A row that is held leaves its record what it has, which may hold another row.
    let mut told: HashSet<(u64, usize)> = HashSet::new();
    loop {
        let before = told.len();
        for share in &shares {
            let Some((counted, _)) = gate.shared_counted(share.probe) else { continue };
            let given_up =
                by_holder.get(&(share.probe, share.holder)).filter(|_| counted.code == Code::UniqueExists);
            let is_free = given_up.is_some_and(|row| !outcome.held.holds(*row, outcome.extents.blocks()));
            if !is_free && told.insert((share.row, share.probe)) {
                outcome.tallies.count_ruled(counted, share.row);
                if counted.level == Level::Stop {
                    outcome.counts.held += u64::from(outcome.held.hold(share.row, outcome.extents.blocks()));
                }
            }
        }
        if told.len() == before {
            break;
        }
    }
    outcome.repeats.shared = told.into_iter().collect();
    outcome.repeats.shared.sort_unstable();
}

/// Takes likely duplicates out where there are so many of them that the fields cannot be what tells records apart; says
/// so. Fields that the schema names stay.
fn drop_common(gate: &Gate, shares: &mut Vec<Shares>, outcome: &mut Outcome) {
    let is_guessed = |share: &Shares| gate.shared_counted(share.probe).is_some_and(|counted| counted.1);
    let count = shares.iter().filter(|share| is_guessed(share)).count() as u64;
    if count <= MOST_ALIKE.max(outcome.counts.records() / 5) {
        return;
    }
    shares.retain(|share| !is_guessed(share));
    let message = format!(
        "likely duplicates of records that are there were not looked for: the descriptive fields agree in {} of {} rows; \
         name those that tell records apart in `alike` of the record schema",
        grouped(count),
        grouped(outcome.counts.records())
    );
    outcome.tell(Finding::new(Code::DuplicateLikely, Level::Note, message));
}
