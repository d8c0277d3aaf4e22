//! `date`: what is asked of days: the permitted forms, the order of day and month that the column shows, the range.

use super::fixed_date::{FixedDate, YearFirst, is_plain_day, packed};
use super::from::From;
use super::judging::Judging;
use super::ranges::between;
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::evidence::{self, Orders, Vote, Way};
use crate::gate::sweep::{Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::profile::Class;
use crate::schema::{DateBound, Field, Kind, Range};
use crate::value::suspicion::PLACEHOLDER_DAYS;
use crate::value::{Date, DatePattern, DateReading, MonthNames, NamedForm, Picklist, TimeOfDay, serial};
use std::borrow::Cow;
use std::sync::Arc;

/// The permitted forms and range of a date.
#[derive(Debug)]
pub(crate) struct Dates {
    pub(crate) forms: Vec<DatePattern>,
    /// The forms in which the target takes the date, the best first; ISO where there are none.
    pub(crate) own: Vec<DatePattern>,
    pub(crate) range: Range<Date>,
    /// The first form, where it has one width.
    pub(crate) fixed: Option<FixedDate>,
    /// The first form, where it has the name of the month.
    named: Option<NamedForm>,
    pub(crate) today: Date,
    /// Stated forms that differ in the order of day and month alone: the one with the day first, and the other.
    pub(super) twins: Vec<(DatePattern, DatePattern)>,
    /// The order of day and month that the column shows, where no form is stated, or twins are.
    pub(crate) orders: Option<Orders>,
    /// Whether ISO is read as it stands and written again.
    pub(super) is_iso: bool,
}

/// What the date forms make of a text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum DateVerdict {
    Day {
        date: Date,
        two_digit_year: bool,
    },
    /// Two permitted forms give different days.
    Unclear(Date, Date),
    /// Right form, no such day.
    Impossible,
    /// A day that falls on another weekday than it says.
    OtherWeekday(Date, &'static str),
    /// In no permitted form; perhaps a day with day and month the other way round, or a day with a time.
    Bad {
        swapped: Option<Date>,
        time: bool,
    },
}

impl Dates {
    pub(super) fn of(field: &Field, from: From<'_>) -> Option<Self> {
        let Kind::Date { dates, range } = &field.kind else { return None };
        let planned =
            from.plan().zip(from.number(field)).and_then(|(plan, number)| plan.dates_of.get(&number));
        let planned = planned.map(Vec::as_slice).unwrap_or_default();
        let stated = if from.is_own { &[][..] } else { from.settings.dates.as_slice() };
        Some(Self::new(dates, planned, stated, range, from.settings.today, from.reading.months.as_ref()))
    }

    /// `own` are the forms of the record schema, `planned` those that a plan states for reading this field, `stated`
    /// those for all fields: the first of them that there are count.
    pub(super) fn new(
        own: &[DatePattern],
        planned: &[DatePattern],
        stated: &[DatePattern],
        range: &Range<DateBound>,
        today: Date,
        months: Option<&Arc<MonthNames>>,
    ) -> Self {
        let iso = DatePattern::iso();
        let alone = if planned.is_empty() { own } else { planned };
        let orders = (alone.is_empty() && stated.is_empty()).then(Orders::default);
        let forms: Vec<DatePattern> = if orders.is_some() {
            let named = NAMED.iter().filter_map(|form| DatePattern::new(form).ok());
            std::iter::once(iso.clone()).chain(named).collect()
        } else if alone.is_empty() {
            let beside = stated.iter().all(|form| *form != iso).then(|| iso.clone());
            stated.iter().cloned().chain(beside).collect()
        } else {
            // ISO is read beside them where they cannot write every day so that it is read back.
            let beside = !alone.iter().any(|form| writes_all(form, alone)) && !alone.contains(&iso);
            alone.iter().cloned().chain(beside.then(|| iso.clone())).collect()
        };
        let forms: Vec<_> = forms.into_iter().map(|form| form.in_language(months)).collect();
        let twin_of = |one: &DatePattern| forms.iter().find(|other| one.is_twin_of(other)).cloned();
        let day_first = forms.iter().filter(|form| form.is_day_first());
        let twins: Vec<_> = day_first.filter_map(|form| Some((form.clone(), twin_of(form)?))).collect();
        let orders = orders.or((!twins.is_empty()).then(Orders::default));
        let fixed = forms
            .first()
            .filter(|_| twins.is_empty())
            .and_then(DatePattern::fixed)
            .and_then(|(ranges, starts)| FixedDate::new(&ranges, starts));
        let named = forms.first().filter(|_| twins.is_empty()).and_then(DatePattern::named);
        let end = |bound: Option<DateBound>| bound.map(|bound| bound.on(today));
        Self {
            // No stated form reads four digits and a dash as anything else.
            is_iso: own.first().is_none_or(|first| *first == iso) && forms.contains(&iso) && twins.is_empty(),
            own: own.to_vec(),
            range: Range { min: end(range.min), max: end(range.max) },
            forms,
            fixed,
            named,
            today,
            twins,
            orders,
        }
    }

    /// Reads a cell: a day that a sheet stores comes in ISO form, whatever forms are stated for texts.
    pub(crate) fn read_cell(&self, given: Given<'_>) -> DateVerdict {
        let stored = || {
            let (day, is_midnight) = without_time(given.text).unwrap_or((given.text, true));
            Date::iso(day).filter(|_| is_midnight)
        };
        match given.is_stored.then(stored).flatten() {
            Some(date) => DateVerdict::Day { date, two_digit_year: false },
            None => self.read_text(given.text),
        }
    }

    /// Reads a text in the permitted forms: the first that gives a day wins; of twins, with day and month the other way
    /// round, the one that the column shows. A midnight behind the day says nothing and is passed over.
    fn read_text(&self, text: &str) -> DateVerdict {
        let first = self.read_day(text);
        let (DateVerdict::Bad { .. }, Some((day, is_midnight))) = (first, without_time(text)) else {
            return first;
        };
        match (self.read_day(day), is_midnight) {
            (DateVerdict::Day { .. }, false) => DateVerdict::Bad { swapped: None, time: true },
            (DateVerdict::Bad { .. }, _) => first,
            (with_midnight, true) => with_midnight,
            _ => first,
        }
    }

    fn read_day(&self, text: &str) -> DateVerdict {
        if let Some(orders) = &self.orders
            && let Some((day_first, month_first, two_digit_year)) = self.both_ways(text)
        {
            return match (orders.of(evidence::date_form(text)), day_first, month_first) {
                (_, None, None) => DateVerdict::Impossible,
                (Way::First, Some(date), _) | (Way::Second, _, Some(date)) => {
                    DateVerdict::Day { date, two_digit_year }
                }
                (Way::First, None, other) | (Way::Second, other, None) => {
                    DateVerdict::Bad { swapped: other, time: false }
                }
                (Way::Undecided, Some(one), Some(other)) if one != other => DateVerdict::Unclear(one, other),
                (Way::Undecided, Some(date), _) | (Way::Undecided, None, Some(date)) => {
                    DateVerdict::Day { date, two_digit_year }
                }
            };
        }
        let (mut impossible, mut other, mut weekday) = (false, None, None);
        for form in &self.forms {
            match form.read(text, self.today) {
                DateReading::Day { date, two_digit_year } => {
                    return DateVerdict::Day { date, two_digit_year };
                }
                DateReading::NoSuchDay { swapped: Some(date) } => other = other.or(Some(date)),
                DateReading::NoSuchDay { swapped: None } => impossible = true,
                DateReading::OtherWeekday { date, weekday: is } => {
                    weekday = weekday.or(Some(DateVerdict::OtherWeekday(date, is)));
                }
                DateReading::Other => {}
            }
        }
        if let Some(weekday) = weekday {
            return weekday;
        }
        match other {
            None if impossible => DateVerdict::Impossible,
            swapped => DateVerdict::Bad { swapped, time: false },
        }
    }

    /// Whether stated forms differ in the order of day and month alone.
    pub(crate) fn has_twins(&self) -> bool {
        !self.twins.is_empty()
    }

    /// The two readings of a text whose day and month may be turned about, day first and month first, and whether the
    /// century was chosen by rule; nothing where the text has no such form.
    pub(super) fn both_ways(&self, text: &str) -> Option<(Option<Date>, Option<Date>, bool)> {
        if self.twins.is_empty() {
            return evidence::days(text).map(|(one, other)| (one, other, false));
        }
        self.twins.iter().find_map(|(day_first, month_first)| {
            let readings = [day_first.read(text, self.today), month_first.read(text, self.today)];
            let [one, other] = readings.map(|reading| match reading {
                DateReading::Day { date, two_digit_year } => Some((date, two_digit_year)),
                _ => None,
            });
            let is_two_digit = one.or(other).is_some_and(|found| found.1);
            let is_form = readings.iter().any(|reading| *reading != DateReading::Other);
            is_form.then_some((one.map(|found| found.0), other.map(|found| found.0), is_two_digit))
        })
    }

    /// Whether day and month of a text could be either way, and dates of other written forms decided.
    fn is_borrowed(&self, text: &str) -> bool {
        let day = without_time(text).map_or(text, |(day, _)| day);
        let is_lent = |orders: &Orders| orders.is_borrowed(evidence::date_form(day));
        self.orders.as_ref().is_some_and(is_lent)
            && matches!(self.both_ways(day), Some((Some(one), Some(other), _)) if one != other)
    }

    /// The way of day and month that all written forms of the column share.
    pub(crate) fn shared_way(&self) -> Option<Way> {
        let orders = self.orders.as_ref()?;
        let mut decided = orders.ways.iter().copied().filter(|way| *way != Way::Undecided);
        let first = decided.next().unwrap_or_default();
        Some(if decided.all(|way| way == first) { first } else { Way::Undecided })
    }

    /// The day that a cell gives.
    pub(crate) fn day(&self, given: Given<'_>) -> Option<Date> {
        match self.read_cell(given) {
            DateVerdict::Day { date, .. } => Some(date),
            _ => None,
        }
    }

    /// A day in the first form of the target that gives it back when it is read; else in ISO form.
    pub(crate) fn write(&self, date: Date) -> String {
        let gives_back = |form: &&DatePattern| {
            writes(form, date, self.today) && !self.own.iter().any(|other| form.is_twin_of(other))
        };
        let own = self.own.iter().find(gives_back);
        own.map_or_else(|| date.to_string(), |form| form.write(date))
    }

    /// The form in which days are written, where one does for all.
    pub(crate) fn written_form(&self) -> Option<&DatePattern> {
        self.own.first().filter(|form| writes_all(form, &self.own))
    }
}

impl DateVerdict {
    /// What is to be said of a text that gives no day.
    fn fault(self, text: &str) -> Verdict {
        match self {
            Self::Unclear(..) => Verdict::one(Code::DateUnclear),
            Self::Impossible => Verdict::one(Code::DateImpossible),
            Self::Bad { .. } if serial::read(text).is_some() => Verdict::one(Code::DateAsNumber),
            _ => Verdict::one(Code::DateBad),
        }
    }
}

impl Judging for Dates {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        match self.read_cell(given) {
            DateVerdict::Day { date, .. } => Ok(Value::Day(date)),
            other => Err(other.fault(given.text)),
        }
    }

    // As `read`, with what the text says besides.
    fn judge(&self, given: Given<'_>, _: &[Picklist]) -> Verdict {
        let found = self.read_cell(given);
        let DateVerdict::Day { date, two_digit_year } = found else { return found.fault(given.text) };
        let mut verdict = Verdict::SOUND;
        if two_digit_year {
            verdict.add(Code::DateTwoDigitYear);
        }
        if !self.range.holds(&date) {
            verdict.add(Code::OutOfRange);
        } else if !given.is_stored && self.is_borrowed(given.text) {
            verdict.add(Code::DateOrderBorrowed);
        }
        verdict
    }

    fn written<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Option<Cow<'a, str>> {
        self.day(given).map(|date| self.write(date).into())
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let (buffer, bounds) = (sweep.buffer, packed(&self.range));
        match (&self.fixed, self.named) {
            (Some(fixed), _) => match fixed.year_first {
                Some(between) => sweep.over(YearFirst { buffer, fixed, between, bounds }),
                None => sweep.over(|start, end| fixed.fits(buffer, start, end, bounds)),
            },
            (None, Some(named)) => sweep.over(|start, end| {
                let found = named.read(buffer.get(start..end).unwrap_or_default());
                found.is_some_and(|(year, month, day)| {
                    is_plain_day([year.into(), month.into(), day.into()], bounds)
                })
            }),
            (None, None) => sweep.none(),
        }
    }

    fn sweeps_broken_text(&self) -> bool {
        true
    }

    fn stands(&self, sound: &[u8]) -> bool {
        // Ten bytes that give a day: digits and two dashes.
        self.is_iso && matches!(sound, [_, _, _, _, b'-', _, _, b'-', _, _])
    }

    fn is_stored_as_such(&self) -> bool {
        true
    }

    fn holds_the_place(&self, given: Given<'_>) -> bool {
        let is_one = |day: Date| PLACEHOLDER_DAYS.contains(&(day.year(), day.month(), day.day()));
        self.day(given).is_some_and(is_one)
    }

    fn has_vote(&self) -> bool {
        self.orders.is_some()
    }

    fn vote(&self, given: Given<'_>) -> Vote {
        if self.orders.is_none() {
            return Vote::NONE;
        }
        let day = without_time(given.text).map_or(given.text, |(day, _)| day);
        let Some((first, second, _)) = self.both_ways(day) else { return Vote::NONE };
        let is_sound = |day: &Date| self.range.holds(day);
        let form = u8::try_from(evidence::date_form(day)).unwrap_or_default();
        Vote { form, says: evidence::vote(first.as_ref(), second.as_ref(), is_sound) }
    }

    fn is_telling(&self, _: &[Picklist]) -> bool {
        true
    }

    fn is_of_class(&self, class: Class, _: &str) -> bool {
        matches!(class, Class::Date(_) | Class::Datetime(_))
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        let day = match code {
            Code::OutOfRange => return between(&self.range, |date| self.write(*date)),
            Code::DateTwoDigitYear => return Some("a year of four digits".to_owned()),
            Code::DateImpossible => "a day that exists, as ",
            Code::DateBad | Code::DateUnclear | Code::DateAsNumber => "a date as ",
            _ => return None,
        };
        // Of the usual forms the plainest is named.
        if let Some(way) = self.shared_way().filter(|_| !self.has_twins()) {
            let order = match way {
                Way::First => " or dd/MM/yyyy",
                Way::Second => " or MM/dd/yyyy",
                Way::Undecided => "",
            };
            return Some(format!("{day}yyyy-MM-dd{order}"));
        }
        let forms: Vec<_> = self.forms.iter().map(|form| form.source()).collect();
        Some(format!("{day}{}", forms.join(" or ")))
    }

    fn detail(&self, code: Code, text: &str, sensitive: bool) -> Option<String> {
        match (code, self.read_cell(text.into())) {
            (Code::DateBad, DateVerdict::Bad { swapped: Some(date), .. }) if !sensitive => {
                Some(format!("with day and month the other way round it would be {date}"))
            }
            (Code::DateBad, DateVerdict::Bad { swapped: Some(_), .. }) => {
                Some("it would be one with day and month the other way round".to_owned())
            }
            (Code::DateBad, DateVerdict::OtherWeekday(date, weekday)) if !sensitive => {
                Some(format!("{date} is a {weekday}"))
            }
            (Code::DateBad, DateVerdict::OtherWeekday(..)) => Some("it falls on another weekday".to_owned()),
            (Code::DateBad, DateVerdict::Bad { time: true, .. }) => {
                Some("it carries a time of day".to_owned())
            }
            (Code::DateUnclear, DateVerdict::Unclear(one, other)) if !sensitive => {
                Some(format!("{one} or {other}"))
            }
            _ => None,
        }
    }

    fn suggestion(&self, code: Code, text: &str, _: &[Picklist]) -> Option<String> {
        let day = serial::read(text).filter(|_| code == Code::DateAsNumber)?;
        Some(self.write(day))
    }
}
/// Whether what a form writes of a day is read back as the same.
pub(crate) fn writes(form: &DatePattern, date: Date, today: Date) -> bool {
    let read = form.read(&form.write(date), today);
    matches!(read, DateReading::Day { date: read, .. } if read == date)
}

/// Whether a form writes every day so that it is read back, among others of the same field.
fn writes_all(form: &DatePattern, all: &[DatePattern]) -> bool {
    !form.has_short_year() && !all.iter().any(|other| form.is_twin_of(other))
}

/// The part of a datetime before its time of day, and whether that time is midnight (`T00:00`,
/// ` 00:00:00`, `.000`, `Z`).
pub(super) fn without_time(text: &str) -> Option<(&str, bool)> {
    let colon = text.find(':')?;
    let (day, time) = text.split_at_checked(text.get(..colon)?.rfind(['T', ' '])?)?;
    let time = TimeOfDay::iso(time.get(1..)?.trim_end_matches('Z'))?;
    (!day.is_empty()).then(|| (day.trim_end(), time == TimeOfDay(0)))
}

/// Days with the name of their month, as they are written in English: nothing in them can be turned about.
const NAMED: [&str; 6] =
    ["d MMM yyyy", "d-MMM-yyyy", "d. MMM yyyy", "MMM d, yyyy", "MMM d yyyy", "d MMM, yyyy"];
