//! Stored values as the texts that are judged: numbers digit by digit, days in ISO form.

use super::format::Format;
use super::rows::Stored;
use tidy_gate_core::value::{Date, serial};

/// The days between the two systems of counting.
const LATER_BY: f64 = 1462.0;
const SECONDS: u64 = 86_400;

/// A stored number as it is judged.
pub(super) fn number(raw: &str, format: Format, from_1904: bool) -> Option<(Stored, String)> {
    let value: f64 = raw.trim().parse().ok()?;
    if !value.is_finite() {
        return None;
    }
    let shown = match format {
        Format::Number | Format::Percent => None,
        Format::Digits(count) => whole(value).map(|digits| match digits.strip_prefix('-') {
            Some(digits) => format!("-{digits:0>count$}"),
            None => format!("{digits:0>count$}"),
        }),
        Format::Date { .. } | Format::Time if value < 0.0 => None,
        // The first day of the later count is none of its days.
        Format::Date { time } if from_1904 => day(value + LATER_BY, time),
        // A format of days on less than one shows a time of day.
        Format::Date { time } if value >= 1.0 => day(value, time),
        Format::Date { .. } | Format::Time => time_of_day(value),
        Format::Duration => duration(value),
    };
    let stored = if format == Format::Percent { Stored::Percent } else { Stored::Value };
    Some((stored, shown.or_else(|| plain(raw.trim(), value))?))
}

/// Digits without an exponent: as stored where it is short, else rounded to the fifteen digits that count.
fn plain(raw: &str, value: f64) -> Option<String> {
    let digits = raw.bytes().filter(u8::is_ascii_digit).count();
    let is_plain = raw.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.' || byte == b'-');
    if is_plain && digits <= 15 {
        // Noughts behind the point are how a writer ends numbers, not what it stores.
        let bare = if raw.contains('.') { raw.trim_end_matches('0').trim_end_matches('.') } else { raw };
        return Some(if matches!(bare, "" | "-" | "-0") { "0" } else { bare }.to_owned());
    }
    let rounded: f64 = format!("{value:.14e}").parse().ok()?;
    Some(rounded.to_string())
}

fn whole(value: f64) -> Option<String> {
    (value.abs() < 1e15).then(|| format!("{value:.0}"))
}

#[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "tested to lie in range")]
fn day(serial: f64, time: bool) -> Option<String> {
    if !(1.0..2_958_466.0).contains(&serial) {
        return None;
    }
    let seconds = (serial.fract() * SECONDS as f64).round() as u64;
    let (more, seconds) = (seconds / SECONDS, seconds % SECONDS);
    let day = match serial.trunc() as u32 + more as u32 {
        // Before the day that never was, 29 February 1900.
        early @ 1..=59 => Date::new(
            1900,
            if early > 31 { 2 } else { 1 },
            (if early > 31 { early - 31 } else { early }) as u8,
        )?,
        serial => serial::day_of(serial)?,
    };
    Some(if time || seconds > 0 { format!("{day}T{}", clock(seconds)) } else { day.to_string() })
}

#[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "the part behind the point")]
fn time_of_day(value: f64) -> Option<String> {
    let seconds = (value.fract() * SECONDS as f64).round() as u64;
    Some(clock(seconds % SECONDS))
}

#[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "tested to lie in range")]
fn duration(value: f64) -> Option<String> {
    let sign = if value < 0.0 { "-" } else { "" };
    let seconds = value.abs() * SECONDS as f64;
    (seconds < 1e12).then(|| format!("{sign}{}", clock(seconds.round() as u64)))
}

fn clock(seconds: u64) -> String {
    format!("{:02}:{:02}:{:02}", seconds / 3600, seconds / 60 % 60, seconds % 60)
}

/// A text with the escapes that workbooks write for characters XML cannot hold (`_x000D_`).
pub(super) fn unescaped(text: &str) -> String {
    let mut plain = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(at) = rest.find("_x") {
        let code = rest.get(at + 2..at + 6).filter(|_| rest.get(at + 6..at + 7) == Some("_"));
        let found = code.and_then(|code| u32::from_str_radix(code, 16).ok()).and_then(char::from_u32);
        let (before, after) = rest.split_at(at);
        plain.push_str(before);
        match found {
            Some(found) => {
                plain.push(found);
                rest = after.get(7..).unwrap_or_default();
            }
            None => {
                plain.push_str("_x");
                rest = after.get(2..).unwrap_or_default();
            }
        }
    }
    plain.push_str(rest);
    plain
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn stored_numbers_become_what_a_person_sees() {
        let date = Format::Date { time: false };
        for (raw, format, from_1904, wanted) in [
            ("12.5", Format::Number, false, "12.5"),
            ("0.30000000000000004", Format::Number, false, "0.3"),
            ("1.5E+20", Format::Number, false, "150000000000000000000"),
            ("1E-3", Format::Number, false, "0.001"),
            ("4213", Format::Digits(7), false, "0004213"),
            ("45351", date, false, "2024-02-29"),
            ("43889", date, true, "2024-02-29"),
            ("45351.75", Format::Date { time: true }, false, "2024-02-29T18:00:00"),
            ("45351.75", date, false, "2024-02-29T18:00:00"),
            ("45351.999999999", Format::Date { time: true }, false, "2024-03-01T00:00:00"),
            ("0.5", Format::Time, false, "12:00:00"),
            ("1.5", Format::Duration, false, "36:00:00"),
            ("1", date, false, "1900-01-01"),
            ("59", date, false, "1900-02-28"),
            ("60", date, false, "60"),
            ("0", date, true, "1904-01-01"),
            ("5.0", Format::Number, false, "5"),
            ("-3", date, false, "-3"),
        ] {
            assert_eq!(number(raw, format, from_1904), Some((Stored::Value, wanted.to_owned())), "{raw}");
        }
        assert_eq!((number("NaN", date, false), number("x", date, false)), (None, None));
        assert_eq!(unescaped("a_x000A_b_x_y_x00e9_"), "a\nb_x_yé");
    }
}
