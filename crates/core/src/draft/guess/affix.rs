//! Numbers with something before or behind them, which are drafted as the texts that they are: how they would be read.

use crate::numerals::grouped;
use crate::value::AroundNumber;

/// So many of the filled cells.
pub(super) fn who(count: u64, filled: u64) -> String {
    if count == filled { "they".to_owned() } else { format!("{} of {}", grouped(count), grouped(filled)) }
}

/// What is said of a column of texts of which so many are numbers with the same mark.
pub(super) fn said((around, count): (&AroundNumber, u64), filled: u64) -> String {
    let who = who(count, filled);
    let AroundNumber { mark, is_before } = around;
    let key = match mark.as_str() {
        "%" if !is_before => "percent = true".to_owned(),
        _ if around.is_currency() => format!("currency = [{mark:?}]"),
        _ => format!("unit = {mark:?}"),
    };
    let place = if *is_before { "before" } else { "behind" };
    format!("LOOK: {who} look like numbers with \"{mark}\" {place} them: kind = \"decimal\" and {key} say so")
}
