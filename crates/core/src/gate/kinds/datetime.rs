//! `datetime`: a day with a time, perhaps with its distance from UTC.

use super::from::From;
use super::judging::Judging;
use super::ranges::between;
use super::time::{WITH_SECONDS, clock};
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::sweep::{Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::profile::Class;
use crate::scan::{few_digits, short_word};
use crate::schema::{Field, Kind, MomentBound, Range};
use crate::value::{Date, Moment, MomentPattern, Picklist, TimeOfDay, Zone};
use std::borrow::Cow;

/// The forms and the range of a day with a time.
#[derive(Debug)]
pub(crate) struct Datetime {
    forms: Vec<MomentPattern>,
    own: Vec<MomentPattern>,
    range: Range<i128>,
    today: Date,
    /// The zone of those without a distance from UTC.
    zone: Option<Zone>,
}

impl Datetime {
    pub(super) fn of(field: &Field, from: From<'_>) -> Option<Self> {
        let Kind::Datetime { dates, range } = &field.kind else { return None };
        let (today, reading) = (from.settings.today, from.reading);
        let day = Moment { date: today, time: TimeOfDay(0), offset: None };
        let bound = |bound: &Option<MomentBound>, is_end: bool| {
            bound.map(|bound| match bound {
                MomentBound::At(instant) => instant,
                // All of the day.
                MomentBound::Today => day.instant() + if is_end { 86_400_000_000_000 - 1 } else { 0 },
            })
        };
        let forms = from.forms(field, dates, |plan| &plan.moments_of, |plan| &plan.moments);
        Some(Self {
            forms: forms.iter().map(|form| form.clone().in_language(reading.months.as_ref())).collect(),
            zone: reading.zone.clone(),
            own: dates.clone(),
            range: Range { min: bound(&range.min, false), max: bound(&range.max, true) },
            today,
        })
    }

    /// The moment that a text gives, as it is written.
    fn written_moment(&self, text: &str) -> Option<Moment> {
        let stated = self.forms.iter().find_map(|form| form.read(text, self.today));
        stated.or_else(|| if self.own.is_empty() { Moment::iso(text) } else { None })
    }

    fn moment(&self, text: &str) -> Option<Moment> {
        let moment = self.written_moment(text)?;
        match &self.zone {
            Some(zone) => zone.settle(moment),
            None => Some(moment),
        }
    }
}

impl Judging for Datetime {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        let text = given.text;
        self.moment(text).map(Value::Moment).ok_or_else(|| {
            // The day is one, its time is not.
            let reads = |day: &str| {
                Date::iso(day).is_some() || self.forms.iter().any(|form| form.reads_day(day, self.today))
            };
            let ends = text.match_indices(['T', ' ']).map(|(at, _)| at).chain([text.len()]);
            let is_day = ends.into_iter().any(|end| text.get(..end).is_some_and(reads));
            Verdict::one(if is_day { Code::TimeBad } else { Code::DateBad })
        })
    }

    fn check(&self, value: &Value<'_>, _: &str) -> Verdict {
        match value {
            Value::Moment(moment) if !self.range.holds(&moment.instant()) => Verdict::one(Code::OutOfRange),
            _ => Verdict::SOUND,
        }
    }

    fn written<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Option<Cow<'a, str>> {
        let moment = self.moment(given.text)?;
        let gives_back = |form: &&MomentPattern| form.read(&form.write(&moment), self.today) == Some(moment);
        let own = self.own.iter().find(gives_back);
        Some(own.map_or_else(|| moment.to_string(), |form| form.write(&moment)).into())
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let (buffer, range, is_sheet) = (sweep.buffer, &self.range, sweep.dialect.marks);
        if self.zone.is_some() || !self.forms.is_empty() || !self.own.is_empty() {
            return sweep.none();
        }
        sweep.over_written(|start, end| {
            let (moment, stands) = plain_moment(buffer, start, end)?;
            let is_held = range.min.is_none() && range.max.is_none() || range.holds(&moment.instant());
            // How a sheet stores a moment is no matter; one with a space is a text there.
            let is_stored = is_sheet && buffer.get(start + 10) == Some(&b'T');
            is_held.then_some(is_stored || stands)
        })
    }

    fn is_stored_as_such(&self) -> bool {
        true
    }

    fn is_telling(&self, _: &[Picklist]) -> bool {
        true
    }

    fn is_of_class(&self, class: Class, _: &str) -> bool {
        matches!(class, Class::Datetime(_))
    }

    fn expected(&self, code: Code, field: &Field, _: &[Picklist]) -> Option<String> {
        match code {
            Code::TimeBad => Some("a time such as 09:30".to_owned()),
            Code::DateBad => {
                let forms: Vec<&str> = self.forms.iter().map(|form| form.source()).collect();
                let stated =
                    if forms.is_empty() { "2024-12-31T09:30".to_owned() } else { forms.join(" or ") };
                Some(format!("a date with a time, as {stated}"))
            }
            Code::OutOfRange => between(&field.stated.range, Clone::clone),
            _ => None,
        }
    }

    fn detail(&self, code: Code, text: &str, _: bool) -> Option<String> {
        let zone = self.zone.as_ref().filter(|_| code == Code::TimeBad)?;
        self.written_moment(text)?;
        Some(format!("the clocks in {} pass over it", zone.name()))
    }
}

/// A moment as ISO 8601 writes it, without decimals, in UTC or without a distance from it; and whether it stands as in the
/// target, with its `T` and its seconds.
#[inline(always)]
fn plain_moment(buffer: &[u8], start: usize, end: usize) -> Option<(Moment, bool)> {
    let (between, last) = (buffer.get(start + 10)?, buffer.get(end.checked_sub(1)?)?);
    if end - start < 16 || *between != b'T' && *between != b' ' {
        return None;
    }
    let day: &[u8; 10] = buffer.get(start..)?.first_chunk()?;
    let [_, _, _, _, b'-', _, _, b'-', _, _] = day else { return None };
    let number = |at: usize, len: usize| few_digits(short_word(buffer, start + at, len), len);
    let (year, month, day) = (number(0, 4)?, number(5, 2)?, number(8, 2)?);
    let date = Date::new(u16::try_from(year).ok()?, u8::try_from(month).ok()?, u8::try_from(day).ok()?)?;
    let is_utc = *last == b'Z';
    let clock_end = end - usize::from(is_utc);
    let time = clock(buffer, start + 11, clock_end)?;
    let stands = *between == b'T' && clock_end - start == 11 + WITH_SECONDS;
    Some((Moment { date, time, offset: is_utc.then_some(0) }, stands))
}
