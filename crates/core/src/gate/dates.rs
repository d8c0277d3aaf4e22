//! What is asked of dates: the permitted forms, the order of day and month that the column shows, the range.

use super::evidence::{self, Way};
use super::program::Verdict;
use crate::catalogue::Code;
use crate::scan::Places;
use crate::schema::{DateBound, Range};
use crate::value::{Date, DatePattern, DateReading, MonthNames, serial};
use std::sync::Arc;

/// The permitted forms and range of a date.
#[derive(Debug)]
pub(crate) struct Dates {
    pub(crate) forms: Vec<DatePattern>,
    /// The form in which the target takes the date.
    pub(crate) written: DatePattern,
    pub(crate) range: Range<Date>,
    /// The first form, where it has one width.
    pub(crate) fixed: Option<FixedDate>,
    pub(crate) today: Date,
    /// Stated forms that differ in the order of day and month alone: the one with the day first, and the other.
    pub(super) twins: Vec<(DatePattern, DatePattern)>,
    /// The order of day and month that the column shows, where no form is stated, or twins are.
    pub(crate) way: Option<Way>,
    /// Whether ISO is read as it stands and written again.
    pub(super) is_iso: bool,
}

/// A date of fixed width: its places, and where year, month and day begin.
#[derive(Debug)]
pub(crate) struct FixedDate {
    pub(crate) places: Places,
    pub(crate) starts: [usize; 3],
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
    /// In no permitted form; perhaps a day with day and month the other way round, or a day with a time.
    Bad {
        swapped: Option<Date>,
        time: bool,
    },
}

impl Dates {
    pub(super) fn new(
        own: &[DatePattern],
        stated: &[DatePattern],
        range: &Range<DateBound>,
        today: Date,
        months: Option<&Arc<MonthNames>>,
    ) -> Self {
        let iso = DatePattern::iso();
        let way = (own.is_empty() && stated.is_empty()).then_some(Way::Undecided);
        let forms: Vec<DatePattern> = if way.is_some() {
            let named = NAMED.iter().filter_map(|form| DatePattern::new(form).ok());
            std::iter::once(iso.clone()).chain(named).collect()
        } else if own.is_empty() {
            let beside = stated.iter().all(|form| *form != iso).then(|| iso.clone());
            stated.iter().cloned().chain(beside).collect()
        } else {
            own.to_vec()
        };
        let forms: Vec<_> = forms.into_iter().map(|form| form.in_language(months)).collect();
        let twin_of = |one: &DatePattern| forms.iter().find(|other| one.is_twin_of(other)).cloned();
        let day_first = forms.iter().filter(|form| form.is_day_first());
        let twins: Vec<_> = day_first.filter_map(|form| Some((form.clone(), twin_of(form)?))).collect();
        let way = way.or((!twins.is_empty()).then_some(Way::Undecided));
        let fixed = forms
            .first()
            .filter(|_| twins.is_empty())
            .and_then(DatePattern::fixed)
            .and_then(|(ranges, starts)| Places::new(&ranges).map(|places| FixedDate { places, starts }));
        let end = |bound: Option<DateBound>| bound.map(|bound| bound.on(today));
        let written = own.first().cloned().unwrap_or_else(|| iso.clone());
        Self {
            // No stated form reads four digits and a dash as anything else.
            is_iso: written == iso && forms.contains(&iso) && twins.is_empty(),
            written,
            range: Range { min: end(range.min), max: end(range.max) },
            forms,
            fixed,
            today,
            twins,
            way,
        }
    }

    /// Reads ISO too: days that a sheet stores come so, whatever forms are stated for texts.
    pub(crate) fn take_iso(&mut self) {
        let iso = DatePattern::iso();
        if !self.forms.contains(&iso) {
            self.forms.push(iso);
        }
    }

    /// Reads a text in the permitted forms: the first that gives a day wins; of twins, with day and month the other way
    /// round, the one that the column shows. A midnight behind the day says nothing and is passed over.
    pub(crate) fn read(&self, text: &str) -> DateVerdict {
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
        if let Some(way) = self.way
            && let Some((day_first, month_first, two_digit_year)) = self.both_ways(text)
        {
            return match (way, day_first, month_first) {
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
        let (mut impossible, mut other) = (false, None);
        for form in &self.forms {
            match form.read(text, self.today) {
                DateReading::Day { date, two_digit_year } => {
                    return DateVerdict::Day { date, two_digit_year };
                }
                DateReading::NoSuchDay { swapped: Some(date) } => other = other.or(Some(date)),
                DateReading::NoSuchDay { swapped: None } => impossible = true,
                DateReading::Other => {}
            }
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

    /// The day that a text gives.
    pub(crate) fn day(&self, text: &str) -> Option<Date> {
        match self.read(text) {
            DateVerdict::Day { date, .. } => Some(date),
            _ => None,
        }
    }

    /// The day of a date in the form in which it is written.
    pub(crate) fn read_written(&self, text: &str) -> Option<Date> {
        match self.written.read(text, self.today) {
            DateReading::Day { date, .. } => Some(date),
            _ => None,
        }
    }

    pub(super) fn judge(&self, text: &str) -> Verdict {
        match self.read(text) {
            DateVerdict::Day { date, two_digit_year } => {
                let mut verdict = Verdict::SOUND;
                if two_digit_year {
                    verdict.add(Code::DateTwoDigitYear);
                }
                if !self.range.holds(&date) {
                    verdict.add(Code::OutOfRange);
                }
                verdict
            }
            DateVerdict::Unclear(..) => Verdict::one(Code::DateUnclear),
            DateVerdict::Impossible => Verdict::one(Code::DateImpossible),
            DateVerdict::Bad { .. } if serial::read(text).is_some() => Verdict::one(Code::DateAsNumber),
            DateVerdict::Bad { .. } => Verdict::one(Code::DateBad),
        }
    }
}

/// The part of a datetime before its time of day, and whether that time is midnight (`T00:00`,
/// ` 00:00:00`, `.000`, `Z`).
pub(super) fn without_time(text: &str) -> Option<(&str, bool)> {
    let colon = text.find(':')?;
    let (day, time) = text.split_at_checked(text.get(..colon)?.rfind(['T', ' '])?)?;
    let time = time.get(1..)?.trim_end_matches('Z');
    let clock = time.bytes().all(|b| b.is_ascii_digit() || b == b':' || b == b'.');
    (clock && !day.is_empty())
        .then(|| (day.trim_end(), time.bytes().all(|b| !b.is_ascii_digit() || b == b'0')))
}

/// Days with the name of their month, as they are written in English: nothing in them can be turned about.
const NAMED: [&str; 6] =
    ["d MMM yyyy", "d-MMM-yyyy", "d. MMM yyyy", "MMM d, yyyy", "MMM d yyyy", "d MMM, yyyy"];
