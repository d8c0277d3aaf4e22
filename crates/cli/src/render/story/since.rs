//! What became of an earlier round, in words.

use crate::render::words::{are, counted};
use crate::terminal::{cut, shown};
use tidy_gate_core::numerals::grouped;
use tidy_gate_core::prints::{CauseSince, Change, EarlierFinding, Group, GroupSince, Since};
use tidy_gate_core::report::Report;

/// So many changes are named of each kind.
const MOST_CHANGES: usize = 6;
/// So many causes and places are named.
const MOST_NAMED: usize = 5;

/// What became of an earlier round.
#[derive(Debug)]
pub(crate) struct SinceTold {
    /// Which round it was.
    pub(crate) head: String,
    /// What of the record schema, the plan, the columns and the run is another since.
    pub(crate) changed: Vec<String>,
    /// The held rows.
    pub(crate) rows: String,
    /// The findings.
    pub(crate) findings: String,
    /// The causes that are gone, then those that are new.
    pub(crate) causes: Vec<String>,
    /// The findings by code and field: new ones first, then settled ones.
    pub(crate) groups: Vec<GroupTold>,
    /// Where the first new findings stand.
    pub(crate) new: String,
    /// Where the first settled ones stood.
    pub(crate) settled: String,
}

/// The findings of one code about one field, or by one rule.
#[derive(Debug)]
pub(crate) struct GroupTold {
    pub(crate) code: String,
    pub(crate) what: String,
    pub(crate) settled: u64,
    pub(crate) open: u64,
    pub(crate) new: u64,
}

/// What is said of the earlier round behind the verdict.
pub(super) fn sentence(since: &Since) -> String {
    let (rows, held) = (&since.rows, since.earlier.held);
    let new = match rows.new {
        0 => "none is new".to_owned(),
        new => format!("{} {} new", grouped(new), are(new)),
    };
    if held == 0 {
        return match rows.new {
            0 => "No row was held in the round before.".to_owned(),
            _ => format!("No row was held in the round before, {new}."),
        };
    }
    if rows.open == held {
        return match held {
            1 => format!("The row that was held still is, {new}."),
            _ => format!("All {} that were held still are, {new}.", counted(held, "row", "rows")),
        };
    }
    let gone = match rows.gone {
        0 => String::new(),
        gone => format!(", {} {} no longer in the file", grouped(gone), are(gone)),
    };
    let (settled, are) = (grouped(rows.settled), are(rows.settled));
    format!("{settled} of {} held rows {are} settled{gone}, {new}.", grouped(held))
}

/// The whole of it.
pub(super) fn told(report: &Report) -> Option<SinceTold> {
    let since = report.since.as_ref()?;
    let rows = &since.rows;
    let part = |count: u64, what: &str| (count > 0).then(|| format!("{} {what}", grouped(count)));
    let joined = |parts: Vec<Option<String>>| {
        let parts: Vec<String> = parts.into_iter().flatten().collect();
        if parts.is_empty() { "none, then and now".to_owned() } else { parts.join(", ") }
    };
    let same = if since.earlier.same_bytes { "; the file is the very same" } else { "" };
    let mut groups: Vec<&GroupSince> = since.groups.iter().collect();
    groups.sort_by_key(|group| {
        let order = std::cmp::Reverse;
        (order(group.new), order(group.settled), order(group.open))
    });
    Some(SinceTold {
        head: format!(
            "the report of {} on {}{same}",
            shown(&since.earlier.today),
            cut(&since.earlier.name, 60)
        ),
        changed: changed(&since.changed),
        rows: joined(vec![
            part(rows.settled, "settled"),
            part(rows.open, "still held"),
            part(rows.gone, "no longer in the file"),
            part(rows.new, "new"),
        ]),
        findings: joined(vec![
            part(since.settled, "settled"),
            part(since.open, "still open"),
            part(since.new, "new"),
        ]),
        causes: causes(&since.causes),
        groups: groups
            .into_iter()
            .map(|of| GroupTold {
                code: shown(&of.group.code),
                what: what(&of.group, report),
                settled: of.settled,
                open: of.open,
                new: of.new,
            })
            .collect(),
        new: new_places(report, since),
        settled: settled_places(since),
    })
}

