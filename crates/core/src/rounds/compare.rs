//! What became of an earlier report's findings: its marks held against those gathered now.

use super::earlier::Earlier;
use super::gather::{Gathered, Gatherer, Pending};
use super::row_sets::{RowSet, Taken};
use crate::headings::is_ours;
use crate::prints::{
    Basis, CauseSince, Change, FindingPrints, Fingerprints, Group, GroupSince, RowPrints, RowsSince, Since,
    written,
};
use crate::report::Report;
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

/// So many findings are named that are settled, and so many that are new.
const MOST_NAMED: usize = 100;

/// A finding of this round: its mark as the earlier report would have it, and its number in the report.
type Now = BTreeMap<Arc<Group>, Vec<(u64, Option<usize>)>>;

impl Gatherer<'_> {
    /// Puts the marks into the report, and what became of the earlier one.
    pub fn finish(&self, mut gathered: Gathered, basis: Basis, report: &mut Report) {
        let placeless = self.placeless(&gathered, report);
        for (group, marks) in &placeless {
            gathered.told.extend(marks.iter().filter_map(|(mark, number)| Some(((*number)?, *mark))));
            gathered.groups.entry(Arc::clone(group)).or_default().extend(marks.iter().map(|(mark, _)| *mark));
        }
        let unknown = report.counts.held.saturating_sub(gathered.held);
        for number in 0..unknown {
            let mark = self.salt.mark([b"unknown row".as_slice(), &number.to_le_bytes()]);
            gathered.rows.entry(Some(Vec::new())).or_default().0.push(mark);
            let row = self.earlier.map(|earlier| Pending::unknown(mark, earlier));
            gathered.pending.extend(row);
        }
        report.regions = std::mem::take(&mut gathered.regions);
        for (number, mark) in &gathered.told {
            if let Some(finding) = report.findings.get_mut(*number) {
                finding.fingerprint = Some(*mark);
            }
        }
        report.fingerprints = Some(self.prints(&mut gathered));
        if let Some(earlier) = self.earlier {
            report.since = Some(self.since(earlier, gathered, placeless, &basis, report));
        }
        report.basis = Some(basis);
    }

    /// The findings that stand in no row that was met.
    fn placeless(&self, gathered: &Gathered, report: &Report) -> Now {
        let mut placeless = Now::new();
        for finding in self.besides() {
            let place = [&finding.heading, &finding.key].into_iter().flatten().next();
            let place = place.map(|place| place.as_bytes().to_vec()).unwrap_or_default();
            let group = Group::of(&finding);
            let mark = self.of_finding(&group, &place);
            placeless.entry(Arc::new(group)).or_default().push((mark, self.number_of(&finding)));
        }
        let placed = placeless.values().flatten().filter_map(|(_, number)| *number);
        let placed: BTreeSet<usize> = placed.collect();
        // What is counted and was met nowhere is told apart by nothing.
        let mut counted: BTreeMap<Group, u64> = BTreeMap::new();
        for total in &report.totals {
            *counted.entry(Group::new(total.code, &total.field, &total.fields, &total.rule)).or_default() +=
                total.count;
        }
        for (group, count) in counted {
            let met =
                gathered.groups.get(&group).map_or(0, Vec::len) + placeless.get(&group).map_or(0, Vec::len);
            let rest = count.saturating_sub(met as u64);
            if rest == 0 {
                continue;
            }
            let mut untold = (0..report.findings.len()).filter(|number| {
                let is_told = gathered.told.contains_key(number) || placed.contains(number);
                !is_told && report.findings.get(*number).is_some_and(|finding| Group::of(finding) == group)
            });
            let mark = |number: u64| (self.of_finding(&group, &number.to_le_bytes()), untold.next());
            let marks: Vec<_> = (0..rest).map(mark).collect();
            placeless.entry(Arc::new(group)).or_default().extend(marks);
        }
        placeless
    }

    /// The marks as a report carries them.
    fn prints(&self, gathered: &mut Gathered) -> Fingerprints {
        let (groups, rows) = (std::mem::take(&mut gathered.groups), std::mem::take(&mut gathered.rows));
        let groups = groups
            .into_iter()
            .map(|(group, marks)| FindingPrints { group: Group::clone(&group), marks: written(marks) });
        let rows = rows.into_iter().map(|(without, (held, other))| RowPrints {
            without,
            held: written(held),
            other: written(other),
        });
        Fingerprints {
            salt: self.salt.written(),
            content: self.content.names(),
            findings: groups.collect(),
            rows: rows.collect(),
        }
    }

    fn since(
        &self,
        earlier: &Earlier,
        gathered: Gathered,
        mut now: Now,
        basis: &Basis,
        report: &Report,
    ) -> Since {
        let mut rows = RowsSince::default();
        let mut taken = Taken::default();
        let mut follow = |candidates: &[(usize, u64)], held: bool| {
            let mut again = candidates.iter().filter_map(|(number, mark)| {
                let set = earlier.rows.get(*number)?;
                Some((RowSet::take(&mut taken, *number, set, *mark)?, *mark))
            });
            let again = again.next();
            match (again.is_some_and(|(was_held, _)| was_held), held) {
                (true, true) => rows.open += 1,
                (true, false) => rows.settled += 1,
                (false, true) => rows.new += 1,
                (false, false) => {}
            }
            again.map(|(_, mark)| mark)
        };
        for row in gathered.pending {
            let mark = follow(&row.candidates, row.held).unwrap_or(row.mark);
            for (group, number) in row.findings {
                let print = self.of_finding(&group, &mark.to_be_bytes());
                now.entry(group).or_default().push((print, number));
            }
        }
        for candidates in gathered.clean {
            follow(&candidates, false);
        }
        rows.gone = earlier.facts.held.saturating_sub(rows.settled + rows.open);
        let mut since = Since {
            earlier: earlier.facts.clone(),
            rows,
            changed: changed(earlier, basis, report),
            causes: causes(earlier, report),
            ..Since::default()
        };
        since.earlier.same_bytes = earlier.sha256.is_some() && earlier.sha256 == report.file.sha256;
        count(earlier, now, &mut since);
        since
    }
}

