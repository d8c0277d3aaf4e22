//! `time`: a time of day.

use super::from::From;
use super::judging::Judging;
use super::ranges::between;
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::sweep::{Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::profile::Class;
use crate::scan::{few_digits, short_word};
use crate::schema::{Field, Kind, Range};
use crate::value::{Picklist, TimeOfDay, TimePattern};
use std::borrow::Cow;

/// The forms and the range of a time.
#[derive(Debug)]
pub(crate) struct Time {
    times: Vec<TimePattern>,
    /// The forms in which the target takes it, if not ISO.
    own: Vec<TimePattern>,
    range: Range<TimeOfDay>,
}

impl Time {
    pub(super) fn of(field: &Field, from: From<'_>) -> Option<Self> {
        let Kind::Time { times, range } = &field.kind else { return None };
        let forms = from.forms(field, times, |plan| &plan.times_of, |plan| &plan.times);
        Some(Self { times: forms.clone(), own: times.clone(), range: range.clone() })
    }

    fn time(&self, text: &str) -> Option<TimeOfDay> {
        let stated = self.times.iter().find_map(|form| form.read(text));
        // A field's own forms stand alone.
        stated.or_else(|| if self.own.is_empty() { TimeOfDay::iso(text) } else { None })
    }
}

impl Judging for Time {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        self.time(given.text).map(Value::Time).ok_or_else(|| Verdict::one(Code::TimeBad))
    }

    fn check(&self, value: &Value<'_>, _: &str) -> Verdict {
        match value {
            Value::Time(time) if !self.range.holds(time) => Verdict::one(Code::OutOfRange),
            _ => Verdict::SOUND,
        }
    }

    fn written<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Option<Cow<'a, str>> {
        let time = self.time(given.text)?;
        let own = self.own.iter().find(|form| form.read(&form.write(time)) == Some(time));
        Some(own.map_or_else(|| time.to_string(), |form| form.write(time)).into())
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        // How a sheet stores a time is no matter.
        let (buffer, is_stored) = (sweep.buffer, sweep.dialect.marks);
        if !self.times.is_empty() || !self.own.is_empty() {
            return sweep.none();
        }
        sweep.over_written(|start, end| {
            let is_held = clock(buffer, start, end).is_some_and(|time| self.range.holds(&time));
            is_held.then_some(is_stored || end - start == WITH_SECONDS)
        })
    }

    fn is_stored_as_such(&self) -> bool {
        true
    }

    fn is_of_class(&self, class: Class, _: &str) -> bool {
        matches!(class, Class::Time | Class::FormedTime)
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        match code {
            Code::TimeBad if self.times.is_empty() => Some("a time such as 09:30".to_owned()),
            Code::TimeBad => {
                let forms: Vec<&str> = self.times.iter().map(|form| form.source()).collect();
                Some(format!("a time as {}", forms.join(" or ")))
            }
            Code::OutOfRange => between(&self.range, ToString::to_string),
            _ => None,
        }
    }
}

/// So long is a time with its seconds, as the target has it.
pub(super) const WITH_SECONDS: usize = 8;

/// A time as `HH:mm` or `HH:mm:ss`.
#[inline(always)]
pub(super) fn clock(buffer: &[u8], start: usize, end: usize) -> Option<TimeOfDay> {
    let two = |at: usize| few_digits(short_word(buffer, at, 2), 2);
    let mark = |at: usize| buffer.get(at) == Some(&b':');
    let (hour, minute) = (two(start)?, two(start + 3)?);
    let second = match end - start {
        5 => 0,
        WITH_SECONDS if mark(start + 5) => two(start + 6)?,
        _ => return None,
    };
    mark(start + 2).then(|| TimeOfDay::new(hour, minute, second, 0))?
}
