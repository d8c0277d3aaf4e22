//! Time zones by their name in the IANA Time Zone Database: which distance from UTC a local time has.

use super::date::Date;
use super::time::{Moment, TimeOfDay};
use jiff::civil;
use jiff::tz::{AmbiguousOffset, TimeZone};

/// A time zone.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Zone {
    name: String,
    zone: TimeZone,
}

impl Zone {
    /// The zone of this name, such as `Europe/London`; nothing where there is none.
    #[must_use]
    pub fn of(name: &str) -> Option<Self> {
        let zone = TimeZone::get(name).ok()?;
        Some(Self { name: name.to_owned(), zone })
    }

    /// Its name.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The moment with its distance from UTC; of an hour that comes twice, the first. Nothing where the clocks pass
    /// over this time of day. A moment that has a distance keeps it.
    #[must_use]
    pub fn settle(&self, moment: Moment) -> Option<Moment> {
        if moment.offset.is_some() {
            return Some(moment);
        }
        let Moment { date, time: TimeOfDay(nanos), .. } = moment;
        let offset = match self.zone.to_ambiguous_timestamp(local(date, nanos)?).offset() {
            AmbiguousOffset::Unambiguous { offset } => offset,
            AmbiguousOffset::Fold { before, .. } => before,
            AmbiguousOffset::Gap { .. } => return None,
        };
        Some(Moment { offset: Some(offset.seconds() / 60), ..moment })
    }
}

fn local(date: Date, nanos: u64) -> Option<civil::DateTime> {
    const SECOND: u64 = 1_000_000_000;
    let seconds = nanos / SECOND;
    let part = |number: u64| i8::try_from(number).ok();
    let (year, month, day) = (date.year(), date.month(), date.day());
    civil::DateTime::new(
        i16::try_from(year).ok()?,
        i8::try_from(month).ok()?,
        i8::try_from(day).ok()?,
        part(seconds / 3600)?,
        part(seconds / 60 % 60)?,
        part(seconds % 60)?,
        i32::try_from(nanos % SECOND).ok()?,
    )
    .ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn local_times_get_the_distance_of_their_day() {
        let london = Zone::of("Europe/London").unwrap();
        for (text, wanted) in [
            ("2024-01-09T09:30", Some("2024-01-09T09:30:00Z")),
            ("2024-07-09T09:30", Some("2024-07-09T09:30:00+01:00")),
            ("2024-07-09T09:30-05:00", Some("2024-07-09T09:30:00-05:00")),
            // The clocks go forward from one to two, and back from two to one.
            ("2024-03-31T01:30", None),
            ("2024-10-27T01:30", Some("2024-10-27T01:30:00+01:00")),
        ] {
            let settled = london.settle(Moment::iso(text).unwrap());
            assert_eq!(settled.map(|moment| moment.to_string()).as_deref(), wanted, "{text}");
        }
        assert!(Zone::of("Europe/Harrowmere").is_none());
    }
}