/// Counts what is settled, open and new, and names the first of them.
fn count(earlier: &Earlier, mut now: Now, since: &mut Since) {
    let mut settled_marks: HashMap<u64, u64> = HashMap::new();
    let mut first_new = Vec::new();
    let all = earlier.groups.keys().cloned().chain(now.keys().map(|group| Group::clone(group)));
    let all: BTreeSet<Group> = all.collect();
    for group in all {
        let then = earlier.groups.get(&group).map(Vec::as_slice).unwrap_or_default();
        let mut left: HashMap<u64, u64> = HashMap::new();
        then.iter().for_each(|mark| *left.entry(*mark).or_default() += 1);
        let mut of_group = GroupSince { group: group.clone(), settled: then.len() as u64, open: 0, new: 0 };
        for (mark, number) in now.remove(&group).unwrap_or_default() {
            match left.get_mut(&mark).filter(|count| **count > 0) {
                Some(count) => {
                    *count -= 1;
                    (of_group.open, of_group.settled) = (of_group.open + 1, of_group.settled - 1);
                }
                None => {
                    of_group.new += 1;
                    first_new.extend(number);
                }
            }
        }
        left.into_iter().filter(|(_, count)| *count > 0).for_each(|(mark, count)| {
            *settled_marks.entry(mark).or_default() += count;
        });
        since.settled += of_group.settled;
        since.open += of_group.open;
        since.new += of_group.new;
        since.groups.push(of_group);
    }
    first_new.sort_unstable();
    first_new.truncate(MOST_NAMED);
    since.first_new = first_new;
    for finding in &earlier.findings {
        let mark = finding.fingerprint.as_deref().and_then(|mark| u64::from_str_radix(mark, 16).ok());
        let Some(count) = mark.and_then(|mark| settled_marks.get_mut(&mark)).filter(|count| **count > 0)
        else {
            continue;
        };
        *count -= 1;
        since.first_settled.push(finding.clone());
        if since.first_settled.len() == MOST_NAMED {
            break;
        }
    }
}

/// What of the record schema, the plan, the run and the columns is another.
fn changed(earlier: &Earlier, basis: &Basis, report: &Report) -> Vec<Change> {
    let change = |of: &str, what: &str, how: &str| Change {
        of: of.to_owned(),
        what: what.to_owned(),
        how: how.to_owned(),
    };
    let mut changes = Vec::new();
    let then: BTreeMap<(&str, &str), &str> = parts(&earlier.basis);
    let now = parts(basis);
    for ((of, what), mark) in &now {
        match then.get(&(*of, *what)) {
            None => changes.push(change(of, what, "added")),
            Some(other) if other != mark => changes.push(change(of, what, "changed")),
            Some(_) => {}
        }
    }
    let gone = then.keys().filter(|part| !now.contains_key(*part));
    changes.extend(gone.map(|(of, what)| change(of, what, "removed")));
    // The columns that a check adds come and go.
    let columns_then = earlier.columns.iter().filter(|column| !is_ours(&column.heading));
    let columns_then: Vec<_> = columns_then.map(|column| (column.heading.as_str(), &column.field)).collect();
    let columns_now = report.columns.iter().filter(|column| !is_ours(&column.heading));
    let columns_now: Vec<_> = columns_now.map(|column| (column.heading.as_str(), &column.field)).collect();
    for (heading, field) in &columns_now {
        match columns_then.iter().find(|(other, _)| other == heading) {
            None => changes.push(change("columns", heading, "added")),
            Some((_, other)) if other != field => {
                changes.push(change("columns", heading, "paired otherwise"))
            }
            Some(_) => {}
        }
    }
    let gone =
        columns_then.iter().filter(|(heading, _)| columns_now.iter().all(|(other, _)| other != heading));
    changes.extend(gone.map(|(heading, _)| change("columns", heading, "removed")));
    changes
}

fn parts(basis: &Basis) -> BTreeMap<(&str, &str), &str> {
    basis.0.iter().map(|part| ((part.of.as_str(), part.part.as_str()), part.mark.as_str())).collect()
}

/// The causes, then and now; those that are gone first.
fn causes(earlier: &Earlier, report: &Report) -> Vec<CauseSince> {
    let then = earlier.causes.iter().map(|cause| CauseSince {
        code: cause.code.clone(),
        fields: cause.fields.clone(),
        explanation: cause.explanation.clone(),
        then: cause.findings,
        now: 0,
    });
    let mut causes: Vec<CauseSince> = then.collect();
    for cause in &report.causes {
        let own = |other: &&mut CauseSince| {
            other.code == cause.code.name() && other.fields == cause.fields && other.now == 0
        };
        match causes.iter_mut().find(own) {
            Some(other) => {
                other.now = cause.findings;
                other.explanation.clone_from(&cause.explanation);
            }
            None => causes.push(CauseSince {
                code: cause.code.name().to_owned(),
                fields: cause.fields.clone(),
                explanation: cause.explanation.clone(),
                then: 0,
                now: cause.findings,
            }),
        }
    }
    causes.sort_by_key(|cause| cause.now > 0);
    causes
}