/// What findings are about: the heading of the field's column, or the rule.
fn what(group: &Group, report: &Report) -> String {
    let named = |field: &String| {
        let column = report.columns.iter().find(|column| column.field.as_ref() == Some(field));
        column.map_or_else(|| field.clone(), |column| column.heading.clone())
    };
    match (&group.rule, &group.field) {
        (Some(rule), _) => cut(rule, 40),
        (None, Some(field)) => cut(&named(field), 40),
        (None, None) => cut(&group.fields.iter().map(named).collect::<Vec<_>>().join(" + "), 40),
    }
}

/// What is another, by where it stands.
fn changed(changes: &[Change]) -> Vec<String> {
    let of = |name: &str, title: &str| {
        let all: Vec<&Change> = changes.iter().filter(|change| change.of == name).collect();
        let one = |change: &&Change| {
            let what = if name == "columns" {
                format!("\"{}\"", cut(&change.what, 30))
            } else {
                cut(&change.what, 50)
            };
            format!("{what} {}", shown(&change.how))
        };
        let mut named: Vec<String> = all.iter().take(MOST_CHANGES).map(one).collect();
        let more = all.len().saturating_sub(MOST_CHANGES);
        named.extend((more > 0).then(|| format!("{} more", grouped(more as u64))));
        (!named.is_empty()).then(|| format!("{title}: {}", named.join(", ")))
    };
    let parts = [("record", "record schema"), ("plan", "plan"), ("columns", "columns"), ("run", "this run")];
    parts.into_iter().filter_map(|(name, title)| of(name, title)).collect()
}

/// The causes that are gone, those that explain less or more, those that are new.
fn causes(causes: &[CauseSince]) -> Vec<String> {
    let fields = |cause: &CauseSince| match cause.fields.is_empty() {
        true => String::new(),
        false => format!(" ({})", cut(&cause.fields.join(", "), 40)),
    };
    let one = |cause: &CauseSince| {
        let became = match (cause.then, cause.now) {
            (then, 0) => format!("gone; it explained {}", counted(then, "finding", "findings")),
            (0, now) => format!("new; it explains {}", counted(now, "finding", "findings")),
            (then, now) if then == now => return None,
            (then, now) => {
                format!("explains {}, then {}", counted(now, "finding", "findings"), grouped(then))
            }
        };
        Some(format!("{}{}: {became}", shown(&cause.code), fields(cause)))
    };
    let mut told: Vec<String> = causes.iter().filter_map(one).collect();
    let more = told.len().saturating_sub(MOST_NAMED);
    told.truncate(MOST_NAMED);
    told.extend((more > 0).then(|| format!("and {more} more")));
    told
}

fn new_places(report: &Report, since: &Since) -> String {
    let findings = since.first_new.iter().filter_map(|number| report.findings.get(*number));
    let places = findings.map(|finding| (finding.letter.as_ref(), finding.row));
    places_of(places, since.new)
}

fn settled_places(since: &Since) -> String {
    let place = |finding: &EarlierFinding| match (&finding.letter, finding.row) {
        (Some(letter), Some(row)) => Some(format!("{}{row}", shown(letter))),
        (None, Some(row)) => Some(format!("row {row}")),
        _ => None,
    };
    joined(since.first_settled.iter().filter_map(place).collect(), since.settled)
}

fn places_of<'a>(places: impl Iterator<Item = (Option<&'a String>, Option<u64>)>, all: u64) -> String {
    let place = |(letter, row): (Option<&String>, Option<u64>)| match (letter, row?) {
        (Some(letter), row) => Some(format!("{letter}{row}")),
        (None, row) => Some(format!("row {row}")),
    };
    joined(places.filter_map(place).collect(), all)
}

/// The first places, and how many findings there are besides.
fn joined(mut places: Vec<String>, all: u64) -> String {
    places.truncate(MOST_NAMED);
    let more = all.saturating_sub(places.len() as u64);
    if places.is_empty() {
        return String::new();
    }
    let more = if more > 0 { format!(" and {} more", grouped(more)) } else { String::new() };
    format!("{}{more}", places.join(", "))
}
