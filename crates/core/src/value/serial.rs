//! Days as spreadsheets count them: serial 1 is 1 January 1900, and the 29 February 1900 that never was is 60.

use super::date::Date;

/// The serial of 1 March 1900, the first from which the count can be trusted.
const FIRST: u32 = 61;
/// The serial of 31 December 9999.
const LAST: u32 = 2_958_465;

/// The day of a serial.
#[must_use]
pub fn day_of(serial: u32) -> Option<Date> {
    if !(FIRST..=LAST).contains(&serial) {
        return None;
    }
    // Days since 1 March of the year 0, in eras of 400 years, each year from March on.
    let days = serial + 693_899;
    let era = days / 146_097;
    let day_of_era = days % 146_097;
    let year_of_era = (day_of_era - day_of_era / 1_460 + day_of_era / 36_524 - day_of_era / 146_096) / 365;
    let day_of_year = day_of_era - (365 * year_of_era + year_of_era / 4 - year_of_era / 100);
    let shifted = (5 * day_of_year + 2) / 153;
    let day = day_of_year - (153 * shifted + 2) / 5 + 1;
    let month = if shifted < 10 { shifted + 3 } else { shifted - 9 };
    let year = era * 400 + year_of_era + u32::from(month <= 2);
    Date::new(u16::try_from(year).ok()?, u8::try_from(month).ok()?, u8::try_from(day).ok()?)
}

/// The day that a text of digits may be the serial of: five digits, as the days from 1927 to 2173 have,
/// perhaps with a time of day as a fraction.
#[must_use]
pub fn read(text: &str) -> Option<Date> {
    let (whole, part) = text.split_once(['.', ',']).unwrap_or((text, ""));
    let digits = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
    (whole.len() == 5 && digits(whole) && digits(part) && !whole.starts_with('0'))
        .then(|| whole.parse().ok().and_then(day_of))
        .flatten()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn serials_are_the_days_that_spreadsheets_show() {
        for (serial, wanted) in [
            (61, "1900-03-01"),
            (36_525, "1999-12-31"),
            (36_526, "2000-01-01"),
            (36_585, "2000-02-29"),
            (45_351, "2024-02-29"),
            (2_958_465, "9999-12-31"),
        ] {
            assert_eq!(day_of(serial).map(|day| day.to_string()).as_deref(), Some(wanted));
        }
        assert_eq!((day_of(60), day_of(0), day_of(2_958_466)), (None, None, None));
        assert_eq!(read("44197.5").map(|day| day.to_string()).as_deref(), Some("2021-01-01"));
        for text in ["2021", "441970", "04197", "4419x", "-44197", ""] {
            assert_eq!(read(text), None, "{text}");
        }
    }
}
