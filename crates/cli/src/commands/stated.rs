//! What is stated for a run: the forms of dates, and the day that it takes for today.

use crate::failure::Failure;
use jiff::tz::TimeZone;
use std::path::Path;
use tidy_gate_core::value::{Date, DatePattern};

/// What is stated for a run in words of its own.
#[derive(Debug)]
pub(crate) struct Stated {
    pub(super) dates: Vec<DatePattern>,
    pub(super) today: Date,
}

impl Stated {
    /// The day of the run.
    pub(crate) fn today(&self) -> Date {
        self.today
    }

    pub(crate) fn read(dates: &[String], today: Option<&String>) -> Result<Self, Failure> {
        Ok(Self { dates: dates.iter().map(pattern).collect::<Result<_, _>>()?, today: day(today)? })
    }
}

fn pattern(text: &String) -> Result<DatePattern, Failure> {
    DatePattern::new(text).map_err(|fault| {
        Failure::usage(
            format!("--dates {text}: {fault}"),
            "such as dd/MM/yyyy, MM/dd/yyyy or d MMM yyyy".to_owned(),
        )
    })
}

/// The day that "today" means.
fn day(stated: Option<&String>) -> Result<Date, Failure> {
    let Some(text) = stated else { return Ok(local_date()) };
    Date::iso(text).ok_or_else(|| {
        Failure::usage(
            format!("--today {text}: not a day"),
            "write it as yyyy-MM-dd, such as 2026-11-25".to_owned(),
        )
    })
}

pub(crate) fn local_date() -> Date {
    let now = jiff::Timestamp::now().to_zoned_datetime(local_zone()).date();
    let part = |part: i8| u8::try_from(part).unwrap_or(1);
    let date = Date::new(u16::try_from(now.year()).unwrap_or(1), part(now.month()), part(now.day()));
    date.or_else(|| Date::new(1, 1, 1)).unwrap_or_else(|| unreachable!("the first day exists"))
}

/// The zone of this machine, or of the variable `TZ` (POSIX.1, 8.3). What it names may be anything: only a zone of the
/// IANA database, one described in it, and a small file count.
fn local_zone() -> TimeZone {
    let Some(stated) = std::env::var_os("TZ") else {
        return TimeZone::try_system().unwrap_or(TimeZone::UTC);
    };
    let stated = stated.to_string_lossy();
    let name = stated.trim_start_matches(':');
    if name.is_empty() {
        return TimeZone::UTC;
    }
    let of_file = || {
        let path = Path::new(name);
        let is_small = path.metadata().is_ok_and(|facts| facts.is_file() && facts.len() < 1 << 16);
        let bytes = if path.is_absolute() && is_small { std::fs::read(path).ok()? } else { return None };
        TimeZone::tzif(name, &bytes).ok()
    };
    let zone = TimeZone::get(name).ok().or_else(|| TimeZone::posix(name).ok()).or_else(of_file);
    zone.unwrap_or_else(|| {
        static SAID: std::sync::Once = std::sync::Once::new();
        SAID.call_once(|| {
            let line =
                format!("TZ={stated} names no time zone: today is that of UTC; state the day with --today");
            crate::render::text::say_aside("note:", &[line]);
        });
        TimeZone::UTC
    })
}
