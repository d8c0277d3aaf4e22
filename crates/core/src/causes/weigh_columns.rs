//! Causes of one column: its words, units, dates and marks.

use super::catalogue::CauseCode;
use super::cause::{Cause, CauseWord, MOST_WORDS, Remedy};
use super::fragment;
use super::weigh::{Weigher, cells};
use crate::catalogue::Code;
use crate::gate::{IS_NO_DECIMAL, Shift, date_candidates, time_candidates};
use crate::numerals::counted;
use crate::origins::Findings;
use crate::schema::{Kind, KindName};
use crate::toml_text::quoted;
use crate::value::TimePattern;

/// Which of [`date_candidates`] read most of the dates that were found; nothing where none reads nearly all.
pub(super) fn best_forms(found: &Findings) -> Option<Vec<usize>> {
    best_of(date_candidates().len(), found)
}

/// Which of so many forms read most of what was found; nothing where none reads nearly all.
fn best_of(candidates: usize, found: &Findings) -> Option<Vec<usize>> {
    let read_of = |at: usize| -> u64 {
        found.forms.iter().filter(|(mask, _)| *mask >> at & 1 == 1).map(|(_, count)| count).sum()
    };
    let most = (0..candidates).map(read_of).max().filter(|most| most * 100 >= found.count * 95)?;
    Some((0..candidates).filter(|at| read_of(*at) == most).collect())
}

