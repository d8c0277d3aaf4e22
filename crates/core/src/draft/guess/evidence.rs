//! From how much on something is said, and how.

/// With fewer rows nothing is said of what must be filled.
pub(super) const ENOUGH: u64 = 10;
/// With fewer rows no limit is drafted: of digits, ranges, lengths and closed lists.
pub(super) const LIMITED: u64 = 100;
/// At most so many in a hundred rows may spoil a key.
pub(super) const SPOILT: u64 = 2;

pub(super) fn shortened(text: &str) -> String {
    let short: String = text.chars().take(40).map(|c| if c.is_control() { ' ' } else { c }).collect();
    if text.chars().count() > 40 { format!("{short}…") } else { short }
}

/// What is said behind the extremes of a column.
pub(super) fn limits_said(is_evident: bool, how: &str) -> String {
    if is_evident { format!(": {how}") } else { ": too little to go by for a limit".to_owned() }
}