impl Weigher<'_> {
    pub(super) fn words(&self, column: usize, is_like: bool, found: &Findings) -> Option<Cause> {
        let field = self.field(column)?;
        let is_truth = field.stated.kind == KindName::Boolean;
        if !is_like && (is_truth || field.stated.kind == KindName::Reference) {
            return None;
        }
        let mut words: Vec<CauseWord> = found
            .words
            .iter()
            .map(|(word, (count, likely))| CauseWord {
                value: word.to_string(),
                count: *count,
                likely: likely.as_ref().map(ToString::to_string),
            })
            .collect();
        words.sort_by(|one, other| other.count.cmp(&one.count).then_with(|| one.value.cmp(&other.value)));
        let code = if is_truth { CauseCode::YesNoWords } else { CauseCode::WordsOffList };
        let different = counted(words.len() as u64, "word", "different words");
        let are = if words.len() == 1 { "is" } else { "are" };
        let title = self.title(column);
        let is_masked = self.gate.is_sensitive(column);
        let what = match is_truth {
            true => format!("for yes and no that {are} not known"),
            false => format!("that {are} not on its list"),
        };
        let all = format!("{} of {title} hold {different} {what}", cells(found));
        let (explanation, remedy) = if is_like && !is_masked {
            let mut entries: Vec<(String, String)> = Vec::new();
            let mut known: Vec<String> = Vec::new();
            for word in &words {
                let Some(likely) = word.likely.as_deref() else { continue };
                // Case is no matter to a plan.
                let folded = word.value.to_lowercase();
                if !known.contains(&folded) {
                    entries.push((quoted(&word.value), fragment::word(likely)));
                    known.push(folded);
                }
            }
            let plan = fragment::table(&["values", &field.name], &entries);
            let text = format!(
                "Look whether each word of {title} means what is proposed, and put the lines into the plan."
            );
            let like = if is_truth { "" } else { ", each like one that is" };
            (format!("{all}{like}"), Remedy::plan(text, plan))
        } else {
            let text = format!(
                "Please say what the words of {title} that are not on its list stand for, or use those that are."
            );
            (all, Remedy::sender(text))
        };
        let mut cause = self.of(code, found, explanation, remedy);
        words.truncate(if is_masked { 0 } else { MOST_WORDS });
        cause.words = words;
        Some(cause)
    }

    pub(super) fn unit(&self, column: usize, unit: &str, found: &Findings) -> Option<Cause> {
        let field = self.field(column)?;
        let title = self.title(column);
        let is_own = field.stated.unit.as_deref().is_some_and(|own| own.eq_ignore_ascii_case(unit));
        let codes: Vec<Code> = [Code::DecimalBad, Code::IntegerBad]
            .into_iter()
            .filter(|code| found.claims.keys().any(|claim| claim.code == *code))
            .collect();
        let remedy = match is_own {
            true => {
                Remedy::mend(format!("Let `mend` take \"{unit}\" away: it is the unit of the field."), &codes)
            }
            false => Remedy::sender(format!(
                "Please give the numbers of {title} without \"{unit}\". (If that is the unit of the field, say unit = \
                 \"{unit}\" in the record schema; then `mend` takes it away.)"
            )),
        };
        let explanation = format!("{} of {title} hold a number with \"{unit}\" behind it", cells(found));
        Some(self.of(CauseCode::UnitInCells, found, explanation, remedy))
    }

    pub(super) fn dates(&self, column: usize, is_open: bool, found: &Findings) -> Option<Cause> {
        let (field, title) = (self.field(column)?, self.title(column));
        let all = self.dates.get(&column)?;
        let candidates = date_candidates();
        let total = |at: usize| all.read.get(at).copied().unwrap_or_default();
        let mut best = best_forms(found)?;
        let widest = best.iter().map(|at| total(*at)).max().unwrap_or_default();
        best.retain(|at| total(*at) == widest);
        let source =
            |at: &usize| candidates.get(*at).map(|form| form.source().to_owned()).unwrap_or_default();
        let day_first = self.day_first();
        let chosen = match best.as_slice() {
            [one] => Some(source(one)),
            several => {
                let fits = |form: &String| day_first.is_some_and(|day_first| is_day_first(form) == day_first);
                let forms: Vec<String> = several.iter().map(source).filter(fits).collect();
                // Of forms that differ in the length of the year alone, the longer one is meant.
                forms.into_iter().max_by_key(|form| form.matches('y').count())
            }
        };
        let code = if is_open { CauseCode::DateOrder } else { CauseCode::DateForm };
        // A moment is a day with a time of day behind it.
        let with_times = |form: &String| match field.stated.kind {
            KindName::Date => vec![form.clone()],
            _ => all.times.iter().map(|time| format!("{form} {time}")).collect(),
        };
        let own = chosen.as_ref().map(with_times).unwrap_or_default();
        let ask = || {
            Remedy::sender(format!(
                "Please say in which order day and month stand in {title}: no date in it tells."
            ))
        };
        let (explanation, remedy) = match chosen {
            Some(_) if !own.is_empty() => {
                let form = own.join(" or ");
                let mut forms = own;
                if widest < all.cells {
                    let stated = field.stated.dates.iter().filter(|stated| !forms.contains(stated));
                    let stated: Vec<String> = stated.cloned().collect();
                    forms.extend(stated);
                }
                let dates = fragment::texts(forms.iter().map(String::as_str));
                let plan = fragment::table(&["read", "fields", &field.name], &[("dates".to_owned(), dates)]);
                let why = match (is_open, day_first) {
                    (true, Some(true)) => "; the file's other dates have the day before the month",
                    (true, Some(false)) => "; the file's other dates have the month before the day",
                    _ => "",
                };
                let explanation = format!("{} of {title} are dates in the form {form}{why}", cells(found));
                (explanation, Remedy::plan(format!("State the form of {title} in the plan."), plan))
            }
            Some(form) => (format!("{} of {title} are dates in the form {form}", cells(found)), ask()),
            None => {
                (format!("in {} of {title} day and month could be either way round", cells(found)), ask())
            }
        };
        Some(self.of(code, found, explanation, remedy))
    }

    pub(super) fn times(&self, column: usize, found: &Findings) -> Option<Cause> {
        let (field, title) = (self.field(column)?, self.title(column));
        let candidates = time_candidates();
        let form = best_of(candidates.len(), found)?.first().and_then(|at| candidates.get(*at))?.source();
        // Hours and their quarters as decimals look like times with a point.
        if form.contains('.') && !found.forms.keys().any(|mask| mask & IS_NO_DECIMAL != 0) {
            return None;
        }
        // What is sound in the column stays so; ISO is read where the schema has no forms.
        let filled = self.outcome.filled.get(column).copied().unwrap_or_default();
        let own = match &field.kind {
            Kind::Time { times, .. } => times.as_slice(),
            _ => &[],
        };
        let stated = own.iter().map(TimePattern::source).filter(|_| found.count < filled);
        let times = fragment::texts(std::iter::once(form).chain(stated));
        let plan = fragment::table(&["read", "fields", &field.name], &[("times".to_owned(), times)]);
        let remedy = Remedy::plan(format!("State the form of {title} in the plan."), plan);
        let explanation = format!("{} of {title} are times in the form {form}", cells(found));
        Some(self.of(CauseCode::DateForm, found, explanation, remedy))
    }

    /// Whether the day stands before the month in all columns of the file that tell.
    fn day_first(&self) -> Option<bool> {
        let mut ways = self.outcome.votes.iter().enumerate().filter_map(|(column, votes)| {
            let is_date = self
                .field(column)
                .is_some_and(|field| matches!(field.stated.kind, KindName::Date | KindName::Datetime));
            if is_date { votes.day_first() } else { None }
        });
        let first = ways.next()?;
        ways.all(|way| way == first).then_some(first)
    }

    pub(super) fn mark(&self, column: usize, found: &Findings) -> Option<Cause> {
        let (field, title) = (self.field(column)?, self.title(column));
        let count = |code: Code| -> u64 {
            found.claims.iter().filter(|claim| claim.0.code == code).map(|claim| claim.1).sum()
        };
        let (other, open) = (count(Code::DecimalMark), count(Code::NumberUnclear));
        let filled = self.outcome.filled.get(column).copied().unwrap_or_default();
        let has_comma = found.sample.as_ref().is_some_and(|sample| sample.2.rfind(',') > sample.2.rfind('.'));
        if other == 0 {
            let text = format!(
                "Please say which mark stands before the decimals in {title}: no number in it tells."
            );
            let explanation =
                format!("in {} of {title} a mark may begin decimals or part thousands", cells(found));
            return Some(self.of(CauseCode::DecimalMark, found, explanation, Remedy::sender(text)));
        }
        let says =
            |found: &Findings| format!("{} of {title} are written with the other decimal mark", cells(found));
        if other * 2 >= filled || open > 0 {
            let (decimal, group) = if has_comma { (",", ".") } else { (".", ",") };
            let marks = [("decimal_mark", decimal), ("group_mark", group)];
            let entries = marks.map(|(key, mark)| (key.to_owned(), quoted(mark)));
            let plan = fragment::table(&["read", "fields", &field.name], &entries);
            let remedy = Remedy::plan(format!("State the marks of {title} in the plan."), plan);
            return Some(self.of(CauseCode::DecimalMark, found, says(found), remedy));
        }
        // What may be a thousand as well, nobody mends: each of them stands in a row of its own.
        let mut sure = found.clone();
        sure.count -= found.thousands;
        sure.rows = sure.rows.saturating_sub(found.thousands);
        sure.claims.retain(|claim, count| {
            *count -= if claim.code == Code::DecimalMark { found.thousands.min(*count) } else { 0 };
            *count > 0
        });
        if sure.count == 0 {
            return None;
        }
        let remedy = Remedy::mend("Let `mend` write them with the mark of the column.", &[Code::DecimalMark]);
        Some(self.of(CauseCode::DecimalMark, &sure, says(&sure), remedy))
    }

    pub(super) fn moved(&self, column: usize, shift: Shift, found: &Findings) -> Option<Cause> {
        let title = self.title(column);
        let out: u64 = self
            .outcome
            .tallies
            .iter()
            .filter(|(counted, _)| counted.column == column + 1 && counted.code == Code::OutOfRange)
            .map(|(_, tally)| tally.count)
            .sum();
        if found.count < 3 || found.count * 10 < out * 9 {
            return None;
        }
        let by = match shift {
            Shift::Years(years) => counted(years.unsigned_abs().into(), "year", "years"),
            Shift::Days(days) => counted(days.unsigned_abs(), "day", "days"),
        };
        let is_late = matches!(shift, Shift::Years(..0) | Shift::Days(..0));
        let way = if is_late { "too late" } else { "too early" };
        let explanation = format!(
            "{} of {title} are out of range, and would fit if they were not {by} {way}",
            cells(found)
        );
        let text = format!("Please look at the dates of {title}: they seem to stand {by} {way}.");
        Some(self.of(CauseCode::DatesMoved, found, explanation, Remedy::sender(text)))
    }
}

/// Whether a form of dates has the day before the month.
fn is_day_first(form: &str) -> bool {
    form.find('d') < form.find('M')
}
